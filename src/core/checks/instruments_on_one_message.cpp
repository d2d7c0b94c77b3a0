// Two instruments that listen to the same message on the same port and channel: what is sent to one, the
// other hears too.
#include <map>
#include <set>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

/// Gives an instrument the first channel of its port that no other plays on.
void giveChannel(Ensemble& ensemble, std::size_t place, const std::string& id) {
    if (place >= ensemble.instruments.size()) return;
    const Instrument& moved = std::as_const(ensemble.instruments)[place];
    if (moved.id != id) return;
    std::set<int> taken;
    for (const Instrument& other : std::as_const(ensemble).instruments) {
        if (other.output.port == moved.output.port) taken.insert(other.output.channel);
    }
    for (int channel = 1; channel <= 16; ++channel) {
        if (taken.contains(channel)) continue;
        ensemble.instruments[place].output.channel = channel;
        return;
    }
}

using Lane = std::pair<std::string_view, int>;

/// The instruments that are on, by port and channel; where one plays alone there is nothing to look at.
std::map<Lane, std::vector<std::size_t>> sharedLanes(const Ensemble& ensemble) {
    std::map<Lane, std::vector<std::size_t>> lanes;
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        const Instrument& instrument = ensemble.instruments[i];
        if (instrument.on) lanes[{instrument.output.port, instrument.output.channel}].push_back(i);
    }
    std::erase_if(lanes, [](const auto& lane) { return lane.second.size() < 2; });
    return lanes;
}

void lookAtLane(const Whole& whole, const std::vector<std::size_t>& players, Findings& findings) {
    struct First {
        std::size_t instrument;
        const Parameter* parameter;
    };
    std::map<std::pair<MessageKind, int>, First> first;
    for (const std::size_t i : players) {
        const Instrument& instrument = whole.ensemble().instruments[i];
        for (const Parameter& parameter : instrument.parameters) {
            const auto& message = parameter.message;
            const auto [earlier, isNew] = first.try_emplace(
                {message.kind, row(message.kind).numbered ? message.number : 0}, First{i, &parameter});
            if (isNew || earlier->second.instrument == i) continue;
            findings.push_back(
                about(i, Severity::note, Stops::nothing,
                      "its " + nameOf(parameter) + " is the same message on " + instrument.output.port +
                          " channel " + std::to_string(instrument.output.channel) + " as " +
                          nameOf(*earlier->second.parameter) + " of " +
                          nameOf(whole.ensemble().instruments[earlier->second.instrument]),
                      "give one of them another channel or port",
                      {{"Give it a channel of its own",
                        [i, id = instrument.id](Ensemble& ensemble) { giveChannel(ensemble, i, id); }}}));
        }
    }
}

void look(const Whole& whole, Findings& findings) {
    for (const auto& [lane, players] : sharedLanes(whole.ensemble())) lookAtLane(whole, players, findings);
}

}  // namespace

extern const Rule instrumentsOnOneMessage{.whole = look};

}  // namespace mellow::checks
