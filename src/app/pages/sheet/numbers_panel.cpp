// A number is told by its shape as well as by its colour: what is sent is a full tile, what is passed on an
// outline, and where two meet the tile has a bar across its foot.
#include "app/pages/sheet/numbers_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QScrollArea>
#include <QStyledItemDelegate>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/short_list.h"
#include "core/assignments/columns.h"
#include "core/midi/names.h"
#include "core/sheet/bulk.h"
#include "io/playing/player.h"

namespace mellow::app {

namespace {

constexpr int tileHeight = 20;

/// A tile as a use of a number looks.
void paintTile(QPainter& painter, QRectF tile, sheet::Use use, bool lit) {
    using sheet::Use;
    painter.setRenderHint(QPainter::Antialiasing);
    const double round = scaled(4);
    const bool isFull = use == Use::sent || use == Use::both || use == Use::met;
    const QColor fill = use == Use::met ? theme().clay : isFull ? theme().mint : theme().ground;
    const bool isRing = use == Use::passed || use == Use::both;
    painter.setPen(isRing ? QPen(theme().honey, scaled(2)) : QPen(Qt::NoPen));
    painter.setBrush(fill);
    painter.drawRoundedRect(tile, round, round);
    if (use == Use::met) {
        QRectF bar = tile.adjusted(scaled(4), 0, -scaled(4), -1);
        bar.setTop(bar.bottom() - scaled(2));
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().ground);
        painter.drawRect(bar);
    }
    if (!lit) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().sky, scaled(2)));
    painter.drawRoundedRect(tile.adjusted(-1, -1, 1, 1), round, round);
}

QColor inkOn(sheet::Use use) {
    if (use == sheet::Use::free) return theme().dim;
    return use == sheet::Use::passed ? theme().ink : theme().ground;
}

class TileDelegate : public QStyledItemDelegate {
 public:
    using QStyledItemDelegate::QStyledItemDelegate;
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        const auto use = static_cast<sheet::Use>(index.data(NumbersModel::useRole).toInt());
        const QRectF tile = QRectF(option.rect).adjusted(2, 2, -2, -2);
        const bool here = (option.state & QStyle::State_HasFocus) != 0;
        paintTile(*painter, tile, use, here || index.data(NumbersModel::litRole).toBool());
        painter->setFont(captionFont());
        painter->setPen(inkOn(use));
        painter->drawText(option.rect, Qt::AlignCenter, index.data().toString());
        painter->restore();
    }
};

/// One line of the legend.
class LegendTile : public QWidget {
 public:
    explicit LegendTile(sheet::Use use) : use_(use) { setFixedSize(scaled(16), scaled(16)); }

 protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        paintTile(painter, QRectF(rect()).adjusted(2, 2, -2, -2), use_, false);
    }

 private:
    sheet::Use use_;
};

}  // namespace

NumbersModel::NumbersModel(QObject* parent) : CellModel(parent) {
    reshape();
}

void NumbersModel::show(sheet::NumberField field) {
    field_ = std::move(field);
    follow();
}

void NumbersModel::light(const std::set<int>& numbers) {
    if (numbers == lit_) return;
    lit_ = numbers;
    follow();
}

QString NumbersModel::words(int number) const {
    const sheet::NumberUse& use = at(number);
    const QString name = toQt(midi::controlMessage(number, false));
    const QString passing = joined(use.passing);
    switch (use.use) {
        case sheet::Use::sent:
            return tr("%1: sent by a chain").arg(name);
        case sheet::Use::passed:
            return tr("%1: passed on from %2").arg(name, passing);
        case sheet::Use::both:
            return tr("%1: sent by a chain, and passed on from %2").arg(name, passing);
        case sheet::Use::met:
            return tr("%1: two chains meet").arg(name);
        case sheet::Use::free:
            break;
    }
    const QString meaning =
        midi::isChannelMode(number) ? tr("a command to the channel") : toQt(midi::controlMeaning(number));
    if (!meaning.isEmpty()) return tr("%1: %2").arg(name, meaning);
    return use.listened ? tr("%1: listened to, and nothing moves it").arg(name) : tr("%1: free").arg(name);
}

QVariant NumbersModel::cell(int row, int column, int role) const {
    const int number = row * across + column;
    switch (role) {
        case Qt::DisplayRole:
            return QString::number(number);
        case Qt::ToolTipRole:
        case Qt::AccessibleTextRole:
            return words(number);
        case useRole:
            return static_cast<int>(at(number).use);
        case litRole:
            return lit_.contains(number);
        default:
            return {};
    }
}

NumbersPanel::NumbersPanel(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      model_(new NumbersModel(this)),
      table_(new CellTable(*model_, QStringLiteral("numbers"), tr("Control numbers"))),
      outlets_(new ShortList),
      said_(new QLabel),
      others_(new QLabel),
      findings_(new FindingsView(workspace.document)),
      free_(new QPushButton(tr("Give the last one a free number"))) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* title = new QLabel(tr("Numbers"));
    title->setProperty("role", "title");
    outer->addWidget(title);
    auto* inside = new QWidget;
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(0, 0, scaled(10), 0);
    column->setSpacing(scaled(8));
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(inside);
    outer->addWidget(scroll, 1);
    outlets_->setObjectName(QStringLiteral("outlets"));
    outlets_->setAccessibleName(tr("Port and channel"));
    column->addWidget(outlets_);
    table_->horizontalHeader()->hide();
    table_->setItemDelegate(new TileDelegate(table_));
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    table_->verticalHeader()->setMinimumSectionSize(scaled(tileHeight));
    table_->setRowHeight(tileHeight);
    table_->setFixedHeight(scaled(tileHeight) * (midi::controlCount / NumbersModel::across) + scaled(10));
    column->addWidget(table_);
    for (QLabel* label : {said_, others_}) label->setWordWrap(true);
    said_->setTextFormat(Qt::PlainText);
    column->addWidget(said_);
    said_->setObjectName(QStringLiteral("numberSaid"));
    others_->setProperty("role", "caption");
    others_->setObjectName(QStringLiteral("otherNumbers"));
    others_->setTextFormat(Qt::RichText);
    others_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    connect(others_, &QLabel::linkActivated, this, [this](const QString& place) {
        const auto& others = model_->field().others;
        const auto at = static_cast<std::size_t>(place.toInt());
        if (at < others.size()) emit rowsAsked(others[at].rows);
    });
    free_->setObjectName(QStringLiteral("useFreeNumber"));
    free_->hide();
    column->addWidget(free_);
    column->addWidget(findings_);
    buildLegend(*column);
    column->addWidget(others_);
    column->addStretch(1);
    connect(outlets_, &QComboBox::activated, this, [this] {
        number_ = -1;
        refresh();
    });
    connect(table_, &QTableView::clicked, this,
            [this](const QModelIndex& at) { choose(at.row() * NumbersModel::across + at.column()); });
    connect(table_, &QTableView::activated, this,
            [this](const QModelIndex& at) { choose(at.row() * NumbersModel::across + at.column()); });
    connect(free_, &QPushButton::clicked, this, &NumbersPanel::useFreeNumber);
    connect(&workspace_.document, &Document::changed, this, &NumbersPanel::refresh);
    connect(&workspace_.document, &Document::findingsChanged, this, &NumbersPanel::sayNumber);
}

void NumbersPanel::buildLegend(QVBoxLayout& column) {
    const std::pair<sheet::Use, QString> uses[] = {{sheet::Use::sent, tr("sent by a chain")},
                                                   {sheet::Use::passed, tr("passed on")},
                                                   {sheet::Use::met, tr("two chains meet")},
                                                   {sheet::Use::both, tr("sent and passed on")}};
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(scaled(6));
    grid->setVerticalSpacing(scaled(2));
    int place = 0;
    for (const auto& [use, words] : uses) {
        auto* label = new QLabel(words);
        label->setProperty("role", "caption");
        grid->addWidget(new LegendTile(use), place, 0);
        grid->addWidget(label, place, 1);
        ++place;
    }
    grid->setColumnStretch(1, 1);
    column.addLayout(grid);
}

void NumbersPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

sheet::Outlet NumbersPanel::outlet() const {
    const auto place = static_cast<std::size_t>(std::max(0, outlets_->currentIndex()));
    return place < known_.size() ? known_[place] : sheet::Outlet{};
}

void NumbersPanel::refresh() {
    if (!isVisible()) return;
    const Ensemble& ensemble = workspace_.document.ensemble();
    const sheet::Outlet before = outlet();
    known_ = sheet::outletsOf(ensemble);
    outlets_->clear();
    for (const sheet::Outlet& each : known_) {
        const bool isRack = each.port == io::practiceRackPort;
        QStringList players;
        for (const Instrument& instrument : ensemble.instruments) {
            if (instrument.output.port == each.port && instrument.output.channel == each.channel)
                players << nameToShow(nameOf(instrument));
        }
        outlets_->addItem(tr("%1 · ch %2: %3")
                              .arg(isRack ? tr("Practice rack") : nameToShow(each.port))
                              .arg(each.channel)
                              .arg(players.join(QStringLiteral(", "))));
    }
    const auto found = std::find(known_.begin(), known_.end(), before);
    outlets_->setCurrentIndex(known_.empty()          ? -1
                              : found == known_.end() ? 0
                                                      : static_cast<int>(found - known_.begin()));
    outlets_->setEnabled(!known_.empty());
    model_->show(known_.empty() ? sheet::NumberField{} : sheet::numbersOf(ensemble, outlet()));
    QStringList others;
    for (const sheet::OtherUse& each : model_->field().others) {
        const QString place = QString::number(others.size());
        others << QStringLiteral("<a href=\"%1\" style=\"color: %2\">%3</a>")
                          .arg(place, theme().ink.name(), toQt(each.message).toHtmlEscaped()) +
                      (each.met ? tr(" (two chains meet)") : QString());
    }
    others_->setText(others.isEmpty() ? QString()
                                      : tr("Beside numbers: %1").arg(others.join(QStringLiteral(", "))));
    others_->setVisible(!others.isEmpty());
    sayNumber();
}

void NumbersPanel::choose(int number) {
    number_ = number;
    sayNumber();
    emit rowsAsked(model_->at(number).rows);
}

/// What is to be said of the number that was chosen, and how a meeting can be ended.
void NumbersPanel::sayNumber() {
    if (!isVisible()) return;
    if (number_ < 0) {
        said_->setText(tr("Click a number to see its rows."));
        findings_->showNone();
        free_->hide();
        return;
    }
    const Ensemble& ensemble = workspace_.document.ensemble();
    const sheet::NumberUse& use = model_->at(number_);
    QStringList senders;
    for (const AssignmentId& id : use.rows) {
        const auto row = assignmentAt(ensemble, id);
        if (!row || row->chain == nullptr) continue;
        senders
            << tr("%1 to %2").arg(nameToShow(nameOf(*row->chain)), nameToShow(nameOf(row->target, false)));
    }
    senders.removeDuplicates();
    said_->setText(
        model_->words(number_) +
        (senders.isEmpty() ? QString() : QStringLiteral(". ") + senders.join(QStringLiteral(", "))) +
        QLatin1Char('.'));
    const bool meets = use.use == sheet::Use::met;
    free_->setVisible(meets && !use.rows.empty());
    if (!meets) return findings_->showNone();
    findings_->showThose([&](const Finding& finding) {
        if (!finding.place.chain || finding.mends.empty()) return false;
        return std::any_of(use.rows.begin(), use.rows.end(), [&](const AssignmentId& id) {
            const auto row = assignmentAt(ensemble, id);
            const auto instrument = finding.place.instrument;
            if (!row || row->chain == nullptr) return false;
            const std::vector<Chain>& chains =
                instrument ? std::as_const(ensemble.instruments)[*instrument].chains : ensemble.sharedChains;
            const bool isBranch =
                !finding.place.branch || static_cast<int>(*finding.place.branch) == id.branch;
            return *finding.place.chain < chains.size() && &chains[*finding.place.chain] == row->chain &&
                   isBranch;
        });
    });
}

/// The parameter of the last row moves to another number; where all meet on one parameter, a new one would be
/// needed, and that is said.
void NumbersPanel::useFreeNumber() {
    const std::vector<AssignmentId> rows = model_->at(number_).rows;
    const auto first = assignmentAt(workspace_.document.ensemble(), rows.front());
    const auto last = assignmentAt(workspace_.document.ensemble(), rows.back());
    if (first && last && first->target.parameter == last->target.parameter) {
        workspace_.hint(tr("They lead to one parameter, %1; lead one of them elsewhere instead.")
                            .arg(nameToShow(nameOf(*last->target.parameter))));
        return;
    }
    const sheet::Proposal made =
        sheet::proposalOf(workspace_.document.ensemble(), {rows.back()}, sheet::bulk::useFreeNumbers());
    if (made.changed == 0) return workspace_.hint(tr("No number is free here."));
    workspace_.document.edit(tr("Use a free number"), [&made](Ensemble& ensemble) { ensemble = made.after; });
}

void NumbersPanel::light(const std::vector<AssignmentId>& rows) {
    std::set<int> numbers;
    const Ensemble& ensemble = workspace_.document.ensemble();
    // Of very many rows a field of numbers says nothing.
    constexpr std::size_t most = 400;
    for (const AssignmentId& id : rows.size() > most ? std::vector<AssignmentId>() : rows) {
        const auto row = assignmentAt(ensemble, id);
        if (!row || row->target.parameter == nullptr) continue;
        const Output& output = row->target.instrument->output;
        const sheet::Outlet there{output.port, output.channel};
        const auto found = std::find(known_.begin(), known_.end(), there);
        // One row brings its own output to be seen.
        if (rows.size() == 1 && found != known_.end() && !(there == outlet())) {
            outlets_->setCurrentIndex(static_cast<int>(found - known_.begin()));
            refresh();
        }
        const MessageKind kind = row->target.parameter->message.kind;
        if (there == outlet() && (kind == MessageKind::cc || kind == MessageKind::cc14))
            numbers.insert(row->target.parameter->message.number);
    }
    model_->light(numbers);
}

}  // namespace mellow::app
