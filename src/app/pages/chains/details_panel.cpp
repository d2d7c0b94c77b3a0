// The panel is built anew when another thing is selected or its kind changes (shape() says so in a string)
// and merely loaded otherwise, so that a field keeps the focus and the cursor while its value changes.
#include "app/pages/chains/details_panel.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QStyledItemDelegate>

#include "app/ground/theme.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/step_picker.h"
#include "core/describe/sentence.h"
#include "core/midi/message.h"
#include "core/model/edit.h"
#include "core/model/law.h"

namespace mellow::app {

namespace {

class ParameterDelegate : public QStyledItemDelegate {
 public:
    using QStyledItemDelegate::QStyledItemDelegate;

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(120), scaled(26)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const QRectF row = QRectF(option.rect).adjusted(0, 1, 0, -1);
        if ((option.state & QStyle::State_Selected) != 0) {
            painter->setPen(QPen(t.sky, 1));
            painter->setBrush(t.raised);
            painter->drawRoundedRect(row.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
        }
        const QString value = index.data(ParameterModel::received).toString();
        painter->setFont(numberFont());
        painter->setPen(t.mint);
        const double valueWidth = painter->fontMetrics().horizontalAdvance(value);
        painter->drawText(row.adjusted(0, 0, -scaled(6), 0), Qt::AlignRight | Qt::AlignVCenter, value);
        const QRectF area = row.adjusted(scaled(6), 0, -valueWidth - scaled(12), 0);
        painter->setFont(bodyFont());
        painter->setPen(t.ink);
        const QString name = painter->fontMetrics().elidedText(
            index.data(Qt::DisplayRole).toString(), Qt::ElideRight, static_cast<int>(area.width()));
        painter->drawText(area, Qt::AlignLeft | Qt::AlignVCenter, name);
        const double nameWidth = painter->fontMetrics().horizontalAdvance(name);
        painter->setFont(captionFont());
        painter->setPen(t.dim);
        const QRectF rest = area.adjusted(nameWidth + scaled(6), 0, 0, 0);
        painter->drawText(rest, Qt::AlignLeft | Qt::AlignVCenter,
                          painter->fontMetrics().elidedText(index.data(ParameterModel::message).toString(),
                                                            Qt::ElideRight, static_cast<int>(rest.width())));
        painter->restore();
    }
};

int receivedValue(const io::PracticeRack& rack, const Instrument& instrument, const Parameter& parameter) {
    const int channel = instrument.output.channel - 1;
    switch (parameter.message.kind) {
        case MessageKind::cc:
            return rack.receivedControl(channel, parameter.message.number);
        case MessageKind::bend:
            return rack.receivedBend(channel);
        case MessageKind::pressure:
            return rack.receivedPressure(channel);
        default:
            return -1;
    }
}

QPushButton* toolButton(const QString& text, const QString& tip, const char* name) {
    auto* button = new QPushButton(text);
    button->setToolTip(tip);
    button->setAccessibleName(tip);
    button->setObjectName(QLatin1String(name));
    return button;
}

}  // namespace

ParameterModel::ParameterModel(const Workspace& context, QObject* parent)
    : QAbstractListModel(parent), context_(context) {
    connect(&context_.document, &Document::changed, this, &ParameterModel::follow);
    connect(&context_.selection, &Selection::changed, this, &ParameterModel::follow);
    connect(&context_.live, &Live::movedAtAGlance, this, &ParameterModel::refreshReceived);
    follow();
}

const Instrument* ParameterModel::instrument() const {
    return instrumentOf(context_.document.ensemble(), context_.selection.now());
}

void ParameterModel::follow() {
    const Instrument* now = instrument();
    const int rows = now == nullptr ? 0 : static_cast<int>(now->parameters.size());
    const std::string id = now == nullptr ? std::string() : now->id;
    if (rows == rows_ && id == shown_) {
        if (rows_ > 0) emit dataChanged(index(0), index(rows_ - 1));
        return;
    }
    beginResetModel();
    rows_ = rows;
    shown_ = id;
    endResetModel();
}

int ParameterModel::receivedBy(int row) const {
    const Instrument* owner = instrument();
    const io::PracticeRack* rack = context_.live.rack();
    const bool onRack = owner->output.port == io::practiceRackPort && owner->output.channel >= 1 &&
                        owner->output.channel <= 16;
    if (rack == nullptr || !onRack) return -1;
    return receivedValue(*rack, *owner, owner->parameters[static_cast<std::size_t>(row)]);
}

void ParameterModel::refreshReceived() {
    if (instrument() == nullptr) return;
    received_.resize(static_cast<std::size_t>(rows_), -1);
    for (int row = 0; row < rows_; ++row) {
        int& known = received_[static_cast<std::size_t>(row)];
        if (std::exchange(known, receivedBy(row)) != known)
            emit dataChanged(index(row), index(row), {received});
    }
}

int ParameterModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : rows_;
}

QVariant ParameterModel::data(const QModelIndex& at, int role) const {
    const Instrument* owner = instrument();
    if (owner == nullptr || !at.isValid() || at.row() >= static_cast<int>(owner->parameters.size()))
        return {};
    const Parameter& parameter = owner->parameters[static_cast<std::size_t>(at.row())];
    switch (role) {
        case Qt::DisplayRole:
            return QString::fromStdString(nameOf(parameter));
        case message:
            return QString::fromStdString(describe::targetMessage(parameter.message));
        case received: {
            const int value = receivedBy(at.row());
            if (value < 0) return QStringLiteral("–");
            return QString::fromStdString(
                displayText(rangeOf(parameter), decode(scaleOf(parameter), value, maxOf(parameter))));
        }
        default:
            return {};
    }
}

DetailsPanel::DetailsPanel(const Workspace& context, QWidget* parent)
    : QWidget(parent),
      context_(context),
      title_(new ElidedLabel),
      place_(new QLabel),
      scroll_(new QScrollArea) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(scaled(8));
    auto* head = new QHBoxLayout;
    head->setContentsMargins(0, 0, scaled(10), 0);
    title_->setProperty("role", "title");
    title_->setObjectName(QStringLiteral("detailsTitle"));
    place_->setProperty("role", "caption");
    head->addWidget(title_, 1);
    head->addWidget(place_);
    column->addLayout(head);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(scroll_, 1);
    connect(&context_.document, &Document::changed, this, &DetailsPanel::follow);
    connect(&context_.document, &Document::findingsChanged, this, &DetailsPanel::followFindings);
    connect(&context_.selection, &Selection::changed, this, &DetailsPanel::follow);
    follow();
}

/// What decides which widgets the panel has; while it stays the same, only their values are loaded.
std::string DetailsPanel::shape() const {
    const Selected& selected = context_.selection.now();
    std::string text = selected.instrument + "/" + selected.chain + "/" +
                       std::to_string(static_cast<int>(selected.part)) + "/" +
                       std::to_string(selected.index) + "/" + std::to_string(selected.inner) + "/" +
                       std::to_string(parameter_);
    const Ensemble& ensemble = context_.document.ensemble();
    const Step* step = stepOf(ensemble, selected);
    if ((selected.part == Part::step || selected.part == Part::branchStep) && step != nullptr)
        text += step->kind->name;
    if (const Branch* branch = branchOf(ensemble, selected);
        branch != nullptr && selected.part == Part::branch) {
        for (const Step& each : branch->steps) text += "+" + describe::stepLabel(each, 0);
    }
    text += chainsOf(ensemble, selected) == nullptr ? "-" : "i";
    if (isShared(selected)) text += std::to_string(ensemble.tieLines.size());
    const Chain* chain = chainOf(ensemble, selected);
    text += chain != nullptr && chain->fan.by ? "?" : "-";
    text += chainOf(ensemble, selected) == nullptr ? "-" : "c";
    text += branchOf(ensemble, selected) == nullptr ? "-" : "b";
    return text;
}

void DetailsPanel::follow() {
    const std::string now = shape();
    if (now != built_) {
        built_ = now;
        forms_.clear();
        findings_ = nullptr;
        content_ = new QWidget;
        column_ = new QVBoxLayout(content_);
        column_->setContentsMargins(0, 0, scaled(10), 0);
        column_->setSpacing(scaled(10));
        place_->clear();
        const Ensemble& ensemble = context_.document.ensemble();
        const Selected& selected = context_.selection.now();
        const Step* step = stepOf(ensemble, selected);
        if ((selected.part == Part::step || selected.part == Part::branchStep) && step != nullptr) {
            buildStep(*step);
        } else if (selected.part == Part::branch && branchOf(ensemble, selected) != nullptr) {
            buildBranch();
        } else if (selected.part != Part::instrument && chainOf(ensemble, selected) != nullptr) {
            buildSource();
        } else if (instrumentOf(ensemble, selected) != nullptr) {
            addFindings();
            buildInstrument();
        } else if (isShared(selected)) {
            addFindings();
            place_->setText(tr("whole ensemble"));
            title_->setText(tr("Shared"));
            column_->addWidget(forms_.emplace_back(makeSharedEditor(context_)));
        } else {
            title_->setText(tr("Details"));
            auto* hint = new QLabel(
                tr("Choose an instrument on the left, or add one. Its details are shown and changed here."));
            hint->setWordWrap(true);
            hint->setProperty("role", "help");
            column_->addWidget(hint);
        }
        column_->addStretch(1);
        // The change may have come from a button of the old content, so that goes only once it is done.
        if (QWidget* old = scroll_->takeWidget()) old->deleteLater();
        scroll_->setWidget(content_);
        content_->show();
    }
    load();
}

/// What checks say of an instrument or of the whole ensemble stands above their fields; what they say of
/// chains is said where those are.
void DetailsPanel::addFindings() {
    findings_ = new FindingsView(context_.document);
    column_->addWidget(findings_);
    followFindings();
}

void DetailsPanel::followFindings() {
    if (findings_ == nullptr) return;
    const auto owner = ownerPlace(context_.document.ensemble(), context_.selection.now());
    findings_->showThose([&owner](const Finding& finding) {
        return finding.place.instrument == owner && !finding.place.chain;
    });
}

void DetailsPanel::load() {
    for (Form* form : forms_) form->load();
    const Selected& selected = context_.selection.now();
    const Ensemble& ensemble = context_.document.ensemble();
    if (selected.part == Part::instrument) {
        if (const Instrument* instrument = instrumentOf(ensemble, selected))
            title_->setText(QString::fromStdString(nameOf(*instrument)));
    } else if (selected.part == Part::source) {
        if (const Chain* chain = chainOf(ensemble, selected))
            title_->setText(QString::fromStdString(nameOf(*chain)));
    }
}

void DetailsPanel::addTools(const QString& thing, bool movable, bool duplicable) {
    auto* row = new FlowLayout(scaled(6));
    if (movable) {
        auto* up = toolButton(QStringLiteral("↑"), tr("Move %1 one place earlier").arg(thing), "moveEarlier");
        auto* down = toolButton(QStringLiteral("↓"), tr("Move %1 one place later").arg(thing), "moveLater");
        connect(up, &QPushButton::clicked, this, [this] { context_.actions.move(-1); });
        connect(down, &QPushButton::clicked, this, [this] { context_.actions.move(1); });
        row->addWidget(up);
        row->addWidget(down);
    }
    if (duplicable) {
        auto* copy = toolButton(tr("Duplicate"), tr("Duplicate %1").arg(thing), "duplicate");
        connect(copy, &QPushButton::clicked, &context_.actions, &ChainActions::duplicate);
        row->addWidget(copy);
    }
    auto* remove = toolButton(tr("Remove"), tr("Remove %1").arg(thing), "remove");
    remove->setProperty("role", "danger");
    connect(remove, &QPushButton::clicked, &context_.actions, &ChainActions::remove);
    row->addWidget(remove);
    column_->addLayout(row);
}

void DetailsPanel::buildInstrument() {
    place_->setText(tr("instrument"));
    column_->addWidget(forms_.emplace_back(makeInstrumentEditor(context_)));
    addTools(tr("the instrument"), true, true);
    auto* title = new QLabel(tr("Parameters, and what the practice rack received"));
    title->setProperty("role", "section");
    title->setWordWrap(true);
    column_->addWidget(title);
    auto* list = new QListView;
    auto* model = new ParameterModel(context_, list);
    list->setModel(model);
    list->setItemDelegate(new ParameterDelegate(list));
    list->setUniformItemSizes(true);
    list->setObjectName(QStringLiteral("parameters"));
    list->setAccessibleName(tr("Parameters"));
    list->setFixedHeight(scaled(26) * std::clamp(model->rowCount(), 1, 8) + 4);
    column_->addWidget(list);
    if (parameter_ >= 0 && parameter_ < model->rowCount()) {
        list->setCurrentIndex(model->index(parameter_));
        column_->addWidget(forms_.emplace_back(makeParameterEditor(context_, parameter_)));
    }
    connect(list, &QListView::clicked, this, [this](const QModelIndex& at) {
        parameter_ = parameter_ == at.row() ? -1 : at.row();
        const Instrument* owner = instrumentOf(context_.document.ensemble(), context_.selection.now());
        if (owner != nullptr && at.row() < static_cast<int>(owner->parameters.size()))
            context_.touched.touch({owner->id, owner->parameters[static_cast<std::size_t>(at.row())].id});
        // Not from within the list's own signal, since the list goes away.
        QMetaObject::invokeMethod(this, &DetailsPanel::follow, Qt::QueuedConnection);
    });
    auto* row = new QHBoxLayout;
    auto* add =
        toolButton(tr("+ Parameter"), tr("Add a parameter that this instrument listens to"), "addParameter");
    add->setProperty("role", "add");
    row->addWidget(add);
    row->addStretch(1);
    connect(add, &QPushButton::clicked, this, [this] {
        const Instrument* before = instrumentOf(context_.document.ensemble(), context_.selection.now());
        parameter_ = before == nullptr ? -1 : static_cast<int>(before->parameters.size());
        context_.document.edit(tr("Add a parameter"), [this](Ensemble& e) {
            Instrument* instrument = instrumentOf(e, context_.selection.now());
            if (instrument != nullptr) instrument->parameters.push_back(newParameter(*instrument));
        });
        // What was made is seen, and its name is what one types next.
        QMetaObject::invokeMethod(
            this,
            [this] {
                auto* name =
                    parameter_ < 0 || forms_.empty() ? nullptr : forms_.back()->findChild<QLineEdit*>();
                if (name == nullptr) return;
                scroll_->ensureWidgetVisible(forms_.back());
                name->setFocus(Qt::OtherFocusReason);
                name->selectAll();
            },
            Qt::QueuedConnection);
    });
    if (parameter_ >= 0) {
        auto* remove = toolButton(tr("Remove"), tr("Remove the parameter and the branches that lead to it"),
                                  "removeParameter");
        remove->setProperty("role", "danger");
        row->addWidget(remove);
        connect(remove, &QPushButton::clicked, this, [this] {
            const int place = std::exchange(parameter_, -1);
            context_.document.edit(tr("Remove a parameter"), [this, place](Ensemble& e) {
                Instrument* instrument = instrumentOf(e, context_.selection.now());
                if (instrument == nullptr || place >= static_cast<int>(instrument->parameters.size())) return;
                removeParameter(e, *instrument,
                                std::string(instrument->parameters[static_cast<std::size_t>(place)].id));
            });
            follow();
        });
    }
    column_->addLayout(row);
}

void DetailsPanel::buildSource() {
    place_->setText(tr("chain"));
    addLearn(Learn::What::selected);
    column_->addWidget(forms_.emplace_back(makeSourceEditor(context_)));
    addHeld({{PlayedReach::What::travel, tr("Calibrate"),
              tr("Hold, move the control to both its ends, let go (;)")}});
    if (chainOf(context_.document.ensemble(), context_.selection.now())->fan.by) {
        column_->addWidget(forms_.emplace_back(makeChooserEditor(context_)));
        addLearn(Learn::What::chooser);
    }
    addTools(tr("the chain"), true, true);
}

void DetailsPanel::buildStep(const Step& step) {
    const Selected& selected = context_.selection.now();
    title_->setText(toQt(step.kind->label));
    const Chain* chain = chainOf(context_.document.ensemble(), selected);
    const Branch* branch =
        selected.part == Part::branchStep ? branchOf(context_.document.ensemble(), selected) : nullptr;
    const auto count = branch != nullptr ? branch->steps.size() : chain->steps.size();
    place_->setText(
        tr("step %1 of %2").arg((branch != nullptr ? selected.inner : selected.index) + 1).arg(count));
    if (step.with) addLearn(Learn::What::selected);
    column_->addWidget(forms_.emplace_back(makeStepEditor(context_, *step.kind)));
    addTools(tr("the step"), true, true);
}

void DetailsPanel::buildBranch() {
    const Selected& selected = context_.selection.now();
    title_->setText(tr("Target"));
    place_->setText(tr("branch %1 of %2")
                        .arg(selected.index + 1)
                        .arg(chainOf(context_.document.ensemble(), selected)->branches.size()));
    column_->addWidget(forms_.emplace_back(makeBranchEditor(context_)));
    using What = PlayedReach::What;
    addHeld({{What::low, tr("Low by playing"), tr("Hold, move the control, let go where the low end is (,)")},
             {What::high, tr("High by playing"),
              tr("Hold, move the control, let go where the high end is (.)")}});
    addBranchSteps();
    addTools(tr("the branch"), true, true);
}

void DetailsPanel::addBranchSteps() {
    auto* title = new QLabel(tr("Steps of this branch"));
    title->setProperty("role", "section");
    column_->addWidget(title);
    const Selected selected = context_.selection.now();
    const Branch* branch = branchOf(context_.document.ensemble(), selected);
    for (std::size_t i = 0; i < branch->steps.size(); ++i) {
        auto* chip = new QPushButton(QString::fromStdString(describe::stepLabel(branch->steps[i], 0)));
        chip->setProperty("role", "chip");
        connect(chip, &QPushButton::clicked, this, [this, selected, i] {
            context_.selection.set(
                {selected.instrument, selected.chain, Part::branchStep, selected.index, static_cast<int>(i)});
        });
        column_->addWidget(chip);
    }
    auto* add = new QPushButton(tr("+ Step"));
    add->setProperty("role", "add");
    add->setObjectName(QStringLiteral("addBranchStep"));
    connect(add, &QPushButton::clicked, this, [this, add] {
        const Branch* now = branchOf(context_.document.ensemble(), context_.selection.now());
        if (now == nullptr) return;
        StepPicker::open(add, now->steps, [this](const Step& step) {
            context_.actions.addStep(step, ChainActions::Into::branch);
        });
    });
    column_->addWidget(add);
}

/// Buttons that are held while one plays.
void DetailsPanel::addHeld(const std::vector<Held>& all) {
    auto* row = new FlowLayout(scaled(6));
    for (const Held& each : all) {
        auto* button = toolButton(each.text, each.tip, "held");
        PlayedReach& reach = context_.reach;
        connect(button, &QPushButton::pressed, this, [&reach, what = each.what] { reach.begin(what); });
        // The edit builds the panel anew, and the button must outlive its own signal.
        connect(button, &QPushButton::released, &reach, &PlayedReach::end, Qt::QueuedConnection);
        row->addWidget(button);
    }
    column_->addLayout(row);
}

/// Where a source is edited, it can be learned.
void DetailsPanel::addLearn(Learn::What what) {
    auto* learn = toolButton(tr("Learn: move a control"),
                             tr("The control that you move becomes the source (L)"), "learn");
    learn->setCheckable(true);
    Learn& learning = context_.learn;
    const auto follow = [learn, &learning] { learn->setChecked(learning.isOn()); };
    follow();
    connect(&learning, &Learn::changed, learn, follow);
    connect(learn, &QPushButton::clicked, this,
            [&learning, what] { learning.isOn() ? learning.stop() : learning.start(what); });
    column_->addWidget(learn);
}

}  // namespace mellow::app
