#include "app/pages/desk/hand_list.h"

#include <QInputDialog>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/model/edit_hands.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

const QString entryMime = QStringLiteral("application/x-mellow-lever-hand");

class HandDelegate : public QStyledItemDelegate {
 public:
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(150), scaled(46)};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const QRectF card = QRectF(option.rect).adjusted(scaled(4), 2, -scaled(4), -2);
        const QRectF inner = card.adjusted(scaled(16), scaled(4), -scaled(8), -scaled(4));
        const bool held = index.data(HandModel::inHand).toBool();
        if (index.data(HandModel::isWhole).toBool()) {
            painter->setPen(QPen(t.honey, 1.5));
            painter->setBrush(t.raised);
            painter->drawRoundedRect(card, 10, 10);
        }
        if ((option.state & QStyle::State_HasFocus) != 0) {
            painter->setPen(QPen(t.sky, 1.5));
            painter->setBrush(Qt::NoBrush);
            painter->drawRoundedRect(card.adjusted(2, 2, -2, -2), 9, 9);
        }
        if (held) {
            painter->setPen(Qt::NoPen);
            painter->setBrush(t.honey);
            painter->drawEllipse(QPointF(card.left() + scaled(8), inner.top() + scaled(9)), scaled(3),
                                 scaled(3));
        }
        painter->setFont(numberFont());
        painter->setPen(t.dim);
        painter->drawText(inner, Qt::AlignTop | Qt::AlignRight, index.data(HandModel::key).toString());
        painter->setFont(bodyFont());
        painter->setPen(held ? t.ink : t.dim);
        const int room = static_cast<int>(inner.width()) - scaled(16);
        painter->drawText(inner, Qt::AlignTop | Qt::AlignLeft,
                          painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, room));
        painter->setFont(captionFont());
        painter->setPen(t.dim);
        painter->drawText(inner.adjusted(0, scaled(19), 0, 0), Qt::AlignTop | Qt::AlignLeft,
                          painter->fontMetrics().elidedText(index.data(HandModel::detail).toString(),
                                                            Qt::ElideRight, room));
        painter->restore();
    }
};

}  // namespace

// The model.

HandModel::HandModel(Workspace& workspace, QObject* parent)
    : QAbstractListModel(parent), workspace_(workspace) {
    connect(&workspace_.document, &Document::changed, this, [this](const Change& change) {
        // Who there is does not hang on chains.
        const bool chainsAlone =
            change.chains && !change.everything && !change.order && !change.hands && !change.inHand;
        if (!chainsAlone) follow();
    });
    follow();
}

void HandModel::follow() {
    std::vector<std::string> now = handEntries(workspace_.document.ensemble());
    if (now != entries_) {
        beginResetModel();
        entries_ = std::move(now);
        held_.assign(entries_.size(), false);
        endResetModel();
    } else if (!entries_.empty()) {
        emit dataChanged(index(0), index(rowCount() - 1));
    }
    refresh();
}

bool HandModel::isHeld(const std::string& id) const {
    const auto all = instrumentsOf(workspace_.document.ensemble(), id);
    return !all.empty() && std::all_of(all.begin(), all.end(), [this](const Instrument* instrument) {
        return workspace_.live.readings().instrument(instrument->id).inHand;
    });
}

void HandModel::refresh() {
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        const bool now = isHeld(entries_[i]);
        if (now == held_[i]) continue;
        held_[i] = now;
        emit dataChanged(index(0), index(rowCount() - 1), {inHand, isWhole});
    }
}

int HandModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(entries_.size());
}

QVariant HandModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= rowCount()) return {};
    const auto place = static_cast<std::size_t>(at.row());
    const Ensemble& ensemble = workspace_.document.ensemble();
    const std::string& id = entries_[place];
    const Instrument* instrument = findById(ensemble.instruments, id);
    const Section* section = instrument == nullptr ? findById(ensemble.sections, id) : nullptr;
    constexpr int keys = 10;
    switch (role) {
        case Qt::DisplayRole:
            return toQt(handName(ensemble, id));
        case entry:
            return toQt(id);
        case detail: {
            if (section != nullptr)
                return tr("section · %1")
                    .arg(tr("%n instrument(s)", nullptr, static_cast<int>(section->instruments.size())));
            if (instrument == nullptr) return tr("missing");
            const bool rack = instrument->output.port == io::practiceRackPort;
            return tr("%1 · ch %2")
                .arg(rack ? tr("Practice rack") : toQt(instrument->output.port))
                .arg(instrument->output.channel);
        }
        case key:
            return at.row() < keys ? QString::number((at.row() + 1) % keys) : QString();
        case inHand:
            return static_cast<bool>(held_[place]);
        case isWhole: {
            // The entry whose instruments are those in hand, no more and no fewer.
            if (!held_[place]) return false;
            const auto own = instrumentsOf(ensemble, id);
            return std::all_of(ensemble.instruments.begin(), ensemble.instruments.end(),
                               [&](const Instrument& each) {
                                   const bool isOwn = std::find(own.begin(), own.end(), &each) != own.end();
                                   return isOwn || !workspace_.live.readings().instrument(each.id).inHand;
                               });
        }
        case Qt::ToolTipRole:
            return tr(
                "Click to take it into hand; drag it onto a section to put it there, or between others "
                "to change the order");
        case Qt::AccessibleTextRole:
            return tr("%1, %2, %3")
                .arg(toQt(handName(ensemble, id)), data(at, detail).toString(),
                     held_[place] ? tr("in hand") : tr("not in hand"));
        default:
            return {};
    }
}

Qt::ItemFlags HandModel::flags(const QModelIndex& at) const {
    const Qt::ItemFlags usual = QAbstractListModel::flags(at);
    return at.isValid() ? usual | Qt::ItemIsDragEnabled | Qt::ItemIsDropEnabled
                        : usual | Qt::ItemIsDropEnabled;
}

QStringList HandModel::mimeTypes() const {
    return {entryMime};
}

QMimeData* HandModel::mimeData(const QModelIndexList& indexes) const {
    auto* data = new QMimeData;
    if (!indexes.isEmpty()) data->setData(entryMime, indexes.first().data(entry).toString().toUtf8());
    return data;
}

bool HandModel::dropMimeData(const QMimeData* data, Qt::DropAction, int row, int, const QModelIndex& parent) {
    const std::string dragged = data->data(entryMime).toStdString();
    const Ensemble& ensemble = workspace_.document.ensemble();
    if (parent.isValid()) {
        const std::string onto = parent.data(entry).toString().toStdString();
        const bool joins = findById(ensemble.sections, onto) != nullptr &&
                           findById(ensemble.instruments, dragged) != nullptr;
        if (!joins) return false;
        workspace_.document.edit(tr("Put an instrument into a section"),
                                 [&](Ensemble& e) { setInSection(e, onto, dragged, true); });
        return true;
    }
    const auto from = std::find(entries_.begin(), entries_.end(), dragged);
    if (from == entries_.end()) return false;
    const auto old = static_cast<std::size_t>(from - entries_.begin());
    const std::size_t behind = row < 0 ? entries_.size() : static_cast<std::size_t>(row);
    const std::size_t to = behind > old ? behind - 1 : behind;
    workspace_.document.edit(tr("Order the hand"), [&](Ensemble& e) { moveInHandOrder(e, old, to); });
    return false;  // The row was moved, and not copied.
}

// The list.

HandList::HandList(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      model_(new HandModel(workspace, this)),
      view_(new QListView),
      delegate_(std::make_unique<HandDelegate>()),
      plays_(new QLabel) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("In hand"));
    title->setProperty("role", "section");
    auto* add = new QPushButton(tr("+ Section"));
    add->setObjectName(QStringLiteral("addSection"));
    add->setToolTip(tr("Make a section of those that are in hand"));
    connect(add, &QPushButton::clicked, this, &HandList::addSection);
    head->addSpacing(scaled(12));
    head->addWidget(title, 1);
    head->addWidget(add);
    column->addLayout(head);
    view_->setModel(model_);
    view_->setItemDelegate(delegate_.get());
    view_->setObjectName(QStringLiteral("handList"));
    view_->setAccessibleName(tr("Who is in hand"));
    view_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    view_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    view_->setUniformItemSizes(true);
    view_->setDragDropMode(QAbstractItemView::InternalMove);
    view_->setDefaultDropAction(Qt::MoveAction);
    view_->setContextMenuPolicy(Qt::CustomContextMenu);
    column->addWidget(view_, 1);
    plays_->setWordWrap(true);
    plays_->setProperty("role", "caption");
    plays_->setObjectName(QStringLiteral("whoPlaysHow"));
    plays_->setContentsMargins(scaled(18), scaled(6), scaled(8), scaled(10));
    column->addWidget(plays_);
    const auto take = [this](const QModelIndex& at) {
        takeIntoHand(workspace_.document, at.data(HandModel::entry).toString().toStdString());
    };
    connect(view_, &QListView::clicked, this, take);
    connect(view_, &QListView::activated, this, take);
    connect(view_, &QWidget::customContextMenuRequested, this, &HandList::showMenu);
    connect(&workspace_.live, &Live::movedAtAGlance, this, [this] {
        if (!isVisible()) return;
        model_->refresh();
        sayArticulations();
    });
    connect(&workspace_.document, &Document::changed, this, &HandList::sayArticulations);
    sayArticulations();
}

/// How those in hand play now.
void HandList::sayArticulations() {
    QStringList lines;
    for (const Instrument& instrument : workspace_.document.ensemble().instruments) {
        const io::InstrumentReading reading = workspace_.live.readings().instrument(instrument.id);
        const auto at = static_cast<std::size_t>(reading.articulation);
        if (!reading.inHand || reading.articulation < 0 || at >= instrument.articulations.size()) continue;
        lines << tr("%1: %2").arg(nameToShow(nameOf(instrument)),
                                  nameToShow(nameOf(instrument.articulations[at])));
    }
    if (model_->rowCount() == 0) lines << tr("There is no instrument yet. Add one on the Chains page.");
    const QString text = lines.join(QLatin1Char('\n'));
    if (plays_->text() != text) plays_->setText(text);
    plays_->setVisible(!text.isEmpty());
}

void HandList::addSection() {
    workspace_.document.edit(tr("Add a section"), [this](Ensemble& e) {
        Section section = newSection(e, tr("New section").toStdString());
        for (const Instrument& instrument : workspace_.document.ensemble().instruments) {
            if (workspace_.live.readings().instrument(instrument.id).inHand)
                section.instruments.push_back(instrument.id);
        }
        if (!e.handOrder.empty()) e.handOrder.insert(e.handOrder.begin(), section.id);
        e.sections.push_back(std::move(section));
    });
}

void HandList::showMenu(const QPoint& at) {
    const std::string id = view_->indexAt(at).data(HandModel::entry).toString().toStdString();
    const Section* section = findById(workspace_.document.ensemble().sections, id);
    QMenu menu;
    if (section != nullptr) {
        menu.addAction(tr("Rename the section…"), this, [this, id] {
            const Section* found = findById(workspace_.document.ensemble().sections, id);
            const QString name =
                QInputDialog::getText(this, tr("Rename the section"), tr("Name"), QLineEdit::Normal,
                                      found == nullptr ? QString() : nameToShow(nameOf(*found)));
            if (name.isEmpty()) return;
            workspace_.document.edit(tr("Rename a section"), [&](Ensemble& e) {
                if (Section* renamed = findById(e.sections, id)) renamed->name = name.toStdString();
            });
        });
        for (const std::string& member : section->instruments) {
            menu.addAction(tr("Take %1 out").arg(toQt(handName(workspace_.document.ensemble(), member))),
                           this, [this, id, member] {
                               workspace_.document.edit(
                                   tr("Take an instrument out of a section"),
                                   [&](Ensemble& e) { setInSection(e, id, member, false); });
                           });
        }
        menu.addAction(tr("Remove the section"), this, [this, id] {
            workspace_.document.edit(tr("Remove a section"), [&](Ensemble& e) { removeSection(e, id); });
        });
        menu.addSeparator();
    }
    menu.addAction(tr("Everyone in hand"), this, [this] { takeEveryoneIntoHand(workspace_.document); });
    menu.addAction(tr("A section of those in hand"), this, &HandList::addSection);
    menu.exec(view_->viewport()->mapToGlobal(at));
}

}  // namespace mellow::app
