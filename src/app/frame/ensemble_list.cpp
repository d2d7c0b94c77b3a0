// A model with a delegate, as the list of chains is; the last row stands for what the instruments share.
// Levels fade by themselves, so rows are repainted until they have, and then rest.
#include "app/frame/ensemble_list.h"

#include <QApplication>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QPaintEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/acts/details/editors.h"
#include "app/acts/reuse/reuse.h"
#include "app/ground/theme.h"
#include "app/widgets/badge.h"
#include "core/store/part_json.h"

namespace mellow::app {

namespace {

/// Where the parts of a card are.
struct CardPlaces {
    explicit CardPlaces(const QRect& item)
        : card(QRectF(item).adjusted(scaled(4), 2, -scaled(4), -2)),
          inner(card.adjusted(scaled(12), scaled(7), -scaled(12), -scaled(7))),
          bar(inner.left(), inner.bottom() - 3, inner.width(), 3) {}

    QRectF card, inner, bar;
};

class InstrumentDelegate : public QStyledItemDelegate {
 public:
    explicit InstrumentDelegate(const EnsembleList& list) : QStyledItemDelegate(nullptr), list_(list) {}

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(170), scaled(62)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const CardPlaces places(option.rect);
        const bool selected = (option.state & QStyle::State_Selected) != 0;
        const bool focused = (option.state & QStyle::State_HasFocus) != 0;
        if (selected) {
            painter->setPen(QPen(t.sky, focused ? 2 : 1.2));
            painter->setBrush(t.raised);
            painter->drawRoundedRect(places.card, 10, 10);
        }
        if (list_.isPainting(places.inner.adjusted(0, 0, 0, -scaled(6))))
            paintWords(*painter, places.inner, index);
        paintLevels(*painter, places.bar, index.data(InstrumentModel::levels).value<QList<float>>());
        painter->restore();
    }

 private:
    static void paintWords(QPainter& painter, const QRectF& inner, const QModelIndex& index) {
        const Theme& t = theme();
        const int troubles = index.data(InstrumentModel::troubles).toInt();
        QRectF nameArea = inner;
        if (troubles > 0) {
            const QRectF badge = paintBadge(painter, inner.topRight(), troubles);
            nameArea.setRight(badge.left() - 6);
        }
        painter.setFont(bodyFont());
        const bool held = index.data(InstrumentModel::held).toBool();
        painter.setPen(index.data(InstrumentModel::on).toBool() && held ? t.ink : t.dim);
        const QString name = painter.fontMetrics().elidedText(
            index.data(Qt::DisplayRole).toString(), Qt::ElideRight, static_cast<int>(nameArea.width()));
        painter.drawText(nameArea, Qt::AlignTop | Qt::AlignLeft, name);
        painter.setFont(captionFont());
        painter.setPen(t.dim);
        painter.drawText(inner.adjusted(0, scaled(19), 0, 0), Qt::AlignTop | Qt::AlignLeft,
                         index.data(InstrumentModel::where).toString());
    }

    /// A part of the bar for each target, filled as far as the target stands.
    static void paintLevels(QPainter& painter, const QRectF& bar, const QList<float>& levels) {
        constexpr double gap = 3;
        const auto count = static_cast<double>(levels.size());
        const double wide = (bar.width() - gap * (count - 1)) / count;
        painter.setPen(Qt::NoPen);
        for (qsizetype i = 0; i < levels.size(); ++i) {
            const QRectF part(bar.left() + static_cast<double>(i) * (wide + gap), bar.top(), wide,
                              bar.height());
            painter.setBrush(theme().line);
            painter.drawRoundedRect(part, 1.5, 1.5);
            if (levels[i] <= 0) continue;
            painter.setBrush(theme().mint);
            painter.drawRoundedRect(QRectF(part.topLeft(), QSizeF(wide * levels[i], part.height())), 1.5,
                                    1.5);
        }
    }

    const EnsembleList& list_;
};

}  // namespace

InstrumentModel::InstrumentModel(Document& document, Live& live, QObject* parent)
    : QAbstractListModel(parent), document_(document), live_(live) {
    connect(&document_, &Document::changed, this, &InstrumentModel::follow);
    connect(&document_, &Document::findingsChanged, this, &InstrumentModel::followFindings);
    connect(&live_, &Live::statusChanged, this, [this] {
        if (rows_ > 0) emit dataChanged(index(0), index(rows_ - 1), {where});
    });
    rows_ = rowsWanted();
    followFindings();
}

void InstrumentModel::follow(const Change& change) {
    const int now = rowsWanted();
    if (now != rows_ || change.everything) {
        beginResetModel();
        levels_.clear();
        rows_ = now;
        endResetModel();
        return;
    }
    if (rows_ == 0) return;
    if (change.order) levels_.clear();
    for (const std::size_t i : change.instruments) {
        if (i < levels_.size()) levels_[i].clear();
    }
    if (change.order || change.inHand) {
        emit dataChanged(index(0), index(rows_ - 1));
        return;
    }
    for (const std::size_t i : change.instruments)
        emit dataChanged(index(static_cast<int>(i)), index(static_cast<int>(i)));
    if (change.sharedChains || change.tieLines) emit dataChanged(index(rows_ - 1), index(rows_ - 1));
}

void InstrumentModel::followFindings() {
    const std::size_t instruments = document_.ensemble().instruments.size();
    std::vector<Told> told(instruments + 1);
    for (const Finding* found : document_.findings()) {
        const Finding& finding = *found;
        // What belongs to no instrument stands on the last card.
        Told& card = told[finding.place.instrument.value_or(instruments)];
        ++(finding.severity == Severity::trouble ? card.troubles : card.notes);
    }
    const std::vector<Told> before = std::exchange(told_, std::move(told));
    for (int row = 0; row < rows_; ++row) {
        const auto place = static_cast<std::size_t>(row);
        if (place >= before.size() || before[place] != told_[place])
            emit dataChanged(index(row), index(row), {troubles, notes, Qt::ToolTipRole});
    }
}

/// What checks say of a card, a line each.
QStringList InstrumentModel::sentences(int row) const {
    const auto instruments = static_cast<int>(document_.ensemble().instruments.size());
    QStringList lines;
    for (const Finding* finding : document_.findings()) {
        const auto& owner = finding->place.instrument;
        if ((owner ? static_cast<int>(*owner) : instruments) == row)
            lines << QString::fromStdString(finding->problem.sentence());
    }
    return lines;
}

/// What checks said of a card when they were last asked.
InstrumentModel::Told InstrumentModel::told(int row) const {
    const auto place = static_cast<std::size_t>(row);
    return place < told_.size() ? told_[place] : Told{};
}

/// A card an instrument, and behind them one for what they share; an empty ensemble has none.
int InstrumentModel::rowsWanted() const {
    const auto instruments = static_cast<int>(document_.ensemble().instruments.size());
    return instruments == 0 && document_.ensemble().sharedChains.empty() ? 0 : instruments + 1;
}

int InstrumentModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : rows_;
}

namespace {

/// The first few targets of an instrument's own chains, each once: call(chain, branch, parameter).
template<class Call>
void forEachMeter(const Instrument& instrument, Call&& call) {
    constexpr std::size_t most = 8;
    std::vector<std::string_view> seen;
    for (const Chain& chain : instrument.chains) {
        for (std::size_t b = 0; b < chain.branches.size() && seen.size() < most; ++b) {
            const std::string& target = chain.branches[b].target;
            const Parameter* parameter = findById(instrument.parameters, target);
            if (parameter == nullptr || std::find(seen.begin(), seen.end(), target) != seen.end()) continue;
            seen.push_back(target);
            call(chain, b, *parameter);
        }
        if (seen.size() == most) return;
    }
}

}  // namespace

/// Where the targets of an instrument stand; 0 of what nothing has moved.
QList<float> InstrumentModel::levelsOf(const Instrument& instrument) const {
    QList<float> all;
    const Chain* read = nullptr;
    ChainReading reading;
    forEachMeter(instrument, [&](const Chain& chain, std::size_t branch, const Parameter&) {
        if (std::exchange(read, &chain) != &chain) reading = live_.reading(instrument.id, chain.id);
        const double value = branch < reading.values.size() ? reading.values[branch] : 0;
        all << static_cast<float>(std::round(std::clamp(value, 0.0, 1.0) * 200) / 200);
    });
    return all;
}

/// Whoever chose it: the document, a controller, or the hand of a take.
bool InstrumentModel::isHeld(const Instrument& instrument) const {
    const io::InstrumentReading reading = live_.readings().instrument(instrument.id);
    if (reading.runs) return reading.inHand;
    const auto& inHand = document_.ensemble().inHand;
    return !inHand || std::find(inHand->begin(), inHand->end(), instrument.id) != inHand->end();
}

void InstrumentModel::refreshHands() {
    const auto& instruments = document_.ensemble().instruments;
    held_.resize(instruments.size(), true);
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const bool now = isHeld(instruments[i]);
        if (now == held_[i]) continue;
        held_[i] = now;
        emit dataChanged(index(static_cast<int>(i)), index(static_cast<int>(i)), {where, held});
    }
}

/// Only of instruments that were sent something a moment ago; the others stand still.
void InstrumentModel::refreshLevels(int first, int last) {
    const auto& instruments = document_.ensemble().instruments;
    levels_.resize(instruments.size());
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const auto row = static_cast<int>(i);
        if (row < first || row > last) levels_[i].clear();
    }
    const auto end = std::min(instruments.size(), static_cast<std::size_t>(std::max(last, -1) + 1));
    for (auto i = static_cast<std::size_t>(std::max(first, 0)); i < end; ++i) {
        const bool known = !levels_[i].isEmpty() || instruments[i].chains.empty();
        if (known && live_.activity(instruments[i].id) <= 0) continue;
        QList<float> now = levelsOf(instruments[i]);
        if (now == levels_[i]) continue;
        levels_[i] = std::move(now);
        emit dataChanged(index(static_cast<int>(i)), index(static_cast<int>(i)), {levels});
    }
}

QVariant InstrumentModel::data(const QModelIndex& at, int role) const {
    const auto& instruments = document_.ensemble().instruments;
    if (!at.isValid() || at.row() >= rows_) return {};
    if (at.row() >= static_cast<int>(instruments.size())) return sharedData(at, role);
    const auto place = static_cast<std::size_t>(at.row());
    const Instrument& instrument = instruments[place];
    switch (role) {
        case Qt::DisplayRole:
            return QString::fromStdString(nameOf(instrument));
        case id:
            return QString::fromStdString(instrument.id);
        case where: {
            const bool rack = instrument.output.port == io::practiceRackPort;
            const QString port = rack ? tr("Practice rack") : QString::fromStdString(instrument.output.port);
            const QString lane = tr("%1 · ch %2").arg(port).arg(instrument.output.channel);
            if (!instrument.on) return tr("%1 · off").arg(lane);
            if (live_.ports().waitsFor(instrument.output.port, false)) return tr("waiting for %1").arg(port);
            return isHeld(instrument) ? lane : tr("not in hand · ch %1").arg(instrument.output.channel);
        }
        case troubles:
            return told(at.row()).troubles;
        case notes:
            return told(at.row()).notes;
        case on:
            return instrument.on;
        case held:
            return isHeld(instrument);
        case levels:
            return QVariant::fromValue(
                place < levels_.size() && !levels_[place].isEmpty() ? levels_[place] : levelsOf(instrument));
        case Qt::ToolTipRole: {
            const QStringList lines = sentences(at.row());
            const int chains = static_cast<int>(instrument.chains.size());
            QStringList meters;
            forEachMeter(instrument, [&meters](const Chain&, std::size_t, const Parameter& parameter) {
                meters << nameToShow(nameOf(parameter));
            });
            const QString legend =
                meters.isEmpty() ? QString() : tr("\nThe bar: %1").arg(meters.join(QStringLiteral(", ")));
            return (lines.isEmpty() ? tr("%1, all clear").arg(tr("%n chain(s)", nullptr, chains))
                                    : lines.join(QLatin1Char('\n'))) +
                   legend;
        }
        case Qt::AccessibleTextRole:
            return tr("%1, %2, %3")
                .arg(QString::fromStdString(nameOf(instrument)), data(at, where).toString(),
                     tr("%n trouble(s)", nullptr, told(at.row()).troubles));
        default:
            return {};
    }
}

QVariant InstrumentModel::sharedData(const QModelIndex& at, int role) const {
    const Ensemble& ensemble = document_.ensemble();
    const Told said = told(at.row());
    switch (role) {
        case Qt::DisplayRole:
            return tr("Shared");
        case id:
            return QString::fromStdString(sharedOwner);
        case where:
            return tr("%n chain(s)", nullptr, static_cast<int>(ensemble.sharedChains.size())) +
                   QStringLiteral(" · ") +
                   tr("%n tie line(s)", nullptr, static_cast<int>(ensemble.tieLines.size()));
        case troubles:
            return said.troubles;
        case notes:
            return said.notes;
        case on:
        case held:
            return true;
        case Qt::ToolTipRole: {
            const QStringList lines = sentences(at.row());
            return lines.isEmpty() ? tr("Chains that lead to any instrument, and tie lines")
                                   : lines.join(QLatin1Char('\n'));
        }
        case Qt::AccessibleTextRole:
            return tr("Shared chains, %1, %2")
                .arg(data(at, where).toString(), tr("%n trouble(s)", nullptr, said.troubles));
        default:
            return {};
    }
}

EnsembleList::EnsembleList(Workspace& workspace, QWidget* parent)
    : QListView(parent),
      workspace_(workspace),
      document_(workspace.document),
      selection_(workspace.selection),
      model_(workspace.document, workspace.live) {
    setModel(&model_);
    delegate_ = std::make_unique<InstrumentDelegate>(*this);
    setItemDelegate(delegate_.get());
    setVerticalScrollMode(ScrollPerPixel);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setUniformItemSizes(true);
    setAccessibleName(tr("Instruments"));
    // Painted on the panel's colour, so that the panel is not painted for what moves in a row.
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    setSelectionMode(ExtendedSelection);
    setAcceptDrops(true);
    viewport()->setAcceptDrops(true);
    setContextMenuPolicy(Qt::CustomContextMenu);
    connect(selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& now) {
        const std::string chosen = now.data(InstrumentModel::id).toString().toStdString();
        if (following_) return;
        // With these, what is chosen follows in a moment.
        if ((QApplication::keyboardModifiers() & (Qt::ControlModifier | Qt::ShiftModifier)) != 0) return;
        if (!now.isValid() || chosen == selection_.now().instrument) return;
        const auto* chains = chainsOf(document_.ensemble(), Selected{chosen, {}, Part::instrument, 0, 0});
        const bool hasChain = chains != nullptr && !chains->empty();
        selection_.set(
            {chosen, hasChain ? chains->front().id : "", hasChain ? Part::source : Part::instrument, 0, 0});
    });
    // A click on the card of the instrument that is selected already shows the instrument itself.
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (!following_) takeSelection();
    });
    connect(this, &QListView::clicked, this, [this](const QModelIndex& now) {
        if (selectionModel()->selectedIndexes().size() > 1) return;
        const std::string chosen = now.data(InstrumentModel::id).toString().toStdString();
        selection_.set({chosen, selection_.now().instrument == chosen ? selection_.now().chain : "",
                        Part::instrument, 0, 0});
    });
    connect(this, &QWidget::customContextMenuRequested, this, &EnsembleList::showContextMenu);
    connect(&workspace.live, &Live::movedAtAGlance, this, [this] {
        model_.refreshHands();
        // Cards that are scrolled away are worked out when they are painted.
        const QRect seen = viewport()->rect();
        const QModelIndex bottom = indexAt(seen.bottomLeft() + QPoint(scaled(20), -1));
        model_.refreshLevels(indexAt(seen.topLeft() + QPoint(scaled(20), 1)).row(),
                             bottom.isValid() ? bottom.row() : model_.rowCount() - 1);
    });
    connect(&selection_, &Selection::changed, this, &EnsembleList::followSelection);
    connect(&model_, &QAbstractItemModel::modelReset, this, &EnsembleList::followSelection);
    connect(&document_, &Document::changed, this, &EnsembleList::followSelection);
    followSelection();
}

void EnsembleList::showContextMenu(const QPoint& at) {
    ChainActions& actions = workspace_.actions;
    QMenu menu;
    menu.addAction(tr("Add an instrument"), &actions, &ChainActions::addInstrument);
    menu.addSeparator();
    menu.addAction(tr("Switch on or off"), &actions, &ChainActions::toggle);
    menu.addAction(tr("Duplicate"), &actions, &ChainActions::duplicateInstrument);
    menu.addAction(tr("Swap for another…"), this, [this] { workspace_.reuse.swapInstrument(this); });
    menu.addAction(tr("From the library…"), this, [this] { workspace_.reuse.find(this); });
    menu.addAction(tr("Keep in the library…"), this, [this] {
        selection_.set({selection_.now().instrument, {}, Part::instrument, 0, 0});
        workspace_.reuse.keep();
    });
    menu.addAction(tr("Move earlier"), &actions, [&actions] { actions.moveInstrument(-1); });
    menu.addAction(tr("Move later"), &actions, [&actions] { actions.moveInstrument(1); });
    menu.addAction(tr("Remove"), &actions, &ChainActions::removeInstrument);
    menu.exec(mapToGlobal(at));
}

/// Rows keep their height, so nothing is laid out anew, as QListView would.
void EnsembleList::dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) {
    if (roles != QList<int>{InstrumentModel::levels})
        return QAbstractItemView::dataChanged(first, last, roles);  // NOLINT(bugprone-parent-virtual-call)
    for (int row = first.row(); row <= last.row(); ++row)
        viewport()->update(CardPlaces(visualRect(model_.index(row))).bar.toAlignedRect());
}

namespace {

bool isChain(const QDropEvent& event) {
    return event.mimeData()->text().contains(toQt(store::partFormat));
}

}  // namespace

void EnsembleList::dragEnterEvent(QDragEnterEvent* event) {
    if (isChain(*event)) event->acceptProposedAction();
}

void EnsembleList::dragMoveEvent(QDragMoveEvent* event) {
    const QModelIndex at = indexAt(event->position().toPoint());
    const std::string id = at.data(InstrumentModel::id).toString().toStdString();
    const bool takes = at.isValid() && id != sharedOwner && id != selection_.now().instrument;
    takes ? event->acceptProposedAction() : event->ignore();
}

void EnsembleList::dropEvent(QDropEvent* event) {
    const QModelIndex at = indexAt(event->position().toPoint());
    if (!at.isValid() || !isChain(*event)) return event->ignore();
    event->acceptProposedAction();
    const std::string id = at.data(InstrumentModel::id).toString().toStdString();
    // A table may be asked for, which must not keep the drag waiting.
    QMetaObject::invokeMethod(
        this, [this, id] { workspace_.reuse.giveTo({id}); }, Qt::QueuedConnection);
}

void EnsembleList::paintEvent(QPaintEvent* event) {
    painted_ = event->region();
    QPainter(viewport()).fillRect(event->rect(), theme().panel);
    QListView::paintEvent(event);
}

/// Instruments that were chosen here together, by Ctrl or Shift; shared chains are none.
void EnsembleList::takeSelection() {
    QModelIndexList rows = selectionModel()->selectedIndexes();
    if (rows.size() < 2) return;
    std::sort(rows.begin(), rows.end());
    std::vector<Selected> all;
    Selected shown;
    for (const QModelIndex& row : rows) {
        const std::string id = row.data(InstrumentModel::id).toString().toStdString();
        if (id == sharedOwner) continue;
        all.push_back({id, {}, Part::instrument, 0, 0});
        if (row == currentIndex() || shown.instrument.empty()) shown = all.back();
    }
    if (!all.empty()) selection_.setTogether(shown, all);
}

void EnsembleList::followSelection() {
    following_ = true;
    QItemSelection chosen;
    QModelIndex current;
    for (int i = 0; i < model_.rowCount(); ++i) {
        const QModelIndex at = model_.index(i);
        const std::string id = at.data(InstrumentModel::id).toString().toStdString();
        const bool isNow = id == selection_.now().instrument;
        if (isNow) current = at;
        if (isNow || selection_.isAmong({id, {}, Part::instrument, 0, 0})) chosen.select(at, at);
    }
    if (current.isValid()) {
        if (currentIndex() != current) setCurrentIndex(current);
        if (selectionModel()->selection() != chosen)
            selectionModel()->select(chosen, QItemSelectionModel::ClearAndSelect);
    }
    following_ = false;
}

}  // namespace mellow::app
