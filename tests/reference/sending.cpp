// From what branches produce, and from what passes, to bytes (section 6): mixes, repeats, pairs, registers,
// programs, notes and who holds them.
#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"
#include "reference/messages.h"

namespace mellow::reference {

// Sending.

void Interpreter::sendAll() {
    for (std::size_t i = 0; i < sendings_.size(); ++i) {
        const Sending& each = sendings_[i];
        if (each.answers) {
            answerOff();
            continue;
        }
        if (each.passer != nullptr) {
            passOn(*each.passer, each.inHand);
            continue;
        }
        if (each.leaver != nullptr) {
            leaveHand(*each.leaver, channelsUsedBy(*each.leaver));
            continue;
        }
        if (each.comer != nullptr) {
            passPedals(*each.comer);
            continue;
        }
        if (each.parameter->mix == Mix::latest) {
            sendTo(*each.instrument, *each.parameter, toLabel(*each.parameter, each.q), each.reach);
            continue;
        }
        const bool last =
            std::none_of(sendings_.begin() + static_cast<std::ptrdiff_t>(i) + 1, sendings_.end(),
                         [&](const Sending& later) { return later.parameter == each.parameter; });
        if (last) sendTo(*each.instrument, *each.parameter, mixed(*each.instrument, *each.parameter), {});
    }
}

/// The rule's value of what the branches that meet on a parameter last produced, in document order.
double Interpreter::mixed(const Instrument& instrument, const Parameter& parameter) {
    std::vector<double> values;
    const auto collect = [&](const Instrument* owner, const std::vector<Chain>& chains) {
        for (const Chain& chain : chains) {
            if (!running_.has(chain)) continue;
            const ChainMemory& memory = memoryOf(owner, chain);
            for (std::size_t b = 0; b < chain.branches.size(); ++b) {
                const End end = endOf(ensemble_, owner, chain.branches[b].target);
                if (end.parameter == &parameter && chain.branches[b].on && memory.produced[b])
                    values.push_back(*memory.produced[b]);
            }
        }
    };
    collect(nullptr, ensemble_.sharedChains);
    collect(&instrument, instrument.chains);
    double q = values.front();
    for (std::size_t i = 1; i < values.size(); ++i) {
        if (parameter.mix == Mix::highest) q = std::max(q, values[i]);
        if (parameter.mix == Mix::lowest) q = std::min(q, values[i]);
        if (parameter.mix == Mix::product) q *= values[i];
        if (parameter.mix == Mix::sum || parameter.mix == Mix::average) q += values[i];
    }
    if (parameter.mix == Mix::average) q /= static_cast<double>(values.size());
    return toLabel(parameter, clamped(q));
}

void Interpreter::sendTo(const Instrument& instrument, const Parameter& parameter, double q,
                         std::optional<Reach> reach) {
    const Message& message = parameter.message;
    const Lane lane{instrument.output.port, channelOf(instrument)};
    LaneMemory& memory = lanes_[lane];
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + lane.second - 1); };
    const auto low = [](int value) { return static_cast<std::uint8_t>(value % 128); };
    const auto high = [](int value) { return static_cast<std::uint8_t>(value / 128); };
    const auto isRepeat = [&](const std::string& name, int value) {
        const auto last = memory.last.find(name);
        return last != memory.last.end() && last->second == value;
    };
    int value = encode(rawsOf(parameter), q);
    if (reach && parameter.display.law != Law::choices) {
        const double a = unrounded(parameter, reach->first);
        const double b = unrounded(parameter, reach->second);
        const double least = std::ceil(std::min(a, b) - 1e-6);
        const double most = std::floor(std::max(a, b) + 1e-6);
        if (least <= most) value = static_cast<int>(std::min(std::max<double>(value, least), most));
    }
    switch (message.kind) {
        case MessageKind::cc:
            if (!isRepeat("cc" + std::to_string(message.number), value) || parameter.repeats)
                control(instrument, lane, message.number, value);
            break;
        case MessageKind::bend:
            if (isRepeat("bend", value) && !parameter.repeats) break;
            memory.last["bend"] = value;
            deliver(instrument.id, lane.first, {status(0xE0), low(value), high(value)});
            break;
        case MessageKind::pressure:
            if (isRepeat("pressure", value) && !parameter.repeats) break;
            memory.last["pressure"] = value;
            deliver(instrument.id, lane.first, {status(0xD0), low(value)});
            break;
        case MessageKind::cc14: {
            const auto last = memory.pairs.find(message.number);
            const bool known = last != memory.pairs.end();
            const int before = known ? last->second : 0;
            if (known && before == value && !parameter.repeats) break;
            if (!known || before / 128 != value / 128) control(instrument, lane, message.number, value / 128);
            control(instrument, lane, message.number + 32, value % 128);
            memory.pairs[message.number] = value;
            break;
        }
        case MessageKind::rpn:
        case MessageKind::nrpn:
            sendRegister(instrument, parameter, value);
            break;
        case MessageKind::keyPressure:
            sendKeyPressure(instrument, parameter, value);
            break;
        case MessageKind::velocity:
            velocities_[instrument.id] = std::max(1, value);
            break;
        case MessageKind::note:
            sendNote(instrument, parameter, q >= 0.5);
            break;
        case MessageKind::program: {
            int program = value;
            if (parameter.display.law == Law::choices) {
                const auto last = static_cast<double>(parameter.display.choices.size() - 1);
                program = static_cast<int>(std::lround(q * last)) % 128;
            }
            const bool inBank = !message.bank ||
                                (isRepeat("cc0", (*message.bank)[0]) && isRepeat("cc32", (*message.bank)[1]));
            if (isRepeat("program", program) && inBank && !parameter.repeats) break;
            if (message.bank) {
                control(instrument, lane, 0, (*message.bank)[0]);
                control(instrument, lane, 32, (*message.bank)[1]);
            }
            memory.last["program"] = program;
            deliver(instrument.id, lane.first, {status(0xC0), low(program)});
            break;
        }
        case MessageKind::osc: {
            const auto number = static_cast<float>(displayValue(parameter, q));
            const auto last = lastOsc_.find({lane.first, message.address});
            if (last != lastOsc_.end() && last->second == number && !parameter.repeats) break;
            lastOsc_[{lane.first, message.address}] = number;
            out_.push_back({now_, instrument.id, lane.first, {}, message.address, number});
            break;
        }
        case MessageKind::articulation:
            choose(instrument,
                   parameter.display.choices.size() == 1
                       ? 0
                       : static_cast<std::size_t>(std::floor(
                             q * static_cast<double>(parameter.display.choices.size() - 1) + 0.5)));
            break;
        case MessageKind::relative:
            break;
    }
}

/// Every control that leaves, passed ones included.
void Interpreter::control(const Instrument& instrument, const Lane& lane, int number, int value) {
    LaneMemory& memory = lanes_[lane];
    const std::string name = "cc" + std::to_string(number);
    const bool isBank = number == 0 || number == 32;
    if (isBank && (!memory.last.contains(name) || memory.last[name] != value)) memory.last.erase("program");
    memory.last[name] = value;
    if (number < 64) memory.pairs.erase(number % 32);
    if (isSelect(number)) {
        const bool rpn = number >= 100;
        if (!memory.wire.any || memory.wire.rpn != rpn) memory.wire = {rpn, -1, -1, true};
        (number % 2 == 1 ? memory.wire.high : memory.wire.low) = value;
    }
    if (isData(number) && memory.wire.high >= 0 && memory.wire.low >= 0)
        memory.registers.erase({memory.wire.rpn, memory.wire.high * 128 + memory.wire.low});
    if (number == 121) forget(lane);
    deliver(instrument.id, lane.first,
            {static_cast<std::uint8_t>(0xB0 + lane.second - 1), static_cast<std::uint8_t>(number),
             static_cast<std::uint8_t>(value)});
}

void Interpreter::sendRegister(const Instrument& instrument, const Parameter& parameter, int value) {
    const Lane lane{instrument.output.port, channelOf(instrument)};
    LaneMemory& memory = lanes_[lane];
    const bool rpn = parameter.message.kind == MessageKind::rpn;
    const int number = parameter.message.number;
    const auto last = memory.registers.find({rpn, number});
    if (last != memory.registers.end() && last->second == value && !parameter.repeats) return;
    if (memory.wire != Selected{rpn, number / 128, number % 128, true}) {
        control(instrument, lane, rpn ? 101 : 99, number / 128);
        control(instrument, lane, rpn ? 100 : 98, number % 128);
    }
    const int half = rpn && number == 0 ? 100 : 128;
    control(instrument, lane, 6, value / half);
    control(instrument, lane, 38, value % half);
    memory.registers[{rpn, number}] = value;
}

void Interpreter::sendKeyPressure(const Instrument& instrument, const Parameter& parameter, int value) {
    std::vector<Place> done;
    for (const auto& [input, place] : begun_) {
        const auto same = [&begun = place](const Place& other) { return other.soundsLike(begun); };
        if (place.instrument != instrument.id || !(heldBy(input)->down || input == comingUp_)) continue;
        if (std::any_of(done.begin(), done.end(), same)) continue;
        done.push_back(place);
        auto& last = lanes_[{place.port, place.channel}].last;
        const std::string name = "key" + std::to_string(place.key);
        if (last.contains(name) && last[name] == value && !parameter.repeats) continue;
        last[name] = value;
        deliver(instrument.id, place.port,
                {static_cast<std::uint8_t>(0xA0 + place.channel - 1), static_cast<std::uint8_t>(place.key),
                 static_cast<std::uint8_t>(value)});
    }
}

void Interpreter::sendNote(const Instrument& instrument, const Parameter& parameter, bool on) {
    const std::string name = instrument.id + "/" + parameter.id;
    if (on == notesOn_.contains(name)) return;
    const InputKey cause{parameterPort + name, 0, 0};
    if (!on) {
        notesOn_.erase(name);
        endParameterNotes([&](const InputKey& input, const Place&) { return input == cause; });
        return;
    }
    notesOn_.insert(name);
    const int key = parameter.message.number;
    const Place place{instrument.id, instrument.output.port, channelOf(instrument), key};
    held_.push_back({cause, {place}, true, 1});
    begun_.emplace_back(cause, place);
    deliver(instrument.id, instrument.output.port,
            {static_cast<std::uint8_t>(0x90 + channelOf(instrument) - 1), static_cast<std::uint8_t>(key),
             static_cast<std::uint8_t>(parameter.message.velocity)});
}

// Passing on.

/// An instrument's turn to pass on the message at hand. wasInHand: when its turn came.
void Interpreter::passOn(const Instrument& instrument, bool wasInHand) {
    const auto own = matched_.find(instrument.id);
    // Shared chains that follow fingers take nothing from those who know fingers themselves.
    const bool byFingers = fingersMatched_ && !instrument.output.keepChannels;
    const bool taken = sharedMatched_ || byFingers || own != matched_.end();
    const bool keeps = sharedKeeps_ || (byFingers && fingersKeep_) || (own != matched_.end() && own->second);
    if (isOn(bytes_) && wasInHand) tellFinger(instrument);
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    if (isOff(bytes_)) {
        if (Held* held = heldBy(input)) {
            held->down = false;
            for (const Place& place : held->places) {
                if (place.instrument == instrument.id) offTo(place, bytes_);
            }
        }
        if (wasInHand) tellFinger(instrument);
    } else if (isOn(bytes_)) {
        if (instrument.pass.notes && (!taken || keeps)) beginNote(instrument);
    } else if (kind(bytes_) == 0xA0) {
        if (instrument.pass.notes && (taken ? keeps : instrument.pass.unmatched)) followNote(instrument);
    } else {
        const bool channelMode = isControl(bytes_) && bytes_[1] >= 120;
        const bool passes = channelMode || (taken ? keeps : instrument.pass.unmatched);
        if (passes && zoneLetsPass(instrument, port_, bytes_)) pass(instrument, port_, bytes_);
    }
}

void Interpreter::pass(const Instrument& instrument, const std::string& port, const Bytes& bytes) {
    const Lane lane{instrument.output.port, passingChannel(instrument, port, channel(bytes))};
    LaneMemory& memory = lanes_[lane];
    if (isControl(bytes)) {
        if (isSelect(bytes[1])) {
            const bool rpn = bytes[1] >= 100;
            if (!memory.player.any || memory.player.rpn != rpn) memory.player = {rpn, -1, -1, true};
            (bytes[1] % 2 == 1 ? memory.player.high : memory.player.low) = bytes[2];
        }
        if (isData(bytes[1]) && memory.player.any && memory.player != memory.wire) {
            const Selected player = memory.player;
            if (player.high >= 0) control(instrument, lane, player.rpn ? 101 : 99, player.high);
            if (player.low >= 0) control(instrument, lane, player.rpn ? 100 : 98, player.low);
            memory.wire = player;
        }
        control(instrument, lane, bytes[1], bytes[2]);
        if (bytes[1] != 120 && bytes[1] < 123) return;
        const auto isHere = [&](const Place& place) { return Lane{place.port, place.channel} == lane; };
        for (Held& held : held_) std::erase_if(held.places, isHere);
        std::erase_if(begun_, [&](const auto& each) { return isHere(each.second); });
        std::erase_if(held_, [](const Held& held) { return held.places.empty(); });
        return;
    }
    if (kind(bytes) == 0xE0) memory.last["bend"] = bytes[1] + 128 * bytes[2];
    if (kind(bytes) == 0xD0) memory.last["pressure"] = bytes[1];
    if (kind(bytes) == 0xC0) memory.last["program"] = bytes[1];
    Bytes passed = bytes;
    passed[0] = static_cast<std::uint8_t>((bytes[0] & 0xF0) + lane.second - 1);
    deliver(instrument.id, lane.first, passed);
}

void Interpreter::beginNote(const Instrument& instrument) {
    const auto key = keyFor(&instrument, bytes_[1]);
    if (!key || !takesNote(&instrument, bytes_)) return;
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    const int out = passingChannel(instrument, port_, channel(bytes_));
    const Place place{instrument.id, instrument.output.port, out, *key};
    Held* held = heldBy(input);
    if (held == nullptr) held = &held_.emplace_back(Held{input, {}, false, 0});
    if (!begins_) {
        // A note-on of a key that is up begins its count anew, and forgets the old places.
        if (!held->down) {
            held->unanswered = 0;
            held->places.clear();
            std::erase_if(begun_, [&](const auto& each) { return each.first == input; });
        }
        ++held->unanswered;
        held->down = true;
        begins_ = true;
    }
    if (std::find(held->places.begin(), held->places.end(), place) == held->places.end()) {
        held->places.push_back(place);
        begun_.emplace_back(input, place);
    }
    const auto velocity = velocities_.find(instrument.id);
    deliver(instrument.id, instrument.output.port,
            {static_cast<std::uint8_t>(0x90 + out - 1), static_cast<std::uint8_t>(*key),
             velocity == velocities_.end() ? bytes_[2] : static_cast<std::uint8_t>(velocity->second)});
}

void Interpreter::followNote(const Instrument& instrument) {
    const auto follow = [&](const std::string& port, int out, int key) {
        lanes_[{port, out}].last["key" + std::to_string(key)] = bytes_[2];
        deliver(instrument.id, port,
                {static_cast<std::uint8_t>(0xA0 + out - 1), static_cast<std::uint8_t>(key), bytes_[2]});
    };
    bool follows = false;
    if (const Held* held = heldBy({port_, channel(bytes_), bytes_[1]})) {
        for (const Place& place : held->places) {
            if (place.instrument != instrument.id) continue;
            follows = true;
            follow(place.port, place.channel, place.key);
        }
    }
    const auto key = keyFor(&instrument, bytes_[1]);
    if (follows || !key) return;
    follow(instrument.output.port, passingChannel(instrument, port_, channel(bytes_)), *key);
}

Interpreter::Held* Interpreter::heldBy(const InputKey& input) {
    for (Held& held : held_) {
        if (held.input == input) return &held;
    }
    return nullptr;
}

/// An off goes to a place, unless some cause that is down still sounds that key.
void Interpreter::offTo(const Place& place, const Bytes& bytes) {
    for (const Held& held : held_) {
        const auto same = [&](const Place& other) { return other.soundsLike(place); };
        if (held.down && std::any_of(held.places.begin(), held.places.end(), same)) return;
    }
    deliver(place.instrument, place.port,
            {static_cast<std::uint8_t>((bytes[0] & 0xF0) + place.channel - 1),
             static_cast<std::uint8_t>(place.key), bytes[2]});
}

void Interpreter::endParameterNotes(const std::function<bool(const InputKey&, const Place&)>& wanted) {
    const auto begun = begun_;
    for (const auto& [input, place] : begun) {
        const std::string& cause = std::get<0>(input);
        if (!cause.starts_with(parameterPort) || !wanted(input, place)) continue;
        Held* held = heldBy(input);
        if (held == nullptr) continue;  // It went with another of its places.
        notesOn_.erase(cause.substr(1));
        const std::vector<Place> places = held->places;
        std::erase_if(held_, [&, which = input](const Held& each) { return each.input == which; });
        std::erase_if(begun_, [&, which = input](const auto& each) { return each.first == which; });
        for (const Place& ended : places) offTo(ended, {0x80, 0, 64});
    }
}

void Interpreter::deliver(const std::string& instrument, const std::string& port, Bytes bytes) {
    out_.push_back({now_, instrument, port, std::move(bytes), {}, 0});
}

}  // namespace mellow::reference
