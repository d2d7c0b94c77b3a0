// Keys are hit by looking at the black ones first, since they lie over the white. What is struck is a message
// and nothing more: which keys are shown as down comes back from the player, whoever pressed them.
#include "app/widgets/practice_keys.h"

#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPaintEvent>
#include <QPainter>
#include <QTouchEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

constexpr int lowestKey = 36;   // C2
constexpr int highestKey = 96;  // C7
constexpr int letterVelocity = 90;
constexpr int octave = 12;

bool isBlack(int key) {
    const int place = key % 12;
    return place == 1 || place == 3 || place == 6 || place == 8 || place == 10;
}

QString octaveName(int key) {
    return Keyboard::tr("C%1").arg(key / octave - 1);
}

/// Two rows of letters, each an octave and a bit, laid out as on a piano.
int letterOffset(int keyCode) {
    static const std::map<int, int> offsets{
        {Qt::Key_Z, 0},  {Qt::Key_S, 1},  {Qt::Key_X, 2},  {Qt::Key_D, 3},  {Qt::Key_C, 4},
        {Qt::Key_V, 5},  {Qt::Key_G, 6},  {Qt::Key_B, 7},  {Qt::Key_H, 8},  {Qt::Key_N, 9},
        {Qt::Key_J, 10}, {Qt::Key_M, 11}, {Qt::Key_Q, 12}, {Qt::Key_2, 13}, {Qt::Key_W, 14},
        {Qt::Key_3, 15}, {Qt::Key_E, 16}, {Qt::Key_R, 17}, {Qt::Key_5, 18}, {Qt::Key_T, 19},
        {Qt::Key_6, 20}, {Qt::Key_Y, 21}, {Qt::Key_7, 22}, {Qt::Key_U, 23}, {Qt::Key_I, 24}};
    const auto found = offsets.find(keyCode);
    return found == offsets.end() ? -1 : found->second;
}

}  // namespace

bool letterPlays(int keyCode) {
    return letterOffset(keyCode) >= 0;
}

Keyboard::Keyboard(QWidget* parent)
    : QWidget(parent), first_(lowestKey), lowest_(lowestKey), highest_(highestKey) {
    setAttribute(Qt::WA_AcceptTouchEvents);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Practice keyboard"));
    setToolTip(
        tr("Strike nearer the front edge to play louder. The letter keys play too; Page Up and Page Down "
           "move them."));
}

QSize Keyboard::sizeHint() const {
    return {scaled(680), 86 + scaled(20)};
}
QSize Keyboard::minimumSizeHint() const {
    return {scaled(360), scaled(84)};
}

int Keyboard::whitesBefore(int key) const {
    int count = 0;
    for (int k = lowest_; k < key; ++k) count += isBlack(k) ? 0 : 1;
    return count;
}

/// Switches that lie below the keys that are usually drawn are drawn too, from their octave's C on.
void Keyboard::show(const Meaning& meaning) {
    if (meaning == meaning_) return;
    meaning_ = meaning;
    findLowest();
    update();
}

void Keyboard::findLowest() {
    lowest_ = meaning_.switches.empty()
                  ? first_
                  : std::min(first_, meaning_.switches.begin()->first / octave * octave);
}

void Keyboard::setKeys(int lowest, int highest) {
    first_ = std::clamp(lowest, 0, midi::max7);
    highest_ = std::clamp(highest, first_, midi::max7);
    findLowest();
    update();
}

QRectF Keyboard::keyRect(int key) const {
    const double width = static_cast<double>(this->width()) / (whitesBefore(highest_) + 1);
    if (!isBlack(key)) return {whitesBefore(key) * width, 0, width - 1.5, static_cast<double>(height())};
    return {whitesBefore(key) * width - width * 0.32, 0, width * 0.62, height() * 0.6};
}

int Keyboard::keyAt(const QPointF& point) const {
    for (const bool black : {true, false}) {
        for (int key = lowest_; key <= highest_; ++key) {
            if (isBlack(key) == black && keyRect(key).adjusted(0, -1, 1.5, 1).contains(point)) return key;
        }
    }
    return -1;
}

void Keyboard::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(captionFont());
    for (const bool blacks : {false, true}) {
        for (int key = lowest_; key <= highest_; ++key) {
            if (isBlack(key) == blacks && event->rect().intersects(keyRect(key).toAlignedRect()))
                paintKey(painter, key);
        }
    }
    for (int key = (lowest_ + octave - 1) / octave * octave; key <= highest_; key += octave)
        nameOctave(painter, key);
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().sky, 2));
        painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 3, 3);
    }
}

void Keyboard::paintKey(QPainter& painter, int key) const {
    const Theme& t = theme();
    const QColor white = &t == &duskTheme() ? QColor(0xE6DECD) : QColor(0xFFFFFF);
    const QColor black = &t == &duskTheme() ? t.ground : QColor(0x3C4643);
    const bool isOnTop = isBlack(key);
    const auto means = meaning_.switches.find(key);
    const bool isSwitch = means != meaning_.switches.end();
    const bool sounds = key >= meaning_.low && key <= meaning_.high;
    const QColor usual = isOnTop ? black : white;
    const QColor fill = isDown(key) ? t.honey
                        : isSwitch  ? blend(usual, t.mint, 0.55)
                        : sounds    ? usual
                                    : blend(usual, t.line, isOnTop ? 0.45 : 0.4);
    const QRectF rect = keyRect(key);
    painter.setPen(isOnTop || &t == &linenTheme() ? QPen(t.line, 1) : Qt::NoPen);
    painter.setBrush(fill);
    painter.drawRoundedRect(rect.adjusted(0, -6, 0, -0.5), 3, 3);
    // What is wider than its key would run into its neighbours.
    if (!isSwitch || painter.fontMetrics().horizontalAdvance(means->second) > rect.width() + 6) return;
    const QColor dark(0x17201F);
    painter.setPen(contrast(fill, dark) > contrast(fill, white) ? dark : white);
    painter.drawText(rect.adjusted(-2, 0, 2, -scaled(isOnTop ? 6 : 4)), Qt::AlignHCenter | Qt::AlignBottom,
                     means->second);
}

QRectF Keyboard::octaveRect(int key) const {
    const QRectF own = keyRect(key).adjusted(0, 0, 0, -scaled(4));
    const double room = QFontMetricsF(captionFont()).horizontalAdvance(octaveName(key)) + 1;
    if (room <= own.width()) return own;
    return {std::min(own.left() + 1, width() - room), own.top(), room, own.height()};
}

/// The name of the octave that begins here, over the next key where this one is too narrow, unless that says
/// something itself.
void Keyboard::nameOctave(QPainter& painter, int key) const {
    const QRectF rect = octaveRect(key);
    const bool isFree = !meaning_.switches.contains(key) &&
                        (rect.right() <= keyRect(key).right() || !meaning_.switches.contains(key + 2));
    if (!isFree) return;
    painter.setPen(isDown(key) ? QColor(0x17201F) : QColor(0x55605B));
    painter.drawText(rect, Qt::AlignHCenter | Qt::AlignBottom, octaveName(key));
}

void Keyboard::showKey(int key, bool down) {
    if (down_[static_cast<std::size_t>(key)] == down) return;
    down_[static_cast<std::size_t>(key)] = down;
    const int shown = std::clamp(key, lowest_, highest_);
    const QRectF changes = shown % octave == 0 ? keyRect(shown) | octaveRect(shown) : keyRect(shown);
    update(changes.adjusted(-2, -2, 2, 2).toAlignedRect());
}

void Keyboard::strike(int key, int velocity) {
    showKey(key, true);
    emit played(midi::make(midi::noteOn, 0, key, velocity));
}

void Keyboard::release(int key) {
    showKey(key, false);
    emit played(midi::make(midi::noteOff, 0, key, 64));
}

// Fingers: the mouse is one of them. Each holds one key, and slides from key to key.

void Keyboard::fingerAt(int finger, const QPointF& at) {
    const int key = keyAt(at);
    const auto [held, isNew] = fingers_.try_emplace(finger, -1);
    if (!isNew && held->second == key) return;
    const int before = std::exchange(held->second, key);
    if (before >= 0) release(before);
    if (key < 0) return;
    const QRectF rect = keyRect(key);
    const double depth = std::clamp((at.y() - rect.top()) / rect.height(), 0.0, 1.0);
    strike(key, 20 + static_cast<int>(std::lround(depth * 107)));
}

void Keyboard::fingerUp(int finger) {
    const auto held = fingers_.find(finger);
    if (held == fingers_.end()) return;
    const int key = held->second;
    fingers_.erase(held);
    if (key >= 0) release(key);
}

bool Keyboard::touch(QTouchEvent& event) {
    for (const QEventPoint& point : event.points()) {
        const bool ends = event.type() == QEvent::TouchCancel || point.state() == QEventPoint::Released;
        if (ends) {
            fingerUp(point.id());
        } else if (point.state() != QEventPoint::Stationary) {
            fingerAt(point.id(), point.position());
        }
    }
    event.accept();
    return true;
}

bool Keyboard::event(QEvent* event) {
    switch (event->type()) {
        case QEvent::TouchBegin:
        case QEvent::TouchUpdate:
        case QEvent::TouchEnd:
        case QEvent::TouchCancel:
            return touch(*static_cast<QTouchEvent*>(event));
        default:
            return QWidget::event(event);
    }
}

void Keyboard::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus(Qt::MouseFocusReason);
    fingerAt(mouse, event->position());
}

void Keyboard::mouseMoveEvent(QMouseEvent* event) {
    fingerAt(mouse, event->position());
}

void Keyboard::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) fingerUp(mouse);
}

bool Keyboard::pressLetter(int keyCode) {
    const int offset = letterOffset(keyCode);
    if (offset < 0) return false;
    const int key = firstLetterKey_ + offset;
    if (key > 127 || letters_.contains(keyCode)) return true;
    letters_[keyCode] = key;
    strike(key, letterVelocity);
    return true;
}

bool Keyboard::releaseLetter(int keyCode) {
    const auto held = letters_.find(keyCode);
    if (held == letters_.end()) return letterOffset(keyCode) >= 0;
    release(held->second);
    letters_.erase(held);
    return true;
}

void Keyboard::moveOctave(int octaves) {
    firstLetterKey_ = std::clamp(firstLetterKey_ + 12 * octaves, 0, 96);
}

void Keyboard::letGo() {
    for (const auto& [finger, key] : std::exchange(fingers_, {})) {
        if (key >= 0) release(key);
    }
    for (const auto& [code, key] : std::exchange(letters_, {})) release(key);
}

void Keyboard::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

/// What cannot be seen is not held.
void Keyboard::hideEvent(QHideEvent* event) {
    letGo();
    QWidget::hideEvent(event);
}

PracticeControl::PracticeControl(const QString& name, Look look, Spring spring, int max, QWidget* parent)
    : QWidget(parent), name_(name), look_(look), spring_(spring), max_(max), value_(rest()) {
    setFocusPolicy(Qt::StrongFocus);
    // All of it is of the panel's own colour, so that nothing behind is painted for it.
    setAttribute(Qt::WA_OpaquePaintEvent);
    setAccessibleName(name);
    setObjectName(name);
    setToolTip(spring == Spring::none ? tr("%1: drag, or use the arrow keys.").arg(name)
                                      : tr("%1: drag; it springs back when let go.").arg(name));
}

int PracticeControl::rest() const {
    return spring_ == Spring::toMiddle ? (max_ + 1) / 2 : 0;
}

QSize PracticeControl::sizeHint() const {
    return look_ == Look::pedal ? QSize(scaled(58), 86 + scaled(20)) : QSize(scaled(52), 86 + scaled(20));
}

QRectF PracticeControl::track() const {
    const double label = scaled(20);
    if (look_ == Look::pedal) return QRectF(0, 0, width(), height() - label).adjusted(2, 2, -2, -2);
    return {width() / 2.0 - scaled(8), 2.0, scaled(16) * 1.0, height() - label - 4};
}

void PracticeControl::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF rail = track();
    painter.setPen(QPen(hasFocus() ? t.sky : t.line, hasFocus() ? 1.5 : 1));
    painter.setBrush(t.ground);
    painter.drawRoundedRect(rail, trackRadius(), trackRadius());
    painter.setFont(captionFont());
    painter.setPen(t.ink);
    painter.drawText(QRectF(-4, height() - scaled(18), width() + 8, scaled(18)), Qt::AlignCenter, name_);
}

double PracticeControl::trackRadius() const {
    return look_ == Look::pedal ? scaled(6) : track().width() / 2;
}

void PracticeControl::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    still_.draw(
        painter, *this, [this](QPainter& still) { paintStill(still); }, theme().panel);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF rail = track();
    const double share = static_cast<double>(value_) / max_;
    const double knob = look_ == Look::pedal ? 0 : scaled(9);
    const double y = rail.bottom() - knob / 2 - share * (rail.height() - knob);
    const double zero = spring_ == Spring::toMiddle ? rail.center().y() : rail.bottom();
    painter.setPen(Qt::NoPen);
    painter.setBrush(blend(t.ground, t.honey, 0.45));
    const double radius = std::max(0.0, trackRadius() - 1);
    if (std::abs(zero - y) > 1)
        painter.drawRoundedRect(
            QRectF(rail.left() + 1, std::min(y, zero), rail.width() - 2, std::abs(zero - y)), radius, radius);
    if (look_ == Look::slider) {
        painter.setBrush(t.honey);
        painter.drawRoundedRect(QRectF(rail.center().x() - scaled(13), y - knob / 2, scaled(26), knob),
                                knob / 2, knob / 2);
    } else {
        painter.setFont(numberFont());
        painter.setPen(value_ > 0 ? t.ink : t.dim);
        painter.drawText(rail, Qt::AlignCenter, QString::number(value_));
    }
}

void PracticeControl::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    still_.forget();
    update();
}

void PracticeControl::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    still_.forget();
    update();
}

void PracticeControl::showValue(int value) {
    if (value == value_) return;
    value_ = std::clamp(value, 0, max_);
    // The name below stays as it is.
    update(0, 0, width(), height() - scaled(18));
}

void PracticeControl::play(int value) {
    const int clamped = std::clamp(value, 0, max_);
    if (clamped == value_) return;
    showValue(clamped);
    emit played(clamped);
}

void PracticeControl::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus(Qt::MouseFocusReason);
    mouseMoveEvent(event);
}

void PracticeControl::mouseMoveEvent(QMouseEvent* event) {
    const QRectF rail = track();
    const double share = (rail.bottom() - event->position().y()) / rail.height();
    play(static_cast<int>(std::lround(share * max_)));
}

void PracticeControl::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton && spring_ != Spring::none) play(rest());
}

void PracticeControl::keyPressEvent(QKeyEvent* event) {
    const bool fine = (event->modifiers() & Qt::ShiftModifier) != 0;
    const int step = std::max(1, fine ? max_ / 127 : max_ / 16);
    switch (event->key()) {
        case Qt::Key_Up:
            play(value_ + step);
            break;
        case Qt::Key_Down:
            play(value_ - step);
            break;
        case Qt::Key_Home:
            play(rest());
            break;
        case Qt::Key_End:
            play(max_);
            break;
        default:
            QWidget::keyPressEvent(event);
    }
}

void PracticeControl::wheelEvent(QWheelEvent* event) {
    play(value_ + static_cast<int>(std::lround(event->angleDelta().y() / 120.0 * max_ / 32)));
    event->accept();
}

PracticeKeys::PracticeKeys(QWidget* parent) : QWidget(parent), keyboard_(new Keyboard(this)) {
    using Look = PracticeControl::Look;
    using Spring = PracticeControl::Spring;
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(12), scaled(8), scaled(12), scaled(6));
    row->setSpacing(scaled(6));
    row->addWidget(add(tr("Bend"), Look::slider, Spring::toMiddle, midi::pitchBend, 0));
    row->addWidget(add(tr("Wheel"), Look::slider, Spring::none, midi::controlChange, 1));
    row->addWidget(add(tr("Pressure"), Look::slider, Spring::toLow, midi::channelPressure, 0));
    row->addWidget(add(tr("Breath"), Look::slider, Spring::toLow, midi::controlChange, 2));
    row->addSpacing(scaled(8));
    row->addWidget(keyboard_, 1);
    row->addSpacing(scaled(8));
    row->addWidget(add(tr("Left"), Look::pedal, Spring::toLow, midi::controlChange, 67));
    row->addWidget(add(tr("Middle"), Look::pedal, Spring::toLow, midi::controlChange, 66));
    row->addWidget(add(tr("Sustain"), Look::pedal, Spring::toLow, midi::controlChange, midi::sustain));
    row->addWidget(add(tr("Swell"), Look::pedal, Spring::none, midi::controlChange, 11));
    connect(keyboard_, &Keyboard::played, this, &PracticeKeys::played);
}

PracticeControl* PracticeKeys::add(const QString& name, PracticeControl::Look look,
                                   PracticeControl::Spring spring, int status, int number) {
    const int max = status == midi::pitchBend ? midi::max14 : midi::max7;
    auto* control = new PracticeControl(name, look, spring, max, this);
    controls_.push_back({control, status, number});
    connect(control, &PracticeControl::played, this, [this, status, number](int value) {
        if (status == midi::pitchBend) {
            emit played(midi::makeBend(0, value));
        } else if (status == midi::channelPressure) {
            emit played(midi::make(status, 0, value));
        } else {
            emit played(midi::make(status, 0, number, value));
        }
    });
    return control;
}

PracticeControl* PracticeKeys::control(const QString& name) const {
    return findChild<PracticeControl*>(name);
}

void PracticeKeys::showMessage(midi::Bytes message) {
    const int kind = midi::kindOf(message);
    if (kind == midi::noteOn || kind == midi::noteOff)
        return keyboard_->showKey(message[1], midi::isNoteOn(message));
    for (const Entry& entry : controls_) {
        if (entry.status != kind) continue;
        if (kind == midi::controlChange && entry.number != message[1]) continue;
        entry.control->showValue(kind == midi::pitchBend         ? midi::bendOf(message)
                                 : kind == midi::channelPressure ? message[1]
                                                                 : message[2]);
    }
}

void PracticeKeys::letGo() {
    keyboard_->letGo();
}

}  // namespace mellow::app
