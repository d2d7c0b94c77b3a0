// Choosing (section 10): articulations and what they are selected by, and who is in hand.
#include <algorithm>
#include <utility>

#include "reference/interpreter.h"
#include "reference/messages.h"

namespace mellow::reference {

int Interpreter::channelOf(const Instrument& instrument) const {
    const auto manner = manners_.find(instrument.id);
    return manner == manners_.end() || manner->second.channel == 0 ? instrument.output.channel
                                                                   : manner->second.channel;
}

std::set<int> Interpreter::channelsUsedBy(const Instrument& instrument) {
    std::set<int> used = manners_[instrument.id].channelsUsed;
    used.insert(instrument.output.channel);
    return used;
}

void Interpreter::choose(const Instrument& instrument, std::size_t at) {
    const Articulation& articulation = instrument.articulations[at];
    Manner& manner = manners_[instrument.id];
    if (manner.articulation == articulation.id) return;
    endParameterNotes([&](const InputKey& input, const Place&) {
        return std::get<0>(input).starts_with(parameterPort + instrument.id + "//");
    });
    manner.articulation = articulation.id;
    if (!isSound(articulation)) return;
    for (const Select& select : articulation.select) sendSelect(instrument, select);
}

void Interpreter::sendSelect(const Instrument& instrument, const Select& select) {
    const int out = channelOf(instrument);
    const Lane lane{instrument.output.port, out};
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + out - 1); };
    const auto byte = [](int value) { return static_cast<std::uint8_t>(value); };
    auto& last = lanes_[lane].last;
    const auto isRepeat = [&](const std::string& name, int value) {
        return last.contains(name) && last[name] == value;
    };
    switch (select.kind) {
        case SelectKind::note: {
            const InputKey cause{parameterPort + instrument.id + "//" + std::to_string(select.number), 0, 0};
            const Place place{instrument.id, lane.first, out, select.number};
            deliver(instrument.id, lane.first, {status(0x90), byte(select.number), byte(select.velocity)});
            if (!select.held)
                return deliver(instrument.id, lane.first, {status(0x80), byte(select.number), 64});
            Held* held = heldBy(cause);
            if (held == nullptr) held = &held_.emplace_back(Held{cause, {}, true, 1});
            if (std::find(held->places.begin(), held->places.end(), place) != held->places.end()) return;
            held->places.push_back(place);
            begun_.emplace_back(cause, place);
            return;
        }
        case SelectKind::cc:
            if (!isRepeat("cc" + std::to_string(select.number), select.value))
                control(instrument, lane, select.number, select.value);
            return;
        case SelectKind::program: {
            const bool inBank =
                !select.bank || (isRepeat("cc0", (*select.bank)[0]) && isRepeat("cc32", (*select.bank)[1]));
            if (isRepeat("program", select.value) && inBank) return;
            if (select.bank) {
                control(instrument, lane, 0, (*select.bank)[0]);
                control(instrument, lane, 32, (*select.bank)[1]);
            }
            last["program"] = select.value;
            return deliver(instrument.id, lane.first, {status(0xC0), byte(select.value)});
        }
        case SelectKind::channel: {
            Manner& manner = manners_[instrument.id];
            manner.channel = select.value;
            manner.channelsUsed.insert(select.value);
            return;
        }
    }
}

// The hand.

bool Interpreter::hadItsTurn(const Chain& chain) const {
    for (std::size_t turn = 0; turn < turn_ && turn < running_.turns.size(); ++turn) {
        if (running_.turns[turn].chain == &chain) return true;
    }
    return false;
}

void Interpreter::chooseHand(const std::vector<std::string>& order, std::size_t entry) {
    const std::string& id = order[entry];
    const Section* section = withId(ensemble_.sections, id);
    const bool isInstrument = withId(ensemble_.instruments, id) != nullptr;
    const auto wanted = [&](const Instrument& instrument) {
        if (isInstrument) return instrument.id == id;
        return section != nullptr && std::find(section->instruments.begin(), section->instruments.end(),
                                               instrument.id) != section->instruments.end();
    };
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument) || !inHand(instrument) || wanted(instrument)) continue;
        hand_[instrument.id] = false;
        for (const Chain& chain : instrument.chains) {
            const auto due = due_.find(idOf(&instrument, chain));
            if (due != due_.end() && cue_ == Cue::noteOn) due->second.cue = false;
        }
        Sending leaving;
        leaving.leaver = &instrument;
        sendings_.push_back(leaving);
    }
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument) || inHand(instrument) || !wanted(instrument)) continue;
        hand_[instrument.id] = true;
        forEachChain([&](const Instrument* owner, const Chain& chain) {
            if (owner == &instrument && chain.active == Active::inHand) wake(owner, chain);
        });
        hearPedals(instrument);
        hearAgain(instrument);
        Sending coming;
        coming.comer = &instrument;
        sendings_.push_back(coming);
    }
}

/// The event that brought it into hand reaches an instrument.
void Interpreter::hearAgain(const Instrument& instrument) {
    forEachChain([&](const Instrument* owner, const Chain& chain) {
        if (owner != &instrument || hadItsTurn(chain)) return;
        if (!address_.empty()) {
            if (chain.active == Active::inHand) hearAddress(owner, chain);
        } else if (!bytes_.empty() && bytes_[0] < 0xF0) {
            hearChain(owner, chain, true);
        }
    });
}

}  // namespace mellow::reference
