// From a message to positions (signal rules, sections 3 and 5): pairs of bytes are put together, every ear of
// every chain is asked whether the message fits it, and what a control's place becomes for its chain is asked
// of its handover.
#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"
#include "reference/messages.h"

namespace mellow::reference {

/// Pairs that nobody listens to are not followed.
bool Interpreter::someoneHears(int pairKind, int number, int from) {
    bool hears = false;
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& written) {
            const Source source = heard(ensemble_, written);
            if (!samePair(source, pairKind, number)) return;
            const bool handsOver =
                ear.what == Ear::For::source && handoverOf(ensemble_, chain) != Handover::jump;
            const bool mayWake = handsOver || handCanMove(ensemble_);
            if (sleeps(instrument, chain) && !mayWake) return;
            const bool here =
                (!source.channel || *source.channel == from) &&
                (instrument == nullptr || !instrument->input.channel || *instrument->input.channel == from);
            hears = hears || pairKind == 0 || here;
        });
    });
    return hears;
}

/// Which register a port and channel have selected.
void Interpreter::followSelects(const std::string& port, const Bytes& bytes) {
    if (!isControl(bytes) || !isSelect(bytes[1])) return;
    Selected& selected = selected_[{port, channel(bytes)}];
    const bool rpn = bytes[1] >= 100;
    if (!selected.any || selected.rpn != rpn) selected = {rpn, -1, -1, true};
    (bytes[1] % 2 == 1 ? selected.high : selected.low) = bytes[2];
}

void Interpreter::hearPairs(const std::string& port, const Bytes& bytes) {
    const int from = channel(bytes);
    const Selected& selected = selected_[{port, from}];
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
            const auto what = pair.alone == 3 ? Entered::What::coarseStep : Entered::What::fineStep;
            pair.entered.push_back({what, bytes[1] == 96 ? 1 : -1});
            readings_.push_back({id, pair.entered.size()});
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
    sharedMatched_ = false;
    sharedKeeps_ = false;
    fingersMatched_ = false;
    fingersKeep_ = false;
    matched_.clear();
    const int from = channel(bytes);
    const InputKey input{port, from, bytes[1]};
    if (isOn(bytes) || isOff(bytes)) loose_.erase(input);
    if (isOn(bytes)) {
        keysDown_.insert(input);
        struck_[input] = bytes[2];
    }
    if (isOff(bytes)) keysDown_.erase(input);
    if (isControl(bytes)) hearPairs(port, bytes);
    forEachChain(
        [&](const Instrument* instrument, const Chain& chain) { hearChain(instrument, chain, false); });
    letEnvelopesGo();
}

/// An envelope that no key holds any more is released, by whatever part of the filter keys are kept out.
void Interpreter::letEnvelopesGo() {
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (source.kind != SourceKind::envelope || sleeps(instrument, chain)) return;
            if (keysDown(instrument, source) == 0)
                lastKeyUp(source, memoryOf(instrument, chain).ears[ear].generator, now_);
        });
    });
}

/// A velocity layer takes note-ons of its own velocities, and the offs of those.
bool Interpreter::takesNote(const Instrument* instrument, const Bytes& bytes) const {
    if (instrument == nullptr || !isLayer(*instrument)) return true;
    if (isOn(bytes)) return isOfLayer(*instrument, bytes[2]);
    if (!isOff(bytes)) return true;
    const auto struck = struck_.find({port_, channel(bytes), bytes[1]});
    return struck != struck_.end() && isOfLayer(*instrument, struck->second);
}

/// The message at hand reaches a chain. againInHand: its instrument has come into hand with this message, and
/// only what that keeps from hearing it before hears it now.
void Interpreter::hearChain(const Instrument* instrument, const Chain& chain, bool againInHand) {
    const int from = channel(bytes_);
    if (!takesFrom(instrument, port_, from)) return;
    const bool hasKey = kind(bytes_) == 0x90 || kind(bytes_) == 0x80 || kind(bytes_) == 0xA0;
    const auto key = hasKey ? keyFor(instrument, bytes_[1]) : std::optional<int>(bytes_[1]);
    if (!key || !takesNote(instrument, bytes_)) return;
    // A note reaches an instrument only in hand; a pedal counts all the same.
    const bool reaches = cue_ == Cue::pedalDown || instrument == nullptr || inHand(*instrument);
    if (cue_ != Cue::none && reaches && !sleeps(instrument, chain)) due_[idOf(instrument, chain)].cue = true;
    if (againInHand && chain.active != Active::inHand) return;
    forEachEar(chain, [&](const Ear& ear, const Source& written) {
        const Source source = heard(ensemble_, written);
        const auto wanted = portOf(ensemble_, source);
        if ((wanted && !fits(*wanted, port_)) || (source.channel && *source.channel != from)) return;
        if (isGenerator(source)) {
            if (!sleeps(instrument, chain)) followKeys(instrument, chain, ear, source, bytes_);
            return;
        }
        if (!hearWith(instrument, chain, ear, source, port_, bytes_, *key)) return;
        if (sleeps(instrument, chain)) return;
        // Notes are consumed only by a key that is a button.
        if ((isOn(bytes_) || isOff(bytes_)) && source.kind != SourceKind::key) return;
        if (instrument == nullptr && source.kind == SourceKind::zoneNote) {
            fingersMatched_ = true;
            fingersKeep_ = fingersKeep_ || chain.keepOriginal;
        } else if (instrument == nullptr) {
            sharedMatched_ = true;
            sharedKeeps_ = sharedKeeps_ || chain.keepOriginal;
        } else {
            bool& keeps = matched_[instrument->id];
            keeps = keeps || chain.keepOriginal;
        }
    });
}

bool Interpreter::listensTo(const Instrument* instrument, const Source& source, const std::string& port,
                            int from) const {
    const auto wanted = portOf(ensemble_, source);
    return takesFrom(instrument, port, from) && (!wanted || fits(*wanted, port)) &&
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
                return incoming == bytes[1] && listensTo(instrument, source, from, on) &&
                       (instrument == nullptr || !isLayer(*instrument) ||
                        isOfLayer(*instrument, struck_.at(down)));
            };
            return (isOn(bytes) || isOff(bytes)) && key == source.number &&
                   take(std::any_of(keysDown_.begin(), keysDown_.end(), holds) ? 127 : 0);
        }
        case SourceKind::relative:
            if (!isControl(bytes) || bytes[1] != source.number) return false;
            if (!sleeps(instrument, chain))
                speak(
                    instrument, chain, ear,
                    clamped(memoryOf(instrument, chain).ears[ear].position + encoderMove(source, bytes[2])));
            return true;
        case SourceKind::cc14:
            if (!isControl(bytes) || bytes[1] >= 64 || bytes[1] % 32 != source.number) return false;
            return hearReadings(instrument, chain, ear, source);
        case SourceKind::rpn:
        case SourceKind::nrpn: {
            const Selected& selected = selected_[{port, channel(bytes)}];
            const bool fit = isControl(bytes) && isData(bytes[1]) && selected.any &&
                             selected.rpn == (source.kind == SourceKind::rpn) && selected.high >= 0 &&
                             selected.low >= 0 && source.number == selected.high * 128 + selected.low &&
                             source.number != 16383;
            return fit && hearReadings(instrument, chain, ear, source);
        }
        case SourceKind::zoneNote:
            return hearFinger(instrument, chain, ear, source, port, bytes);
        default:
            return false;
    }
}

bool Interpreter::hearReadings(const Instrument* instrument, const Chain& chain, const Ear& ear,
                               const Source& source) {
    for (const Reading& reading : readings_) takeReading(instrument, chain, ear, source, reading);
    return true;
}

void Interpreter::takeReading(const Instrument* instrument, const Chain& chain, const Ear& ear,
                              const Source& source, const Reading& reading) {
    const auto& [port, from, pairKind, number] = reading.id;
    if (!samePair(source, pairKind, number) || !listensTo(instrument, source, port, from)) return;
    // What was entered up to the reading is gone through from where the source rests.
    const Raws raws = rawsOf(source);
    const int half = raws.max == 12799 ? 100 : 128;
    int value = encode(raws, restOf(ensemble_, source));
    int highByte = 0;
    bool coarse = false;
    const auto& entered = pairs_.at(reading.id).entered;
    for (std::size_t i = 0; i < reading.after; ++i) {
        const int by = entered[i].number;
        switch (entered[i].what) {
            case Entered::What::high:
                highByte = by;
                break;
            case Entered::What::alone:
                value = highByte * half;
                break;
            case Entered::What::low:
                value = highByte * half + std::min(by, half - 1);
                coarse = false;
                break;
            case Entered::What::coarse:
                highByte = value = by;
                coarse = true;
                break;
            case Entered::What::fineStep:
                value = std::clamp(value + by, 0, raws.max);
                highByte = value / half;
                break;
            case Entered::What::coarseStep:
                highByte = value = std::clamp((coarse ? value : value / half) + by, 0, 127);
                coarse = true;
                break;
        }
    }
    speakRaw(instrument, chain, ear, source, coarse ? raws.max + 1 + value : value, port, from);
}

/// A high byte that waits is taken as it is.
void Interpreter::giveUpWaiting(const PairId& id) {
    PairMemory& pair = pairs_[id];
    if (!pair.waitingSince) return;
    pair.entered.push_back({Entered::What::alone, 0});
    readings_.push_back({id, pair.entered.size()});
    pair.waitingSince.reset();
    pair.alone = std::min(3, pair.alone + 1);
}

void Interpreter::high(const PairId& id, int value) {
    giveUpWaiting(id);
    PairMemory& pair = pairs_[id];
    if (pair.alone == 3) {
        pair.entered.push_back({Entered::What::coarse, value});
        readings_.push_back({id, pair.entered.size()});
        return;
    }
    pair.entered.push_back({Entered::What::high, value});
    pair.waitingSince = now_;
    pair.arrival = ++arrivals_;
}

void Interpreter::low(const PairId& id, int value) {
    PairMemory& pair = pairs_[id];
    pair.waitingSince.reset();
    pair.alone = 0;
    pair.entered.push_back({Entered::What::low, value});
    readings_.push_back({id, pair.entered.size()});
}

int Interpreter::keysDown(const Instrument* instrument, const Source& source) const {
    return static_cast<int>(std::count_if(keysDown_.begin(), keysDown_.end(), [&](const InputKey& down) {
        const auto& [port, from, key] = down;
        return !loose_.contains(down) && keyFor(instrument, key) &&
               listensTo(instrument, source, port, from) &&
               (instrument == nullptr || !isLayer(*instrument) || isOfLayer(*instrument, struck_.at(down)));
    }));
}

void Interpreter::followKeys(const Instrument* instrument, const Chain& chain, const Ear& ear,
                             const Source& source, const Bytes& bytes) {
    Generator& generator = memoryOf(instrument, chain).ears[ear].generator;
    if (isOn(bytes)) noteOn(source, generator, now_);
}

void Interpreter::speakRaw(const Instrument* instrument, const Chain& chain, const Ear& ear,
                           const Source& source, int raw, const std::string& port, int from) {
    const Raws raws = rawsOf(source);
    const double place = raw > raws.max ? decode({raws.centred, 127}, raw - raws.max - 1) : decode(raws, raw);
    const bool handedOver =
        ear.what == Ear::For::source && handoverOf(ensemble_, chain) != Handover::jump && isOfControl(source);
    const bool stands = !handedOver && handCanMove(ensemble_);
    if (!sleeps(instrument, chain) || stands) memoryOf(instrument, chain).ears[ear].raw = raw;
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
        if (!sleeps(instrument, chain)) return speak(instrument, chain, ear, place);
        // On return the present values count.
        if (!handCanMove(ensemble_)) return;
        memory.position = place;
        memory.spoken = true;
        if (ear.what != Ear::For::combine) return;
        ChainMemory& all = memoryOf(instrument, chain);
        auto& steps = ear.branch < 0 ? all.trunk : all.branches[static_cast<std::size_t>(ear.branch)];
        steps[static_cast<std::size_t>(ear.step)].other = place;
        return;
    }
    const bool known = memory.hands.contains(from);
    Hand& hand = memory.hands[from];
    const double c = std::exchange(hand.place, place);
    if (sleeps(instrument, chain)) return;
    const double v = memory.position;
    std::optional<double> moved;
    // Of what has not spoken nobody knows where it stands: whoever comes first has it.
    if (!memory.spoken) hand.met = true;
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

}  // namespace mellow::reference
