// Two instruments that listen to the same message on the same port and channel: what is sent to one, the
// other hears too.
#include <map>
#include <set>
#include <tuple>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

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

/// What a parameter sends, whatever it is called.
std::pair<MessageKind, int> sentBy(const Parameter& parameter) {
    const Message& message = parameter.message;
    return {message.kind, row(message.kind).numbered ? message.number : 0};
}

/// The names of parameters of one that some of another are the same message as.
std::vector<std::string> shared(const Instrument& instrument, const Instrument& other) {
    std::set<std::pair<MessageKind, int>> theirs;
    for (const Parameter& parameter : other.parameters) theirs.insert(sentBy(parameter));
    std::vector<std::string> names;
    for (const Parameter& parameter : instrument.parameters) {
        if (theirs.contains(sentBy(parameter))) names.push_back(nameOf(parameter));
    }
    return names;
}

/// One finding an instrument, with whoever comes first of those that it shares a message with.
void lookAtLane(const Whole& whole, const std::vector<std::size_t>& players, Findings& findings) {
    for (const std::size_t i : players) {
        const Instrument& instrument = whole.ensemble().instruments[i];
        for (const std::size_t j : players) {
            const Instrument& other = whole.ensemble().instruments[j];
            std::vector<std::string> names;
            if (i != j) names = shared(instrument, other);
            if (names.empty()) continue;
            const bool many = names.size() > 1;
            constexpr std::size_t most = 3;
            if (names.size() > most) {
                const std::size_t more = names.size() - (most - 1);
                names.resize(most - 1);
                names.push_back(std::to_string(more) + " more");
            }
            findings.push_back(
                about(i, Severity::note, Stops::nothing,
                      "its " + text::listed(names) +
                          (many ? " are the same messages on " : " is the same message on ") +
                          instrument.output.port + " channel " + std::to_string(instrument.output.channel) +
                          " as of " + nameOf(other),
                      "give one of them another channel or port",
                      {{"Give it a channel of its own",
                        [i, id = instrument.id](Ensemble& ensemble) { giveChannel(ensemble, i, id); }}}));
            break;
        }
    }
}

void look(const Whole& whole, Findings& findings) {
    for (const auto& [lane, players] : sharedLanes(whole.ensemble())) lookAtLane(whole, players, findings);
}

}  // namespace

extern const Rule instrumentsOnOneMessage{.whole = look};

}  // namespace mellow::checks
