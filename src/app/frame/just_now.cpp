// Messages come by thousands, and nobody reads faster than a few a second. So they wait in a short queue,
// each control's newest only, that one which moves a lot crowds out no other; and at a reading rhythm they
// are turned into lines: what has a line near the top changes its number, any other is put on top. Names are
// looked up then, for the few that are shown. What a closed document sent is forgotten with it.
#include "app/frame/just_now.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/acts/details/editors.h"
#include "app/ground/theme.h"
#include "app/widgets/finder.h"
#include "core/describe/heard.h"
#include "core/describe/sentence.h"
#include "core/midi/message.h"
#include "core/midi/names.h"
#include "core/model/law.h"
#include "core/text/numbers.h"

namespace mellow::app {

namespace {

constexpr int readingRhythm = 200;  // ms between changes of the list: nobody reads faster
constexpr std::size_t mostLines = 40;
constexpr std::size_t sameWithin = 16;  // lines from the top in which a repeated message is found again

QString keyName(int key) {
    return toQt(midi::keyName(key));
}

/// A source that hears a message, to name it by; nothing for notes.
std::optional<Source> sourceOf(midi::Bytes bytes) {
    Source source;
    switch (midi::kindOf(bytes)) {
        case midi::controlChange:
            source.number = bytes[1];
            return source;
        case midi::pitchBend:
            source.kind = SourceKind::bend;
            return source;
        case midi::channelPressure:
            source.kind = SourceKind::pressure;
            return source;
        default:
            return std::nullopt;
    }
}

int valueOf(midi::Bytes bytes) {
    return midi::kindOf(bytes) == midi::pitchBend ? midi::bendOf(bytes)
           : bytes.size() > 2                     ? bytes[2]
           : bytes.size() > 1                     ? bytes[1]
                                                  : 0;
}

class LineDelegate : public QStyledItemDelegate {
 public:
    using QStyledItemDelegate::QStyledItemDelegate;

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {scaled(120), scaled(22)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const bool out = index.data(JustNowModel::out).toBool();
        const QRectF row = option.rect;
        const QPointF mark(row.left() + scaled(7), row.center().y());
        painter->setPen(Qt::NoPen);
        painter->setBrush(out ? t.mint : t.honey);
        if (out) {
            const double r = scaled(5);
            QPainterPath point;
            point.moveTo(mark.x() - r, mark.y());
            point.lineTo(mark.x() + r, mark.y() - r);
            point.lineTo(mark.x() + r, mark.y() + r);
            point.closeSubpath();
            painter->drawPath(point);
        } else {
            painter->drawEllipse(mark, scaled(4), scaled(4));
        }
        const QString number = index.data(JustNowModel::number).toString();
        painter->setFont(numberFont());
        painter->setPen(t.ink);
        const double numberWidth = painter->fontMetrics().horizontalAdvance(number);
        painter->drawText(row.adjusted(0, 0, -2, 0), Qt::AlignRight | Qt::AlignVCenter, number);
        QRectF text = row.adjusted(scaled(20), 0, -numberWidth - scaled(10), 0);
        painter->setFont(bodyFont());
        // Whose it is is said on every line, also beside a long name.
        constexpr double mostOfDetail = 0.45;
        const QString detail = index.data(JustNowModel::detail).toString();
        const double detailWidth =
            detail.isEmpty() ? 0
                             : std::min(QFontMetricsF(captionFont()).horizontalAdvance(detail) + scaled(8),
                                        text.width() * mostOfDetail);
        const QString name =
            painter->fontMetrics().elidedText(index.data(Qt::DisplayRole).toString(), Qt::ElideRight,
                                              static_cast<int>(text.width() - detailWidth));
        painter->drawText(text, Qt::AlignLeft | Qt::AlignVCenter, name);
        text.setLeft(text.left() + painter->fontMetrics().horizontalAdvance(name) + scaled(6));
        painter->setFont(captionFont());
        painter->setPen(t.dim);
        painter->drawText(
            text, Qt::AlignLeft | Qt::AlignVCenter,
            painter->fontMetrics().elidedText(detail, Qt::ElideRight, static_cast<int>(text.width())));
        painter->restore();
    }
};

}  // namespace

JustNowModel::JustNowModel(Document& document, Live& live, QObject* parent)
    : QAbstractListModel(parent), document_(document), live_(live) {
    connect(&live_, &Live::happened, this, [this](const io::Happening& happening) {
        if (!midi::isRealTime(happening.message.data[0])) take(happening);
    });
    connect(&live_, &Live::happenedByOsc, this,
            [this](const io::OscHappening& happening) { take(happening); });
    connect(&document_, &Document::replaced, this, &JustNowModel::clear);
    connect(&rhythm_, &QTimer::timeout, this, &JustNowModel::flush);
    rhythm_.setSingleShot(true);
    // Rather with a picture that is painted anyway than between two.
    connect(&live_, &Live::moved, this, [this] {
        constexpr int aPicture = 17;  // ms
        if (rhythm_.isActive() && rhythm_.remainingTime() < aPicture) flush();
    });
}

void JustNowModel::clear() {
    rhythm_.stop();
    waiting_.clear();
    beginResetModel();
    lines_.clear();
    endResetModel();
}

int JustNowModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(lines_.size());
}

void JustNowModel::setFilter(const QString& words) {
    filter_ = words.trimmed();
    beginResetModel();
    std::erase_if(lines_, [this](const Line& line) { return !hasWords(JustNowModel::words(line), filter_); });
    endResetModel();
}

void JustNowModel::pause(bool paused) {
    paused_ = paused;
    waiting_.clear();
}

QString JustNowModel::words(const Line& line) {
    const Mover& mover = line.mover;
    const QString way = !mover.out ? tr("in") : mover.made ? tr("out made") : tr("out passed");
    return QStringList{way, line.name, line.detail}.join(QLatin1Char(' '));
}

QString JustNowModel::text() const {
    QString lines;
    for (const Line& line : lines_) {
        const QString way = !line.mover.out ? tr("in") : line.mover.made ? tr("made") : tr("passed");
        lines += QStringList{way, line.name, line.number, line.detail}.join(QLatin1Char('\t')).trimmed() +
                 QLatin1Char('\n');
    }
    return lines;
}

/// A key down and a key up are two lines, so that a struck key shows both.
JustNowModel::Mover JustNowModel::moverOf(const io::Happening& happening) {
    const midi::Bytes bytes = happening.message.bytes();
    Mover mover{bytes[0], 0, happening.instrument, happening.out, happening.made, {}};
    if (!midi::isChannelStatus(bytes[0])) return mover;
    mover.channel = midi::channelOf(bytes);
    const int kind = midi::isNoteOff(bytes) ? int{midi::noteOff} : midi::kindOf(bytes);
    const bool numbered = kind <= midi::controlChange;
    mover.message = kind * 128 + (numbered ? bytes[1] : 0);
    return mover;
}

JustNowModel::Mover JustNowModel::moverOf(const io::OscHappening& happening) {
    return {0, 0, happening.instrument, happening.out, happening.out, happening.message.address.data()};
}

template<class Happened>
void JustNowModel::take(const Happened& happening) {
    if (paused_) return;
    Mover mover = moverOf(happening);
    const auto same = std::find_if(waiting_.begin(), waiting_.end(),
                                   [&](const Waiting& other) { return other.mover == mover; });
    if (same != waiting_.end()) {
        same->newest = happening;
    } else {
        waiting_.push_back({std::move(mover), happening});
    }
    if (waiting_.size() > mostLines) waiting_.pop_front();
    if (!rhythm_.isActive()) rhythm_.start(readingRhythm);
}

void JustNowModel::flush() {
    rhythm_.stop();
    for (const Waiting& happening : waiting_) {
        Line line = lineFor(happening);
        if (!hasWords(words(line), filter_)) continue;
        const auto recent = lines_.begin() + static_cast<std::ptrdiff_t>(std::min(lines_.size(), sameWithin));
        const auto same = std::find_if(lines_.begin(), recent,
                                       [&](const Line& other) { return other.mover == line.mover; });
        if (same != recent) {
            same->number = line.number;
            const int at = static_cast<int>(same - lines_.begin());
            emit dataChanged(index(at), index(at));
            continue;
        }
        beginInsertRows({}, 0, 0);
        lines_.push_front(std::move(line));
        endInsertRows();
        if (lines_.size() <= mostLines) continue;
        beginRemoveRows({}, static_cast<int>(mostLines), static_cast<int>(mostLines));
        lines_.pop_back();
        endRemoveRows();
    }
    waiting_.clear();
}

const Instrument* JustNowModel::instrumentOf(std::uint32_t interned) const {
    return findById(document_.ensemble().instruments, live_.readings().instrumentId(interned));
}

JustNowModel::Line JustNowModel::lineFor(const Waiting& waiting) const {
    Line line;
    line.mover = waiting.mover;
    std::visit([&](const auto& newest) { describe(newest, line); }, waiting.newest);
    return line;
}

void JustNowModel::describe(const io::OscHappening& happening, Line& line) const {
    line.name = toQt(line.mover.address);
    line.number = QString::fromStdString(text::plain(std::round(happening.message.number * 1000) / 1000));
    const Instrument* instrument = happening.out ? instrumentOf(happening.instrument) : nullptr;
    if (instrument == nullptr) return;
    line.detail = QString::fromStdString(nameOf(*instrument));
    for (const Parameter& parameter : instrument->parameters) {
        const bool same =
            parameter.message.kind == MessageKind::osc && parameter.message.address == line.mover.address;
        if (!same) continue;
        line.name = QString::fromStdString(nameOf(parameter));
        const Range range = rangeOf(parameter);
        if (const auto q = rawPosition(range, happening.message.number))
            line.number = QString::fromStdString(displayText(range, *q));
        return;
    }
}

void JustNowModel::describe(const io::Happening& happening, Line& line) const {
    const midi::Bytes bytes = happening.message.bytes();
    if (!midi::isChannelStatus(bytes[0])) {
        line.name = bytes[0] == midi::sysexStart ? tr("SysEx") : tr("System message");
        line.number = QString::number(bytes[0], 16).toUpper();
        return;
    }
    line.number = QString::number(valueOf(bytes));
    if (happening.out) {
        const Instrument* instrument = instrumentOf(happening.instrument);
        if (instrument != nullptr) line.detail = QString::fromStdString(nameOf(*instrument));
        if (happening.instrument == engine::none) line.detail = tr("feedback");
    }
    const auto source = sourceOf(bytes);
    if (!source) {
        line.name = midi::isNoteOff(bytes)                       ? tr("%1 up").arg(keyName(bytes[1]))
                    : midi::kindOf(bytes) == midi::keyPressure   ? tr("Pressure on %1").arg(keyName(bytes[1]))
                    : midi::kindOf(bytes) == midi::programChange ? tr("Program change")
                                                                 : keyName(bytes[1]);
        return;
    }
    if (!happening.out) {
        line.name = QString::fromStdString(describe::sourceName(document_.ensemble(), *source));
        if (source->kind == SourceKind::bend)
            line.number = QString::number(midi::bendOf(bytes) - midi::bendCentre);
        return;
    }
    const Instrument* instrument = instrumentOf(happening.instrument);
    const bool numbered = row(source->kind).numbered;
    line.name =
        numbered ? QString::fromStdString(describe::sourceMessage(*source)) : toQt(row(source->kind).label);
    for (const Parameter& parameter :
         instrument == nullptr ? std::vector<Parameter>{} : instrument->parameters) {
        const bool same = row(parameter.message.kind).name == row(source->kind).name &&
                          parameter.message.number == source->number;
        if (!same) continue;
        line.name = QString::fromStdString(nameOf(parameter));
        line.number = QString::fromStdString(
            displayText(rangeOf(parameter), decode(scaleOf(parameter), valueOf(bytes), maxOf(parameter))));
        return;
    }
}

QVariant JustNowModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= static_cast<int>(lines_.size())) return {};
    const Line& line = lines_[static_cast<std::size_t>(at.row())];
    switch (role) {
        case Qt::DisplayRole:
            return line.name;
        case out:
            return line.mover.out;
        case number:
            return line.number;
        case detail:
            return line.mover.out && !line.mover.made ? tr("%1 · passed").arg(line.detail) : line.detail;
        case Qt::AccessibleTextRole:
            return (!line.mover.out   ? tr("played %1 %2 %3")
                    : line.mover.made ? tr("made %1 %2 %3")
                                      : tr("passed %1 %2 %3"))
                .arg(line.name, line.number, line.detail);
        default:
            return {};
    }
}

JustNowList::JustNowList(JustNowModel& model, QWidget* parent) : QListView(parent), model_(model) {
    setModel(&model_);
    setItemDelegate(new LineDelegate(this));
    setSelectionMode(NoSelection);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setUniformItemSizes(true);
    setFocusPolicy(Qt::NoFocus);
    setAccessibleName(tr("Just now"));
}

void JustNowList::paintEvent(QPaintEvent* event) {
    QListView::paintEvent(event);
    if (model_.rowCount() > 0) return;
    QPainter painter(viewport());
    painter.setFont(bodyFont());
    painter.setPen(theme().dim);
    painter.drawText(viewport()->rect(), Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap,
                     tr("Nothing yet. Move a wheel or strike a key below, and what comes in and goes out is "
                        "listed here."));
}

JustNow::JustNow(Document& document, Live& live, QWidget* parent)
    : QWidget(parent), model_(new JustNowModel(document, live, this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(scaled(4));
    auto* head = new QHBoxLayout;
    head->setSpacing(scaled(4));
    auto* title = new QLabel(tr("Just now"));
    title->setProperty("role", "section");
    head->addWidget(title);
    auto* filter = new QLineEdit;
    filter->setObjectName(QStringLiteral("justNowFilter"));
    filter->setPlaceholderText(tr("Filter"));
    filter->setMinimumWidth(scaled(56));
    filter->setAccessibleName(tr("Show only what has these words"));
    filter->setToolTip(tr("Show only what has these words: a name, an instrument, in, out, made, passed"));
    filter->setClearButtonEnabled(true);
    connect(filter, &QLineEdit::textChanged, model_, &JustNowModel::setFilter);
    head->addWidget(filter, 1);
    const auto button = [&](const QString& text, const QString& tip, const char* name) {
        auto* made = new QPushButton(text);
        made->setToolTip(tip);
        made->setObjectName(QLatin1String(name));
        made->setProperty("role", "plain");
        head->addWidget(made);
        return made;
    };
    auto* pause = button(tr("Pause"), tr("Hold still what is shown"), "justNowPause");
    pause->setCheckable(true);
    connect(pause, &QPushButton::toggled, model_, &JustNowModel::pause);
    connect(button(tr("Copy"), tr("Copy what is shown, as text"), "justNowCopy"), &QPushButton::clicked, this,
            [this] { QGuiApplication::clipboard()->setText(model_->text()); });
    column->addLayout(head);
    column->addWidget(new JustNowList(*model_), 1);
}

}  // namespace mellow::app
