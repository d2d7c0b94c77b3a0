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
    if (!isMemberOfAny(port, channel)) return channelOf(instrument);
    manners_[instrument.id].channelsUsed.insert(channel);
    return channel;
}

bool Interpreter::isMemberOfAny(const std::string& port, int channel) const {
    return isMember(port, false, channel) || isMember(port, true, channel);
}

bool Interpreter::isOfAZone(const std::string& port, int channel) const {
    return isMemberOfAny(port, channel) || isManager(port, false, channel) || isManager(port, true, channel);
}

/// What a message says of zones and fingers, before anybody hears it.
void Interpreter::followZones(const std::string& port, const Bytes& bytes) {
    const int from = channel(bytes);
    ZonePort& zones = zonePorts_[port];
    FingerPlace& finger = zones.fingers[from];
    configures_ = false;
    if (kind(bytes) == 0xE0) {
        finger.bend = bytes[1] + 128 * bytes[2];
        finger.said.insert("bend");
    }
    if (kind(bytes) == 0xD0) {
        finger.pressure = bytes[1];
        finger.said.insert("pressure");
    }
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
    if (bytes[1] == 74) {
        finger.slide = bytes[2];
        finger.said.insert("slide");
    }
    if (bytes[1] == 121) {
        for (int each = 1; each <= 16; ++each) {
            bool resets = each == from;
            for (const bool upper : {false, true})
                resets = resets || (isManager(port, upper, from) && isMember(port, upper, each));
            if (resets) zones.fingers[each] = {8192, 64, 0, {"bend", "slide", "pressure"}};
        }
    }
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
            const int whole = static_cast<int>(bendRange(port, upper, manager));
            zones.cents[{upper, manager}] =
                bytes[1] == 6 ? bytes[2] * 100 : whole * 100 + std::min<int>(bytes[2], 99);
        }
    }
    if (selected.low == 6 && bytes[1] == 6 && bytes[2] <= 15 && (from == 1 || from == 16))
        beginZone(port, from == 16, bytes[2]);
}

/// A configuration message counts, unless a controller says the zone by hand.
void Interpreter::beginZone(const std::string& port, bool upper, int size) {
    for (const Controller& controller : ensemble_.controllers) {
        if (fits(controller.port, port) && (upper ? controller.zones.upper : controller.zones.lower) >= 0)
            return;
    }
    ZonePort& zones = zonePorts_[port];
    std::set<int> channels;
    const auto add = [&] {
        for (int each = 1; each <= 16; ++each) {
            if (isMember(port, upper, each) || isManager(port, upper, each)) channels.insert(each);
        }
    };
    add();
    (upper ? zones.upper : zones.lower) = size;
    zones.lastUpper = upper;
    add();
    configures_ = !channels.empty();
    for (const bool manager : {false, true}) zones.cents.erase({upper, manager});
    for (const int each : channels) zones.fingers.erase(each);
    const auto isOfThem = [&](const std::string& from, int on) {
        return from == port && channels.contains(on);
    };
    std::erase_if(notesDown_, [&](const NoteDown& note) { return isOfThem(note.port, note.channel); });

    // What its keys sound ends, by instrument, then as struck.
    const auto isOfKey = [&](const InputKey& input) {
        return isOfThem(std::get<0>(input), std::get<1>(input));
    };
    std::vector<std::string> order;
    for (const Instrument& instrument : ensemble_.instruments) {
        if (runs(instrument)) order.push_back(instrument.id);
    }
    const auto begun = begun_;
    const auto send = [&](const std::function<bool(const std::string&)>& wanted) {
        for (std::size_t i = 0; i < begun.size(); ++i) {
            const auto& [input, place] = begun[i];
            if (!isOfKey(input) || !wanted(place.instrument) || !heldBy(input)->down) continue;
            bool waits = false;
            for (std::size_t j = 0; j < begun.size(); ++j) {
                const auto& [other, sounding] = begun[j];
                if (other == input || !sounding.soundsLike(place) || !heldBy(other)->down) continue;
                waits = waits || !isOfKey(other) || j > i;
            }
            if (waits) continue;
            deliver(place.instrument, place.port,
                    {static_cast<std::uint8_t>(0x80 + place.channel - 1),
                     static_cast<std::uint8_t>(place.key), 64});
        }
    };
    for (const std::string& id : order) send([&](const std::string& owner) { return owner == id; });
    send([&](const std::string& owner) {
        return std::find(order.begin(), order.end(), owner) == order.end();
    });
    std::erase_if(held_, [&](const Held& held) { return isOfKey(held.input); });
    std::erase_if(begun_, [&](const auto& each) { return isOfKey(each.first); });
    for (const InputKey& key : keysDown_) {
        if (isOfKey(key)) loose_.insert(key);
    }
    letEnvelopesGo();

    // Sources that followed its fingers, or its manager alone, rest.
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (source.kind != SourceKind::zoneNote) return;
            EarMemory& memory = memoryOf(instrument, chain).ears[ear];
            const bool ofFinger = memory.finger && isOfThem(memory.finger->first, memory.finger->second);
            const bool ofManager =
                !memory.finger && memory.managedBy == port && (std::get<int>(source.values[2]) == 1) == upper;
            if (!ofFinger && !ofManager) return;
            memory.finger.reset();
            memory.managedBy.reset();
            hearPlace(instrument, chain, ear, source, restOf(ensemble_, source), {port, 0});
        });
    });
    for (auto& [id, finger] : passing_) {
        if (finger && isOfThem(finger->first, finger->second)) finger.reset();
    }
    chooseFingers();
    play({});
}

/// How far the bends of a zone reach, in semitones.
double Interpreter::bendRange(const std::string& port, bool upper, bool manager) const {
    const auto zones = zonePorts_.find(port);
    if (zones != zonePorts_.end()) {
        const auto told = zones->second.cents.find({upper, manager});
        if (told != zones->second.cents.end()) return told->second / 100.0;
    }
    for (const Controller& controller : ensemble_.controllers) {
        if (!fits(controller.port, port) || (upper ? controller.zones.upper : controller.zones.lower) < 0)
            continue;
        const double said = manager ? controller.zones.allBend : controller.zones.noteBend;
        if (said > 0 && said <= 96) return said;
        break;
    }
    return manager ? 2 : 48;
}

/// Who is the newest finger for each instrument, and the chosen one for each source, wherever there is one.
void Interpreter::chooseFingers() {
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!runs(instrument) || instrument.output.keepChannels) continue;
        std::optional<NoteDown> newest;
        for (const NoteDown& note : notesDown_) {
            const bool heard = takesFrom(&instrument, note.port, note.channel) &&
                               isMemberOfAny(note.port, note.channel) && keyFor(&instrument, note.key) &&
                               (!isLayer(instrument) || isOfLayer(instrument, note.velocity));
            if (heard) newest = note;
        }
        if (!newest) continue;
        auto& finger = passing_[instrument.id];
        const Control now{newest->port, newest->channel};
        if (finger == now) continue;
        finger = now;
        turned_.insert(instrument.id);
    }
    forEachChain([&](const Instrument* instrument, const Chain& chain) {
        forEachEar(chain, [&](const Ear& ear, const Source& source) {
            if (source.kind != SourceKind::zoneNote) return;
            const auto chosen = chosenOf(notesDown_, instrument, source);
            if (chosen) memoryOf(instrument, chain).ears[ear].finger = Control{chosen->port, chosen->channel};
        });
    });
}

/// Whether a message of a zone passes to an instrument, as far as its finger and its register go.
bool Interpreter::zoneLetsPass(const Instrument& instrument, const std::string& port, const Bytes& bytes) {
    const int from = channel(bytes);
    const bool keeps = instrument.output.keepChannels;
    const bool ofFinger = kind(bytes) == 0xE0 || kind(bytes) == 0xD0 || (isControl(bytes) && bytes[1] == 74);
    if (ofFinger) {
        const auto finger = passing_.find(instrument.id);
        return keeps || !isMemberOfAny(port, from) ||
               (finger != passing_.end() && finger->second == Control{port, from});
    }
    if (!isControl(bytes)) return true;
    const Selected& selected = selected_[{port, from}];
    if (isData(bytes[1])) {
        const bool own =
            selected.any && selected.rpn && selected.high == 0 && (selected.low == 0 || selected.low == 6);
        if (own && (configures_ || isOfAZone(port, from))) return false;
        const bool whole = selected.any && selected.high >= 0 && selected.low >= 0;
        if (!keeps && isOfAZone(port, from) && whole)
            lanes_[{instrument.output.port, channelOf(instrument)}].player = selected;
        return true;
    }
    return keeps || !isOfAZone(port, from) || (bytes[1] != 100 && bytes[1] != 101);
}

/// An instrument's finger is another one with the event at hand: it is told where that stands.
void Interpreter::tellFinger(const Instrument& instrument) {
    if (!turned_.contains(instrument.id)) return;
    const auto& [port, from] = *passing_.at(instrument.id);
    const FingerPlace finger = zonePorts_[port].fingers[from];
    const Lane lane{instrument.output.port, channelOf(instrument)};
    const auto status = [from = from](int of) { return static_cast<std::uint8_t>(of + from - 1); };
    const auto tell = [&, port = port, from = from](const std::string& what, const std::string& name,
                                                    int value, const Bytes& bytes) {
        bool taken = false;
        bool keeps = false;
        forEachChain([&](const Instrument* owner, const Chain& chain) {
            if (owner != nullptr && owner != &instrument) return;
            forEachEar(chain, [&](const Ear&, const Source& written) {
                const Source source = heard(ensemble_, written);
                const auto wanted = portOf(ensemble_, source);
                if ((wanted && !fits(*wanted, port)) || (source.channel && *source.channel != from)) return;
                bool takes = false;
                if (source.kind == SourceKind::bend) takes = kind(bytes) == 0xE0;
                if (source.kind == SourceKind::pressure) takes = kind(bytes) == 0xD0;
                if (source.kind == SourceKind::cc || source.kind == SourceKind::relative)
                    takes = isControl(bytes) && bytes[1] == source.number;
                if (source.kind == SourceKind::zoneNote) {
                    const int its = std::get<int>(source.values[0]);
                    takes = isMember(port, std::get<int>(source.values[2]) == 1, from) &&
                            its == (what == "bend"    ? 0
                                    : what == "slide" ? 1
                                                      : 2);
                }
                if (!takes) return;
                taken = true;
                keeps = keeps || chain.keepOriginal;
            });
        });
        if (!(taken ? keeps : instrument.pass.unmatched)) return;
        LaneMemory& memory = lanes_[lane];
        const auto last = memory.last.find(name);
        if (last != memory.last.end() && last->second == value) return;
        if (last == memory.last.end() && !finger.said.contains(what)) return;
        if (isControl(bytes)) return control(instrument, lane, bytes[1], bytes[2]);
        memory.last[name] = value;
        Bytes sent = bytes;
        sent[0] = static_cast<std::uint8_t>((bytes[0] & 0xF0) + lane.second - 1);
        deliver(instrument.id, lane.first, sent);
    };
    const auto seven = [](int value) { return static_cast<std::uint8_t>(value % 128); };
    tell("bend", "bend", finger.bend,
         {status(0xE0), seven(finger.bend), static_cast<std::uint8_t>(finger.bend / 128)});
    tell("slide", "cc74", finger.slide, {status(0xB0), 74, seven(finger.slide)});
    tell("pressure", "pressure", finger.pressure, {status(0xD0), seven(finger.pressure)});
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
        if (moves && !sleeps(instrument, chain)) late_.insert(&chain);
    }
    if (isIts && member) moves = memory.finger == Control{port, from};
    if (manager) moves = !memory.finger || memory.finger->first == port;
    if (manager && !memory.finger) memory.managedBy = port;
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
    const double memberRange = bendRange(from, upper, false);
    const double managerRange = bendRange(from, upper, true);
    const double own = finger ? (decode({true, 16383}, at.bend) - 0.5) * 2 * memberRange : 0;
    const double all = (decode({true, 16383}, zones.fingers[upper ? 16 : 1].bend) - 0.5) * 2 * managerRange;
    return clamped(0.5 + (own + all) / (2 * std::get<double>(source.values[3])));
}

}  // namespace mellow::reference
