#include "app/pages/sheet/asking.h"

#include <QApplication>
#include <QKeyEvent>
#include <cmath>

#include "app/ground/words.h"
#include "core/describe/sentence.h"
#include "core/midi/message_key.h"
#include "core/model/law.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr quint64 heldMs = 400;  ///< a key that is down longer is held, and not struck
constexpr const char* leads = " → ";

/// The same control: of notes any key.
bool isSame(const sheet::Cause& one, const sheet::Cause& other) {
    if (one.port != other.port || one.address != other.address ||
        one.message.empty() != other.message.empty())
        return false;
    if (one.message.empty()) return true;
    const auto key = [](const sheet::Cause& cause) { return midi::keyOf(midi::Bytes(cause.message)); };
    return midi::channelOf(midi::Bytes(one.message)) == midi::channelOf(midi::Bytes(other.message)) &&
           key(one) == key(other);
}

}  // namespace

Asking::Asking(Workspace& workspace, QObject* parent) : QObject(parent), workspace_(workspace) {
    qApp->installEventFilter(this);
    connect(&workspace.live, &Live::cameIn, this, &Asking::hear);
    connect(&workspace.live, &Live::happenedByOsc, this, &Asking::hearOsc);
    connect(&workspace.touched, &Touched::changed, this, [this] {
        const auto touched = workspace_.touched.last();
        if (!on_ || !touched) return;
        asked_ = touched->instrument + "/" + touched->parameter;
        answer();
    });
    connect(&workspace.document, &Document::changed, this, [this] {
        if (on_ && hasAsked()) answer();
    });
}

void Asking::setOn(bool on) {
    if (on == on_) return;
    on_ = on;
    // Who clicked may type the letter afterwards.
    keyHoldsIt_ = on ? keyIsDown_ : std::nullopt;
    asked_ = {};
    about_.clear();
    take({}, {});
    emit changed();
}

bool Asking::eventFilter(QObject* watched, QEvent* event) {
    const QEvent::Type type = event->type();
    if (type == QEvent::ShortcutOverride || type == QEvent::KeyRelease) {
        const auto& key = static_cast<const QKeyEvent&>(*event);
        if (key.key() == Qt::Key_I && !key.isAutoRepeat()) followKey(type, key.timestamp());
    }
    return QObject::eventFilter(watched, event);
}

/// A key that is held asks as long as it is down. How long it was is asked of who saw it go down and up: here
/// it may be known late.
void Asking::followKey(QEvent::Type type, quint64 when) {
    if (type == QEvent::ShortcutOverride) {
        keyIsDown_ = when;
        keyHoldsIt_.reset();
        return;
    }
    const bool wasHeld = keyHoldsIt_ && when - *keyHoldsIt_ > heldMs;
    keyIsDown_.reset();
    keyHoldsIt_.reset();
    if (wasHeld) setOn(false);
}

void Asking::askRow(const AssignmentId& row) {
    if (!on_ || row == AssignmentId{}) return;
    asked_ = row;
    answer();
}

void Asking::hear(const io::Happening& happening) {
    if (!on_ || happening.played) return;
    const midi::Bytes bytes = happening.message.bytes();
    if (bytes.empty() || !midi::isChannelStatus(bytes[0]) || midi::isNoteOff(bytes)) return;
    sheet::Cause cause{workspace_.live.readings().portName(happening.port), {bytes.begin(), bytes.end()}, {}};
    const auto* before = std::get_if<sheet::Cause>(&asked_);
    // A control that goes on moving is asked of once.
    if (before != nullptr && isSame(*before, cause)) return;
    asked_ = std::move(cause);
    answer();
}

void Asking::hearOsc(const io::OscHappening& happening) {
    if (!on_ || happening.out) return;
    sheet::Cause cause{
        workspace_.live.readings().portName(happening.message.port), {}, happening.message.address.data()};
    const auto* before = std::get_if<sheet::Cause>(&asked_);
    if (before != nullptr && isSame(*before, cause)) return;
    asked_ = std::move(cause);
    answer();
}

void Asking::take(std::vector<sheet::Reached> down, std::vector<sheet::Reached> up) {
    down_ = std::move(down);
    up_ = std::move(up);
    auto rows = std::make_shared<std::set<AssignmentId>>();
    for (const sheet::Reached& each : down_) rows->insert(each.row);
    for (const sheet::Reached& each : up_) rows->insert(each.row);
    rows_ = std::move(rows);
}

void Asking::answer() {
    const Ensemble& ensemble = workspace_.document.ensemble();
    if (const auto* cause = std::get_if<sheet::Cause>(&asked_)) {
        take(sheet::leadsTo(ensemble, *cause), {});
        about_.clear();
        if (!down_.empty()) {
            const auto first = assignmentAt(ensemble, down_.front().row);
            if (first)
                forEachSource(*first->chain, [&](const Source& source) {
                    if (about_.isEmpty() &&
                        sheet::isMovedBy(ensemble, first->owner, resolved(ensemble, source), *cause))
                        about_ = nameToShow(describe::sourceName(ensemble, source));
                });
        }
        if (about_.isEmpty()) {
            about_ = cause->message.empty() ? toQt(cause->address)
                                            : tr("What just came from %1").arg(nameToShow(cause->port));
        }
    } else if (const auto* id = std::get_if<AssignmentId>(&asked_)) {
        const auto row = assignmentAt(ensemble, *id);
        about_ = row ? nameToShow(sheet::rowName(ensemble, *row)) : QString();
        const std::string target = row ? sheet::wholeTarget(*row) : std::string();
        // What moves this row, and not what else moves its target.
        std::vector<sheet::Reached> up;
        if (row && row->chain != nullptr) {
            forEachSource(*row->chain, [&](const Source& source) {
                const Source what = resolved(ensemble, source);
                if (what.kind != SourceKind::tieLine) return;
                for (sheet::Reached& each :
                     sheet::comesFrom(ensemble, std::string(tieLineTarget) + what.tieLine))
                    up.push_back(std::move(each));
            });
        }
        take(sheet::leadsTo(ensemble, *id), std::move(up));
    } else if (const auto* target = std::get_if<std::string>(&asked_)) {
        take({}, sheet::comesFrom(ensemble, *target));
        const Target found = targetOf(ensemble, nullptr, *target);
        about_ = found.exists() ? nameToShow(nameOf(found, true)) : toQt(*target);
    }
    emit changed();
}

QString Asking::about() const {
    if (!on_) return {};
    if (!hasAsked()) return tr("Move a control, touch what an instrument has, or click a row.");
    if (rows_->empty()) return tr("%1 leads nowhere.").arg(about_);
    return tr("%1: %n row(s)", nullptr, static_cast<int>(rows_->size())).arg(about_);
}

/// The rows on the way to a row, or from it on.
std::vector<AssignmentId> Asking::joints(const AssignmentId& row) const {
    std::vector<AssignmentId> way;
    const auto placeOf = [&row](const std::vector<sheet::Reached>& all) {
        return static_cast<int>(std::find_if(all.begin(), all.end(),
                                             [&row](const sheet::Reached& each) { return each.row == row; }) -
                                all.begin());
    };
    if (int at = placeOf(down_); at < static_cast<int>(down_.size())) {
        for (; at >= 0; at = down_[static_cast<std::size_t>(at)].from)
            way.insert(way.begin(), down_[static_cast<std::size_t>(at)].row);
        return way;
    }
    for (int at = placeOf(up_); at >= 0 && at < static_cast<int>(up_.size());
         at = up_[static_cast<std::size_t>(at)].from)
        way.push_back(up_[static_cast<std::size_t>(at)].row);
    return way;
}

QString Asking::sourceWords(const Assignment& row) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    const ChainReading reading =
        workspace_.live.reading(row.owner == nullptr ? sharedOwner : row.owner->id, row.chain->id);
    const QString name = nameToShow(describe::sourceName(ensemble, row.chain->source));
    if (!reading.spoken) return name;
    return reading.raw >= 0 ? name + ' ' + QString::number(reading.raw)
                            : tr("%1 %2 %").arg(name).arg(std::lround(reading.position * 100));
}

QString Asking::wayOf(const AssignmentId& row) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    QStringList words;
    for (const AssignmentId& id : joints(row)) {
        const auto at = assignmentAt(ensemble, id);
        if (!at || at->leads() == nullptr) continue;
        if (words.isEmpty()) words << sourceWords(*at);
        const ChainReading reading =
            workspace_.live.reading(at->owner == nullptr ? sharedOwner : at->owner->id, at->chain->id);
        const QString chain = nameToShow(nameOf(*at->chain));
        words << (reading.spoken ? tr("%1 %2 %").arg(chain).arg(std::lround(reading.result * 100)) : chain);
        const auto branch = static_cast<std::size_t>(at->branch);
        const double q = branch < reading.values.size() ? reading.values[branch] : -1;
        const QString target = nameToShow(nameOf(at->target, true));
        words << (q < 0 || at->target.hand != nullptr
                      ? target
                      : target + ' ' + toQt(displayText(rangeOf(at->target), q)));
    }
    return words.join(QString::fromUtf8(leads));
}

}  // namespace mellow::app
