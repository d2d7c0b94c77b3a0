// What no event does: silence, and one ensemble taking over from another in mid-stream. The rules have little
// of this; what carries over is told in docs/architecture.md.
#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"
#include "reference/messages.h"

namespace mellow::reference {

void Interpreter::forget(const Lane& lane) {
    lanes_[lane] = {};
}

std::vector<Sent> Interpreter::silenceAll() {
    std::vector<Place> ended;
    for (const auto& [input, place] : begun_) {
        const auto same = [&begun = place](const Place& other) { return other.soundsLike(begun); };
        if (std::any_of(ended.begin(), ended.end(), same)) continue;
        ended.push_back(place);
        deliver(
            place.instrument, place.port,
            {static_cast<std::uint8_t>(0x80 + place.channel - 1), static_cast<std::uint8_t>(place.key), 64});
    }
    held_.clear();
    begun_.clear();
    for (const auto& [port, out, instrument] : lanesUsed_) {
        for (const int control : {64, 123, 120}) {
            deliver(instrument, port,
                    {static_cast<std::uint8_t>(0xB0 + out - 1), static_cast<std::uint8_t>(control), 0});
        }
    }
    lanes_.clear();
    lastOsc_.clear();
    return std::exchange(out_, {});
}

/// What a chain remembers goes over to its edited self as far as it is the same.
void Interpreter::carry(const Ensemble& before, const Running& ranBefore,
                        std::map<ChainId, ChainMemory>& oldMemory,
                        const std::map<std::string, bool>& handBefore) {
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        const ChainId id = idOf(instrument, chain);
        const Instrument* old = instrument == nullptr ? nullptr : withId(before.instruments, instrument->id);
        if (instrument != nullptr && old == nullptr) return;
        const Chain* oldChain = withId(instrument == nullptr ? before.sharedChains : old->chains, chain.id);
        if (oldChain == nullptr || !ranBefore.has(*oldChain)) return;
        const auto heardBefore = [&](const Source& source) { return heard(before, source); };
        const auto heardNow = [&](const Source& source) { return heard(ensemble_, source); };
        if (heardBefore(oldChain->source) != heardNow(chain.source)) return;
        ChainMemory& memory = memory_[id];
        const ChainMemory& was = oldMemory[id];
        memory.spoken = was.spoken;
        memory.back = was.back;
        const auto carrySteps = [](const auto& now, auto& states, const auto& then, const auto& from) {
            for (std::size_t i = 0; i < std::min(now.size(), then.size()) && now[i].kind == then[i].kind;
                 ++i) {
                const double rest = states[i].other;
                states[i] = from[i];
                states[i].other = rest;
            }
        };
        carrySteps(chain.steps, memory.trunk, oldChain->steps, was.trunk);
        bool same = *oldChain == chain;
        for (std::size_t b = 0; b < std::min(chain.branches.size(), oldChain->branches.size()); ++b) {
            const Branch& now = chain.branches[b];
            const Branch& then = oldChain->branches[b];
            carrySteps(now.steps, memory.branches[b], then.steps, was.branches[b]);
            if (now.target == then.target && now.on && then.on) memory.produced[b] = was.produced[b];
            if (!now.on && !then.on) continue;
            const End endNow = endOf(ensemble_, instrument, now.target);
            const End endThen = endOf(before, old, then.target);
            if (endNow.hand != nullptr) same = same && before.handOrder == ensemble_.handOrder;
            if (endNow.parameter == nullptr) continue;
            const bool offNow = !runs(*endNow.instrument);
            const bool offThen =
                endThen.instrument != nullptr && !ranBefore.instruments.at(endThen.instrument->id);
            same = same && offNow == offThen;
            if (offNow && offThen) {
                same = same && *endThen.parameter == *endNow.parameter;
                continue;
            }
            same = same && endThen.parameter != nullptr && *endThen.parameter == *endNow.parameter &&
                   endThen.instrument->output.port == endNow.instrument->output.port &&
                   endThen.instrument->output.channel == endNow.instrument->output.channel;
        }
        std::map<Ear, Source> earsThen;
        forEachEar(*oldChain,
                   [&](const Ear& ear, const Source& source) { earsThen[ear] = heardBefore(source); });
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const auto then = earsThen.find(ear);
            if (then == earsThen.end() || then->second != heardNow(written)) {
                same = false;
                return;
            }
            memory.ears[ear] = was.ears.at(ear);
            const bool handedOverBefore =
                ear.what == Ear::For::source && handoverOf(before, *oldChain) != Handover::jump;
            if (!handedOverBefore) memory.ears[ear].hands.clear();
            if (ear.what != Ear::For::combine) return;
            auto& steps =
                ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
            steps[static_cast<std::size_t>(ear.step)].other = memory.ears[ear].position;
        });
        const bool slept = old != nullptr && oldChain->active == Active::inHand && !handBefore.at(old->id);
        if (slept && !sleeps(instrument, chain)) wake(instrument, chain);
        if (was.spoken && !same && !sleeps(instrument, chain)) due_[id].source = true;
    });
}

/// A chain that slept is handed over anew, and its tie lines stand where they were written to meanwhile.
void Interpreter::wake(const Instrument* instrument, const Chain& chain) {
    ChainMemory& memory = memoryOf(instrument, chain);
    memory.back = true;
    for (auto& [from, hand] : memory.ears[{}].hands) hand.met = false;
    forEachEar(chain, [&](const Ear& ear, const Source& source) {
        if (source.kind != SourceKind::tieLine || !lines_.contains(source.tieLine)) return;
        memory.ears[ear].position = lines_[source.tieLine];
        if (ear.what != Ear::For::combine) return;
        auto& steps = ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
        steps[static_cast<std::size_t>(ear.step)].other = lines_[source.tieLine];
    });
    forEachEar(chain, [&](const Ear& ear, const Source& source) {
        if (source.kind == SourceKind::envelope && keysDown(instrument, source) == 0)
            lastKeyUp(source, memory.ears[ear].generator, now_);
    });
}

std::vector<Sent> Interpreter::edit(Ensemble ensemble) {
    const double tempoBefore = tempo();
    const Ensemble before = std::exchange(ensemble_, prepared(std::move(ensemble)));
    const Running ranBefore = runningOf(before);
    const auto handBefore = hand_;
    const auto wasInHand = [&](const Instrument& instrument) { return handBefore.at(instrument.id); };
    const auto mannersBefore = manners_;
    const auto usedBefore = [&](const Instrument& instrument) {
        std::set<int> used{instrument.output.channel};
        const auto manner = mannersBefore.find(instrument.id);
        if (manner != mannersBefore.end())
            used.insert(manner->second.channelsUsed.begin(), manner->second.channelsUsed.end());
        return used;
    };
    takeHandFromDocument();
    if (handCanMove(before) && handCanMove(ensemble_) && before.inHand == ensemble_.inHand) {
        for (const Instrument& instrument : before.instruments) {
            if (ranBefore.instruments.at(instrument.id) && hand_.contains(instrument.id))
                hand_[instrument.id] = handBefore.at(instrument.id);
        }
    }
    auto oldMemory = std::exchange(memory_, {});
    cue_ = Cue::none;
    bytes_.clear();
    address_.clear();
    turn_ = 0;
    prepare();
    carryManners(before, ranBefore);
    late_.clear();
    carry(before, ranBefore, oldMemory, handBefore);
    if (before.tempo.follow != ensemble_.tempo.follow || before.tempo.port != ensemble_.tempo.port) {
        clockTempo_ = 0;
        clocks_.clear();
    }
    changeTempo(tempoBefore);
    // As with all that an instrument plays by, its finger is forgotten while it does not run.
    std::erase_if(passing_, [&](const auto& each) {
        const Instrument* instrument = withId(ensemble_.instruments, each.first);
        return instrument == nullptr || !runs(*instrument);
    });
    chooseFingers();
    turned_.clear();

    std::set<std::string> drivenNotes;
    std::set<std::string> drivenVelocities;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        for (const Branch& branch : chain.branches) {
            const End end = endOf(ensemble_, instrument, branch.target);
            if (end.parameter == nullptr || !leadsSomewhere(instrument, branch)) continue;
            if (end.parameter->message.kind == MessageKind::note)
                drivenNotes.insert(end.instrument->id + "/" + end.parameter->id);
            if (end.parameter->message.kind == MessageKind::velocity)
                drivenVelocities.insert(end.instrument->id);
        }
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (source.kind != SourceKind::envelope || sleeps(instrument, chain)) return;
            if (keysDown(instrument, source) == 0)
                lastKeyUp(source, memoryOf(instrument, chain).ears[ear].generator, now_);
        });
    });
    std::erase_if(velocities_, [&](const auto& each) { return !drivenVelocities.contains(each.first); });
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument)) continue;
        for (const Articulation& articulation : instrument.articulations) {
            for (const Select& select : articulation.select) {
                if (select.kind == SelectKind::note && select.held && isSound(articulation))
                    drivenNotes.insert(instrument.id + "//" + std::to_string(select.number));
            }
        }
    }
    endParameterNotes([&](const InputKey& input, const Place&) {
        return !drivenNotes.contains(std::get<0>(input).substr(1));
    });
    std::erase_if(notesOn_, [&](const std::string& name) { return !drivenNotes.contains(name); });

    const auto sameLane = [](const Instrument& one, const Instrument& other) {
        return one.output.port == other.output.port && one.output.channel == other.output.channel;
    };
    const auto playsOn = [&](const Instrument& instrument, const std::string& port, int channel) {
        return instrument.output.port == port && channelsUsedBy(instrument).contains(channel);
    };
    for (const Instrument& was : before.instruments) {
        if (!ranBefore.instruments.at(was.id) || !wasInHand(was) ||
            withId(before.instruments, was.id) != &was)
            continue;
        const Instrument* now = withId(ensemble_.instruments, was.id);
        for (const int channel : usedBefore(was)) {
            bool needed = now != nullptr && runs(*now) && playsOn(*now, was.output.port, channel);
            for (const Instrument& other : ensemble_.instruments)
                needed = needed || (runs(other) && inHand(other) && playsOn(other, was.output.port, channel));
            if (!needed) letGo(was, channel);
        }
    }
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument)) continue;
        const Instrument* was = withId(before.instruments, instrument.id);
        if (was != nullptr && !ranBefore.instruments.at(instrument.id)) was = nullptr;
        const bool heldBefore = was != nullptr && wasInHand(*was);
        if (inHand(instrument)) {
            if (heldBefore && sameLane(*was, instrument)) continue;
            hearPedals(instrument);
            passPedals(instrument);
        } else if (heldBefore) {
            leaveHand(*was, usedBefore(*was));
        }
    }
    play({});
    return std::exchange(out_, {});
}

/// An instrument plays on as it played, as far as it still can.
void Interpreter::carryManners(const Ensemble& before, const Running& ranBefore) {
    auto were = std::exchange(manners_, {});
    for (const Instrument& instrument : ensemble_.instruments) {
        const Instrument* was = withId(before.instruments, instrument.id);
        if (!runs(instrument) || was == nullptr || !ranBefore.instruments.at(was->id)) continue;
        // Of one that has played nowhere else that is its own channel.
        const Manner& manner = were[instrument.id];
        Manner& now = manners_[instrument.id];
        if (withId(instrument.articulations, manner.articulation) != nullptr)
            now.articulation = manner.articulation;
        const bool samePort = was->output.port == instrument.output.port;
        const auto reaches = [&](int channel) {
            if (channel == instrument.output.channel) return true;
            for (const Articulation& articulation : instrument.articulations) {
                for (const Select& select : articulation.select) {
                    if (select.kind == SelectKind::channel && select.value == channel &&
                        isSound(articulation))
                        return true;
                }
            }
            return false;
        };
        std::set<int> used = manner.channelsUsed;
        used.insert(was->output.channel);
        for (const int channel : used) {
            if (samePort && (reaches(channel) || instrument.output.keepChannels))
                now.channelsUsed.insert(channel);
        }
        if (manner.channel != 0 && reaches(manner.channel)) {
            now.channel = manner.channel;
            now.channelsUsed.insert(manner.channel);
        }
    }
}

void Interpreter::leaveHand(const Instrument& was, const std::set<int>& channels) {
    for (const int channel : channels) letGo(was, channel);
    endParameterNotes([&](const InputKey&, const Place& place) { return place.instrument == was.id; });
}

void Interpreter::letGo(const Instrument& instrument, int channel) {
    const Lane lane{instrument.output.port, channel};
    LaneMemory& memory = lanes_[lane];
    const auto last = [&](const std::string& name, int otherwise) {
        const auto found = memory.last.find(name);
        return found == memory.last.end() ? otherwise : found->second;
    };
    for (const int pedal : {64, 66, 69}) {
        if (last("cc" + std::to_string(pedal), 0) > 0) control(instrument, lane, pedal, 0);
    }
    if (last("bend", 8192) != 8192) {
        memory.last["bend"] = 8192;
        deliver(instrument.id, lane.first, {static_cast<std::uint8_t>(0xE0 + lane.second - 1), 0, 64});
    }
    if (last("pressure", 0) != 0) {
        memory.last["pressure"] = 0;
        deliver(instrument.id, lane.first, {static_cast<std::uint8_t>(0xD0 + lane.second - 1), 0});
    }
}

/// Pedals that are down, those above 0 behind the filter, come to its chains that slept.
void Interpreter::hearPedals(const Instrument& instrument) {
    for (const auto& [from, values] : pedals_) {
        if (!takesFrom(&instrument, from.first, from.second)) continue;
        for (const auto& [pedal, value] : values) {
            if (value == 0) continue;
            const Bytes bytes{static_cast<std::uint8_t>(0xB0 + from.second - 1),
                              static_cast<std::uint8_t>(pedal), static_cast<std::uint8_t>(value)};
            forEachChain([&, port = from.first](const Instrument* owner, const Chain& chain) {
                if (owner != &instrument || chain.active != Active::inHand || hadItsTurn(chain)) return;
                forEachEar(chain, [&](const Ear& ear, const Source& written) {
                    const Source source = heard(ensemble_, written);
                    if (hearsPedal(source, port, bytes))
                        hearWith(owner, chain, ear, source, port, bytes, bytes[1]);
                });
            });
        }
    }
}

bool Interpreter::hearsPedal(const Source& source, const std::string& port, const Bytes& bytes) const {
    return (source.kind == SourceKind::cc || source.kind == SourceKind::relative) &&
           source.number == bytes[1] && listensTo(nullptr, source, port, channel(bytes));
}

/// And are sent, the highest where ports and channels differ, unless a chain consumes them.
void Interpreter::passPedals(const Instrument& instrument) {
    std::map<int, std::pair<std::string, Bytes>> highest;
    std::map<std::pair<int, int>, std::pair<std::string, Bytes>> ofMembers;  // channel, pedal
    for (const auto& [from, values] : pedals_) {
        if (!takesFrom(&instrument, from.first, from.second)) continue;
        for (const auto& [pedal, value] : values) {
            const Bytes bytes{static_cast<std::uint8_t>(0xB0 + from.second - 1),
                              static_cast<std::uint8_t>(pedal), static_cast<std::uint8_t>(value)};
            if (value == 0 || !passesPedal(instrument, from.first, bytes)) continue;
            if (instrument.output.keepChannels && isMemberOfAny(from.first, from.second)) {
                auto& there = ofMembers[{from.second, pedal}];
                if (there.second.empty() || value > there.second[2]) there = {from.first, bytes};
                continue;
            }
            if (!highest.contains(pedal) || value > highest[pedal].second[2])
                highest[pedal] = {from.first, bytes};
        }
    }
    for (const auto& [place, sent] : ofMembers) pass(instrument, sent.first, sent.second);
    for (const auto& [pedal, sent] : highest) pass(instrument, sent.first, sent.second);
}

bool Interpreter::passesPedal(const Instrument& instrument, const std::string& port, const Bytes& bytes) {
    bool taken = false;
    bool keeps = false;
    forEachChain([&](const Instrument* owner, const Chain& chain) {
        if (owner != nullptr && owner != &instrument) return;
        forEachEar(chain, [&](const Ear&, const Source& written) {
            if (!hearsPedal(heard(ensemble_, written), port, bytes)) return;
            taken = true;
            keeps = keeps || chain.keepOriginal;
        });
    });
    return taken ? keeps : instrument.pass.unmatched;
}

}  // namespace mellow::reference
