// Two instruments that listen to the same message on the same port and channel: what is sent to one, the
// other hears too.
#include <map>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow::checks {

void instrumentsOnOneMessage(const Whole& whole, Findings& findings) {
    struct First {
        std::size_t instrument;
        const Parameter* parameter;
    };
    std::map<std::tuple<std::string, int, MessageKind, int>, First> first;
    for (std::size_t i = 0; i < whole.ensemble().instruments.size(); ++i) {
        const Instrument& instrument = whole.ensemble().instruments[i];
        if (!instrument.on) continue;
        for (const Parameter& parameter : instrument.parameters) {
            const auto [earlier, isNew] =
                first.try_emplace({instrument.output.port, instrument.output.channel, parameter.message.kind,
                                   row(parameter.message.kind).numbered ? parameter.message.number : 0},
                                  First{i, &parameter});
            if (isNew || earlier->second.instrument == i) continue;
            findings.push_back(about(whole, i, Severity::note, Stops::nothing,
                                     "its " + nameOf(parameter) + " is the same message on " +
                                         instrument.output.port + " channel " +
                                         std::to_string(instrument.output.channel) + " as " +
                                         nameOf(*earlier->second.parameter) + " of " +
                                         nameOf(whole.ensemble().instruments[earlier->second.instrument]),
                                     "give one of them another channel or port"));
        }
    }
}

}  // namespace mellow::checks
