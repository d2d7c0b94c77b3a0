// Messages come by thousands, and nobody reads faster than a few a second. So they wait in a short queue, and
// at a reading rhythm the newest are turned into lines: one that repeats a line near the top changes its
// number, any other is put on top. Names are looked up then, for the few that are shown. What a closed
// document sent is forgotten with it.
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
    connect(&live_, &Live::happenedByOsc, this, &JustNowModel::take);
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
    const QString way = !line.out ? tr("in") : line.made ? tr("out made") : tr("out passed");
    return QStringList{way, line.name, line.detail}.join(QLatin1Char(' '));
}

QString JustNowModel::text() const {
    QString lines;
    for (const Line& line : lines_) {
        const QString way = !line.out ? tr("in") : line.made ? tr("made") : tr("passed");
        lines += QStringList{way, line.name, line.number, line.detail}.join(QLatin1Char('\t')).trimmed() +
                 QLatin1Char('\n');
    }
    return lines;
}

void JustNowModel::take(const Waiting& happening) {
    if (paused_) return;
    waiting_.push_back(happening);
    if (waiting_.size() > mostLines) waiting_.pop_front();
    if (!rhythm_.isActive()) rhythm_.start(readingRhythm);
}

void JustNowModel::flush() {
    rhythm_.stop();
    for (const Waiting& happening : waiting_) {
        Line line = std::visit([this](const auto& each) { return lineFor(each); }, happening);
        if (!hasWords(words(line), filter_)) continue;
        const auto recent = lines_.begin() + static_cast<std::ptrdiff_t>(std::min(lines_.size(), sameWithin));
        const auto same = std::find_if(lines_.begin(), recent, [&](const Line& other) {
            return other.out == line.out && other.made == line.made && other.instrument == line.instrument &&
                   other.channel == line.channel && other.key == line.key && other.address == line.address;
        });
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

JustNowModel::Line JustNowModel::lineFor(const io::OscHappening& happening) const {
    Line line;
    line.out = happening.out;
    line.made = happening.out;
    line.instrument = happening.instrument;
    line.address = QString::fromUtf8(happening.message.address.data());
    line.name = line.address;
    line.number = QString::fromStdString(text::plain(std::round(happening.message.number * 1000) / 1000));
    const Instrument* instrument = happening.out ? instrumentOf(happening.instrument) : nullptr;
    if (instrument == nullptr) return line;
    line.detail = QString::fromStdString(nameOf(*instrument));
    for (const Parameter& parameter : instrument->parameters) {
        const bool same = parameter.message.kind == MessageKind::osc &&
                          parameter.message.address == line.address.toStdString();
        if (!same) continue;
        line.name = QString::fromStdString(nameOf(parameter));
        const Range range = rangeOf(parameter);
        if (const auto q = rawPosition(range, happening.message.number))
            line.number = QString::fromStdString(displayText(range, *q));
        break;
    }
    return line;
}

JustNowModel::Line JustNowModel::lineFor(const io::Happening& happening) const {
    const midi::Bytes bytes = happening.message.bytes();
    Line line;
    line.out = happening.out;
    line.made = happening.made;
    line.instrument = happening.instrument;
    if (!midi::isChannelStatus(bytes[0])) {
        line.key = bytes[0];
        line.name = bytes[0] == midi::sysexStart ? tr("SysEx") : tr("System message");
        line.number = QString::number(bytes[0], 16).toUpper();
        return line;
    }
    line.channel = midi::channelOf(bytes);
    line.key = midi::kindOf(bytes) * 128;
    line.number = QString::number(valueOf(bytes));
    if (happening.out) {
        const Instrument* instrument = instrumentOf(happening.instrument);
        if (instrument != nullptr) line.detail = QString::fromStdString(nameOf(*instrument));
        if (happening.instrument == engine::none) line.detail = tr("feedback");
    }
    const auto source = sourceOf(bytes);
    if (!source) {
        const bool isKey = midi::kindOf(bytes) <= midi::keyPressure;
        line.key = (isKey ? 0 : midi::programChange * 128) + (isKey ? bytes[1] : 0);
        line.name = midi::isNoteOff(bytes)                       ? tr("%1 up").arg(keyName(bytes[1]))
                    : midi::kindOf(bytes) == midi::keyPressure   ? tr("Pressure on %1").arg(keyName(bytes[1]))
                    : midi::kindOf(bytes) == midi::programChange ? tr("Program change")
                                                                 : keyName(bytes[1]);
        // Down and up are two lines, so that a struck key shows both.
        if (midi::isNoteOff(bytes)) line.key += 1 << 16;
        return line;
    }
    if (midi::kindOf(bytes) == midi::controlChange) line.key += bytes[1];
    if (!happening.out) {
        line.name = QString::fromStdString(describe::sourceName(document_.ensemble(), *source));
        if (source->kind == SourceKind::bend)
            line.number = QString::number(midi::bendOf(bytes) - midi::bendCentre);
        return line;
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
        break;
    }
    return line;
}

QVariant JustNowModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= static_cast<int>(lines_.size())) return {};
    const Line& line = lines_[static_cast<std::size_t>(at.row())];
    switch (role) {
        case Qt::DisplayRole:
            return line.name;
        case out:
            return line.out;
        case number:
            return line.number;
        case detail:
            return line.out && !line.made ? tr("%1 · passed").arg(line.detail) : line.detail;
        case Qt::AccessibleTextRole:
            return (!line.out   ? tr("played %1 %2 %3")
                    : line.made ? tr("made %1 %2 %3")
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
