// What runs and what it remembers, then events: what hears them, what passes them on, the clock between them,
// and the tempo. Hearing, running, sending and editing are in files of those names.
#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"
#include "reference/messages.h"

namespace mellow::reference {

Interpreter::Interpreter(Ensemble ensemble) : ensemble_(prepared(std::move(ensemble))) {
    takeHandFromDocument();
    prepare();
}

void Interpreter::takeHandFromDocument() {
    hand_.clear();
    for (const Instrument& instrument : ensemble_.instruments) {
        const auto& ids = ensemble_.inHand;
        hand_[instrument.id] = !ids || std::find(ids->begin(), ids->end(), instrument.id) != ids->end();
    }
}

Interpreter::ChainId Interpreter::idOf(const Instrument* instrument, const Chain& chain) {
    return {instrument == nullptr ? "\n" : instrument->id, chain.id};
}

Interpreter::ChainMemory& Interpreter::memoryOf(const Instrument* instrument, const Chain& chain) {
    return memory_[idOf(instrument, chain)];
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
            auto& steps =
                ear.branch < 0 ? memory.trunk : memory.branches[static_cast<std::size_t>(ear.branch)];
            steps[static_cast<std::size_t>(ear.step)].other = memory.ears[ear].position;
        });
    });
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument)) continue;
        addLane(instrument, instrument.output.channel);
        for (const Articulation& articulation : instrument.articulations) {
            for (const Select& select : articulation.select) {
                if (select.kind == SelectKind::channel && isSound(articulation))
                    addLane(instrument, select.value);
            }
        }
        for (int kept = 1; kept <= 16 && instrument.output.keepChannels; ++kept) addLane(instrument, kept);
    }
}

void Interpreter::addLane(const Instrument& instrument, int channel) {
    const auto sameLane = [&](const auto& lane) {
        return std::get<0>(lane) == instrument.output.port && std::get<1>(lane) == channel;
    };
    if (std::none_of(lanesUsed_.begin(), lanesUsed_.end(), sameLane))
        lanesUsed_.emplace_back(instrument.output.port, channel, instrument.id);
}

bool Interpreter::runs(const Instrument& instrument) const {
    return running_.instruments.at(instrument.id) &&
           withId(ensemble_.instruments, instrument.id) == &instrument;
}

bool Interpreter::inHand(const Instrument& instrument) const {
    return hand_.at(instrument.id);
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
    address_.clear();
    cue_ = Cue::none;
    begins_ = false;
    comingUp_.reset();
    turned_.clear();
    late_.clear();
    if (isOff(bytes)) {
        const InputKey input{port, channel(bytes), bytes[1]};
        const Held* held = heldBy(input);
        if (held != nullptr && held->down) comingUp_ = input;
    }
    if (bytes[0] < 0xF0) {
        followSelects(port, bytes);
        followZones(port, bytes);
        const bool clears = isControl(bytes) && (bytes[1] == 120 || bytes[1] >= 123);
        if (isOn(bytes) || isOff(bytes) || clears) chooseFingers();
    }
    std::vector<const Instrument*> passers;
    for (const Turn& turn : running_.turns) {
        if (turn.chain != nullptr) continue;
        const bool hears = bytes[0] >= 0xF0 ? fits(turn.instrument->input.port, port)
                                            : takesFrom(turn.instrument, port, channel(bytes));
        if (hears) passers.push_back(turn.instrument);
    }
    if (bytes[0] >= 0xF0) {
        if (ensemble_.tempo.follow == Follow::clock && fits(ensemble_.tempo.port, port)) hearClock(bytes[0]);
        for (const Instrument* instrument : passers) {
            if (!inHand(*instrument)) continue;
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
    return std::exchange(out_, {});
}

/// The off at hand is answered: what it ends that no instrument can pass on, and the count of its key.
void Interpreter::answerOff() {
    comingUp_.reset();
    const InputKey input{port_, channel(bytes_), bytes_[1]};
    Held* held = heldBy(input);
    if (held == nullptr) return;
    held->down = false;
    for (const Place& place : held->places) {
        const Instrument* instrument = withId(ensemble_.instruments, place.instrument);
        if (instrument == nullptr || !runs(*instrument)) offTo(place, bytes_);
    }
    if (--held->unanswered > 0) return;
    std::erase_if(begun_, [&](const auto& each) { return each.first == input; });
    std::erase_if(held_, [&](const Held& each) { return each.input == input; });
}

std::vector<Sent> Interpreter::processOsc(std::int64_t time, const std::string& port,
                                          const std::string& address, double number) {
    out_ = advance(time);
    port_ = port;
    bytes_.clear();
    address_ = address;
    number_ = number;
    cue_ = Cue::none;
    turned_.clear();
    late_.clear();
    for (const DeskPage& page : ensemble_.desk.pages) {
        for (const DeskElement& element : page.elements) {
            const bool isIt =
                port == "\n" && "/" + element.id == address && elementWith(ensemble_, element.id) == &element;
            // A latching button is on or off.
            if (isIt && element.kind == ElementKind::button && element.latching)
                number_ = number >= 0.5 ? 1 : 0;
        }
    }
    forEachChain([&](const Instrument* instrument, const Chain& chain) { hearAddress(instrument, chain); });
    play({});
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::processDesk(std::int64_t time, const std::string& address, double position) {
    const std::string desk = "\n";
    for (const DeskPage& page : ensemble_.desk.pages) {
        for (const DeskElement& element : page.elements) {
            const bool isTile = element.kind == ElementKind::articulations && !element.names.empty();
            const bool isIt = "/" + element.id == address && elementWith(ensemble_, element.id) == &element;
            if (!isTile || !isIt) continue;
            out_ = advance(time);
            const auto count = static_cast<int>(element.names.size());
            const int at = std::min(count - 1, static_cast<int>(std::floor(clamped(position) * count)));
            for (const Instrument& instrument : ensemble_.instruments) {
                if (!runs(instrument) || !inHand(instrument)) continue;
                const auto lower = [](std::string text) {
                    for (char& letter : text) letter = static_cast<char>(std::tolower(letter));
                    return text;
                };
                const std::string name = lower(element.names[static_cast<std::size_t>(at)]);
                for (std::size_t a = 0; a < instrument.articulations.size(); ++a) {
                    const Articulation& each = instrument.articulations[a];
                    bool answers = lower(each.name.empty() ? each.id : each.name) == name;
                    for (const std::string& other : each.answersTo) answers = answers || lower(other) == name;
                    if (!answers) continue;
                    choose(instrument, a);
                    break;
                }
            }
            return std::exchange(out_, {});
        }
    }
    return processOsc(time, desk, address, position);
}

/// A number that came to an address, of OSC or of the desk, reaches the ears of a chain that listen there.
void Interpreter::hearAddress(const Instrument* instrument, const Chain& chain) {
    const bool isDesk = port_ == "\n";
    if (!isDesk && instrument != nullptr && !fits(instrument->input.port, port_)) return;
    forEachEar(chain, [&](const Ear& ear, const Source& written) {
        const Source source = heard(ensemble_, written);
        if (source.kind != (isDesk ? SourceKind::desk : SourceKind::osc)) return;
        std::string own = std::get<std::string>(source.values[0]);
        if (isDesk) {
            const DeskElement* element = elementWith(ensemble_, own);
            std::string address("/");
            address += own;
            own = address;
            const std::vector<std::string> axes{"/x", "/y", "/touch"};
            if (element->kind == ElementKind::pad)
                own += axes[static_cast<std::size_t>(std::get<int>(source.values[1]))];
        }
        if (own != address_) return;
        const auto from = portOf(ensemble_, source);
        if (!isDesk && from && !fits(*from, port_)) return;
        hearPlace(instrument, chain, ear, source, clamped(number_), {port_, 0});
    });
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
    turned_.clear();
    late_.clear();
    bytes_.clear();
    address_.clear();
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
            tempoChange(source, memoryOf(instrument, chain).ears[ear].generator,
                        std::max<std::int64_t>(now_, 0), before);
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

}  // namespace mellow::reference
