#include "app/live/touched.h"

#include <algorithm>
#include <utility>

#include "app/document/leading.h"
#include "core/assignments/users.h"
#include "core/midi/message_key.h"
#include "core/model/edit.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

/// Whether one message, alone, moves a parameter.
bool moves(const Message& parameter, midi::Bytes message) {
    const int kind = midi::kindOf(message);
    switch (parameter.kind) {
        case MessageKind::cc:
            return kind == midi::controlChange && message[1] == parameter.number;
        case MessageKind::cc14:
            return kind == midi::controlChange &&
                   (message[1] == parameter.number || message[1] == parameter.number + 32);
        case MessageKind::bend:
            return kind == midi::pitchBend;
        case MessageKind::pressure:
            return kind == midi::channelPressure;
        case MessageKind::program:
            return kind == midi::programChange;
        default:
            return false;
    }
}

bool isOfHands(const Ensemble& ensemble, const std::string& port) {
    if (port == io::practiceKeysPort) return true;
    return std::any_of(ensemble.controllers.begin(), ensemble.controllers.end(),
                       [&port](const Controller& controller) { return controller.port == port; });
}

}  // namespace

std::optional<TouchedParameter> parameterMovedBy(const Ensemble& ensemble, const std::string& port,
                                                 midi::Bytes message) {
    if (message.empty() || !midi::isChannelStatus(message[0])) return std::nullopt;
    std::optional<TouchedParameter> found;
    Source heard;
    for (const Instrument& instrument : ensemble.instruments) {
        if (instrument.output.channel - 1 != midi::channelOf(message)) continue;
        for (const Parameter& parameter : instrument.parameters) {
            if (!moves(parameter.message, message)) continue;
            const TouchedParameter touched{instrument.id, parameter.id};
            if (instrument.output.port == port) return touched;
            if (found) continue;
            found = touched;
            heard = sourceOf(parameter.message);
        }
    }
    // A hand may send what a panel sends, and is told by what follows it.
    return found && usersOf(ensemble, heard).empty() ? found : std::nullopt;
}

Touched::Touched(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {
    connect(&live_, &Live::cameIn, this, &Touched::hear);
    connect(&document_, &Document::changed, this, [this] { heard_ = {}; });
    connect(&document_, &Document::replaced, this, [this] {
        last_.reset();
        setFollower(std::nullopt);
    });
}

std::optional<TouchedParameter> Touched::last() const {
    if (!last_) return std::nullopt;
    const Instrument* instrument = findById(document_.ensemble().instruments, last_->instrument);
    const bool there = instrument != nullptr && findById(instrument->parameters, last_->parameter) != nullptr;
    return there ? last_ : std::nullopt;
}

void Touched::hear(const io::Happening& happening) {
    if (happening.played) return;
    const midi::Bytes bytes = happening.message.bytes();
    const std::array heard{static_cast<int>(happening.port), static_cast<int>(bytes[0]),
                           bytes.size() > 1 ? static_cast<int>(bytes[1]) : -1};
    if (std::exchange(heard_, heard) == heard) return;
    const std::string& port = live_.readings().portName(happening.port);
    if (isOfHands(document_.ensemble(), port)) return;
    if (const auto moved = parameterMovedBy(document_.ensemble(), port, bytes)) touch(*moved);
}

void Touched::touch(const TouchedParameter& parameter) {
    if (last_ == parameter) return;
    last_ = parameter;
    lead();
    emit changed();
}

void Touched::setFollower(std::optional<Selected> chain) {
    if (chain == follower_) return;
    follower_ = std::move(chain);
    gesture_ = Document::newGesture();
    lead();
    emit changed();
}

/// The follower's first branch leads to what was touched last; all of one following is one undo step.
void Touched::lead() {
    const auto touched = last();
    if (!follower_ || !touched) return;
    const bool shared = isShared(*follower_);
    if (!shared && follower_->instrument != touched->instrument) return;
    const std::string target = shared ? touched->instrument + "/" + touched->parameter : touched->parameter;
    document_.edit(
        tr("Follow what was touched"),
        [&](Ensemble& e) {
            const Chain* chain = chainOf(e, *follower_);
            if (chain == nullptr) return;
            Selected at{follower_->instrument, follower_->chain, Part::branch, 0, 0};
            if (!chain->branches.empty() && chain->branches.front().target == target) return;
            leadTo(e, at, chain->branches.empty() ? TargetFor::anotherBranch : TargetFor::selectedBranch,
                   target);
        },
        gesture_);
}

}  // namespace mellow::app
