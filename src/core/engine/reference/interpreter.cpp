#include "core/engine/reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/checks/check.h"
#include "core/engine/order.h"
#include "core/model/resolve.h"
#include "core/sources/encoder.h"

namespace mellow::reference {

namespace {

using Bytes = std::vector<std::uint8_t>;

constexpr const char* parameterPort = "\n";  ///< stands for a parameter where a note's cause is a key

bool fits(const std::string& filter, const std::string& port) {
    return filter == anyPort || port == anyPort || filter == port;
}

int kind(const Bytes& bytes) {
    return bytes[0] >= 0xF0 ? bytes[0] : bytes[0] & 0xF0;
}
int channel(const Bytes& bytes) {
    return (bytes[0] & 0x0F) + 1;
}
bool isControl(const Bytes& bytes) {
    return kind(bytes) == 0xB0;
}
bool isOn(const Bytes& bytes) {
    return kind(bytes) == 0x90 && bytes[2] > 0;
}
bool isOff(const Bytes& bytes) {
    return kind(bytes) == 0x80 || (kind(bytes) == 0x90 && bytes[2] == 0);
}
bool isSelect(int control) {
    return control >= 98 && control <= 101;
}
bool isData(int control) {
    return control == 6 || control == 38 || control == 96 || control == 97;
}

double clamped(double p) {
    return p >= 0 ? std::min(p, 1.0) : 0.0;
}

bool anyMoving(const std::vector<StepState>& states) {
    return std::any_of(states.begin(), states.end(), [](const StepState& s) { return s.moving; });
}

/// The key that an instrument makes of an incoming one; a shared chain takes it as it is.
std::optional<int> keyFor(const Instrument* instrument, int key) {
    if (instrument == nullptr) return key;
    if (key < instrument->input.lowKey || key > instrument->input.highKey) return std::nullopt;
    const int moved = key + instrument->input.transpose;
    if (moved < 0 || moved > 127) return std::nullopt;
    return moved;
}

bool inputFits(const Instrument* instrument, const std::string& port, int channel) {
    if (instrument == nullptr) return true;
    return fits(instrument->input.port, port) &&
           (!instrument->input.channel || *instrument->input.channel == channel);
}

/// Walks steps from the first. A value has come from above or not; a step that a second source stirred, or
/// whose output changes, starts one.
void walk(const std::vector<Step>& steps, std::vector<StepState>& memory, std::optional<double>& p, bool tick,
          std::int64_t now, Cue cue) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Step& step = steps[i];
        StepState& state = memory[i];
        if (!step.kind->remembers()) {
            if (p) p = clamped(step.kind->shape(step, *p));
            continue;
        }
        const double before = state.output;
        bool moved = p.has_value();
        if (moved) {
            step.kind->take(step, state, *p, now);
        } else if (state.stirred && state.started) {
            step.kind->take(step, state, state.input, now);
            moved = true;
        }
        if (cue != Cue::none && state.started && step.kind->hear != nullptr)
            step.kind->hear(step, state, cue);
        if (tick && state.started && step.kind->tick != nullptr) step.kind->tick(step, state, now);
        if (moved || state.output != before) p = clamped(state.output);
    }
}

/// An off step is as if it were not there, and so are the steps of an off branch.
void dropOffSteps(Chain& chain) {
    const auto isOff = [](const Step& step) { return !step.on; };
    std::erase_if(chain.steps, isOff);
    for (Branch& branch : chain.branches)
        std::erase_if(branch.steps, [&](const Step& step) { return !branch.on || isOff(step); });
}

Ensemble withoutOffSteps(Ensemble ensemble) {
    std::for_each(ensemble.sharedChains.begin(), ensemble.sharedChains.end(), dropOffSteps);
    for (Instrument& instrument : ensemble.instruments)
        std::for_each(instrument.chains.begin(), instrument.chains.end(), dropOffSteps);
    return ensemble;
}

bool samePair(const Source& source, int pairKind, int number) {
    const SourceKind wanted = pairKind == 0   ? SourceKind::cc14
                              : pairKind == 1 ? SourceKind::rpn
                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

double nearestChoice(const Range& range, double q) {
    if (range.law != Law::choices) return q;
    const auto steps = static_cast<double>(range.choices.size() - 1);
    return std::floor(q * steps + 0.5) / steps;
}

}  // namespace

// The ensemble.

Interpreter::Interpreter(Ensemble ensemble) : ensemble_(withoutOffSteps(std::move(ensemble))) {
    prepare();
}

Interpreter::ChainId Interpreter::idOf(const Instrument* instrument, const Chain& chain) {
    return {instrument == nullptr ? "\n" : instrument->id, chain.id};
}

Interpreter::ChainMemory& Interpreter::memoryOf(const Instrument* instrument, const Chain& chain) {
    return memory_[idOf(instrument, chain)];
}

template<class Visit>
void Interpreter::forEachEar(const Chain& chain, Visit&& visit) {
    visit(Ear{Ear::For::source, -1, 0}, chain.source);
    const auto ofSteps = [&visit](const std::vector<Step>& steps, int branch) {
        for (std::size_t i = 0; i < steps.size(); ++i) {
            if (steps[i].with) visit(Ear{Ear::For::combine, branch, static_cast<int>(i)}, *steps[i].with);
        }
    };
    ofSteps(chain.steps, -1);
    for (std::size_t b = 0; b < chain.branches.size(); ++b)
        ofSteps(chain.branches[b].steps, static_cast<int>(b));
    if (chain.fan.mode == FanMode::chosen) visit(Ear{Ear::For::chooser, -1, 0}, *chain.fan.by);
}

/// Shared chains first, then each instrument's; writers of a tie line before its readers.
template<class Visit>
void Interpreter::forEachChain(Visit&& visit) {
    const auto ofList = [&](const Instrument* instrument, const std::vector<Chain>& chains) {
        std::vector<bool> running(chains.size());
        std::set<std::string> seen;
        for (std::size_t c = 0; c < chains.size(); ++c)
            running[c] = runs(instrument, chains[c]) && seen.insert(chains[c].id).second;
        for (const std::size_t c : engine::runningOrder(chains, running)) visit(instrument, chains[c]);
    };
    ofList(nullptr, ensemble_.sharedChains);
    for (const Instrument& instrument : ensemble_.instruments) {
        if (runs(instrument)) ofList(&instrument, instrument.chains);
    }
}

void Interpreter::prepare() {
    const Stopped stopped = stoppedBy(ensemble_);
    instrumentRuns_.clear();
    chainRuns_.clear();
    const auto prepareChain = [&](const Instrument* instrument, const Chain& chain, bool stops) {
        chainRuns_.try_emplace(idOf(instrument, chain), !stops);
        if (stops) return;
        ChainMemory& memory = memoryOf(instrument, chain);
        memory = {};
        memory.trunk.resize(chain.steps.size());
        memory.branches.resize(chain.branches.size());
        memory.produced.resize(chain.branches.size());
        for (std::size_t b = 0; b < chain.branches.size(); ++b)
            memory.branches[b].resize(chain.branches[b].steps.size());
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            memory.ears[ear].position = restOf(ensemble_, resolved(ensemble_, written));
            if (ear.what == Ear::For::combine) {
                auto& steps =
                    ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
                steps[static_cast<std::size_t>(ear.step)].other = memory.ears[ear].position;
            }
        });
    };
    for (std::size_t c = 0; c < ensemble_.sharedChains.size(); ++c)
        prepareChain(nullptr, ensemble_.sharedChains[c], stopped.shared[c]);
    for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
        const Instrument& instrument = ensemble_.instruments[i];
        instrumentRuns_.try_emplace(instrument.id, !stopped.instruments[i]);
        if (stopped.instruments[i]) continue;
        const auto sameLane = [&](const auto& lane) {
            return std::get<0>(lane) == instrument.output.port &&
                   std::get<1>(lane) == instrument.output.channel;
        };
        if (std::none_of(lanesUsed_.begin(), lanesUsed_.end(), sameLane))
            lanesUsed_.emplace_back(instrument.output.port, instrument.output.channel, instrument.id);
        for (std::size_t c = 0; c < instrument.chains.size(); ++c)
            prepareChain(&instrument, instrument.chains[c], stopped.chains[i][c]);
    }
}

bool Interpreter::runs(const Instrument& instrument) const {
    return instrumentRuns_.at(instrument.id);
}

bool Interpreter::runs(const Instrument* instrument, const Chain& chain) const {
    const auto found = chainRuns_.find(idOf(instrument, chain));
    return found != chainRuns_.end() && found->second;
}

bool Interpreter::inHand(const Instrument& instrument) const {
    return !ensemble_.inHand || std::find(ensemble_.inHand->begin(), ensemble_.inHand->end(),
                                          instrument.id) != ensemble_.inHand->end();
}

// Events.

std::vector<Sent> Interpreter::process(std::int64_t time, const std::string& port, const Bytes& bytes) {
    out_ = advance(time);
    port_ = port;
    bytes_ = bytes;
    cue_ = Cue::none;
    std::vector<const Instrument*> passers;
    for (const Instrument& instrument : ensemble_.instruments) {
        const bool hears = bytes[0] >= 0xF0 ? fits(instrument.input.port, port)
                                            : inputFits(&instrument, port, channel(bytes));
        if (runs(instrument) && inHand(instrument) && hears) passers.push_back(&instrument);
    }
    if (bytes[0] >= 0xF0) {
        for (const Instrument* instrument : passers) {
            const bool passes = bytes[0] == 0xF0   ? instrument->pass.sysex
                                : bytes[0] >= 0xF8 ? instrument->pass.clock
                                                   : instrument->pass.unmatched;
            if (passes) deliver(instrument->id, instrument->output.port, bytes);
        }
        return std::exchange(out_, {});
    }
    const Lane from{port, channel(bytes)};
    if (isOn(bytes)) cue_ = Cue::noteOn;
    if (isControl(bytes) && (bytes[1] == 64 || bytes[1] == 66 || bytes[1] == 69)) {
        int& pedal = pedals_[from][bytes[1]];
        if (bytes[1] == 64 && pedal < 64 && bytes[2] >= 64) cue_ = Cue::pedalDown;
        pedal = bytes[2];
    }
    hear(port, bytes, cue_);
    if (isOff(bytes)) {
        // Whoever holds the note ends it.
        passers.clear();
        for (const Instrument& instrument : ensemble_.instruments) {
            if (runs(instrument)) passers.push_back(&instrument);
        }
    }
    play(passers);
    if (isOff(bytes)) {
        releaseIf(bytes, [&](const Held& held) {
            const Instrument* instrument = findById(ensemble_.instruments, held.instrument);
            return instrument == nullptr || !runs(*instrument);
        });
        std::erase_if(held_, [](const Held& held) { return held.count == 0; });
    }
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::processOsc(std::int64_t time, const std::string& port,
                                          const std::string& address, double number) {
    out_ = advance(time);
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (instrument != nullptr &&
            (!fits(instrument->input.port, port) || (chain.active == Active::inHand && !inHand(*instrument))))
            return;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = resolved(ensemble_, written);
            if (source.kind != SourceKind::osc || textOf(source, 0) != address) return;
            const std::string* from = portOf(ensemble_, source);
            if (from != nullptr && !fits(*from, port)) return;
            EarMemory& memory = memoryOf(instrument, chain).ears[ear];
            std::optional<double> position = clamped(number);
            if (ear.what == Ear::For::source) position = handOver(chain, memory, source, *position, port, 0);
            if (position) speak(instrument, chain, ear, *position);
        });
    });
    play({});
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::advance(std::int64_t until) {
    for (std::int64_t grid = now_ < 0 ? 0 : (now_ / 1000 + 1) * 1000; grid <= until; grid += 1000) {
        bool moves = std::any_of(pairs_.begin(), pairs_.end(),
                                 [](const auto& each) { return each.second.waitingSince.has_value(); });
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            if (instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument)) return;
            const ChainMemory& memory = memoryOf(instrument, chain);
            moves = moves || anyMoving(memory.trunk);
            for (std::size_t b = 0; b < chain.branches.size(); ++b)
                moves = moves || (feeds(instrument, chain, b) && anyMoving(memory.branches[b]));
            forEachEar(chain, [&](const Ear& ear, const Source& source) {
                const bool generates = row(source.kind).origin == Origin::generator;
                moves = moves || (generates && keepsMoving(source, memory.ears.at(ear).generator));
            });
        });
        if (!moves) break;
        now_ = grid;
        playGridPoint();
    }
    now_ = std::max(now_, until);
    return std::exchange(out_, {});
}

void Interpreter::playGridPoint() {
    cue_ = Cue::none;
    bytes_.clear();
    // High bytes that waited 5 ms or more, in the order in which they came.
    std::vector<std::pair<std::uint64_t, PairId>> waited;
    for (const auto& [id, pair] : pairs_) {
        if (pair.waitingSince && *pair.waitingSince + 5000 <= now_) waited.emplace_back(pair.arrival, id);
    }
    std::sort(waited.begin(), waited.end());
    for (const auto& [arrival, id] : waited) {
        PairMemory& pair = pairs_[id];
        const Reading reading{id, pair.high * 128, false};
        pair.waitingSince.reset();
        pair.alone = std::min(3, pair.alone + 1);
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            forEachEar(chain, [&](const Ear& ear, const Source& written) {
                takeReading(instrument, chain, ear, resolved(ensemble_, written), reading);
            });
        });
    }
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument)) return;
        ChainMemory& chainMemory = memoryOf(instrument, chain);
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (row(source.kind).origin != Origin::generator) return;
            EarMemory& memory = chainMemory.ears[ear];
            if (!keepsMoving(source, memory.generator)) return;
            const double position = clamped(movedTo(source, memory.generator, now_, unknownTempo));
            if (position != memory.position || !memory.spoken) speak(instrument, chain, ear, position);
        });
        due_[idOf(instrument, chain)].tick = true;
    });
    play({});
}

// Hearing.

void Interpreter::hear(const std::string& port, const Bytes& bytes, Cue cue) {
    readings_.clear();
    dataStep_ = 0;
    sharedMatched_ = false;
    sharedKeeps_ = false;
    matched_.clear();
    const int from = channel(bytes);
    bool keyChanged = false;
    if (isOn(bytes)) keyChanged = keysDown_.insert({port, from, bytes[1]}).second;
    if (isOff(bytes)) keyChanged = keysDown_.erase({port, from, bytes[1]}) > 0;

    const auto someoneHears = [&](int pairKind, int number) {
        bool hears = false;
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            if (instrument != nullptr && ((chain.active == Active::inHand && !inHand(*instrument)) ||
                                          (instrument->input.channel && *instrument->input.channel != from)))
                return;
            forEachEar(chain, [&](const Ear&, const Source& written) {
                const Source source = resolved(ensemble_, written);
                const bool here = pairKind == 0 || !source.channel || *source.channel == from;
                hears = hears || (here && samePair(source, pairKind, number));
            });
        });
        return hears;
    };
    const auto anyHears = [&](int number) {
        bool hears = false;
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            if (instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument)) return;
            forEachEar(chain, [&](const Ear&, const Source& written) {
                hears = hears || samePair(resolved(ensemble_, written), 0, number);
            });
        });
        return hears;
    };
    if (isControl(bytes)) {
        Selected& selected = selected_[{port, from}];
        if (isSelect(bytes[1])) {
            const bool rpn = bytes[1] >= 100;
            if (!selected.any || selected.rpn != rpn) selected = {rpn, -1, -1, true};
            (bytes[1] % 2 == 1 ? selected.high : selected.low) = bytes[2];
        }
        const int number = selected.high * 128 + selected.low;
        const bool isSelected = selected.any && selected.high >= 0 && selected.low >= 0 && number != 16383;
        const int pairKind = selected.rpn ? 1 : 2;
        if (isData(bytes[1]) && isSelected && someoneHears(pairKind, number)) {
            const PairId id{port, from, pairKind, number};
            if (bytes[1] == 6) high(id, bytes[2]);
            if (bytes[1] == 38) low(id, bytes[2]);
            if (bytes[1] >= 96) {
                PairMemory& pair = pairs_[id];
                if (pair.waitingSince) {
                    readings_.push_back({id, pair.high * 128, false});
                    pair.waitingSince.reset();
                    pair.alone = std::min(3, pair.alone + 1);
                }
                dataStep_ = bytes[1] == 96 ? 1 : -1;
            }
        }
        if (bytes[1] < 64 && anyHears(bytes[1] % 32)) {
            const PairId id{port, from, 0, bytes[1] % 32};
            if (bytes[1] < 32) {
                high(id, bytes[2]);
            } else {
                low(id, bytes[2]);
            }
        }
    }

    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (!inputFits(instrument, port, from)) return;
        if (instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument)) return;
        const bool hasKey = kind(bytes) == 0x90 || kind(bytes) == 0x80 || kind(bytes) == 0xA0;
        const auto key = hasKey ? keyFor(instrument, bytes[1]) : std::optional<int>(bytes[1]);
        if (!key) return;
        if (cue != Cue::none) due_[idOf(instrument, chain)].cue = true;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = resolved(ensemble_, written);
            const std::string* wanted = portOf(ensemble_, source);
            if ((wanted != nullptr && !fits(*wanted, port)) || (source.channel && *source.channel != from))
                return;
            if (row(source.kind).origin == Origin::generator) {
                followKeys(instrument, chain, ear, source, bytes, keyChanged, keysDown(instrument, source));
                return;
            }
            if (!hearWith(instrument, chain, ear, source, port, bytes, *key)) return;
            // Notes are consumed only by a key that is a button.
            if ((isOn(bytes) || isOff(bytes)) && source.kind != SourceKind::key) return;
            if (instrument == nullptr) {
                sharedMatched_ = true;
                sharedKeeps_ = sharedKeeps_ || chain.keepOriginal;
            } else {
                bool& keeps = matched_[instrument->id];
                keeps = keeps || chain.keepOriginal;
            }
        });
    });
}

bool Interpreter::hearWith(const Instrument* instrument, const Chain& chain, const Ear& ear,
                           const Source& source, const std::string& port, const Bytes& bytes, int key) {
    const auto take = [&](int raw) {
        speakRaw(instrument, chain, ear, source, raw, port, channel(bytes));
        return true;
    };
    switch (source.kind) {
        case SourceKind::cc:
            return isControl(bytes) && bytes[1] == source.number && take(bytes[2]);
        case SourceKind::bend:
            return kind(bytes) == 0xE0 && take(bytes[1] + 128 * bytes[2]);
        case SourceKind::pressure:
            return kind(bytes) == 0xD0 && take(bytes[1]);
        case SourceKind::keyPressure:
            return kind(bytes) == 0xA0 && take(bytes[2]);
        case SourceKind::program:
            return kind(bytes) == 0xC0 && (source.number < 0 || source.number == bytes[1]) && take(bytes[1]);
        case SourceKind::velocity:
            return isOn(bytes) && take(bytes[2]);
        case SourceKind::releaseVelocity:
            return isOff(bytes) && take(bytes[2]);
        case SourceKind::keyNumber:
            return isOn(bytes) && take(key);
        case SourceKind::key:
            return (isOn(bytes) || isOff(bytes)) && key == source.number && take(isOn(bytes) ? 127 : 0);
        case SourceKind::relative:
            if (!isControl(bytes) || bytes[1] != source.number) return false;
            speak(instrument, chain, ear,
                  clamped(memoryOf(instrument, chain).ears[ear].position + encoderMove(source, bytes[2])));
            return true;
        case SourceKind::cc14:
            if (!isControl(bytes) || bytes[1] >= 64 || bytes[1] % 32 != source.number) return false;
            return hearReadings(instrument, chain, ear, source, port, bytes);
        case SourceKind::rpn:
        case SourceKind::nrpn: {
            const Selected& selected = selected_[{port, channel(bytes)}];
            const bool fit = isControl(bytes) && isData(bytes[1]) && selected.any &&
                             selected.rpn == (source.kind == SourceKind::rpn) && selected.high >= 0 &&
                             selected.low >= 0 && source.number == selected.high * 128 + selected.low &&
                             source.number != 16383;
            return fit && hearReadings(instrument, chain, ear, source, port, bytes);
        }
        default:
            return false;
    }
}

bool Interpreter::hearReadings(const Instrument* instrument, const Chain& chain, const Ear& ear,
                               const Source& source, const std::string& port, const Bytes& bytes) {
    for (const Reading& reading : readings_) takeReading(instrument, chain, ear, source, reading);
    if (dataStep_ == 0 || source.kind == SourceKind::cc14) return true;
    const EarMemory& memory = memoryOf(instrument, chain).ears[ear];
    const int max = maxOf(source);
    int raw = memory.raw >= 0 ? memory.raw : encode(scaleOf(source), restOf(ensemble_, source), max);
    // One that was read as seven bits goes on as its high byte.
    if (raw > max) raw = (raw - max - 1) * (max == pitchRangeMax ? 100 : 128);
    speakRaw(instrument, chain, ear, source, std::clamp(raw + dataStep_, 0, max), port, channel(bytes));
    return true;
}

void Interpreter::takeReading(const Instrument* instrument, const Chain& chain, const Ear& ear,
                              const Source& source, const Reading& reading) {
    const auto& [port, from, pairKind, number] = reading.id;
    if (!samePair(source, pairKind, number) || !inputFits(instrument, port, from)) return;
    if (instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument)) return;
    const std::string* wanted = portOf(ensemble_, source);
    if ((wanted != nullptr && !fits(*wanted, port)) || (source.channel && *source.channel != from)) return;
    const int max = maxOf(source);
    int raw = reading.value;
    if (reading.coarse) {
        raw = max + 1 + reading.value;
    } else if (max == pitchRangeMax) {
        raw = reading.value / 128 * 100 + std::min(reading.value % 128, 99);
    }
    speakRaw(instrument, chain, ear, source, raw, port, from);
}

void Interpreter::high(const PairId& id, int value) {
    PairMemory& pair = pairs_[id];
    if (pair.waitingSince) {
        readings_.push_back({id, pair.high * 128, false});
        pair.waitingSince.reset();
        pair.alone = std::min(3, pair.alone + 1);
    }
    pair.high = value;
    if (pair.alone == 3) {
        readings_.push_back({id, value, true});
        return;
    }
    pair.waitingSince = now_;
    pair.arrival = ++arrivals_;
}

void Interpreter::low(const PairId& id, int value) {
    PairMemory& pair = pairs_[id];
    pair.waitingSince.reset();
    pair.alone = 0;
    readings_.push_back({id, pair.high * 128 + value, false});
}

int Interpreter::keysDown(const Instrument* instrument, const Source& source) const {
    const std::string* wanted = portOf(ensemble_, source);
    return static_cast<int>(std::count_if(keysDown_.begin(), keysDown_.end(), [&](const InputKey& down) {
        const auto& [port, from, key] = down;
        return inputFits(instrument, port, from) && keyFor(instrument, key) &&
               (wanted == nullptr || fits(*wanted, port)) && (!source.channel || *source.channel == from);
    }));
}

void Interpreter::followKeys(const Instrument* instrument, const Chain& chain, const Ear& ear,
                             const Source& source, const Bytes& bytes, bool changed, int down) {
    GeneratorState& generator = memoryOf(instrument, chain).ears[ear].generator;
    if (isOn(bytes)) noteBegins(source, generator, now_);
    if (isOff(bytes) && changed && down == 0) lastNoteEnds(source, generator, now_);
}

void Interpreter::speakRaw(const Instrument* instrument, const Chain& chain, const Ear& ear,
                           const Source& source, int raw, const std::string& port, int from) {
    EarMemory& memory = memoryOf(instrument, chain).ears[ear];
    memory.raw = raw;
    const int max = maxOf(source);
    const double place =
        raw > max ? decode(scaleOf(source), raw - max - 1, 127) : decode(scaleOf(source), raw, max);
    std::optional<double> position = place;
    if (ear.what == Ear::For::source) position = handOver(chain, memory, source, place, port, from);
    if (position) speak(instrument, chain, ear, *position);
}

void Interpreter::speak(const Instrument* instrument, const Chain& chain, const Ear& ear, double position) {
    ChainMemory& memory = memoryOf(instrument, chain);
    memory.ears[ear].position = position;
    memory.ears[ear].spoken = true;
    Due& due = due_[idOf(instrument, chain)];
    if (ear.what == Ear::For::source) due.source = true;
    if (ear.what == Ear::For::combine) {
        due.combine = true;
        auto& steps = ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
        steps[static_cast<std::size_t>(ear.step)].other = position;
        steps[static_cast<std::size_t>(ear.step)].stirred = true;
    }
}

std::optional<double> Interpreter::handOver(const Chain& chain, EarMemory& memory, const Source& source,
                                            double place, const std::string& port, int from) {
    const Handover handover = handoverOf(ensemble_, chain);
    if (handover == Handover::jump || row(source.kind).origin != Origin::message) return place;
    const std::pair control{port, from};
    const bool sameControl = memory.hand == control;
    if (sameControl && memory.caught) return place;
    const double value = memory.position;
    const double before = memory.handPlace;
    memory.hand = control;
    memory.handPlace = place;
    const bool reaches = std::abs(place - value) < 1e-9;
    const bool crosses = sameControl && (before < value) != (place < value);
    memory.caught = reaches || (handover == Handover::meet && crosses);
    if (memory.caught) return place;
    if (handover == Handover::meet || !sameControl || place == before) return std::nullopt;
    const double next = place > before ? value + (1 - value) * (place - before) / (1 - before)
                                       : value - value * (before - place) / before;
    memory.caught = std::abs(place - next) < 1e-9;
    return clamped(memory.caught ? place : next);
}

// Running.

/// Chains in their order, each instrument's passing on behind its chains; then what a later chain moved by a
/// tie line; then everything is sent.
void Interpreter::play(const std::vector<const Instrument*>& passers) {
    sendings_.clear();
    const auto pass = [&](const Instrument* instrument) {
        if (instrument != nullptr && std::find(passers.begin(), passers.end(), instrument) != passers.end()) {
            Sending passing;
            passing.passer = instrument;
            sendings_.push_back(passing);
        }
    };
    std::vector<std::pair<const Instrument*, const Chain*>> order;
    forEachChain(
        [&](const Instrument* instrument, const Chain& chain) { order.emplace_back(instrument, &chain); });
    const auto run = [&](const Instrument* instrument, const Chain& chain) {
        const auto due = due_.find(idOf(instrument, chain));
        if (due == due_.end()) return;
        const Due why = due->second;
        due_.erase(due);
        runChain(instrument, chain, why);
    };
    std::size_t next = 0;
    for (; next < order.size() && order[next].first == nullptr; ++next) run(nullptr, *order[next].second);
    for (const Instrument& instrument : ensemble_.instruments) {
        for (; next < order.size() && order[next].first == &instrument; ++next)
            run(&instrument, *order[next].second);
        pass(&instrument);
    }
    while (std::any_of(order.begin(), order.end(),
                       [&](const auto& each) { return due_.contains(idOf(each.first, *each.second)); })) {
        for (const auto& [instrument, chain] : order) run(instrument, *chain);
    }
    due_.clear();
    sendAll();
}

void Interpreter::runChain(const Instrument* instrument, const Chain& chain, const Due& due) {
    ChainMemory& memory = memoryOf(instrument, chain);
    const double position = memory.ears[{}].position;
    // Nothing has gone through it yet: it stands where its source rests.
    if (!due.source && due.combine && !memory.spoken)
        goOn(instrument, chain, position, false, Cue::none, true);
    memory.spoken = memory.spoken || due.source || due.combine;
    goOn(instrument, chain, due.source ? std::optional(position) : std::nullopt, due.tick,
         due.cue ? cue_ : Cue::none, false);
    for (StepState& state : memory.trunk) state.stirred = false;
    for (auto& branch : memory.branches) {
        for (StepState& state : branch) state.stirred = false;
    }
}

void Interpreter::goOn(const Instrument* instrument, const Chain& chain, std::optional<double> position,
                       bool tick, Cue cue, bool silently) {
    ChainMemory& memory = memoryOf(instrument, chain);
    walk(chain.steps, memory.trunk, position, tick, now_, cue);
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        if (feeds(instrument, chain, b)) runBranch(instrument, chain, b, position, tick, cue, silently);
    }
}

bool Interpreter::feeds(const Instrument* instrument, const Chain& chain, std::size_t branch) {
    if (chain.fan.mode == FanMode::all) return true;
    const auto count = static_cast<int>(chain.branches.size());
    const double q = memoryOf(instrument, chain).ears[{Ear::For::chooser, -1, 0}].position;
    return static_cast<int>(branch) == std::min(count - 1, static_cast<int>(std::floor(q * count)));
}

void Interpreter::runBranch(const Instrument* instrument, const Chain& chain, std::size_t b,
                            std::optional<double> p, bool tick, Cue cue, bool silently) {
    const Branch& branch = chain.branches[b];
    const Target target = targetOf(ensemble_, instrument, branch.target);
    const bool targetOff = target.instrument != nullptr && !runs(*target.instrument);
    if (!branch.on || targetOff) return;
    const Range range = rangeOf(target);
    bool resting = false;
    if (p && branch.window) {
        const BranchWindow& window = *branch.window;
        const bool inside =
            *p >= std::min(window.low, window.high) && *p <= std::max(window.low, window.high);
        if (!inside && window.outside != Outside::clamp) {
            p.reset();
            resting = window.outside == Outside::rest;
        } else if (window.low == window.high) {
            p = *p >= window.low ? 1 : 0;
        } else {
            p = clamped((*p - window.low) / (window.high - window.low));
        }
    }
    walk(branch.steps, memoryOf(instrument, chain).branches[b], p, tick, now_, cue);
    if (silently) return;
    if (resting) {
        const double rest = target.parameter != nullptr ? restPosition(*target.parameter) : 0;
        return produce(instrument, chain, b, rest);
    }
    if (!p) return;
    const double low = *rawPosition(range, branch.low);
    const double high = *rawPosition(range, branch.high);
    produce(instrument, chain, b, nearestChoice(range, clamped(low + *p * (high - low))));
}

void Interpreter::produce(const Instrument* instrument, const Chain& chain, std::size_t b, double q) {
    memoryOf(instrument, chain).produced[b] = q;
    const Target target = targetOf(ensemble_, instrument, chain.branches[b].target);
    if (target.tieLine == nullptr) {
        sendings_.push_back({nullptr, target.instrument, target.parameter, &chain, q});
        return;
    }
    forEachChain([&](const Instrument* owner, const Chain& reader) {
        if (owner != nullptr && reader.active == Active::inHand && !inHand(*owner)) return;
        forEachEar(reader, [&](const Ear& ear, const Source& source) {
            if (source.kind == SourceKind::tieLine && source.tieLine == target.tieLine->id)
                speak(owner, reader, ear, q);
        });
    });
}

// Sending.

void Interpreter::sendAll() {
    for (std::size_t i = 0; i < sendings_.size(); ++i) {
        const Sending& each = sendings_[i];
        if (each.passer != nullptr) {
            passOn(*each.passer);
            continue;
        }
        if (each.parameter->mix == Mix::latest) {
            sendTo(*each.instrument, *each.parameter, each.q);
            continue;
        }
        const bool last =
            std::none_of(sendings_.begin() + static_cast<std::ptrdiff_t>(i) + 1, sendings_.end(),
                         [&](const Sending& later) { return later.parameter == each.parameter; });
        if (last) sendTo(*each.instrument, *each.parameter, mixed(*each.instrument, *each.parameter));
    }
}

double Interpreter::mixed(const Instrument& instrument, const Parameter& parameter) {
    std::vector<double> values;
    const auto collect = [&](const Instrument* owner, const std::vector<Chain>& chains) {
        std::set<std::string> seen;
        for (const Chain& chain : chains) {
            if (!seen.insert(chain.id).second || !runs(owner, chain)) continue;
            const ChainMemory& memory = memoryOf(owner, chain);
            for (std::size_t b = 0; b < chain.branches.size(); ++b) {
                const Target target = targetOf(ensemble_, owner, chain.branches[b].target);
                if (target.parameter == &parameter && chain.branches[b].on && memory.produced[b])
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
    return nearestChoice(rangeOf(parameter), clamped(q));
}

void Interpreter::sendTo(const Instrument& instrument, const Parameter& parameter, double q) {
    const Message& message = parameter.message;
    const Lane lane{instrument.output.port, instrument.output.channel};
    LaneMemory& memory = lanes_[lane];
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + lane.second - 1); };
    const auto low = [](int value) { return static_cast<std::uint8_t>(value % 128); };
    const auto high = [](int value) { return static_cast<std::uint8_t>(value / 128); };
    const auto isRepeat = [&](const std::string& name, int value) {
        const auto last = memory.last.find(name);
        return last != memory.last.end() && last->second == value;
    };
    const int value = encode(scaleOf(parameter), q, maxOf(parameter));
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
            const Range range = rangeOf(parameter);
            int program = value;
            if (range.law == Law::choices)
                program =
                    static_cast<int>(std::lround(q * static_cast<double>(range.choices.size() - 1))) % 128;
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
            const auto number = static_cast<float>(displayValue(rangeOf(parameter), q));
            const auto last = lastOsc_.find({lane.first, message.address});
            if (last != lastOsc_.end() && last->second == number && !parameter.repeats) break;
            lastOsc_[{lane.first, message.address}] = number;
            out_.push_back({now_, instrument.id, lane.first, {}, message.address, number});
            break;
        }
    }
}

/// Every control that leaves, passed ones included.
void Interpreter::control(const Instrument& instrument, const Lane& lane, int number, int value) {
    LaneMemory& memory = lanes_[lane];
    memory.last["cc" + std::to_string(number)] = value;
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
    const Lane lane{instrument.output.port, instrument.output.channel};
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
    std::set<std::tuple<std::string, int, int>> done;
    for (const Held& held : held_) {
        if (held.instrument != instrument.id || !done.insert({held.port, held.channel, held.key}).second)
            continue;
        auto& last = lanes_[{held.port, held.channel}].last;
        const std::string name = "key" + std::to_string(held.key);
        if (last.contains(name) && last[name] == value && !parameter.repeats) continue;
        last[name] = value;
        deliver(instrument.id, held.port,
                {static_cast<std::uint8_t>(0xA0 + held.channel - 1), static_cast<std::uint8_t>(held.key),
                 static_cast<std::uint8_t>(value)});
    }
}

void Interpreter::sendNote(const Instrument& instrument, const Parameter& parameter, bool on) {
    const InputKey cause{parameterPort + instrument.id + "/" + parameter.id, 0, 0};
    const auto held =
        std::find_if(held_.begin(), held_.end(), [&](const Held& each) { return each.input == cause; });
    if (on == (held != held_.end())) return;
    if (!on) {
        release(*held, {0x80, 0, 64});
        std::erase_if(held_, [](const Held& each) { return each.count == 0; });
        return;
    }
    const int key = parameter.message.number;
    held_.push_back({cause, instrument.id, instrument.output.port, instrument.output.channel, key, 1});
    deliver(instrument.id, instrument.output.port,
            {static_cast<std::uint8_t>(0x90 + instrument.output.channel - 1), static_cast<std::uint8_t>(key),
             static_cast<std::uint8_t>(parameter.message.velocity)});
}

// Passing on.

/// An instrument's turn to pass on the message at hand.
void Interpreter::passOn(const Instrument& instrument) {
    const auto own = matched_.find(instrument.id);
    const bool taken = sharedMatched_ || own != matched_.end();
    const bool keeps = sharedKeeps_ || (own != matched_.end() && own->second);
    if (isOff(bytes_)) {
        releaseIf(bytes_, [&](const Held& held) { return held.instrument == instrument.id; });
    } else if (isOn(bytes_)) {
        if (instrument.pass.notes && (!taken || keeps)) beginNote(instrument);
    } else if (kind(bytes_) == 0xA0) {
        if (taken ? keeps : instrument.pass.unmatched) followNote(instrument);
    } else {
        const bool channelMode = isControl(bytes_) && bytes_[1] >= 120;
        if (channelMode || (taken ? keeps : instrument.pass.unmatched)) pass(instrument, port_, bytes_);
    }
}

void Interpreter::pass(const Instrument& instrument, const std::string&, const Bytes& bytes) {
    const Lane lane{instrument.output.port, instrument.output.channel};
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
        if (bytes[1] == 120 || bytes[1] >= 123)
            std::erase_if(held_, [&](const Held& held) { return Lane{held.port, held.channel} == lane; });
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
    if (!key) return;
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    const auto same = std::find_if(held_.begin(), held_.end(), [&](const Held& held) {
        return held.input == input && held.instrument == instrument.id &&
               held.port == instrument.output.port && held.channel == instrument.output.channel &&
               held.key == *key;
    });
    if (same != held_.end()) {
        ++same->count;
    } else {
        held_.push_back({input, instrument.id, instrument.output.port, instrument.output.channel, *key, 1});
    }
    const auto velocity = velocities_.find(instrument.id);
    deliver(instrument.id, instrument.output.port,
            {static_cast<std::uint8_t>(0x90 + instrument.output.channel - 1), static_cast<std::uint8_t>(*key),
             velocity == velocities_.end() ? bytes_[2] : static_cast<std::uint8_t>(velocity->second)});
}

void Interpreter::followNote(const Instrument& instrument) {
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    const auto follow = [&](const std::string& port, int out, int key) {
        lanes_[{port, out}].last["key" + std::to_string(key)] = bytes_[2];
        deliver(instrument.id, port,
                {static_cast<std::uint8_t>(0xA0 + out - 1), static_cast<std::uint8_t>(key), bytes_[2]});
    };
    bool follows = false;
    for (const Held& held : held_) {
        if (held.input != input || held.instrument != instrument.id) continue;
        follows = true;
        follow(held.port, held.channel, held.key);
    }
    const auto key = keyFor(&instrument, bytes_[1]);
    if (!follows && key && instrument.pass.notes)
        follow(instrument.output.port, instrument.output.channel, *key);
}

void Interpreter::release(Held& held, const Bytes& bytes) {
    --held.count;
    int still = 0;
    for (const Held& other : held_) {
        if (other.port == held.port && other.channel == held.channel && other.key == held.key)
            still += other.count;
    }
    if (still > 0) return;
    Bytes off = bytes;
    off[0] = static_cast<std::uint8_t>((bytes[0] & 0xF0) + held.channel - 1);
    off[1] = static_cast<std::uint8_t>(held.key);
    deliver(held.instrument, held.port, off);
}

void Interpreter::releaseIf(const Bytes& bytes, auto&& wanted) {
    const InputKey input{port_, channel(bytes), bytes[1]};
    for (Held& held : held_) {
        if (held.input == input && held.count > 0 && wanted(held)) release(held, bytes);
    }
}

// Silence, edits, hands.

void Interpreter::forget(const Lane& lane) {
    lanes_[lane] = {};
}

std::vector<Sent> Interpreter::silenceAll() {
    std::vector<std::tuple<std::string, int, int>> ended;
    for (const Held& held : held_) {
        const std::tuple place{held.port, held.channel, held.key};
        if (std::find(ended.begin(), ended.end(), place) != ended.end()) continue;
        ended.push_back(place);
        deliver(
            held.instrument, held.port,
            {static_cast<std::uint8_t>(0x80 + held.channel - 1), static_cast<std::uint8_t>(held.key), 64});
    }
    held_.clear();
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
void Interpreter::carry(const Ensemble& before, const std::map<ChainId, bool>& ranBefore,
                        const std::map<std::string, bool>& instrumentsRanBefore,
                        std::map<ChainId, ChainMemory>& oldMemory) {
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        const ChainId id = idOf(instrument, chain);
        const Instrument* old =
            instrument == nullptr ? nullptr : findById(before.instruments, instrument->id);
        if (instrument != nullptr && old == nullptr) return;
        const Chain* oldChain = findById(instrument == nullptr ? before.sharedChains : old->chains, chain.id);
        const auto ran = ranBefore.find(id);
        if (oldChain == nullptr || ran == ranBefore.end() || !ran->second) return;
        const auto resolvedBefore = [&](const Source& source) { return resolved(before, source); };
        const auto resolvedNow = [&](const Source& source) { return resolved(ensemble_, source); };
        if (resolvedBefore(oldChain->source) != resolvedNow(chain.source)) return;
        ChainMemory& memory = memory_[id];
        const ChainMemory& was = oldMemory[id];
        memory.spoken = was.spoken;
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
            const Target targetNow = targetOf(ensemble_, instrument, now.target);
            const Target targetThen = targetOf(before, old, then.target);
            if (targetNow.parameter == nullptr) continue;
            const bool offNow = !runs(*targetNow.instrument);
            const bool offThen =
                targetThen.instrument != nullptr && !instrumentsRanBefore.at(targetThen.instrument->id);
            same = same && offNow == offThen;
            if (offNow && offThen) {
                same = same && *targetThen.parameter == *targetNow.parameter;
                continue;
            }
            same = same && targetThen.parameter != nullptr && *targetThen.parameter == *targetNow.parameter &&
                   targetThen.instrument->output.port == targetNow.instrument->output.port &&
                   targetThen.instrument->output.channel == targetNow.instrument->output.channel;
        }
        std::map<Ear, Source> earsThen;
        forEachEar(*oldChain,
                   [&](const Ear& ear, const Source& source) { earsThen[ear] = resolvedBefore(source); });
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const auto then = earsThen.find(ear);
            if (then == earsThen.end() || then->second != resolvedNow(written)) {
                same = false;
                return;
            }
            memory.ears[ear] = was.ears.at(ear);
            if (ear.what != Ear::For::combine) return;
            auto& steps =
                ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
            steps[static_cast<std::size_t>(ear.step)].other = memory.ears[ear].position;
        });
        const bool sleeps = instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument);
        if (was.spoken && !same && !sleeps) due_[id].source = true;
    });
}

std::vector<Sent> Interpreter::edit(Ensemble ensemble) {
    const Ensemble before = std::exchange(ensemble_, withoutOffSteps(std::move(ensemble)));
    const auto wasInHand = [&](const Instrument& instrument) {
        return !before.inHand ||
               std::find(before.inHand->begin(), before.inHand->end(), instrument.id) != before.inHand->end();
    };
    const auto ranBefore = chainRuns_;
    const auto instrumentsBefore = instrumentRuns_;
    auto oldMemory = std::exchange(memory_, {});
    cue_ = Cue::none;
    prepare();
    carry(before, ranBefore, instrumentsBefore, oldMemory);

    std::set<std::string> drivenNotes;
    std::set<std::string> drivenVelocities;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        for (const Branch& branch : chain.branches) {
            const Target target = targetOf(ensemble_, instrument, branch.target);
            if (!branch.on || target.parameter == nullptr || !runs(*target.instrument)) continue;
            if (target.parameter->message.kind == MessageKind::note)
                drivenNotes.insert(parameterPort + target.instrument->id + "/" + target.parameter->id);
            if (target.parameter->message.kind == MessageKind::velocity)
                drivenVelocities.insert(target.instrument->id);
        }
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            const bool sleeps =
                instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument);
            if (source.kind != SourceKind::envelope || sleeps) return;
            if (keysDown(instrument, source) == 0)
                lastNoteEnds(source, memoryOf(instrument, chain).ears[ear].generator, now_);
        });
    });
    std::erase_if(velocities_, [&](const auto& each) { return !drivenVelocities.contains(each.first); });
    const auto isParameters = [](const Held& held) {
        return std::get<0>(held.input).starts_with(parameterPort);
    };
    for (Held& held : held_) {
        if (isParameters(held) && !drivenNotes.contains(std::get<0>(held.input)))
            release(held, {0x80, 0, 64});
    }
    std::erase_if(held_, [](const Held& held) { return held.count == 0; });

    for (const Instrument& instrument : ensemble_.instruments) {
        const Instrument* was = findById(before.instruments, instrument.id);
        const auto ran = instrumentsBefore.find(instrument.id);
        if (!runs(instrument) || was == nullptr || ran == instrumentsBefore.end() || !ran->second) continue;
        if (wasInHand(*was) == inHand(instrument)) continue;
        if (!inHand(instrument)) {
            leaveHand(*was, instrument);
            continue;
        }
        for (const Chain& chain : instrument.chains) {
            if (chain.active == Active::inHand && runs(&instrument, chain)) {
                EarMemory& ear = memoryOf(&instrument, chain).ears[{}];
                ear.hand.reset();
                ear.caught = false;
            }
        }
        comeIntoHand(instrument);
    }
    play({});
    return std::exchange(out_, {});
}

void Interpreter::leaveHand(const Instrument& was, const Instrument& instrument) {
    const Lane lane{was.output.port, was.output.channel};
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
    for (Held& held : held_) {
        if (std::get<0>(held.input).starts_with(parameterPort) && held.instrument == instrument.id)
            release(held, {0x80, 0, 64});
    }
    std::erase_if(held_, [](const Held& held) { return held.count == 0; });
}

void Interpreter::comeIntoHand(const Instrument& instrument) {
    for (const auto& [from, values] : pedals_) {
        if (!inputFits(&instrument, from.first, from.second)) continue;
        for (const auto& [pedal, value] : values) {
            if (value >= 64) givePedal(instrument, from.first, from.second, pedal, value);
        }
    }
}

void Interpreter::givePedal(const Instrument& instrument, const std::string& port, int channel, int pedal,
                            int value) {
    const Bytes bytes{static_cast<std::uint8_t>(0xB0 + channel - 1), static_cast<std::uint8_t>(pedal),
                      static_cast<std::uint8_t>(value)};
    bool taken = false;
    bool keeps = false;
    forEachChain([&](const Instrument* owner, const Chain& chain) {
        if (owner != nullptr && owner != &instrument) return;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = resolved(ensemble_, written);
            const std::string* wanted = portOf(ensemble_, source);
            const bool hears = (source.kind == SourceKind::cc || source.kind == SourceKind::relative) &&
                               source.number == pedal && (wanted == nullptr || fits(*wanted, port)) &&
                               (!source.channel || *source.channel == channel);
            if (!hears) return;
            taken = true;
            keeps = keeps || chain.keepOriginal;
            if (owner != nullptr && chain.active == Active::inHand)
                hearWith(owner, chain, ear, source, port, bytes, pedal);
        });
    });
    if (taken ? keeps : instrument.pass.unmatched) pass(instrument, port, bytes);
}

void Interpreter::deliver(const std::string& instrument, const std::string& port, Bytes bytes) {
    out_.push_back({now_, instrument, port, std::move(bytes), {}, 0});
}

}  // namespace mellow::reference
