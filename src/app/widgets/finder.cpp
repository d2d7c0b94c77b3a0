#include "app/widgets/finder.h"

#include <QKeyEvent>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

constexpr int wide = 520;
constexpr int lineHeight = 26;
constexpr int helpHeight = 18;
constexpr int mostHeight = 360;

class FoundDelegate : public QStyledItemDelegate {
 public:
    using QStyledItemDelegate::QStyledItemDelegate;

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
        const bool helps = !index.data(FinderModel::help).toString().isEmpty();
        return {scaled(wide - 40), scaled(lineHeight + (helps ? helpHeight : 0))};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const QRectF row = QRectF(option.rect).adjusted(0.5, 0.5, -0.5, -0.5);
        if ((option.state & QStyle::State_Selected) != 0) {
            painter->setPen(QPen(t.sky, 1));
            painter->setBrush(t.raised);
            painter->drawRoundedRect(row, 6, 6);
        }
        QRectF inner = row.adjusted(scaled(8), 0, -scaled(8), 0);
        if (const QVariant ticked = index.data(Qt::CheckStateRole); ticked.isValid()) {
            const QRectF box(inner.left(), row.top() + (scaled(lineHeight) - scaled(12)) / 2.0, scaled(12),
                             scaled(12));
            const bool on = ticked.toInt() == Qt::Checked;
            painter->setPen(QPen(on ? t.sky : t.dim, 1));
            painter->setBrush(on ? QBrush(t.sky) : QBrush(Qt::NoBrush));
            painter->drawRoundedRect(box, 3, 3);
            if (on) {
                painter->setPen(QPen(t.ground, scaled(2)));
                painter->drawPolyline(QPolygonF{box.topLeft() + QPointF(scaled(3), scaled(6)),
                                                box.topLeft() + QPointF(scaled(5), scaled(9)),
                                                box.topLeft() + QPointF(scaled(9), scaled(3))});
            }
            inner.setLeft(box.right() + scaled(8));
        }
        const QRectF line(inner.topLeft(), QSizeF(inner.width(), scaled(lineHeight)));
        painter->setFont(captionFont());
        painter->setPen(t.dim);
        const QString detail = index.data(FinderModel::detail).toString();
        const double behind = painter->fontMetrics().horizontalAdvance(detail) + scaled(12);
        painter->drawText(line, Qt::AlignRight | Qt::AlignVCenter, detail);
        if (const QString help = index.data(FinderModel::help).toString(); !help.isEmpty()) {
            const QRectF below(inner.left(), line.bottom() - scaled(4), inner.width(), scaled(helpHeight));
            painter->drawText(
                below, Qt::AlignLeft | Qt::AlignTop,
                painter->fontMetrics().elidedText(help, Qt::ElideRight, static_cast<int>(below.width())));
        }
        painter->setFont(bodyFont());
        painter->setPen(t.ink);
        painter->drawText(
            line, Qt::AlignLeft | Qt::AlignVCenter,
            painter->fontMetrics().elidedText(index.data(Qt::DisplayRole).toString(), Qt::ElideRight,
                                              static_cast<int>(line.width() - behind)));
        painter->restore();
    }
};

}  // namespace

void FinderModel::show(std::vector<Found> found) {
    beginResetModel();
    found_ = std::move(found);
    endResetModel();
}

int FinderModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(found_.size());
}

QVariant FinderModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const Found& found = at(index.row());
    if (role == Qt::DisplayRole) return found.text;
    if (role == detail) return found.detail;
    if (role == help || role == Qt::ToolTipRole) return found.help;
    if (role == Qt::CheckStateRole && !ticked_.empty() && !found.key.empty())
        return isTicked(found) ? Qt::Checked : Qt::Unchecked;
    if (role == Qt::AccessibleTextRole)
        return QStringList{found.text, found.detail, found.help}.join(QStringLiteral(", "));
    return {};
}

void FinderModel::tick(const QModelIndex& index) {
    if (!index.isValid() || at(index.row()).key.empty()) return;
    const Found& found = at(index.row());
    if (isTicked(found)) {
        std::erase(ticked_, found.key);
    } else {
        ticked_.push_back(found.key);
    }
    emit dataChanged(this->index(0), this->index(rowCount() - 1));
}

Finder::Finder(const QString& placeholder, Search search, TakeAll takeAll, QWidget* parent)
    : QFrame(parent, Qt::Popup),
      search_(std::move(search)),
      takeAll_(std::move(takeAll)),
      words_(new QLineEdit),
      list_(new QListView),
      hint_(new QLabel) {
    setObjectName(QStringLiteral("finder"));
    setAttribute(Qt::WA_DeleteOnClose);
    setAttribute(Qt::WA_StyledBackground);
    setAccessibleName(placeholder);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(10), scaled(10), scaled(10), scaled(10));
    words_->setObjectName(QStringLiteral("finderWords"));
    words_->setPlaceholderText(placeholder);
    words_->setAccessibleName(placeholder);
    words_->installEventFilter(this);
    column->addWidget(words_);
    list_->setObjectName(QStringLiteral("found"));
    list_->setAccessibleName(tr("What was found"));
    list_->setModel(&model_);
    list_->setItemDelegate(new FoundDelegate(list_));
    list_->setFocusPolicy(Qt::NoFocus);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    column->addWidget(list_);
    hint_->setObjectName(QStringLiteral("finderHint"));
    hint_->setProperty("role", "caption");
    column->addWidget(hint_);
    hint_->setVisible(takeAll_ != nullptr);
    connect(words_, &QLineEdit::textChanged, this, &Finder::look);
    connect(list_, &QListView::clicked, this, [this](const QModelIndex& at) {
        const bool asks = (QGuiApplication::keyboardModifiers() & Qt::ControlModifier) != 0;
        takeAll_ && (asks || !model_.ticked().empty()) ? tick(at) : take(at);
    });
    setFixedWidth(scaled(wide));
    look();
    // As high as all of it is; what is typed then leaves less and moves nothing.
    int height = scaled(8);
    for (int row = 0; row < model_.rowCount(); ++row) height += list_->sizeHintForRow(row);
    list_->setFixedHeight(std::clamp(height, scaled(3 * lineHeight), scaled(mostHeight)));
    setFocusProxy(words_);
}

void Finder::look() {
    const QString typed = words_->text().trimmed();
    std::vector<Found> found = search_(typed);
    // What is called so goes before what is only described so.
    if (!typed.isEmpty())
        std::stable_sort(found.begin(), found.end(), [&typed](const Found& one, const Found& other) {
            return rankOf(one.text, typed) < rankOf(other.text, typed);
        });
    if (found.empty())
        found.push_back({tr("Nothing is found for “%1”").arg(typed), {}, tr("Fewer letters find more."), {}});
    model_.show(std::move(found));
    list_->setCurrentIndex(model_.index(0));
    walked_ = false;
    sayTicked();
}

void Finder::tick(const QModelIndex& at) {
    model_.tick(at);
    sayTicked();
}

void Finder::sayTicked() {
    const auto count = static_cast<int>(model_.ticked().size());
    hint_->setText(count == 0 ? tr("Several: walk with the arrows, tick with Space")
                              : tr("%n ticked; Enter takes all", nullptr, count));
}

bool Finder::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(watched, event);
    const auto go = [this](int by) {
        walked_ = true;
        const int last = std::max(0, model_.rowCount() - 1);
        list_->setCurrentIndex(model_.index(std::clamp(list_->currentIndex().row() + by, 0, last)));
        return true;
    };
    constexpr int page = 8;
    switch (static_cast<QKeyEvent*>(event)->key()) {
        case Qt::Key_Down:
            return go(1);
        case Qt::Key_Up:
            return go(-1);
        case Qt::Key_PageDown:
            return go(page);
        case Qt::Key_PageUp:
            return go(-page);
        case Qt::Key_Space:
            if (!takeAll_ || (!walked_ && !words_->text().isEmpty())) break;
            tick(list_->currentIndex());
            return true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            take(list_->currentIndex());
            return true;
        default:
            break;
    }
    return QFrame::eventFilter(watched, event);
}

void Finder::take(const QModelIndex& at) {
    if (!model_.ticked().empty()) {
        const auto act = takeAll_;
        const std::vector<std::string> keys = model_.ticked();
        close();
        return act(keys);
    }
    if (!at.isValid()) return;
    // What it does may open something else, which must not stand below this.
    const auto act = model_.at(at.row()).take;
    if (!act) return;
    close();
    act();
}

Finder* Finder::open(QWidget* at, const QString& placeholder, Search search, TakeAll takeAll) {
    auto* finder = new Finder(placeholder, std::move(search), std::move(takeAll), at->window());
    finder->adjustSize();
    placePopup(*finder, *at);
    finder->show();
    finder->words_->setFocus();
    return finder;
}

void placePopup(QWidget& popup, const QWidget& at) {
    const QWidget* window = at.window();
    const QRect room(window->mapToGlobal(QPoint(0, 0)), window->size());
    const auto within = [](int wish, int low, int high) {
        return std::clamp(wish, low, std::max(low, high));
    };
    QPoint place = at.mapToGlobal(QPoint(0, -popup.height() - scaled(4)));
    // Of something large, in its middle.
    if (at.width() > popup.width() && at.height() > popup.height() / 2)
        place = at.mapToGlobal(QPoint((at.width() - popup.width()) / 2, (at.height() - popup.height()) / 2));
    if (place.y() < room.top()) place.setY(at.mapToGlobal(QPoint(0, at.height() + scaled(4))).y());
    place.setX(within(place.x(), room.left(), room.right() - popup.width()));
    place.setY(within(place.y(), room.top(), room.bottom() - popup.height()));
    popup.move(place);
}

int rankOf(const QString& name, const QString& typed) {
    if (name.compare(typed, Qt::CaseInsensitive) == 0) return 0;
    if (name.startsWith(typed, Qt::CaseInsensitive)) return 1;
    return name.contains(typed, Qt::CaseInsensitive) ? 2 : 3;
}

bool hasWords(const QString& text, const QString& typed) {
    const QStringList words = typed.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    return std::all_of(words.begin(), words.end(),
                       [&text](const QString& word) { return text.contains(word, Qt::CaseInsensitive); });
}

}  // namespace mellow::app
