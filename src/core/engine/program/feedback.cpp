// What is looked at is where the source of a control's chain stands, and what the chain's target was sent
// last. Whichever of the two changed last says where the control belongs: the source itself, or the way back
// from the target. While steps with memory still move, a target that changes is only on its way.
#include "core/engine/program/feedback.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "core/engine/program/state.h"
#include "core/midi/controls.h"

namespace mellow::engine {

namespace {

int tieLineValue(double q) {
    return static_cast<int>(std::lround(q * midi::max14));
}

/// What a branch's target was sent last; −1: unknown.
int presentValue(const Program& program, std::uint32_t place) {
    const PlanBranch& branch = program.plan.branches[place];
    const State& state = program.state;
    if (branch.tieLine != none) {
        const double q = state.tieLines[branch.tieLine];
        return std::isnan(q) ? -1 : tieLineValue(q);
    }
    switch (branch.kind) {
        case MessageKind::cc:
        case MessageKind::bend:
        case MessageKind::pressure: {
            const std::uint32_t slot = program.plan.outlets[place].slot % slotsPerLane;
            const Payload last = state.sent[state.parts[branch.part].lane * slotsPerLane + slot];
            return last == noPayload ? -1 : valueOf(*branch.body, last);
        }
        case MessageKind::cc14: {
            const auto slot = pairSlot + static_cast<std::uint32_t>(branch.body->number);
            const Payload last = state.sent[state.parts[branch.part].lane * slotsPerLane + slot];
            return last == noPayload ? -1 : last;
        }
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return state.registers[branch.place];
        default:
            return -1;
    }
}

/// Where a chain's source stands, as a raw value of its control; −1 before it has spoken.
int sourceOf(const Program& program, const FollowedChain& control) {
    const PlanChain& chain = program.plan.chains[control.chain];
    if (!chain.isEvaluated()) return program.state.chains[control.chain].raw;
    const EarState& ear = program.state.ears[chain.firstEar];
    return ear.spoken ? encode(control.scale, clampPosition(ear.position), control.max) : -1;
}

/// A branch leads to where its target is, whatever brought it there.
void showValue(const Program& program, std::uint32_t place, int value) {
    const PlanBranch& branch = program.plan.branches[place];
    const double q = branch.tieLine != none ? static_cast<double>(value) / midi::max14
                                            : decode(branch.body->scale, value, branch.body->max);
    program.state.branchLive[place].value.store(static_cast<float>(q), std::memory_order_relaxed);
}

bool isFed(const Program& program, const FollowedChain& control) {
    const PlanChain& chain = program.plan.chains[control.chain];
    const int fed = program.state.chainLive[control.chain].fed.load(std::memory_order_relaxed);
    return fed < 0 || chain.firstBranch + static_cast<std::uint32_t>(fed) == control.back.branch;
}

}  // namespace

/// The values that are sent, without the silence before and behind them, only rise or only fall.
int WayBack::nearest(int value, int from, int max) const {
    const auto isSent = [](int each) { return each >= 0; };
    const auto begin = std::find_if(values.begin(), values.end(), isSent);
    const auto end = std::find_if(values.rbegin(), values.rend(), isSent).base();
    if (begin >= end) return from;
    const bool falls = *begin > *(end - 1);
    const auto before = [falls](int one, int other) { return falls ? one > other : one < other; };
    const auto above = std::lower_bound(begin, end, value, before);
    const auto placeOf = [&](int sent) {
        const auto [first, last] = std::equal_range(begin, end, sent, before);
        const auto low = static_cast<int>(first - values.begin());
        const auto high = static_cast<int>(last - values.begin()) - 1;
        return std::min((from < 0 ? low : std::clamp(from / step, low, high)) * step, max);
    };
    if (above == begin) return placeOf(*begin);
    if (above == end) return placeOf(*(end - 1));
    const int up = std::abs(*above - value);
    const int down = std::abs(*(above - 1) - value);
    if (up != down) return placeOf(up < down ? *above : *(above - 1));
    const int one = placeOf(*(above - 1));
    const int other = placeOf(*above);
    return from < 0 || std::abs(one - from) <= std::abs(other - from) ? one : other;
}

bool WayBack::agrees(int from, int value) const {
    const auto place = static_cast<std::size_t>(from / step);
    return from < 0 || place >= values.size() || values[place] < 0 ||
           std::abs(values[place] - value) <= grain;
}

Feedback::Feedback(std::vector<FollowedControl> controls, std::vector<FollowedElement> elements)
    : controls_(std::move(controls)),
      standings_(controls_.size()),
      elements_(std::move(elements)),
      elementStandings_(elements_.size()),
      stands_(std::make_unique<std::atomic<int>[]>(controls_.size())),
      speaks_(std::make_unique<std::atomic<std::uint32_t>[]>(controls_.size())) {
    for (std::size_t i = 0; i < controls_.size(); ++i) {
        speaks_[i].store(0, std::memory_order_relaxed);
        stands_[i].store(-1, std::memory_order_relaxed);
        standings_[i].channel = std::max(controls_[i].channel, 0);
    }
}

void Feedback::carry(const Feedback& before) {
    std::size_t likely = 0;
    const std::size_t count = before.controls_.size();
    for (std::size_t i = 0; i < controls_.size(); ++i) {
        const FollowedControl& now = controls_[i];
        // Nearly always they stand in the order in which they stood.
        for (std::size_t tried = 0; tried < count; ++tried) {
            const std::size_t at = (likely + tried) % count;
            const FollowedControl& was = before.controls_[at];
            if (was.from != now.from || was.to != now.to || was.kind != now.kind || was.number != now.number)
                continue;
            standings_[i] = before.standings_[at];
            stands_[i].store(before.standsAt(at), std::memory_order_relaxed);
            const std::uint32_t spoke = before.speaks_[at].load(std::memory_order_relaxed);
            speaks_[i].store(spoke < now.chains.size() ? spoke : 0, std::memory_order_relaxed);
            likely = at + 1;
            break;
        }
    }
    stir();
}

void Feedback::connected(PortId port) {
    for (std::size_t i = 0; i < controls_.size(); ++i) {
        if (controls_[i].to == port) standings_[i].known = -1;
    }
    stir();
}

/// The raw value that a message gives a control; −1: it is not the control's, −2: it is, and does not say.
int Feedback::readingOf(const FollowedControl& control, Standing& standing, midi::Bytes bytes) const {
    const std::uint8_t kind = midi::kindOf(bytes);
    const bool isControl = kind == midi::controlChange;
    constexpr int unsaid = -2;
    switch (control.kind) {
        case MessageKind::cc:
            return isControl && bytes[1] == control.number ? bytes[2] : -1;
        case MessageKind::relative:
            return isControl && bytes[1] == control.number ? unsaid : -1;
        case MessageKind::cc14:
            if (!isControl || bytes[1] % midi::pairCount != control.number || !midi::isHalfOfAPair(bytes[1]))
                return -1;
            if (bytes[1] >= midi::pairCount) return standing.high | bytes[2];
            standing.high = bytes[2] << 7;
            return unsaid;
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return isControl && midi::isDataEntry(bytes[1]) ? unsaid : -1;
        case MessageKind::bend:
            return kind == midi::pitchBend ? midi::bendOf(bytes) : -1;
        case MessageKind::pressure:
            return kind == midi::channelPressure ? bytes[1] : -1;
        case MessageKind::note:
            if ((kind != midi::noteOn && kind != midi::noteOff) || bytes[1] != control.number) return -1;
            return midi::isNoteOn(bytes) ? control.max : 0;
        default:
            return -1;
    }
}

void Feedback::heard(PortId port, midi::Bytes bytes, Time time, By by) {
    if (bytes.empty() || !midi::isChannelStatus(bytes[0])) return;
    for (std::size_t i = 0; i < controls_.size(); ++i) {
        const FollowedControl& control = controls_[i];
        if (control.from != port) continue;
        Standing& standing = standings_[i];
        const int raw = readingOf(control, standing, bytes);
        if (raw == -1) continue;
        if (raw >= 0) standing.wish = raw;
        if (by == By::take) continue;
        standing.channel = control.channel >= 0 ? control.channel : midi::channelOf(bytes);
        if (control.light) continue;
        standing.known = std::max(raw, -1);
        stands_[i].store(standing.known, std::memory_order_relaxed);
        standing.hand = time;
    }
    stir();
}

int Feedback::goalOf(const FollowedChain& control, Standing& standing, const Program& program) {
    const int source = sourceOf(program, control);
    const bool moves = std::exchange(standing.moving, program.state.chains[control.chain].moving);
    const bool sourceMoved = std::exchange(standing.source, source) != source;
    if (control.back.branch == none) return source;
    const int value = presentValue(program, control.back.branch);
    const bool valueMoved = std::exchange(standing.value, value) != value;
    if (sourceMoved) standing.elsewhere = false;
    const bool onItsWay = sourceMoved || moves || standing.moving;
    standing.unsure = standing.unsure || (valueMoved && onItsWay);
    const bool others =
        (valueMoved && !onItsWay) ||
        (!standing.moving && std::exchange(standing.unsure, false) && !control.back.agrees(source, value));
    if (others && isFed(program, control)) standing.elsewhere = true;
    if (!standing.elsewhere || value < 0) return source;
    return control.back.nearest(value, source, control.max);
}

/// As the first of its chains that is awake says. What comes to speak for it, by a change of hand, says it by
/// its target at once.
int Feedback::goalOfControl(std::size_t place, const Program& program) {
    const auto& chains = controls_[place].chains;
    Standing& standing = standings_[place];
    if (chains.empty()) return standing.wish;
    const auto isAwake = [&program](const FollowedChain& each) {
        return !isAsleep(program.plan.chains[each.chain], program.state);
    };
    const auto awake = std::find_if(chains.begin(), chains.end(), isAwake);
    const auto speaks = static_cast<std::uint32_t>(awake == chains.end() ? 0 : awake - chains.begin());
    const bool another = speaks_[place].exchange(speaks, std::memory_order_relaxed) != speaks;
    const bool woke = std::exchange(standing.slept, awake == chains.end()) && awake != chains.end();
    if (another || (woke && chains.size() > 1)) standing.wake();
    return goalOf(chains[speaks], standing, program);
}

void Feedback::run(const Program& program, Time now, const Sink& sink) {
    if (!stirred_ || now < next_) return;
    next_ = now + interval;
    stirred_ = false;
    for (std::size_t i = 0; i < controls_.size(); ++i) {
        Standing& standing = standings_[i];
        const int goal = goalOfControl(i, program);
        if (standing.moving) stirred_ = true;
        if (goal < 0 || goal == standing.known) continue;
        if (now < standing.hand + handsLeave) {
            stirred_ = true;
            continue;
        }
        standing.known = goal;
        tell(i, goal, now, sink);
    }
    moveElements(program);
}

/// The first chain of an element that is awake says where it stands; one that comes into hand says it at
/// once, by its target. A hand's own moves are there already.
void Feedback::moveElements(const Program& program) {
    std::uint32_t settled = none;
    for (std::size_t i = 0; i < elements_.size(); ++i) {
        const FollowedElement& element = elements_[i];
        const PlanChain& chain = program.plan.chains[element.chain];
        Standing& standing = elementStandings_[i];
        if (isAsleep(chain, program.state) || settled == element.place) {
            standing.slept = true;
            continue;
        }
        settled = element.place;
        const bool woke = std::exchange(standing.slept, false);
        standing.unsure = standing.unsure || woke;
        const int goal = goalOf(element, standing, program);
        if (standing.moving) stirred_ = true;
        if (!(standing.elsewhere || woke) || goal < 0) continue;
        program.state.deskLive[element.place].store(
            static_cast<float>(decode(element.scale, goal, element.max)), std::memory_order_relaxed);
        if (standing.elsewhere) showValue(program, element.back.branch, standing.value);
    }
}

void Feedback::tell(std::size_t place, int raw, Time now, const Sink& sink) {
    const FollowedControl& control = controls_[place];
    stands_[place].store(raw, std::memory_order_relaxed);
    const int channel = standings_[place].channel;
    const auto send = [&](const midi::Short& message) {
        sink({now, control.to, none, noChain, -1, message.bytes()});
    };
    const auto sendControl = [&](int number, int value) {
        send(midi::make(midi::controlChange, channel, number, value));
    };
    switch (control.kind) {
        case MessageKind::cc14:
            sendControl(control.number, raw >> 7);
            sendControl(control.number + midi::pairCount, raw & midi::max7);
            break;
        case MessageKind::rpn:
        case MessageKind::nrpn: {
            const bool isRpn = control.kind == MessageKind::rpn;
            const int half = control.max == pitchRangeMax ? centsASemitone : midi::max7 + 1;
            sendControl(isRpn ? midi::rpnSelect : midi::nrpnSelect, control.number >> 7);
            sendControl(isRpn ? midi::rpnSelectLow : midi::nrpnSelectLow, control.number & midi::max7);
            sendControl(midi::dataEntry, raw / half);
            sendControl(midi::dataEntryLow, raw % half);
            break;
        }
        case MessageKind::bend:
            send(midi::makeBend(channel, raw));
            break;
        case MessageKind::pressure:
            send(midi::make(midi::channelPressure, channel, raw));
            break;
        case MessageKind::note:
            send(midi::make(midi::noteOn, channel, control.number, raw > midi::max7 / 2 ? midi::max7 : 0));
            break;
        default:
            sendControl(control.number, raw);
            break;
    }
}

}  // namespace mellow::engine
