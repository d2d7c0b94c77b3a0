// One pass over the take. The lane of a channel message is found in a table by port, channel and what it is
// about, since a take may hold millions; only what came by OSC is looked up by its text.
#include "core/takes/lanes.h"
#include "core/midi/names.h"

#include <algorithm>
#include <array>
#include <map>
#include <optional>

#include "core/midi/controls.h"
#include "core/midi/names.h"
#include "core/model/source.h"

namespace mellow {

namespace {

constexpr std::uint32_t noLane = 0xFFFFFFFF;

bool namesPair(const Message& message) {
    return message.kind == MessageKind::cc14;
}

}  // namespace

std::size_t TakeLane::lastAt(const Take& take, std::int64_t time) const {
    const auto behind = std::partition_point(
        events.begin(), events.end(), [&](std::uint32_t event) { return take.events[event].time <= time; });
    return behind == events.begin() ? events.size() : static_cast<std::size_t>(behind - events.begin()) - 1;
}

std::optional<double> TakeLane::valueAt(const Take& take, std::int64_t time) const {
    const std::size_t last = lastAt(take, time);
    return last < values.size() ? std::optional<double>(values[last]) : std::nullopt;
}

std::set<PairOfControls> pairsIn(const Ensemble& ensemble) {
    std::set<PairOfControls> pairs;
    for (const Controller& controller : ensemble.controllers) {
        for (const ControllerControl& control : controller.controls) {
            if (namesPair(control.message)) pairs.insert({controller.port, control.message.number});
        }
    }
    const auto look = [&](const Chain& chain) {
        if (chain.source.kind != SourceKind::cc14) return;
        const Controller* from = findById(ensemble.controllers, chain.source.controller);
        pairs.insert({from == nullptr ? std::string(anyPort) : from->port, chain.source.number});
    };
    for (const Chain& chain : ensemble.sharedChains) look(chain);
    for (const Instrument& instrument : ensemble.instruments) {
        for (const Chain& chain : instrument.chains) look(chain);
    }
    return pairs;
}

double valueOf(midi::Bytes body) {
    if (const auto line = text::oscLineOf(body)) return line->number;
    if (body.size() < 2 || !midi::isChannelStatus(body[0])) return 0;
    switch (midi::kindOf(body)) {
        case midi::pitchBend:
            return midi::bendOf(body);
        case midi::programChange:
        case midi::channelPressure:
            return body[1];
        default:
            return body[2];
    }
}

namespace {

class Sorting {
 public:
    Sorting(const Take& take, const std::set<PairOfControls>& pairs) : take_(take) {
        // Sixteen channels of 128 controls and sixteen kinds, for each port.
        places_.assign(take.ports.size() * perPort, noLane);
        for (const std::string& port : take.ports) {
            auto& isHigh = pairs_.emplace_back();
            for (const PairOfControls& pair : pairs) {
                const bool fits = pair.number >= 0 && pair.number < midi::pairCount;
                if (fits && (pair.port == anyPort || pair.port == port))
                    isHigh.at(static_cast<std::size_t>(pair.number)) = true;
            }
        }
    }

    TakeLanes sort() {
        for (std::uint32_t place = 0; place < take_.events.size(); ++place) see(place);
        for (const auto& [key, notes] : down_) {
            for (const std::uint32_t note : notes) result_.notes[note].ends = take_.length;
        }
        for (const TakeNote& note : result_.notes)
            result_.longestNote = std::max(result_.longestNote, note.ends - note.begins);
        std::sort(result_.lanes.begin(), result_.lanes.end(),
                  [](const TakeLane& one, const TakeLane& other) { return one.subject < other.subject; });
        return std::move(result_);
    }

 private:
    static constexpr std::size_t perChannel = 128 + 16;
    static constexpr std::size_t perPort = 16 * perChannel;

    void see(std::uint32_t place) {
        const TakeEvent& event = take_.events[place];
        const midi::Bytes body = take_.bodyOf(event);
        if (body.empty()) return;
        if (!midi::isChannelStatus(body[0])) {
            if (const auto line = text::oscLineOf(body)) seeNumber(event, *line, place);
            return;
        }
        const int kind = midi::kindOf(body);
        if (kind == midi::noteOn || kind == midi::noteOff) return seeNote(event, body, place);
        const auto channel = static_cast<std::size_t>(midi::channelOf(body));
        const std::size_t about = kind == midi::controlChange ? body[1] : 128 + (body[0] >> 4);
        if (kind == midi::controlChange && seeHalf(event, body, place, channel)) return;
        TakeLane& lane =
            kind == midi::keyPressure ? keyLane(event.port, body) : laneAt(event.port, channel, about, body);
        add(lane, place, valueOf(body));
    }

    /// Pressure of each key is a lane of its own.
    TakeLane& keyLane(std::uint16_t port, midi::Bytes body) {
        const Subject subject = subjectOf(port, body);
        const auto [found, isNew] =
            pressed_.try_emplace(subject, static_cast<std::uint32_t>(result_.lanes.size()));
        if (isNew) result_.lanes.emplace_back().subject = subject;
        return result_.lanes[found->second];
    }

    /// Half of a pair. False where it is none.
    bool seeHalf(const TakeEvent& event, midi::Bytes body, std::uint32_t place, std::size_t channel) {
        const int number = body[1];
        if (!midi::isHalfOfAPair(number)) return false;
        const auto pair = static_cast<std::size_t>(midi::pairOf(number));
        if (!pairs_[event.port].at(pair)) return false;
        const bool isHigh = number < midi::pairCount;
        TakeLane& lane = laneAt(
            event.port, channel, pair,
            midi::make(midi::controlChange, static_cast<int>(channel), static_cast<int>(pair), 0).bytes());
        lane.isPair = true;
        lane.highest = midi::max14;
        int& high = highs_[{event.port, channel, pair}];
        if (isHigh) high = body[2];
        // A low half that follows its high half at once ends the value that this began.
        const double value = isHigh ? high << 7 : (high << 7) + body[2];
        const bool joins = !isHigh && !lane.events.empty() && place > 0 && lane.events.back() == place - 1 &&
                           take_.events[place - 1].time == event.time;
        if (joins) {
            lane.events.back() = place;
            lane.values.back() = static_cast<float>(value);
        } else {
            add(lane, place, value);
        }
        return true;
    }

    void seeNumber(const TakeEvent& event, const text::OscLine& line, std::uint32_t place) {
        const auto [found, isNew] = numbers_.try_emplace({event.port, std::string(line.address)},
                                                         static_cast<std::uint32_t>(result_.lanes.size()));
        if (isNew) {
            TakeLane& lane = result_.lanes.emplace_back();
            lane.subject = {event.port, Subject::About::osc, 0, 0, found->first.second};
            lane.highest = 1;
        }
        TakeLane& lane = result_.lanes[found->second];
        lane.highest = std::max(lane.highest, line.number);
        add(lane, place, line.number);
    }

    void seeNote(const TakeEvent& event, midi::Bytes body, std::uint32_t place) {
        const auto channel = static_cast<std::uint8_t>(midi::channelOf(body));
        auto& held =
            down_[(static_cast<std::uint32_t>(event.port) << 16) | (std::uint32_t{channel} << 8) | body[1]];
        if (midi::isNoteOn(body)) {
            held.push_back(static_cast<std::uint32_t>(result_.notes.size()));
            result_.notes.push_back(
                {event.time, event.time, place, TakeNote::none, event.port, channel, body[1], body[2]});
            return;
        }
        if (held.empty()) return;
        TakeNote& note = result_.notes[held.front()];
        note.ends = event.time;
        note.off = place;
        held.erase(held.begin());
    }

    TakeLane& laneAt(std::uint16_t port, std::size_t channel, std::size_t about, midi::Bytes body) {
        std::uint32_t& place = places_[port * perPort + channel * perChannel + about];
        if (place == noLane) {
            place = static_cast<std::uint32_t>(result_.lanes.size());
            TakeLane& lane = result_.lanes.emplace_back();
            lane.subject = subjectOf(port, body);
            if (lane.subject.about == Subject::About::bend) lane.highest = midi::max14;
        }
        return result_.lanes[place];
    }

    static void add(TakeLane& lane, std::uint32_t place, double value) {
        lane.events.push_back(place);
        lane.values.push_back(static_cast<float>(value));
    }

    const Take& take_;
    TakeLanes result_;
    std::vector<std::uint32_t> places_;
    std::vector<std::array<bool, midi::pairCount>> pairs_;  ///< by port: numbers of high halves
    std::map<std::tuple<std::uint16_t, std::size_t, std::size_t>, int> highs_;
    std::map<std::pair<std::uint16_t, std::string>, std::uint32_t> numbers_;
    std::map<Subject, std::uint32_t> pressed_;
    std::map<std::uint32_t, std::vector<std::uint32_t>> down_;  ///< by port, channel and key: notes
};

/// Whether a control of a controller is what a lane holds.
bool isOf(const Message& message, const TakeLane& lane) {
    using About = Subject::About;
    switch (lane.subject.about) {
        case About::control:
            return (message.kind == MessageKind::cc || message.kind == MessageKind::cc14 ||
                    message.kind == MessageKind::relative) &&
                   message.number == lane.subject.number;
        case About::bend:
            return message.kind == MessageKind::bend;
        case About::pressure:
            return message.kind == MessageKind::pressure;
        case About::keyPressure:
            return message.kind == MessageKind::keyPressure;
        case About::program:
            return message.kind == MessageKind::program;
        default:
            return false;
    }
}

std::string elementName(const Ensemble& ensemble, const std::string& address) {
    std::string name;
    forEachElement(ensemble.desk, [&](const DeskElement& element) {
        if (!isSource(element)) return;
        for (std::size_t axis = 0; axis < axesOf(element); ++axis) {
            if (addressOf(element, static_cast<Axis>(axis)) != address) continue;
            constexpr std::array<std::string_view, axisCount> axes{", across", ", up", ", touch"};
            name = nameOf(element);
            if (axesOf(element) > 1) name += axes.at(axis);
        }
    });
    return name.empty() ? address : name;
}

}  // namespace

TakeLanes lanesOf(const Take& take, const std::set<PairOfControls>& pairs) {
    return Sorting(take, pairs).sort();
}

std::string laneName(const Ensemble& ensemble, const Take& take, const TakeLane& lane) {
    using About = Subject::About;
    const std::string& port = take.ports[lane.subject.port];
    if (lane.subject.about == About::osc) return elementName(ensemble, lane.subject.address);
    for (const Controller& controller : ensemble.controllers) {
        if (controller.port != port && controller.port != anyPort) continue;
        for (const ControllerControl& control : controller.controls) {
            if (isOf(control.message, lane)) return nameOf(control);
        }
    }
    switch (lane.subject.about) {
        case About::control:
            return midi::controlName(lane.subject.number);
        case About::bend:
            return "Pitch bend";
        case About::pressure:
            return "Aftertouch";
        case About::keyPressure:
            return "Key pressure";
        case About::program:
            return "Program";
        default:
            return "Other";
    }
}

std::string laneMessage(const TakeLane& lane) {
    using About = Subject::About;
    std::string words;
    switch (lane.subject.about) {
        case About::control:
            words = midi::controlMessage(lane.subject.number, lane.isPair);
            break;
        case About::bend:
            words = "pitch bend";
            break;
        case About::pressure:
            words = "channel pressure";
            break;
        case About::keyPressure:
            words = "key " + midi::keyName(lane.subject.number);
            break;
        case About::program:
            words = "program change";
            break;
        case About::osc:
            return lane.subject.address;
        default:
            break;
    }
    if (lane.subject.channel > 0) {
        words += ", channel ";
        words += std::to_string(lane.subject.channel + 1);
    }
    return words;
}

}  // namespace mellow
