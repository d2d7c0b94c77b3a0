// Cards are painted by a delegate: over the travel, the curve in mint on the diagonal of what comes; over
// time, the hand in honey and what comes of it in mint.
#include "app/widgets/step_picker.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/finder.h"

namespace mellow::app {

namespace {

constexpr std::size_t points = 72;
constexpr int cardWidth = 262;
constexpr int cardHeight = 84;
constexpr int across = 3;

QPainterPath lineThrough(const std::vector<double>& values, const QRectF& area) {
    QPainterPath path;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double x = static_cast<double>(i) / static_cast<double>(values.size() - 1);
        const QPointF at(area.left() + x * area.width(), area.bottom() - values[i] * area.height());
        i == 0 ? path.moveTo(at) : path.lineTo(at);
    }
    return path;
}

class CardDelegate : public QStyledItemDelegate {
 public:
    CardDelegate(const StepKindModel& model, QObject* parent) : QStyledItemDelegate(parent), model_(model) {}

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(cardWidth), scaled(cardHeight)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const QRectF card = QRectF(option.rect).adjusted(3, 3, -3, -3);
        const bool current = (option.state & QStyle::State_Selected) != 0;
        painter->setPen(current ? QPen(t.sky, 1.6) : QPen(Qt::NoPen));
        painter->setBrush(current ? t.raised : t.panel);
        painter->drawRoundedRect(card, 8, 8);
        const QRectF box(card.left() + scaled(8), card.top() + scaled(8), scaled(74),
                         card.height() - scaled(16));
        painter->setPen(Qt::NoPen);
        painter->setBrush(t.ground);
        painter->drawRoundedRect(box, 5, 5);
        const QRectF plot = box.adjusted(5, 5, -5, -5);
        const StepExample& example = model_.example(index.row());
        painter->setBrush(Qt::NoBrush);
        painter->setPen(QPen(example.overTime ? t.honey : blend(t.ground, t.dim, 0.6), 1.2));
        painter->drawPath(lineThrough(example.before, plot));
        painter->setPen(QPen(t.mint, 2));
        painter->drawPath(lineThrough(example.after, plot));
        const QRectF words(box.right() + scaled(9), card.top() + scaled(6),
                           card.right() - box.right() - scaled(14), card.height() - scaled(10));
        painter->setFont(bodyFont());
        painter->setPen(t.ink);
        painter->drawText(words, Qt::AlignTop | Qt::AlignLeft, index.data(Qt::DisplayRole).toString());
        painter->setFont(captionFont());
        painter->setPen(t.dim);
        painter->drawText(words.adjusted(0, scaled(18), 0, 0),
                          Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap,
                          index.data(StepKindModel::help).toString());
        painter->restore();
    }

 private:
    const StepKindModel& model_;
};

}  // namespace

StepKindModel::StepKindModel(std::vector<Step> behind, QObject* parent)
    : QAbstractListModel(parent), behind_(stepsThatAreOn(behind)) {
    prepare(behind_);
    for (const StepKind* kind : stepKinds())
        all_.push_back({makeStep(*kind), exampleOf(*kind, behind_, points)});
    shown_ = all_;
}

void StepKindModel::find(const QString& typed) {
    const TypedStep meant = typedStep(typed.toStdString());
    const QString words = toQt(meant.words);
    const QStringList wanted = words.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    const auto hasAll = [&wanted](const StepKind& kind) {
        const QString text = toQt(kind.label) + QLatin1Char(' ') + toQt(kind.help);
        return std::all_of(wanted.begin(), wanted.end(),
                           [&text](const QString& word) { return text.contains(word, Qt::CaseInsensitive); });
    };
    beginResetModel();
    shown_.clear();
    for (const Entry& entry : all_) {
        if (!hasAll(*entry.step.kind)) continue;
        if (meant.rest.empty()) {
            shown_.push_back(entry);
        } else if (const auto step = stepAsTyped(*entry.step.kind, meant)) {
            shown_.push_back({*step, exampleOf(*step, behind_, points), true});
        }
    }
    std::stable_sort(shown_.begin(), shown_.end(), [&words](const Entry& one, const Entry& other) {
        return rankOf(toQt(one.step.kind->label), words) < rankOf(toQt(other.step.kind->label), words);
    });
    endResetModel();
}

int StepKindModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(shown_.size());
}

QVariant StepKindModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const StepKind& at = kind(index.row());
    if (role == Qt::DisplayRole) return toQt(at.label);
    if (role == help || role == Qt::ToolTipRole) return whatItDoes(index.row());
    if (role == Qt::AccessibleTextRole)
        return toQt(at.label) + QStringLiteral(": ") + whatItDoes(index.row());
    return {};
}

/// Its sentence; with values that were typed, what they come to.
QString StepKindModel::whatItDoes(int row) const {
    const bool hasValues = shown_[static_cast<std::size_t>(row)].hasValues;
    const QString phrase = hasValues ? toQt(kind(row).phrase(step(row), {})) : QString();
    return phrase.isEmpty() ? toQt(kind(row).help) : phrase;
}

StepPicker::StepPicker(std::vector<Step> behind, QWidget* parent)
    : QFrame(parent, Qt::Popup), model_(std::move(behind)), words_(new QLineEdit), list_(new QListView) {
    setObjectName(QStringLiteral("stepPicker"));
    setAttribute(Qt::WA_DeleteOnClose);
    setAttribute(Qt::WA_StyledBackground);
    setAccessibleName(tr("Add a step"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(10), scaled(10), scaled(10), scaled(10));
    words_->setObjectName(QStringLiteral("stepWords"));
    words_->setPlaceholderText(
        tr("What should the step do? Type to find one, with numbers if you like (limit 0 70), Enter to take "
           "it"));
    words_->installEventFilter(this);
    column->addWidget(words_);
    list_->setObjectName(QStringLiteral("stepKinds"));
    list_->setAccessibleName(tr("Steps"));
    list_->setModel(&model_);
    list_->setItemDelegate(new CardDelegate(model_, list_));
    list_->setFlow(QListView::LeftToRight);
    list_->setWrapping(true);
    list_->setResizeMode(QListView::Adjust);
    list_->setUniformItemSizes(true);
    list_->setFocusPolicy(Qt::NoFocus);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    const int rows = (model_.rowCount() + across - 1) / across;
    list_->setFixedSize(scaled(cardWidth) * across + scaled(12), scaled(cardHeight) * rows + scaled(12));
    column->addWidget(list_);
    auto* nothing = new QLabel(list_);
    nothing->setObjectName(QStringLiteral("noStep"));
    nothing->setProperty("role", "help");
    nothing->setAlignment(Qt::AlignCenter);
    nothing->setFixedWidth(list_->width());
    nothing->move(0, scaled(cardHeight) / 2);
    nothing->hide();
    connect(words_, &QLineEdit::textChanged, this, [this, nothing](const QString& words) {
        model_.find(words);
        nothing->setText(tr("No step is called or does “%1”, or none takes these numbers. Fewer letters "
                            "find more.")
                             .arg(words.trimmed()));
        nothing->setVisible(model_.rowCount() == 0);
        begin();
    });
    connect(list_, &QListView::clicked, this, &StepPicker::take);
    begin();
    setFocusProxy(words_);
}

void StepPicker::begin() {
    list_->setCurrentIndex(model_.index(0));
}

/// Arrows walk among the cards while the field keeps the letters.
bool StepPicker::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(watched, event);
    const int row = list_->currentIndex().row();
    const auto go = [this](int to) {
        list_->setCurrentIndex(model_.index(std::clamp(to, 0, std::max(0, model_.rowCount() - 1))));
        return true;
    };
    switch (static_cast<QKeyEvent*>(event)->key()) {
        case Qt::Key_Down:
            return go(row + across);
        case Qt::Key_Up:
            return go(row - across);
        case Qt::Key_Right:
            return words_->text().isEmpty() ? go(row + 1) : QFrame::eventFilter(watched, event);
        case Qt::Key_Left:
            return words_->text().isEmpty() ? go(row - 1) : QFrame::eventFilter(watched, event);
        case Qt::Key_Return:
        case Qt::Key_Enter:
            take(list_->currentIndex());
            return true;
        default:
            return QFrame::eventFilter(watched, event);
    }
}

void StepPicker::take(const QModelIndex& at) {
    if (!at.isValid()) return;
    const Step step = model_.step(at.row());
    emit chosen(step);
    close();
}

StepPicker* StepPicker::open(QWidget* at, std::vector<Step> behind, std::function<void(const Step&)> chosen) {
    auto* picker = new StepPicker(std::move(behind), at->window());
    connect(picker, &StepPicker::chosen, at,
            [chosen = std::move(chosen)](const Step& step) { chosen(step); });
    picker->adjustSize();
    placePopup(*picker, *at);
    picker->show();
    picker->words_->setFocus();
    return picker;
}

}  // namespace mellow::app
