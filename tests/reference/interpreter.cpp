#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"

namespace mellow::reference {

namespace {

using Bytes = std::vector<std::uint8_t>;

constexpr const char* parameterPort = "\n";  ///< stands for a parameter where a note's cause is a key

template<class List>
const typename List::value_type* withId(const List& list, std::string_view id) {
    for (const auto& each : list) {
        if (each.id == id) return &each;
    }
    return nullptr;
}

bool fits(const std::string& filter, const std::string& port) {
    return filter == "any" || port == "any" || filter == port;
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
void walk(const std::vector<Step>& steps, std::vector<Memory>& memory, std::optional<double>& p, bool tick,
          std::int64_t now, std::optional<bool> cueByNote) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Step& step = steps[i];
        if (!remembers(step)) {
            if (p) p = shape(step, *p);
            continue;
        }
        Memory& state = memory[i];
        const double before = state.result;
        if (!p && state.stirred && state.started) p = state.input;
        if (p) take(step, state, *p, now);
        if (cueByNote) letThrough(step, state, *cueByNote);
        if (tick) reference::tick(step, state, now);
        if (p || state.result != before) p = state.result;
    }
}

/// The present value behind the first `count` steps; those that have had no input take this as their first.
double present(const std::vector<Step>& steps, std::vector<Memory>& memory, std::size_t count, double p,
               std::int64_t now) {
    for (std::size_t i = 0; i < count; ++i) {
        if (!remembers(steps[i])) {
            p = shape(steps[i], p);
            continue;
        }
        if (!memory[i].started) take(steps[i], memory[i], p, now);
        p = memory[i].result;
    }
    return p;
}

std::size_t firstStirred(const std::vector<Memory>& memory) {
    std::size_t i = 0;
    while (i < memory.size() && !memory[i].stirred) ++i;
    return i;
}

bool samePair(const Source& source, int pairKind, int number) {
    const SourceKind wanted = pairKind == 0   ? SourceKind::cc14
                              : pairKind == 1 ? SourceKind::rpn
                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

/// Where a branch's window puts a position; nothing when it is outside and the window does not clamp.
std::optional<double> through(const std::optional<BranchWindow>& window, double p) {
    if (!window) return p;
    const double low = window->low;
    const double high = window->high;
    const bool inside = p >= std::min(low, high) && p <= std::max(low, high);
    if (!inside && window->outside != Outside::clamp) return std::nullopt;
    if (low == high) return p >= low ? 1 : 0;
    return clamped((p - low) / (high - low));
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
void Interpreter::forEachChain(Visit&& visit) {
    for (const Turn& turn : running_.turns) {
        if (turn.chain != nullptr) visit(turn.instrument, *turn.chain);
    }
}

void Interpreter::prepare() {
    running_ = runningOf(ensemble_);
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        ChainMemory& memory = memoryOf(instrument, chain);
        memory = {};
        memory.trunk.resize(chain.steps.size());
        memory.branches.resize(chain.branches.size());
        memory.produced.resize(chain.branches.size());
        for (std::size_t b = 0; b < chain.branches.size(); ++b)
            memory.branches[b].resize(chain.branches[b].steps.size());
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            memory.ears[ear].position = restOf(ensemble_, heard(ensemble_, written));
            if (ear.what != Ear::For::combine) return;
            auto& steps = ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
            steps[static_cast<std::size_t>(ear.step)].other = memory.ears[ear].position;
        });
    });
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument)) continue;
        const auto sameLane = [&](const auto& lane) {
            return std::get<0>(lane) == instrument.output.port &&
                   std::get<1>(lane) == instrument.output.channel;
        };
        if (std::none_of(lanesUsed_.begin(), lanesUsed_.end(), sameLane))
            lanesUsed_.emplace_back(instrument.output.port, instrument.output.channel, instrument.id);
    }
}

bool Interpreter::runs(const Instrument& instrument) const {
    return running_.instruments.at(instrument.id) && withId(ensemble_.instruments, instrument.id) == &instrument;
}

bool Interpreter::inHand(const Instrument& instrument) const {
    return !ensemble_.inHand || std::find(ensemble_.inHand->begin(), ensemble_.inHand->end(),
                                          instrument.id) != ensemble_.inHand->end();
}

/// Chains marked `inHand` of an instrument that is out of hand stand still.
bool Interpreter::sleeps(const Instrument* instrument, const Chain& chain) const {
    return instrument != nullptr && chain.active == Active::inHand && !inHand(*instrument);
}

// Events.

std::vector<Sent> Interpreter::process(std::int64_t time, const std::string& port, const Bytes& bytes) {
    out_ = advance(time);
    port_ = port;
    bytes_ = bytes;
    cue_ = Cue::none;
    begins_ = false;
    std::vector<const Instrument*> passers;
    for (const Turn& turn : running_.turns) {
        if (turn.chain != nullptr || !inHand(*turn.instrument)) continue;
        const bool hears = bytes[0] >= 0xF0 ? fits(turn.instrument->input.port, port)
                                            : inputFits(turn.instrument, port, channel(bytes));
        if (hears) passers.push_back(turn.instrument);
    }
    if (bytes[0] >= 0xF0) {
        if (ensemble_.tempo.follow == Follow::clock && fits(ensemble_.tempo.port, port)) hearClock(bytes[0]);
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
    hear(port, bytes);
    if (isOff(bytes)) {
        // Whoever holds the note ends it.
        passers.clear();
        for (const Turn& turn : running_.turns) {
            if (turn.chain == nullptr) passers.push_back(turn.instrument);
        }
    }
    play(passers);
    if (isOff(bytes)) {
        const InputKey input{port_, channel(bytes_), bytes_[1]};
        if (Held* held = heldBy(input)) {
            held->down = false;
            for (const Place& place : held->places) {
                const Instrument* instrument = withId(ensemble_.instruments, place.instrument);
                if (instrument == nullptr || !runs(*instrument)) offTo(place, bytes);
            }
            if (--held->unanswered == 0) {
                std::erase_if(begun_, [&](const auto& each) { return each.first == input; });
                std::erase_if(held_, [&](const Held& each) { return each.input == input; });
            }
        }
    }
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::processOsc(std::int64_t time, const std::string& port,
                                          const std::string& address, double number) {
    out_ = advance(time);
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (instrument != nullptr && !fits(instrument->input.port, port)) return;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = heard(ensemble_, written);
            if (source.kind != SourceKind::osc || std::get<std::string>(source.values[0]) != address) return;
            const auto from = portOf(ensemble_, source);
            if (from && !fits(*from, port)) return;
            hearPlace(instrument, chain, ear, source, clamped(number), {port, 0});
        });
    });
    cue_ = Cue::none;
    play({});
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::advance(std::int64_t until) {
    for (std::int64_t grid = now_ < 0 ? 0 : (now_ / 1000 + 1) * 1000; grid <= until; grid += 1000) {
        bool moves = std::any_of(pairs_.begin(), pairs_.end(),
                                 [](const auto& each) { return each.second.waitingSince.has_value(); });
        const auto anyMoves = [](const std::vector<Step>& steps, const std::vector<Memory>& memory) {
            bool any = false;
            for (std::size_t i = 0; i < steps.size(); ++i) any = any || isMoving(steps[i], memory[i]);
            return any;
        };
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            if (sleeps(instrument, chain)) return;
            const ChainMemory& memory = memoryOf(instrument, chain);
            moves = moves || anyMoves(chain.steps, memory.trunk);
            for (std::size_t b = 0; b < chain.branches.size(); ++b)
                moves = moves || (feeds(instrument, chain, b) &&
                                  anyMoves(chain.branches[b].steps, memory.branches[b]));
            forEachEar(chain, [&](const Ear& ear, const Source& source) {
                moves = moves || (isGenerator(source) && stillMoves(source, memory.ears.at(ear).generator));
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
        readings_.clear();
        giveUpWaiting(id);
        const Reading reading = readings_.front();
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            forEachEar(chain, [&](const Ear& ear, const Source& written) {
                takeReading(instrument, chain, ear, heard(ensemble_, written), reading);
            });
        });
    }
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (sleeps(instrument, chain)) return;
        ChainMemory& chainMemory = memoryOf(instrument, chain);
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            EarMemory& memory = chainMemory.ears[ear];
            if (!isGenerator(source) || !stillMoves(source, memory.generator)) return;
            const double position = clamped(positionAt(source, memory.generator, now_, tempo()));
            if (position != memory.position || !memory.spoken) speak(instrument, chain, ear, position);
        });
        due_[idOf(instrument, chain)].tick = true;
    });
    play({});
}

// The tempo.

double Interpreter::tempo() const {
    if (fileTempo_ > 0) return fileTempo_;
    if (clockTempo_ > 0) return clockTempo_;
    return ensemble_.tempo.bpm > 0 ? ensemble_.tempo.bpm : 120;
}

/// Cycles in beats go on from where they stand, those of chains that sleep too.
void Interpreter::changeTempo(double before) {
    if (before == tempo()) return;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            tempoChange(source, memoryOf(instrument, chain).ears[ear].generator, std::max<std::int64_t>(now_, 0),
                        before);
        });
    });
}

void Interpreter::setTempo(double bpm) {
    const double before = tempo();
    fileTempo_ = bpm;
    changeTempo(before);
}

void Interpreter::hearClock(int status) {
    if (status == 0xFA || status == 0xFB) clocks_.clear();
    if (status == 0xFA) {
        forEachChain([&](const Instrument* instrument, const Chain& chain) {
            forEachEar(chain, [&](const Ear& ear, const Source& source) {
                clockStart(source, memoryOf(instrument, chain).ears[ear].generator, now_);
            });
        });
    }
    if (status != 0xF8) return;
    if (!clocks_.empty() && now_ - clocks_.back() > 500000) clocks_.clear();
    const std::size_t n = std::min<std::size_t>(24, clocks_.size());
    const std::int64_t span = n == 0 ? 0 : now_ - clocks_[clocks_.size() - n];
    clocks_.push_back(now_);
    if (span == 0) return;
    const double before = tempo();
    const double bpm = 60000000.0 * static_cast<double>(n) / (24.0 * static_cast<double>(span));
    clockTempo_ = bpm < 20 ? 20 : bpm > 400 ? 400 : bpm;
    changeTempo(before);
}

// Hearing.

/// Pairs that nobody listens to are not followed.
bool Interpreter::someoneHears(int pairKind, int number, int from) {
    bool hears = false;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = heard(ensemble_, written);
            if (!samePair(source, pairKind, number)) return;
            const bool handsOver =
                ear.what == Ear::For::source && handoverOf(ensemble_, chain) != Handover::jump;
            if (sleeps(instrument, chain) && !handsOver) return;
            const bool here = (!source.channel || *source.channel == from) &&
                              (instrument == nullptr || !instrument->input.channel ||
                               *instrument->input.channel == from);
            hears = hears || pairKind == 0 || here;
        });
    });
    return hears;
}

void Interpreter::hearPairs(const std::string& port, const Bytes& bytes) {
    const int from = channel(bytes);
    Selected& selected = selected_[{port, from}];
    if (isSelect(bytes[1])) {
        const bool rpn = bytes[1] >= 100;
        if (!selected.any || selected.rpn != rpn) selected = {rpn, -1, -1, true};
        (bytes[1] % 2 == 1 ? selected.high : selected.low) = bytes[2];
    }
    const int number = selected.high * 128 + selected.low;
    const bool isSelected = selected.any && selected.high >= 0 && selected.low >= 0 && number != 16383;
    const int pairKind = selected.rpn ? 1 : 2;
    if (isData(bytes[1]) && isSelected && someoneHears(pairKind, number, from)) {
        const PairId id{port, from, pairKind, number};
        if (bytes[1] == 6) high(id, bytes[2]);
        if (bytes[1] == 38) low(id, bytes[2]);
        if (bytes[1] >= 96) {
            giveUpWaiting(id);
            PairMemory& pair = pairs_[id];
            dataStep_ = bytes[1] == 96 ? 1 : -1;
            dataCoarse_ = pair.alone == 3;
            if (dataCoarse_) pair.high = std::clamp(pair.high + dataStep_, 0, 127);
        }
    }
    if (bytes[1] < 64 && someoneHears(0, bytes[1] % 32, from)) {
        const PairId id{port, from, 0, bytes[1] % 32};
        if (bytes[1] < 32) {
            high(id, bytes[2]);
        } else {
            low(id, bytes[2]);
        }
    }
}

void Interpreter::hear(const std::string& port, const Bytes& bytes) {
    readings_.clear();
    dataStep_ = 0;
    dataCoarse_ = false;
    sharedMatched_ = false;
    sharedKeeps_ = false;
    matched_.clear();
    const int from = channel(bytes);
    bool keyChanged = false;
    if (isOn(bytes)) keyChanged = keysDown_.insert({port, from, bytes[1]}).second;
    if (isOff(bytes)) keyChanged = keysDown_.erase({port, from, bytes[1]}) > 0;
    if (isControl(bytes)) hearPairs(port, bytes);

    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        if (!inputFits(instrument, port, from)) return;
        const bool hasKey = kind(bytes) == 0x90 || kind(bytes) == 0x80 || kind(bytes) == 0xA0;
        const auto key = hasKey ? keyFor(instrument, bytes[1]) : std::optional<int>(bytes[1]);
        if (!key) return;
        // A note reaches an instrument only in hand; a pedal counts all the same.
        const bool reaches = cue_ == Cue::pedalDown || instrument == nullptr || inHand(*instrument);
        if (cue_ != Cue::none && reaches && !sleeps(instrument, chain)) due_[idOf(instrument, chain)].cue = true;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = heard(ensemble_, written);
            const auto wanted = portOf(ensemble_, source);
            if ((wanted && !fits(*wanted, port)) || (source.channel && *source.channel != from)) return;
            if (isGenerator(source)) {
                if (!sleeps(instrument, chain)) followKeys(instrument, chain, ear, source, bytes, keyChanged);
                return;
            }
            if (!hearWith(instrument, chain, ear, source, port, bytes, *key)) return;
            if (sleeps(instrument, chain)) return;
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

bool Interpreter::listensTo(const Instrument* instrument, const Source& source, const std::string& port,
                            int from) const {
    const auto wanted = portOf(ensemble_, source);
    return inputFits(instrument, port, from) && (!wanted || fits(*wanted, port)) &&
           (!source.channel || *source.channel == from);
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
            return isOff(bytes) && take(kind(bytes) == 0x80 ? bytes[2] : 64);
        case SourceKind::keyNumber:
            return isOn(bytes) && take(key);
        case SourceKind::key: {
            const auto holds = [&](const InputKey& down) {
                const auto& [from, on, incoming] = down;
                return incoming == bytes[1] && listensTo(instrument, source, from, on);
            };
            return (isOn(bytes) || isOff(bytes)) && key == source.number &&
                   take(std::any_of(keysDown_.begin(), keysDown_.end(), holds) ? 127 : 0);
        }
        case SourceKind::relative:
            if (!isControl(bytes) || bytes[1] != source.number) return false;
            if (!sleeps(instrument, chain))
                speak(instrument, chain, ear,
                      clamped(memoryOf(instrument, chain).ears[ear].position +
                              encoderMove(source, bytes[2])));
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
    const Raws raws = rawsOf(source);
    // Raw values above the highest are those of seven bits.
    const int firstCoarse = raws.max + 1;
    const int half = raws.max == 12799 ? 100 : 128;
    const double rest = restOf(ensemble_, source);
    int raw = memory.raw;
    if (dataCoarse_) {
        int seven = encode({raws.centred, 127}, rest);
        if (raw >= 0) seven = raw >= firstCoarse ? raw - firstCoarse : raw / half;
        raw = firstCoarse + std::clamp(seven + dataStep_, 0, 127);
    } else {
        if (raw < 0) raw = encode(raws, rest);
        if (raw >= firstCoarse) raw = (raw - firstCoarse) * half;
        raw = std::clamp(raw + dataStep_, 0, raws.max);
    }
    speakRaw(instrument, chain, ear, source, raw, port, channel(bytes));
    return true;
}

void Interpreter::takeReading(const Instrument* instrument, const Chain& chain, const Ear& ear,
                              const Source& source, const Reading& reading) {
    const auto& [port, from, pairKind, number] = reading.id;
    if (!samePair(source, pairKind, number) || !listensTo(instrument, source, port, from)) return;
    const int max = rawsOf(source).max;
    int raw = reading.value;
    if (reading.coarse) {
        raw = max + 1 + reading.value;
    } else if (max == 12799) {
        raw = reading.value / 128 * 100 + std::min(reading.value % 128, 99);
    }
    speakRaw(instrument, chain, ear, source, raw, port, from);
}

/// A high byte that waits is taken as it is.
void Interpreter::giveUpWaiting(const PairId& id) {
    PairMemory& pair = pairs_[id];
    if (!pair.waitingSince) return;
    readings_.push_back({id, pair.high * 128, false});
    pair.waitingSince.reset();
    pair.alone = std::min(3, pair.alone + 1);
}

void Interpreter::high(const PairId& id, int value) {
    giveUpWaiting(id);
    PairMemory& pair = pairs_[id];
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
    return static_cast<int>(std::count_if(keysDown_.begin(), keysDown_.end(), [&](const InputKey& down) {
        const auto& [port, from, key] = down;
        return keyFor(instrument, key) && listensTo(instrument, source, port, from);
    }));
}

void Interpreter::followKeys(const Instrument* instrument, const Chain& chain, const Ear& ear,
                             const Source& source, const Bytes& bytes, bool changed) {
    Generator& generator = memoryOf(instrument, chain).ears[ear].generator;
    if (isOn(bytes)) noteOn(source, generator, now_);
    if (isOff(bytes) && changed && keysDown(instrument, source) == 0) lastKeyUp(source, generator, now_);
}

void Interpreter::speakRaw(const Instrument* instrument, const Chain& chain, const Ear& ear,
                           const Source& source, int raw, const std::string& port, int from) {
    const Raws raws = rawsOf(source);
    const double place =
        raw > raws.max ? decode({raws.centred, 127}, raw - raws.max - 1) : decode(raws, raw);
    if (!sleeps(instrument, chain)) memoryOf(instrument, chain).ears[ear].raw = raw;
    hearPlace(instrument, chain, ear, source, place, {port, from});
}

/// A control stands at a place; the chain follows it as its handover says (section 5).
void Interpreter::hearPlace(const Instrument* instrument, const Chain& chain, const Ear& ear,
                            const Source& source, double place, const Control& from) {
    const Handover handover = handoverOf(ensemble_, chain);
    EarMemory& memory = memoryOf(instrument, chain).ears[ear];
    const bool isHandedOver =
        ear.what == Ear::For::source && handover != Handover::jump && isOfControl(source);
    if (!isHandedOver) {
        if (!sleeps(instrument, chain)) speak(instrument, chain, ear, place);
        return;
    }
    const bool known = memory.hands.contains(from);
    Hand& hand = memory.hands[from];
    const double c = std::exchange(hand.place, place);
    if (sleeps(instrument, chain)) return;
    const double v = memory.position;
    std::optional<double> moved;
    if (std::fabs(place - v) < 1e-9) hand.met = true;
    const bool crosses = known && std::min(c, place) <= v && v <= std::max(c, place);
    if (handover == Handover::meet && crosses) hand.met = true;
    if (hand.met) {
        moved = place;
    } else if (handover == Handover::glide && known && place > c) {
        moved = clamped(v + (1 - v) * (place - c) / (1 - c));
    } else if (handover == Handover::glide && known && place < c) {
        moved = clamped(v - v * (c - place) / c);
    }
    if (!moved) return;
    if (std::fabs(*moved - place) < 1e-9) {
        hand.met = true;
        moved = place;
    }
    // Moved by this control, it was moved by something else for all others.
    for (auto& [other, theirs] : memory.hands) {
        if (other != from && *moved != v) theirs.met = false;
    }
    speak(instrument, chain, ear, *moved);
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

// Running.

/// Chains and what instruments pass on, each in its turn; then everything is sent.
void Interpreter::play(const std::vector<const Instrument*>& passers) {
    sendings_.clear();
    for (const Turn& turn : running_.turns) {
        if (turn.chain == nullptr) {
            if (std::find(passers.begin(), passers.end(), turn.instrument) == passers.end()) continue;
            Sending passing;
            passing.passer = turn.instrument;
            sendings_.push_back(passing);
            continue;
        }
        const auto due = due_.find(idOf(turn.instrument, *turn.chain));
        if (due == due_.end()) continue;
        const Due why = due->second;
        due_.erase(due);
        runChain(turn.instrument, *turn.chain, why);
    }
    due_.clear();
    sendAll();
}

void Interpreter::runChain(const Instrument* instrument, const Chain& chain, const Due& due) {
    ChainMemory& memory = memoryOf(instrument, chain);
    if (!due.source && due.combine) startCombines(instrument, chain);
    memory.spoken = memory.spoken || due.source || due.combine;
    const Cue cue = due.cue ? cue_ : Cue::none;
    std::optional<double> position;
    if (due.source) position = memory.ears[{}].position;
    const auto byNote = cue == Cue::none ? std::nullopt : std::optional(cue == Cue::noteOn);
    walk(chain.steps, memory.trunk, position, due.tick, now_, byNote);
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        if (feeds(instrument, chain, b)) runBranch(instrument, chain, b, position, due.tick, cue);
    }
    for (Memory& state : memory.trunk) state.stirred = false;
    for (auto& branch : memory.branches) {
        for (Memory& state : branch) state.stirred = false;
    }
}

/// A combine to which nothing has come starts from the present value before it.
void Interpreter::startCombines(const Instrument* instrument, const Chain& chain) {
    ChainMemory& memory = memoryOf(instrument, chain);
    const double p = memory.ears[{}].position;
    const std::size_t inTrunk = firstStirred(memory.trunk);
    if (inTrunk < memory.trunk.size()) {
        Memory& combine = memory.trunk[inTrunk];
        if (!combine.started) combine.input = present(chain.steps, memory.trunk, inTrunk, p, now_);
        combine.started = true;
        return;
    }
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        const Branch& branch = chain.branches[b];
        auto& states = memory.branches[b];
        const std::size_t inBranch = firstStirred(states);
        const bool starts = inBranch < states.size() && !states[inBranch].started;
        if (!starts || !feeds(instrument, chain, b) || !leadsSomewhere(instrument, branch)) continue;
        const auto entering =
            through(branch.window, present(chain.steps, memory.trunk, chain.steps.size(), p, now_));
        if (!entering) continue;
        states[inBranch].input = present(branch.steps, states, inBranch, *entering, now_);
        states[inBranch].started = true;
    }
}

bool Interpreter::feeds(const Instrument* instrument, const Chain& chain, std::size_t branch) {
    if (chain.fan.mode == FanMode::all) return true;
    const auto count = static_cast<int>(chain.branches.size());
    const double q = memoryOf(instrument, chain).ears[{Ear::For::chooser, -1, 0}].position;
    return static_cast<int>(branch) == std::min(count - 1, static_cast<int>(std::floor(q * count)));
}

/// A branch that is off, or leads to an instrument that is, does nothing at all.
bool Interpreter::leadsSomewhere(const Instrument* instrument, const Branch& branch) const {
    const End end = endOf(ensemble_, instrument, branch.target);
    return branch.on && (end.instrument == nullptr || runs(*end.instrument));
}

void Interpreter::runBranch(const Instrument* instrument, const Chain& chain, std::size_t b,
                            std::optional<double> p, bool tick, Cue cue) {
    const Branch& branch = chain.branches[b];
    if (!leadsSomewhere(instrument, branch)) return;
    const End end = endOf(ensemble_, instrument, branch.target);
    bool resting = false;
    if (p) {
        p = through(branch.window, *p);
        resting = !p && branch.window->outside == Outside::rest;
    }
    const auto byNote = cue == Cue::none ? std::nullopt : std::optional(cue == Cue::noteOn);
    walk(branch.steps, memoryOf(instrument, chain).branches[b], p, tick, now_, byNote);
    if (resting) {
        const double rest =
            end.parameter != nullptr ? restPosition(*end.parameter) : clamped(end.tieLine->rest);
        return produce(instrument, chain, b, rest);
    }
    if (!p) return;
    const bool isLine = end.tieLine != nullptr;
    const double low = isLine ? std::get<double>(branch.low) : *rawPosition(*end.parameter, branch.low);
    const double high = isLine ? std::get<double>(branch.high) : *rawPosition(*end.parameter, branch.high);
    produce(instrument, chain, b, clamped(low + *p * (high - low)));
}

void Interpreter::produce(const Instrument* instrument, const Chain& chain, std::size_t b, double q) {
    memoryOf(instrument, chain).produced[b] = q;
    const End end = endOf(ensemble_, instrument, chain.branches[b].target);
    if (end.tieLine == nullptr) {
        sendings_.push_back({nullptr, end.instrument, end.parameter, q});
        return;
    }
    lines_[end.tieLine->id] = q;
    forEachChain([&](const Instrument* owner, const Chain& reader) {
        if (sleeps(owner, reader)) return;
        forEachEar(reader, [&](const Ear& ear, const Source& source) {
            if (source.kind == SourceKind::tieLine && source.tieLine == end.tieLine->id)
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
            sendTo(*each.instrument, *each.parameter, toLabel(*each.parameter, each.q));
            continue;
        }
        const bool last =
            std::none_of(sendings_.begin() + static_cast<std::ptrdiff_t>(i) + 1, sendings_.end(),
                         [&](const Sending& later) { return later.parameter == each.parameter; });
        if (last) sendTo(*each.instrument, *each.parameter, mixed(*each.instrument, *each.parameter));
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
    const int value = encode(rawsOf(parameter), q);
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
        case MessageKind::relative:
            break;
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
    std::vector<Place> done;
    for (const auto& [input, place] : begun_) {
        const auto same = [&](const Place& other) { return other.soundsLike(place); };
        if (place.instrument != instrument.id || !heldBy(input)->down) continue;
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
    const Place place{instrument.id, instrument.output.port, instrument.output.channel, key};
    held_.push_back({cause, {place}, true, 1});
    begun_.emplace_back(cause, place);
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
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    if (isOff(bytes_)) {
        Held* held = heldBy(input);
        if (held == nullptr) return;
        held->down = false;
        for (const Place& place : held->places) {
            if (place.instrument == instrument.id) offTo(place, bytes_);
        }
    } else if (isOn(bytes_)) {
        if (instrument.pass.notes && (!taken || keeps)) beginNote(instrument);
    } else if (kind(bytes_) == 0xA0) {
        if (instrument.pass.notes && (taken ? keeps : instrument.pass.unmatched)) followNote(instrument);
    } else {
        const bool channelMode = isControl(bytes_) && bytes_[1] >= 120;
        if (channelMode || (taken ? keeps : instrument.pass.unmatched)) pass(instrument, bytes_);
    }
}

void Interpreter::pass(const Instrument& instrument, const Bytes& bytes) {
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
    if (!key) return;
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    const Place place{instrument.id, instrument.output.port, instrument.output.channel, *key};
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
            {static_cast<std::uint8_t>(0x90 + instrument.output.channel - 1), static_cast<std::uint8_t>(*key),
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
    if (!follows && key) follow(instrument.output.port, instrument.output.channel, *key);
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

void Interpreter::endParameterNotes(auto&& wanted) {
    const auto begun = begun_;
    for (const auto& [input, place] : begun) {
        const std::string& cause = std::get<0>(input);
        if (!cause.starts_with(parameterPort) || !wanted(input, place)) continue;
        notesOn_.erase(cause.substr(1));
        std::erase_if(held_, [&, which = input](const Held& held) { return held.input == which; });
        std::erase_if(begun_, [&, which = input](const auto& each) { return each.first == which; });
        offTo(place, {0x80, 0, 64});
    }
}

// Silence, edits, hands.

void Interpreter::forget(const Lane& lane) {
    lanes_[lane] = {};
}

std::vector<Sent> Interpreter::silenceAll() {
    std::vector<Place> ended;
    for (const auto& [input, place] : begun_) {
        const auto same = [&](const Place& other) { return other.soundsLike(place); };
        if (std::any_of(ended.begin(), ended.end(), same)) continue;
        ended.push_back(place);
        deliver(place.instrument, place.port,
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
                        std::map<ChainId, ChainMemory>& oldMemory) {
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
            const End endNow = endOf(ensemble_, instrument, now.target);
            const End endThen = endOf(before, old, then.target);
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
        const bool slept = old != nullptr && oldChain->active == Active::inHand && before.inHand &&
                           std::find(before.inHand->begin(), before.inHand->end(), old->id) ==
                               before.inHand->end();
        if (slept && !sleeps(instrument, chain)) wake(instrument, chain);
        if (was.spoken && !same && !sleeps(instrument, chain)) due_[id].source = true;
    });
}

/// A chain that slept is handed over anew, and its tie lines stand where they were written to meanwhile.
void Interpreter::wake(const Instrument* instrument, const Chain& chain) {
    ChainMemory& memory = memoryOf(instrument, chain);
    for (auto& [from, hand] : memory.ears[{}].hands) hand.met = false;
    forEachEar(chain, [&](const Ear& ear, const Source& source) {
        if (source.kind != SourceKind::tieLine || !lines_.contains(source.tieLine)) return;
        memory.ears[ear].position = lines_[source.tieLine];
        if (ear.what != Ear::For::combine) return;
        auto& steps = ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
        steps[static_cast<std::size_t>(ear.step)].other = lines_[source.tieLine];
    });
}

std::vector<Sent> Interpreter::edit(Ensemble ensemble) {
    const double tempoBefore = tempo();
    const Ensemble before = std::exchange(ensemble_, withoutOffSteps(std::move(ensemble)));
    const auto wasInHand = [&](const Instrument& instrument) {
        return !before.inHand ||
               std::find(before.inHand->begin(), before.inHand->end(), instrument.id) != before.inHand->end();
    };
    const Running ranBefore = runningOf(before);
    auto oldMemory = std::exchange(memory_, {});
    cue_ = Cue::none;
    prepare();
    carry(before, ranBefore, oldMemory);
    if (before.tempo.follow != ensemble_.tempo.follow || before.tempo.port != ensemble_.tempo.port) {
        clockTempo_ = 0;
        clocks_.clear();
    }
    changeTempo(tempoBefore);

    std::set<std::string> drivenNotes;
    std::set<std::string> drivenVelocities;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        for (const Branch& branch : chain.branches) {
            const End end = endOf(ensemble_, instrument, branch.target);
            if (end.parameter == nullptr || !leadsSomewhere(instrument, branch)) continue;
            if (end.parameter->message.kind == MessageKind::note)
                drivenNotes.insert(end.instrument->id + "/" + end.parameter->id);
            if (end.parameter->message.kind == MessageKind::velocity) drivenVelocities.insert(end.instrument->id);
        }
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (source.kind != SourceKind::envelope || sleeps(instrument, chain)) return;
            if (keysDown(instrument, source) == 0)
                lastKeyUp(source, memoryOf(instrument, chain).ears[ear].generator, now_);
        });
    });
    std::erase_if(velocities_, [&](const auto& each) { return !drivenVelocities.contains(each.first); });
    endParameterNotes([&](const InputKey& input, const Place&) {
        return !drivenNotes.contains(std::get<0>(input).substr(1));
    });
    std::erase_if(notesOn_, [&](const std::string& name) { return !drivenNotes.contains(name); });

    for (const Instrument& instrument : ensemble_.instruments) {
        const Instrument* was = withId(before.instruments, instrument.id);
        if (!runs(instrument) || was == nullptr || !ranBefore.instruments.at(instrument.id)) continue;
        if (wasInHand(*was) == inHand(instrument)) continue;
        if (inHand(instrument)) {
            comeIntoHand(instrument);
        } else {
            leaveHand(*was, instrument);
        }
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
    endParameterNotes([&](const InputKey&, const Place& place) { return place.instrument == instrument.id; });
}

/// Pedals that are down: those above 0 behind the filter, the highest where ports and channels differ, sent
/// unless a chain consumes them.
void Interpreter::comeIntoHand(const Instrument& instrument) {
    std::map<int, Bytes> highest;
    for (const auto& [from, values] : pedals_) {
        if (!inputFits(&instrument, from.first, from.second)) continue;
        for (const auto& [pedal, value] : values) {
            const Bytes bytes{static_cast<std::uint8_t>(0xB0 + from.second - 1),
                              static_cast<std::uint8_t>(pedal), static_cast<std::uint8_t>(value)};
            if (value == 0 || !takePedal(instrument, from.first, bytes)) continue;
            if (!highest.contains(pedal) || value > highest[pedal][2]) highest[pedal] = bytes;
        }
    }
    for (const auto& [pedal, bytes] : highest) pass(instrument, bytes);
}

/// True when the pedal is to be passed on.
bool Interpreter::takePedal(const Instrument& instrument, const std::string& port, const Bytes& bytes) {
    bool taken = false;
    bool keeps = false;
    forEachChain([&](const Instrument* owner, const Chain& chain) {
        if (owner != nullptr && owner != &instrument) return;
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = heard(ensemble_, written);
            const bool hears = (source.kind == SourceKind::cc || source.kind == SourceKind::relative) &&
                               source.number == bytes[1] &&
                               listensTo(nullptr, source, port, channel(bytes));
            if (!hears) return;
            taken = true;
            keeps = keeps || chain.keepOriginal;
            if (owner != nullptr && chain.active == Active::inHand)
                hearWith(owner, chain, ear, source, port, bytes, bytes[1]);
        });
    });
    return taken ? keeps : instrument.pass.unmatched;
}

void Interpreter::deliver(const std::string& instrument, const std::string& port, Bytes bytes) {
    out_.push_back({now_, instrument, port, std::move(bytes), {}, 0});
}

}  // namespace mellow::reference
