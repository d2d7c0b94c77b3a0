#include "app/pages/sheet/sheet_view.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <QStyledItemDelegate>
#include <set>
#include <utility>

#include "app/ground/theme.h"
#include "core/profiles/delimited.h"

namespace mellow::app {

namespace {

constexpr int lineHeight = 42;
constexpr int headInset = 22;  ///< where a head's triangle ends

/// How wide columns are until somebody makes them otherwise; "way" takes what is left.
int usualWidth(std::string_view key) {
    static const std::map<std::string_view, int> widths{
        {"move", 150},  {"way", 260},      {"target", 150},     {"sends", 132}, {"reach", 146},
        {"now", 92},    {"state", 110},    {"controller", 130}, {"chain", 130}, {"instrument", 130},
        {"steps", 220}, {"note", 180},     {"channel", 76},     {"out", 80},    {"low", 80},
        {"high", 80},   {"direction", 70}, {"resolution", 76},  {"locked", 60}, {"rest", 80},
    };
    const auto found = widths.find(key);
    return found == widths.end() ? 110 : found->second;
}

class SheetDelegate : public QStyledItemDelegate {
 public:
    SheetDelegate(const SheetModel& model, QObject* parent) : QStyledItemDelegate(parent), model_(model) {}

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        if (model_.isHead(index.row())) {
            if (index.column() == 0) paintHead(*painter, option, index);
        } else {
            paintRow(*painter, option, index);
        }
        painter->restore();
    }

    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                          const QModelIndex& index) const override {
        QWidget* editor = QStyledItemDelegate::createEditor(parent, option, index);
        if (editor != nullptr) {
            editor->setObjectName(QStringLiteral("cellEditor"));
            editor->setAccessibleName(model_.columnAt(index.column()).title);
        }
        return editor;
    }
    void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                              const QModelIndex&) const override {
        const int height = editor->sizeHint().height();
        QRect place = option.rect;
        place.setTop(place.center().y() - height / 2);
        place.setHeight(height);
        editor->setGeometry(place);
    }

 private:
    void paintHead(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
        const QRect rect = option.rect;
        if ((option.state & QStyle::State_HasFocus) != 0) {
            painter.setPen(QPen(theme().sky, 1));
            painter.drawRect(rect.adjusted(1, 1, -2, -2));
        }
        const QPointF at(rect.left() + scaled(12), rect.center().y() + 1);
        const double half = scaled(4);
        QPainterPath triangle;
        if (index.data(SheetModel::foldedRole).toBool()) {
            triangle.addPolygon(QPolygonF({{at.x() - half / 2, at.y() - half},
                                           {at.x() + half, at.y()},
                                           {at.x() - half / 2, at.y() + half}}));
        } else {
            triangle.addPolygon(QPolygonF({{at.x() - half, at.y() - half / 2},
                                           {at.x() + half, at.y() - half / 2},
                                           {at.x(), at.y() + half}}));
        }
        painter.setRenderHint(QPainter::Antialiasing);
        painter.fillPath(triangle, theme().dim);
        QRect text = rect.adjusted(scaled(headInset), 0, -scaled(8), 0);
        QFont font = bodyFont();
        font.setWeight(QFont::DemiBold);
        painter.setFont(font);
        painter.setPen(theme().ink);
        const QString title = index.data().toString();
        painter.drawText(text, Qt::AlignVCenter | Qt::AlignLeft, title);
        text.setLeft(text.left() + QFontMetrics(font).horizontalAdvance(title) + scaled(12));
        painter.setFont(captionFont());
        painter.setPen(theme().dim);
        const QString caption = index.data(SheetModel::headRole).toString();
        painter.drawText(text, Qt::AlignVCenter | Qt::AlignLeft,
                         QFontMetrics(captionFont()).elidedText(caption, Qt::ElideRight, text.width()));
    }

    void paintRow(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
        const QRect rect = option.rect;
        if ((option.state & QStyle::State_Selected) != 0) painter.fillRect(rect, theme().raised);
        if ((option.state & QStyle::State_HasFocus) != 0) {
            painter.setPen(QPen(theme().sky, 1));
            painter.drawRect(rect.adjusted(0, 0, -1, -1));
        }
        const std::string_view key = model_.columnAt(index.column()).key;
        if ((option.state & QStyle::State_Selected) != 0 && index.column() == 0)
            painter.fillRect(QRect(rect.topLeft(), QSize(scaled(3), rect.height())), theme().sky);
        const QRect inside = rect.adjusted(scaled(6), scaled(3), -scaled(6), -scaled(3));
        if (key == "now") return paintNow(painter, inside, model_.nowAt(index.row()));
        if (index.data(SheetModel::repeatsRole).toBool()) return;
        paintText(painter, inside, index, inkOf(index, key));
    }

    [[nodiscard]] QColor inkOf(const QModelIndex& index, std::string_view key) const {
        const Assignment& row = model_.rowAt(index.row());
        if (row.leads() == nullptr) return theme().dim;
        if (key == "state") return inkOf(model_.stateAt(index.row()).standing);
        return row.chain->on && row.leads()->on ? theme().ink : theme().dim;
    }
    /// What is told of how a row stands: trouble and waiting in clay.
    static QColor inkOf(SheetModel::Standing standing) {
        using Standing = SheetModel::Standing;
        if (standing == Standing::speaks) return theme().mint;
        const bool calls = standing == Standing::waits || standing == Standing::trouble;
        return calls ? theme().clay : theme().dim;
    }

    static void paintText(QPainter& painter, const QRect& inside, const QModelIndex& index,
                          const QColor& ink) {
        const QString text = index.data().toString();
        const QString caption = index.data(SheetModel::captionRole).toString();
        QRect line = inside;
        line.setHeight(inside.height() * 55 / 100);
        painter.setFont(bodyFont());
        painter.setPen(ink);
        painter.drawText(line, Qt::AlignVCenter | Qt::AlignLeft,
                         QFontMetrics(bodyFont()).elidedText(text, Qt::ElideRight, line.width()));
        if (caption.isEmpty()) return;
        const QRect below(inside.left(), line.bottom(), inside.width(), inside.bottom() - line.bottom());
        painter.setFont(captionFont());
        painter.setPen(theme().dim);
        painter.drawText(below, Qt::AlignVCenter | Qt::AlignLeft,
                         QFontMetrics(captionFont()).elidedText(caption, Qt::ElideRight, below.width()));
    }

    /// The target's value, pointed like all that is sent, and below it how far it is up its range; where the
    /// hand stands is a round mark on the same line.
    static void paintNow(QPainter& painter, const QRect& inside, const SheetModel::Now& now) {
        if (now.text.isEmpty()) return;
        if (now.position < 0 && now.standing < SheetModel::Standing::quiet) {
            painter.setFont(bodyFont());
            painter.setPen(inkOf(now.standing));
            painter.drawText(QRect(inside.topLeft(), QSize(inside.width(), inside.height() * 55 / 100)),
                             Qt::AlignVCenter | Qt::AlignRight,
                             QFontMetrics(bodyFont()).elidedText(now.text, Qt::ElideRight, inside.width()));
            return;
        }
        painter.setFont(numberFont());
        painter.setPen(now.position < 0 ? theme().dim : theme().mint);
        painter.drawText(inside.adjusted(0, 0, 0, -scaled(8)), Qt::AlignVCenter | Qt::AlignRight, now.text);
        const int thick = scaled(3);
        const QRectF track(inside.left(), inside.bottom() - scaled(5), inside.width(), thick);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().line);
        painter.drawRoundedRect(track, thick / 2.0, thick / 2.0);
        if (now.position >= 0) {
            painter.setBrush(theme().mint);
            painter.drawRoundedRect(QRectF(track.topLeft(), QSizeF(track.width() * now.position, thick)),
                                    thick / 2.0, thick / 2.0);
        }
        if (now.source < 0) return;
        painter.setBrush(theme().honey);
        painter.drawEllipse(QPointF(track.left() + track.width() * now.source, track.center().y()), scaled(3),
                            scaled(3));
    }

    const SheetModel& model_;
};

}  // namespace

SheetView::SheetView(SheetModel& model, QWidget* parent)
    : CellTable(model, QStringLiteral("sheet"), tr("Everything that moves anything"), parent), model_(model) {
    setItemDelegate(new SheetDelegate(model, this));
    setSelectionMode(ExtendedSelection);
    setEditTriggers(DoubleClicked | EditKeyPressed);
    setVerticalScrollMode(ScrollPerPixel);
    setHorizontalScrollMode(ScrollPerPixel);
    setTabKeyNavigation(false);
    setWordWrap(false);
    verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    horizontalHeader()->setSectionsMovable(true);
    horizontalHeader()->setSectionsClickable(true);
    horizontalHeader()->setMinimumSectionSize(scaled(40));
    horizontalHeader()->setTextElideMode(Qt::ElideRight);
    connect(horizontalHeader(), &QHeaderView::sectionClicked, this, &SheetView::sortAsked);
    connect(horizontalHeader(), &QHeaderView::sectionMoved, this, &SheetView::columnsMoved);
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, &SheetView::chosenChanged);
    connect(&model_, &SheetModel::arranging, this, &SheetView::keepPlace);
    connect(&model_, &SheetModel::arrangedAnew, this, &SheetView::findPlace);
    connect(&model_, &SheetModel::turned, this, &SheetView::placeColumns);
    setRowHeight(lineHeight);
    placeColumns();
}

void SheetView::keepPlace() {
    const int line = currentIndex().row();
    kept_ = chosen();
    keptCurrent_ = model_.idAt(line);
    keptGroup_ = line >= 0 && line < model_.rowCount() && model_.isHead(line) ? model_.groupAt(line).key
                                                                              : std::string();
    keptColumn_ = std::max(0, currentIndex().column());
}

void SheetView::findPlace() {
    placeRows();
    choose(kept_);
    int line = model_.lineOf(keptCurrent_);
    for (int each = 0; !keptGroup_.empty() && each < model_.rowCount(); ++each) {
        if (model_.isHead(each) && model_.groupAt(each).key == keptGroup_) line = each;
    }
    if (line >= 0)
        selectionModel()->setCurrentIndex(model_.index(line, keptColumn_), QItemSelectionModel::NoUpdate);
}

double SheetView::narrowing() const {
    int wanted = 0;
    for (int column = 0; column < model_.columnCount(); ++column)
        wanted += scaled(usualWidth(model_.columnAt(column).key));
    constexpr double narrowest = 0.7;
    constexpr double widest = 1.4;
    return wanted == 0 ? 1 : std::clamp(static_cast<double>(viewport()->width()) / wanted, narrowest, widest);
}

void SheetView::resizeEvent(QResizeEvent* event) {
    CellTable::resizeEvent(event);
    if (widths_.isEmpty() && narrowing() != narrowed_) placeColumns();
}

void SheetView::placeColumns() {
    QHeaderView& header = *horizontalHeader();
    header.setSectionResizeMode(QHeaderView::Interactive);
    narrowed_ = narrowing();
    for (int column = 0; column < model_.columnCount(); ++column) {
        const std::string_view key = model_.columnAt(column).key;
        header.resizeSection(column, static_cast<int>(scaled(usualWidth(key)) * narrowed_));
        for (const QString& each : widths_) {
            const QString before = QString::fromUtf8(key.data(), static_cast<int>(key.size())) + '=';
            if (each.startsWith(before)) header.resizeSection(column, each.mid(before.size()).toInt());
        }
    }
    const int wide = model_.columnOf("way");
    if (wide >= 0) {
        header.setSectionResizeMode(wide, QHeaderView::Stretch);
    } else {
        header.setStretchLastSection(true);
    }
    placeRows();
}

QStringList SheetView::widths() const {
    QStringList all;
    for (int column = 0; column < model_.columnCount(); ++column) {
        const std::string_view key = model_.columnAt(column).key;
        all << QString::fromUtf8(key.data(), static_cast<int>(key.size())) + '=' +
                   QString::number(horizontalHeader()->sectionSize(column));
    }
    return all;
}

void SheetView::setWidths(const QStringList& widths) {
    widths_ = widths;
    placeColumns();
}

void SheetView::placeRows() {
    clearSpans();
    shown_.clear();
    verticalHeader()->setDefaultSectionSize(scaled(lineHeight));
    if (model_.columnCount() < 2) return;
    for (int line = 0; line < model_.rowCount(); ++line) {
        if (model_.isHead(line)) setSpan(line, 0, 1, model_.columnCount());
    }
}

std::vector<AssignmentId> SheetView::chosen() const {
    return model_.idsOf(chosenRows());
}

void SheetView::choose(const std::vector<AssignmentId>& ids) {
    const std::set<AssignmentId> wanted(ids.begin(), ids.end());
    QItemSelection selection;
    const int last = model_.columnCount() - 1;
    for (int line = 0; line < model_.rowCount() && !wanted.empty(); ++line) {
        if (!model_.isHead(line) && wanted.contains(model_.idAt(line)))
            selection.select(model_.index(line, 0), model_.index(line, last));
    }
    selectionModel()->select(selection, QItemSelectionModel::ClearAndSelect);
    emit chosenChanged();
}

void SheetView::goTo(const AssignmentId& id) {
    const int line = model_.lineOf(id);
    if (line < 0) return;
    setCurrentIndex(model_.index(line, 0));
    choose({id});
    scrollTo(model_.index(line, 0), PositionAtCenter);
}

QString SheetView::chosenText() const {
    const std::vector<int> columns = chosenColumns();
    profiles::Table table;
    for (const std::size_t each : chosenRows()) {
        const int line = static_cast<int>(each);
        if (model_.isHead(line)) continue;
        auto& row = table.emplace_back();
        for (const int column : columns) {
            const QModelIndex at = model_.index(line, column);
            row.push_back(
                selectionModel()->isSelected(at)
                    ? at.data(model_.columnAt(column).said != nullptr ? Qt::EditRole : Qt::DisplayRole)
                          .toString()
                          .toStdString()
                    : std::string());
        }
    }
    return QString::fromStdString(profiles::printCells(table));
}

void SheetView::chooseGroup(int line, Qt::KeyboardModifiers modifiers) {
    int last = line + 1;
    while (last < model_.rowCount() && !model_.isHead(last)) ++last;
    const QItemSelection group(model_.index(line, 0), model_.index(last - 1, model_.columnCount() - 1));
    const bool adds = (modifiers & (Qt::ControlModifier | Qt::ShiftModifier)) != 0;
    selectionModel()->setCurrentIndex(model_.index(line, 0), QItemSelectionModel::NoUpdate);
    selectionModel()->select(group, adds ? QItemSelectionModel::Select : QItemSelectionModel::ClearAndSelect);
}

void SheetView::mousePressEvent(QMouseEvent* event) {
    const QModelIndex at = indexAt(event->pos());
    if (event->button() != Qt::LeftButton || !at.isValid() || !model_.isHead(at.row()))
        return CellTable::mousePressEvent(event);
    if (event->pos().x() + horizontalScrollBar()->value() < scaled(headInset)) {
        selectionModel()->setCurrentIndex(model_.index(at.row(), 0), QItemSelectionModel::NoUpdate);
        model_.fold(at.row(), !model_.groupAt(at.row()).isFolded);
    } else {
        chooseGroup(at.row(), event->modifiers());
    }
}

void SheetView::keyPressEvent(QKeyEvent* event) {
    const int line = currentIndex().row();
    const bool isHead = line >= 0 && line < model_.rowCount() && model_.isHead(line);
    const bool isEnter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    if (isHead && (isEnter || event->key() == Qt::Key_Left || event->key() == Qt::Key_Right)) {
        const bool folded = model_.groupAt(line).isFolded;
        const bool wanted = isEnter ? !folded : event->key() == Qt::Key_Left;
        if (wanted != folded) model_.fold(line, wanted);
        return;
    }
    if (isEnter && line >= 0 && event->modifiers() == Qt::NoModifier && state() != EditingState) {
        emit chainAsked(model_.idAt(line));
        return;
    }
    CellTable::keyPressEvent(event);
}

/// What moves hides all that is behind it, so that nothing of the page is painted for it. A style sheet takes
/// this away whenever it is put on.
void SheetView::showEvent(QShowEvent* event) {
    CellTable::showEvent(event);
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
}

void SheetView::paintEvent(QPaintEvent* event) {
    QPainter(viewport()).fillRect(event->rect(), theme().panel);
    CellTable::paintEvent(event);
}

void SheetView::changeEvent(QEvent* event) {
    CellTable::changeEvent(event);
    if (event->type() == QEvent::StyleChange) viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    if (event->type() == QEvent::StyleChange && model_.rowCount() > 0) placeRows();
}

std::pair<int, int> SheetView::visibleLines() const {
    const int first = std::max(0, rowAt(0));
    const int last = rowAt(viewport()->height() - 1);
    return {first, last < 0 ? model_.rowCount() - 1 : last};
}

void SheetView::followValues() {
    const int now = model_.columnOf("now");
    const int state = model_.columnOf("state");
    if (now < 0 && state < 0) return;
    const auto [first, last] = visibleLines();
    for (int line = first; line <= last; ++line) {
        if (model_.isHead(line)) continue;
        std::pair<SheetModel::Now, QString> says{now < 0 ? SheetModel::Now{} : model_.nowAt(line),
                                                 state < 0 ? QString() : model_.stateAt(line).words};
        auto& before = shown_[line];
        if (before == says) continue;
        if (now >= 0 && !(before.first == says.first))
            viewport()->update(visualRect(model_.index(line, now)));
        if (state >= 0 && before.second != says.second)
            viewport()->update(visualRect(model_.index(line, state)));
        before = std::move(says);
    }
}

}  // namespace mellow::app
