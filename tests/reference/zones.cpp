// Zones and fingers (docs/expressive-keyboards.md): what channels are zones of, and what the finger of the
// note that a source has chosen does. Of every port the messages that came are remembered as they are, and
// each question is answered from those.
#include <algorithm>

#include "reference/arithmetic.h"
#include "reference/interpreter.h"
#include "reference/messages.h"

namespace mellow::reference {

/// How many channels a zone of a port has beside its manager. upper: of the upper zone.
int Interpreter::members(const std::string& port, bool upper) const {
    const auto byHand = [&](bool above) {
        for (const Controller& controller : ensemble_.controllers) {
            const int members = above ? controller.zones.upper : controller.zones.lower;
            if (fits(controller.port, port) && members >= 0) return std::min(members, 15);
        }
        return -1;
    };
    const auto found = zonePorts_.find(port);
    const ZonePort none;
    const ZonePort& told = found == zonePorts_.end() ? none : found->second;
    const auto wanted = [&](bool above) {
        return byHand(above) >= 0 ? byHand(above) : std::max(0, above ? told.upper : told.lower);
    };
    const int own = wanted(upper);
    const int other = wanted(!upper);
    if (own == 0 || other == 0 || own + other <= 14) return own;
    const bool ownByHand = byHand(upper) >= 0;
    const bool otherByHand = byHand(!upper) >= 0;
    bool yields = upper;                                               // Both are said by hand,
    if (!ownByHand && !otherByHand) yields = upper != told.lastUpper;  // both by messages,
    if (ownByHand != otherByHand) yields = !ownByHand;                 // or one of each.
    return yields ? std::max(0, 14 - other) : own;
}

bool Interpreter::isMember(const std::string& port, bool upper, int channel) const {
    const int count = members(port, upper);
    return upper ? channel <= 15 && channel >= 16 - count : channel >= 2 && channel <= 1 + count;
}

bool Interpreter::isManager(const std::string& port, bool upper, int channel) const {
    return members(port, upper) > 0 && channel == (upper ? 16 : 1);
}

bool Interpreter::takesFrom(const Instrument* instrument, const std::string& port, int channel) const {
    if (instrument == nullptr) return true;
    if (!fits(instrument->input.port, port)) return false;
    if (instrument->input.channel && *instrument->input.channel != channel) return false;
    if (!instrument->input.zone) return true;
    const bool upper = *instrument->input.zone == midi::Zone::upper;
    const bool onManager = channel == (upper ? 16 : 1) && !isMember(port, !upper, channel);
    return isMember(port, upper, channel) || onManager;
}

/// Where an instrument passes on what came from a port and channel.
int Interpreter::passingChannel(const Instrument& instrument, const std::string& port, int channel) {
    if (!instrument.output.keepChannels) return channelOf(instrument);
    if (!isMember(port, false, channel) && !isMember(port, true, channel)) return channelOf(instrument);
    manners_[instrument.id].channelsUsed.insert(channel);
    return channel;
}

/// What a message says of zones and fingers, before anybody hears it.
void Interpreter::followZones(const std::string& port, const Bytes& bytes) {
    const int from = channel(bytes);
    ZonePort& zones = zonePorts_[port];
    FingerPlace& finger = zones.fingers[from];
    if (kind(bytes) == 0xE0) finger.bend = bytes[1] + 128 * bytes[2];
    if (kind(bytes) == 0xD0) finger.pressure = bytes[1];
    lifted_.reset();
    const auto isThis = [&](const NoteDown& note) {
        return note.port == port && note.channel == from && note.key == bytes[1];
    };
    if (isOn(bytes) || isOff(bytes)) {
        const auto down = std::find_if(notesDown_.begin(), notesDown_.end(), isThis);
        if (down != notesDown_.end()) {
            if (isOff(bytes)) lifted_ = *down;
            notesDown_.erase(down);
        }
    }
    if (isOn(bytes)) {
        if (notesDown_.size() == 256) notesDown_.erase(notesDown_.begin());
        notesDown_.push_back({port, from, bytes[1], bytes[2], ++strikes_});
    }
    if (!isControl(bytes)) return;
    if (bytes[1] == 74) finger.slide = bytes[2];
    if (bytes[1] == 121) finger = {};
    if (bytes[1] == 120 || bytes[1] >= 123) {
        std::erase_if(notesDown_, [&](const NoteDown& note) {
            bool managed = false;
            for (const bool upper : {false, true})
                managed = managed || (isManager(port, upper, from) && isMember(port, upper, note.channel));
            return note.port == port && (note.channel == from || managed);
        });
    }
    const Selected& selected = selected_[{port, from}];
    if (!selected.any || !selected.rpn || selected.high != 0 || (bytes[1] != 6 && bytes[1] != 38)) return;
    if (selected.low == 0) {
        for (const bool upper : {false, true}) {
            const bool manager = isManager(port, upper, from);
            if (!manager && !isMember(port, upper, from)) continue;
            int& cents = zones.cents[{upper, manager}];
            cents = bytes[1] == 6 ? bytes[2] * 100 : cents / 100 * 100 + std::min<int>(bytes[2], 99);
        }
    }
    if (selected.low != 6 || bytes[1] != 6 || bytes[2] > 15 || (from != 1 && from != 16)) return;
    const bool upper = from == 16;
    (upper ? zones.upper : zones.lower) = bytes[2];
    zones.lastUpper = upper;
    zones.fingers.clear();
    for (const bool manager : {false, true}) zones.cents.erase({upper, manager});
    std::erase_if(notesDown_, [&](const NoteDown& note) { return note.port == port; });
    letEnvelopesGo();
}

/// The note that a source chooses among some, if it is one of them.
std::optional<Interpreter::NoteDown> Interpreter::chosenOf(const std::vector<NoteDown>& notes,
                                                           const Instrument* instrument,
                                                           const Source& source) const {
    const int of = std::get<int>(source.values[1]);
    const bool upper = std::get<int>(source.values[2]) == 1;
    std::optional<NoteDown> chosen;
    for (const NoteDown& note : notes) {
        if (!listensTo(instrument, source, note.port, note.channel)) continue;
        if (!isMember(note.port, upper, note.channel) || !keyFor(instrument, note.key)) continue;
        if (instrument != nullptr && isLayer(*instrument) && !isOfLayer(*instrument, note.velocity)) continue;
        const bool better = !chosen || of == 0 || (of == 1 && note.key >= chosen->key) ||
                            (of == 2 && note.key <= chosen->key);
        if (better) chosen = note;
    }
    return chosen;
}

bool Interpreter::hearFinger(const Instrument* instrument, const Chain& chain, const Ear& ear,
                             const Source& source, const std::string& port, const Bytes& bytes) {
    const int takes = std::get<int>(source.values[0]);
    const bool upper = std::get<int>(source.values[2]) == 1;
    const int from = channel(bytes);
    const bool isNote = isOn(bytes) || isOff(bytes);
    const bool isBend = kind(bytes) == 0xE0 && takes == 0;
    const bool isIts =
        isBend || (isControl(bytes) && bytes[1] == 74 && takes == 1) || (kind(bytes) == 0xD0 && takes == 2);
    if (!isNote && !isIts) return false;
    const bool member = isMember(port, upper, from);
    const bool manager = isBend && isManager(port, upper, from);
    if (!member && !manager) return false;
    EarMemory& memory = memoryOf(instrument, chain).ears[ear];
    const auto chosen = chosenOf(notesDown_, instrument, source);
    if (chosen) memory.finger = Control{chosen->port, chosen->channel};
    bool moves = false;
    if (isOn(bytes)) moves = chosen && chosen->strike == strikes_;
    if (isOff(bytes) && lifted_) {
        // The notes as they were: those that are down and the one that went, in the order of their strikes.
        std::vector<NoteDown> before = notesDown_;
        before.push_back(*lifted_);
        std::sort(before.begin(), before.end(),
                  [](const NoteDown& a, const NoteDown& b) { return a.strike < b.strike; });
        const auto was = chosenOf(before, instrument, source);
        moves = chosen && was && was->strike != chosen->strike;
    }
    if (isIts && member) moves = memory.finger == Control{port, from};
    if (manager) moves = !memory.finger || memory.finger->first == port;
    if (moves)
        hearPlace(instrument, chain, ear, source, fingerPlace(source, memory.finger, port), {port, from});
    return !isNote;
}

double Interpreter::fingerPlace(const Source& source, const std::optional<Control>& finger,
                                const std::string& port) {
    const int takes = std::get<int>(source.values[0]);
    const bool upper = std::get<int>(source.values[2]) == 1;
    const std::string& from = finger ? finger->first : port;
    ZonePort& zones = zonePorts_[from];
    const FingerPlace at = finger ? zones.fingers[finger->second] : FingerPlace{};
    if (takes != 0) return decode({rawsOf(source).centred, 127}, takes == 1 ? at.slide : at.pressure);
    double memberRange = 48;
    for (const Controller& controller : ensemble_.controllers) {
        if (!fits(controller.port, from) || (upper ? controller.zones.upper : controller.zones.lower) < 0)
            continue;
        if (controller.zones.noteBend > 0 && controller.zones.noteBend <= 96)
            memberRange = controller.zones.noteBend;
        break;
    }
    double managerRange = 2;
    if (zones.cents.contains({upper, false})) memberRange = zones.cents[{upper, false}] / 100.0;
    if (zones.cents.contains({upper, true})) managerRange = zones.cents[{upper, true}] / 100.0;
    const double own = finger ? (decode({true, 16383}, at.bend) - 0.5) * 2 * memberRange : 0;
    const double all = (decode({true, 16383}, zones.fingers[upper ? 16 : 1].bend) - 0.5) * 2 * managerRange;
    return clamped(0.5 + (own + all) / (2 * std::get<double>(source.values[3])));
}

}  // namespace mellow::reference
