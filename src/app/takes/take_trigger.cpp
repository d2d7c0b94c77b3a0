#include "app/takes/take_trigger.h"

#include <QSettings>
#include <QStringList>
#include <utility>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

QString setting() {
    return QStringLiteral("takes/trigger");
}

}  // namespace

TakeTrigger::TakeTrigger(Live& live, QObject* parent)
    : QObject(parent), live_(live), what_(QSettings().value(setting()).toString()) {
    connect(&live_, &Live::cameIn, this, &TakeTrigger::hear);
}

void TakeTrigger::learn(bool learn) {
    learns_ = learn;
    if (!learn) {
        what_.clear();
        QSettings().remove(setting());
    }
    emit changed();
}

/// A key that is struck, or a control that comes above its middle.
void TakeTrigger::hear(const io::Happening& happening) {
    constexpr int middle = 64;
    if (happening.played || happening.message.size == 0) return;
    if (!learns_ && what_.isEmpty()) return;
    const midi::Bytes body = happening.message.bytes();
    const bool isKey = midi::isNoteOn(body);
    const bool isControl = midi::kindOf(body) == midi::controlChange;
    if (!isKey && !isControl) return;
    const QString what = QStringLiteral("%1 %2 %3")
                             .arg(body[0])
                             .arg(body[1])
                             .arg(toQt(live_.readings().portName(happening.port)));
    const bool down = isKey || body[2] >= middle;
    if (learns_ && down) {
        learns_ = false;
        what_ = what;
        isDown_ = isControl;
        QSettings().setValue(setting(), what_);
        emit changed();
        return;
    }
    if (what_.isEmpty() || what != what_) return;
    const bool was = std::exchange(isDown_, isControl && down);
    if (down && !was) emit pressed();
}

QString TakeTrigger::text() const {
    const QStringList words = what_.split(QLatin1Char(' '));
    if (words.size() < 3) return {};
    const bool isKey = (words[0].toInt() & 0xF0) == midi::noteOn;
    const QString port = what_.section(QLatin1Char(' '), 2);
    return (isKey ? tr("key %1 on %2") : tr("CC %1 on %2")).arg(words[1], port);
}

}  // namespace mellow::app
