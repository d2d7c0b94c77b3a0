// The list is a model with a delegate that paints. What does not move (name, response, sentence) is painted
// with the row; the bars and meters, which move at display rate, are repainted alone, by their rectangles.
// The switch at a row's left is part of the row and not a widget, so it is hit-tested here, by mouse and by
// key.
#include "app/pages/chains/chain_list.h"

#include <QApplication>
#include <QMimeData>
#include <QMouseEvent>
#include <QPaintEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/chains/response_picture.h"
#include "app/widgets/badge.h"
#include "core/describe/sentence.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/reuse/parts.h"
#include "core/store/part_json.h"

namespace mellow::app {

namespace {

constexpr int rowHeight = 50;

/// Where the parts of a row are.
struct RowPlaces {
    RowPlaces(const QRect& item, std::size_t branches) : row(QRectF(item).adjusted(1, 2, -1, -2)) {
        const double width = row.width();
        toggle = {row.left() + scaled(12), row.center().y() - scaled(9), scaled(18) * 1.0, scaled(18) * 1.0};
        name = {row.left() + scaled(42), row.top(), width * 0.2, row.height()};
        bar = {name.right() + scaled(8), row.center().y() - 3, width * 0.12, 6};
        picture = {bar.right() + scaled(16), row.top() + scaled(7), scaled(56) * 1.0,
                   row.height() - scaled(14)};
        const double first = row.right() - scaled(14) - meterPitch() * static_cast<double>(branches);
        meters = {first, row.top() + scaled(8), row.right() - scaled(14) - first, row.height() - scaled(16)};
        targets = {picture.right() + scaled(14), row.top(), first - picture.right() - scaled(24),
                   row.height()};
    }
    static double meterPitch() { return scaled(11); }

    QRectF row, toggle, name, bar, picture, meters, targets;
};

class ChainDelegate : public QStyledItemDelegate {
 public:
    ChainDelegate(const ChainModel& model, const ChainList& list)
        : QStyledItemDelegate(nullptr), model_(model), list_(list) {}

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(400), scaled(rowHeight)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Chain* chain = model_.chain(index.row());
        if (chain == nullptr) return;
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const ChainReading reading = model_.reading(index.row());
        const RowPlaces places(option.rect, chain->branches.size());
        const bool selected = (option.state & QStyle::State_Selected) != 0;
        painter->setPen(selected ? QPen(t.sky, (option.state & QStyle::State_HasFocus) != 0 ? 2 : 1.2)
                                 : QPen(Qt::NoPen));
        painter->setBrush(selected ? t.raised : t.panel);
        painter->drawRoundedRect(places.row, 10, 10);
        if (list_.isPainting(places.name) || list_.isPainting(places.targets))
            paintStill(*painter, places, *chain, reading, model_.troubles(index.row()));
        paintBar(*painter, places.bar, reading);
        paintMeters(*painter, places.meters, *chain, reading);
        painter->restore();
    }

 private:
    void paintStill(QPainter& painter, const RowPlaces& places, const Chain& chain,
                    const ChainReading& reading, int troubles) const {
        const Theme& t = theme();
        paintSwitch(painter, places.toggle, chain.on);
        paintNames(painter, places.name, chain, troubles);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.ground);
        painter.drawRoundedRect(places.picture, 5, 5);
        std::vector<Step> shown = chain.steps;
        if (allFall(chain)) shown.push_back(makeStep(*findStepKind("reverse")));
        paintResponse(painter, places.picture.adjusted(4, 5, -4, -5), shown,
                      reading.runs ? t.mint : blend(t.ground, t.mint, 0.45), 1.8);
        painter.setFont(bodyFont());
        painter.setPen(reading.runs ? t.ink : t.dim);
        const QString text = chain.branches.empty() ? tr("No target yet") : targetNames(chain);
        // Two lines are there for many targets; only what does not fit them is cut.
        const QString fitting = painter.fontMetrics().elidedText(
            text, Qt::ElideRight, static_cast<int>(places.targets.width() * 1.8));
        painter.drawText(places.targets, Qt::AlignVCenter | Qt::AlignLeft | Qt::TextWordWrap, fitting);
    }

    static void paintSwitch(QPainter& painter, const QRectF& area, bool on) {
        const Theme& t = theme();
        painter.setPen(QPen(on ? t.honey : t.dim, 1.6));
        painter.setBrush(on ? QBrush(t.honey) : Qt::NoBrush);
        painter.drawEllipse(area.adjusted(3, 3, -3, -3));
    }

    void paintNames(QPainter& painter, const QRectF& area, const Chain& chain, int troubles) const {
        const Theme& t = theme();
        QRectF text = area;
        if (troubles > 0) {
            paintBadge(painter, QPointF(area.right(), area.center().y() - scaled(8)), troubles);
            text.setRight(area.right() - scaled(22));
        }
        const auto fit = [&](const QString& words) {
            return painter.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(text.width()));
        };
        painter.setFont(bodyFont());
        painter.setPen(chain.on ? t.ink : t.dim);
        painter.drawText(text.adjusted(0, scaled(6), 0, 0), Qt::AlignTop | Qt::AlignLeft,
                         fit(QString::fromStdString(nameOf(chain))));
        const QString waits = model_.waitsFor(chain);
        painter.setFont(captionFont());
        painter.setPen(waits.isEmpty() ? t.dim : t.clay);
        painter.drawText(
            text.adjusted(0, 0, 0, -scaled(6)), Qt::AlignBottom | Qt::AlignLeft,
            fit(waits.isEmpty() ? toQt(describe::sourceName(model_.document().ensemble(), chain.source))
                                : ChainModel::tr("waiting for %1").arg(waits)));
    }

    static void paintBar(QPainter& painter, const QRectF& bar, const ChainReading& reading) {
        const Theme& t = theme();
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.line);
        painter.drawRoundedRect(bar, 3, 3);
        if (!reading.runs || !reading.spoken) return;
        painter.setBrush(t.honey);
        painter.drawRoundedRect(
            QRectF(bar.left(), bar.top(), std::max(6.0, bar.width() * reading.position), bar.height()), 3, 3);
    }

    void paintMeters(QPainter& painter, const QRectF& area, const Chain& chain,
                     const ChainReading& reading) const {
        const Theme& t = theme();
        painter.setPen(Qt::NoPen);
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            const QRectF meter(area.left() + RowPlaces::meterPitch() * static_cast<double>(b), area.top(),
                               scaled(6), area.height());
            painter.setBrush(t.ground);
            painter.drawRoundedRect(meter, 3, 3);
            const double share = b < reading.values.size() ? reading.values[b] : -1;
            if (share < 0) continue;
            const double height = std::max(3.0, meter.height() * share);
            painter.setBrush(t.mint);
            painter.drawRoundedRect(QRectF(meter.left(), meter.bottom() - height, meter.width(), height), 3,
                                    3);
        }
    }

    /// Whether all that it leads to goes down while the hand goes up.
    [[nodiscard]] bool allFall(const Chain& chain) const {
        const auto falls = [this](const Branch& branch) {
            const Target target = targetOf(model_.document().ensemble(), model_.instrument(), branch.target);
            if (!target.exists()) return false;
            const Range range = rangeOf(target);
            const auto low = rawPosition(range, branch.low);
            const auto high = rawPosition(range, branch.high);
            return low && high && *low > *high;
        };
        return !chain.branches.empty() && std::all_of(chain.branches.begin(), chain.branches.end(), falls);
    }

    [[nodiscard]] QString targetNames(const Chain& chain) const {
        QStringList names;
        for (const Branch& branch : chain.branches) {
            const Target target = targetOf(model_.document().ensemble(), model_.instrument(), branch.target);
            names << (target.exists() ? QString::fromStdString(nameOf(target, model_.instrument() == nullptr))
                                      : tr("%1 (missing)").arg(QString::fromStdString(branch.target)));
        }
        return names.join(QStringLiteral(", "));
    }

    const ChainModel& model_;
    const ChainList& list_;
};

}  // namespace

ChainModel::ChainModel(Document& document, Selection& selection, Live& live, QObject* parent)
    : QAbstractListModel(parent), document_(document), selection_(selection), live_(live) {
    connect(&document_, &Document::changed, this, &ChainModel::followEdit);
    connect(&document_, &Document::findingsChanged, this, &ChainModel::followFindings);
    connect(&selection_, &Selection::changed, this, [this] {
        follow();
        followFindings();
    });
    connect(&live_, &Live::movedAtAGlance, this, &ChainModel::refreshMoving);
    connect(&live_, &Live::statusChanged, this, [this] {
        if (rowCount() > 0) emit dataChanged(index(0), index(rowCount() - 1), {Qt::DisplayRole});
    });
    follow();
    followFindings();
}

const Instrument* ChainModel::instrument() const {
    return instrumentOf(document_.ensemble(), selection_.now());
}

const std::vector<Chain>* ChainModel::chains() const {
    return chainsOf(document_.ensemble(), selection_.now());
}

const Chain* ChainModel::chain(int row) const {
    const std::vector<Chain>* all = chains();
    const bool there = all != nullptr && row >= 0 && row < static_cast<int>(all->size());
    return there ? &(*all)[static_cast<std::size_t>(row)] : nullptr;
}

ChainReading ChainModel::reading(int row) const {
    const Chain* at = chain(row);
    return at == nullptr ? ChainReading{} : live_.reading(selection_.now().instrument, at->id);
}

int ChainModel::troubles(int row) const {
    const auto place = static_cast<std::size_t>(row);
    return place < troubles_.size() ? troubles_[place] : 0;
}

/// What checks say of a row, a line each.
QStringList ChainModel::sentences(int row) const {
    const auto owner = ownerPlace(document_.ensemble(), selection_.now());
    QStringList lines;
    for (const Finding* finding : document_.findings()) {
        const bool here =
            finding->place.instrument == owner && finding->place.chain == static_cast<std::size_t>(row);
        if (here) lines << QString::fromStdString(finding->problem.sentence());
    }
    return lines;
}

void ChainModel::followFindings() {
    std::vector<int> troubles(static_cast<std::size_t>(rows_), 0);
    const auto owner = ownerPlace(document_.ensemble(), selection_.now());
    for (const Finding* finding : document_.findings()) {
        const Place& place = finding->place;
        const bool here = place.instrument == owner && place.chain && *place.chain < troubles.size();
        if (here && finding->severity == Severity::trouble) ++troubles[*place.chain];
    }
    if (troubles == troubles_) return;
    troubles_ = std::move(troubles);
    if (rows_ > 0) emit dataChanged(index(0), index(rows_ - 1));
}

/// An edit elsewhere changes nothing here, unless a shared chain is looked at, which may lead there.
void ChainModel::followEdit(const Change& change) {
    const auto owner = ownerPlace(document_.ensemble(), selection_.now());
    if (owner && !change.concerns(*owner)) return;
    const bool onlyChains = owner && change.chains && !change.surroundings();
    if (!onlyChains) return follow();
    for (const std::size_t chain : *change.chains) {
        const QModelIndex row = index(static_cast<int>(chain));
        emit dataChanged(row, row);
    }
}

void ChainModel::follow() {
    const std::vector<Chain>* now = chains();
    const std::string name = now == nullptr ? std::string() : selection_.now().instrument;
    const int rows = now == nullptr ? 0 : static_cast<int>(now->size());
    if (name != instrument_ || rows != rows_) {
        beginResetModel();
        instrument_ = name;
        rows_ = rows;
        endResetModel();
    } else if (rows_ > 0) {
        emit dataChanged(index(0), index(rows_ - 1));
    }
}

/// The controller whose port its source comes from, where nothing plays there.
QString ChainModel::waitsFor(const Chain& chain) const {
    const Controller* controller = findById(document_.ensemble().controllers, chain.source.controller);
    const bool waits = controller != nullptr && live_.ports().waitsFor(controller->port, true);
    return waits ? nameToShow(nameOf(*controller)) : QString();
}

void ChainModel::refreshMoving() {
    shown_.resize(static_cast<std::size_t>(rows_));
    for (int row = 0; row < rows_; ++row) {
        const ChainReading now = reading(row);
        std::vector<double> values = now.values;
        values.push_back(now.position);
        values.push_back(now.fed);
        values.push_back((now.spoken ? 1 : 0) + (now.runs ? 2 : 0));
        if (values == shown_[static_cast<std::size_t>(row)]) continue;
        shown_[static_cast<std::size_t>(row)] = std::move(values);
        emit dataChanged(index(row), index(row), {moving});
    }
}

int ChainModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : rows_;
}

QVariant ChainModel::data(const QModelIndex& at, int role) const {
    const Chain* shown = chain(at.row());
    if (shown == nullptr) return {};
    switch (role) {
        case Qt::DisplayRole:
            return QString::fromStdString(nameOf(*shown));
        case id:
            return QString::fromStdString(shown->id);
        case Qt::AccessibleTextRole:
            return QString::fromStdString(
                describe::chainSentence(document_.ensemble(), instrument(), *shown));
        case Qt::ToolTipRole: {
            QString tip =
                QString::fromStdString(describe::chainSentence(document_.ensemble(), instrument(), *shown));
            for (const QString& line : sentences(at.row())) tip += QLatin1Char('\n') + line;
            return tip;
        }
        default:
            return {};
    }
}

Qt::ItemFlags ChainModel::flags(const QModelIndex& index) const {
    return QAbstractListModel::flags(index) | Qt::ItemIsDragEnabled;
}

QMimeData* ChainModel::mimeData(const QModelIndexList& indexes) const {
    std::vector<std::string> ids;
    for (const QModelIndex& index : indexes) ids.push_back(index.data(id).toString().toStdString());
    auto* dragged = new QMimeData;
    dragged->setText(
        toQt(store::printPart(reuse::takeChains(document_.ensemble(), selection_.now().instrument, ids))));
    return dragged;
}

ChainList::ChainList(Document& document, Selection& selection, Live& live, QWidget* parent)
    : QListView(parent), document_(document), selection_(selection), model_(document, selection, live) {
    setModel(&model_);
    delegate_ = std::make_unique<ChainDelegate>(model_, *this);
    setItemDelegate(delegate_.get());
    setVerticalScrollMode(ScrollPerPixel);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setUniformItemSizes(true);
    setSelectionMode(ExtendedSelection);
    setDragDropMode(QAbstractItemView::DragOnly);
    setAccessibleName(tr("Chains"));
    // Painted on the page's colour, so that the page is not painted for what moves in a row.
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    setContextMenuPolicy(Qt::CustomContextMenu);
    const auto choose = [this](const QModelIndex& now) {
        const std::string chosen = now.data(ChainModel::id).toString().toStdString();
        const Selected& selected = selection_.now();
        // With these, what is chosen follows in a moment.
        if ((QApplication::keyboardModifiers() & (Qt::ControlModifier | Qt::ShiftModifier)) != 0) return;
        if (!now.isValid() || (chosen == selected.chain && selected.part != Part::instrument)) return;
        selection_.set({selected.instrument, chosen, Part::source, 0, 0});
    };
    connect(selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this, choose](const QModelIndex& now) {
                if (hasFocus() && !following_) choose(now);
            });
    // Whoever clicks on a chain means the chain, also when a part of it is selected.
    connect(this, &QListView::clicked, this, [this](const QModelIndex& at) {
        if (at.isValid() && selectionModel()->selectedIndexes().size() < 2) selection_.set(selectedAt(at));
    });
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (!following_) takeSelection();
    });
    connect(&selection_, &Selection::changed, this, &ChainList::followSelection);
    connect(&document_, &Document::changed, this, &ChainList::followSelection);
    connect(&model_, &QAbstractItemModel::modelReset, this, [this] { updateGeometry(); });
    followSelection();
}

QSize ChainList::sizeHint() const {
    return {scaled(500), rowsHeight(std::clamp(model_.rowCount(), 1, 4))};
}

int ChainList::rowsHeight(int rows) const {
    return scaled(rowHeight) * rows + 2;
}

QRect ChainList::switchRect(int row) const {
    return RowPlaces(visualRect(model_.index(row)), 0).toggle.toAlignedRect();
}

/// Rows keep their height, so nothing is laid out anew, as QListView would.
void ChainList::dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) {
    if (roles != QList<int>{ChainModel::moving}) return QAbstractItemView::dataChanged(first, last, roles);
    for (int row = first.row(); row <= last.row(); ++row) {
        const Chain* chain = model_.chain(row);
        if (chain == nullptr) continue;
        const RowPlaces places(visualRect(model_.index(row)), chain->branches.size());
        viewport()->update(places.bar.toAlignedRect());
        viewport()->update(places.meters.toAlignedRect());
    }
}

void ChainList::paintEvent(QPaintEvent* event) {
    painted_ = event->region();
    QPainter(viewport()).fillRect(event->rect(), theme().ground);
    QListView::paintEvent(event);
}

void ChainList::followSelection() {
    following_ = true;
    showSelection();
    following_ = false;
}

Selected ChainList::selectedAt(const QModelIndex& at) const {
    return {selection_.now().instrument, at.data(ChainModel::id).toString().toStdString(), Part::source, 0,
            0};
}

/// What was chosen here, by Ctrl, Shift or all of it.
void ChainList::takeSelection() {
    QModelIndexList rows = selectionModel()->selectedIndexes();
    if (rows.size() < 2 && !selection_.areSeveral()) return;
    std::sort(rows.begin(), rows.end());
    std::vector<Selected> all;
    for (const QModelIndex& row : rows) all.push_back(selectedAt(row));
    if (all.empty()) return;
    const Selected current = selectedAt(currentIndex());
    const bool has = std::find(all.begin(), all.end(), current) != all.end();
    selection_.setTogether(has ? current : all.front(), all);
}

void ChainList::showSelection() {
    QItemSelection chosen;
    QModelIndex current;
    for (int i = 0; i < model_.rowCount(); ++i) {
        const QModelIndex at = model_.index(i);
        const bool isNow = at.data(ChainModel::id).toString().toStdString() == selection_.now().chain;
        if (isNow) current = at;
        if (isNow || selection_.isAmong(selectedAt(at))) chosen.select(at, at);
    }
    if (!current.isValid()) return setCurrentIndex({});
    if (currentIndex() != current) selectionModel()->setCurrentIndex(current, QItemSelectionModel::NoUpdate);
    selectionModel()->select(chosen, QItemSelectionModel::ClearAndSelect);
}

void ChainList::toggle(int row) {
    const Chain* chain = model_.chain(row);
    if (chain == nullptr) return;
    const std::string chosen = chain->id;
    document_.edit(chain->on ? tr("Switch the chain off") : tr("Switch the chain on"), [&](Ensemble& e) {
        if (Chain* changed = findById(*chainsOf(e, selection_.now()), chosen)) changed->on = !changed->on;
    });
}

void ChainList::mousePressEvent(QMouseEvent* event) {
    const QModelIndex at = indexAt(event->position().toPoint());
    if (at.isValid() && event->button() == Qt::LeftButton &&
        switchRect(at.row()).adjusted(-8, -8, 8, 8).contains(event->position().toPoint())) {
        toggle(at.row());
        return;
    }
    QListView::mousePressEvent(event);
}

}  // namespace mellow::app
