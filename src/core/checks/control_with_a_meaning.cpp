// Bank select and data entry are controls by form only: they mean something together with other messages, and
// used as an ordinary control they change sounds or settings that nobody meant to change.
#include "core/checks/rules.h"
#include "core/midi/names.h"
#include "core/model/edit.h"

namespace mellow::checks {

namespace {

Mend anotherNumber(const InstrumentAt& at, std::size_t parameter) {
    return mendInstrument(at, "Use a free number", [parameter](Instrument& instrument) {
        if (parameter < instrument.parameters.size())
            instrument.parameters[parameter].message.number = newParameter(instrument).message.number;
    });
}

void lookAtParameters(const InstrumentAt& at, Findings& findings) {
    for (std::size_t p = 0; p < at.instrument.parameters.size(); ++p) {
        const Parameter& parameter = at.instrument.parameters[p];
        const int number = parameter.message.number;
        if (parameter.message.kind != MessageKind::cc || midi::controlMeaning(number).empty()) continue;
        findings.push_back(about(at.place, Severity::note, Stops::nothing,
                                 nameOf(parameter) + " is CC " + std::to_string(number) + ", which is " +
                                     midi::controlMeaning(number),
                                 "use a program, RPN or NRPN parameter, or another number",
                                 {anotherNumber(at, p)}));
    }
}

void lookAtSources(const ChainAt& at, Findings& findings) {
    forEachSource(at.chain, [&](const Source& written) {
        const Source source = resolved(at.directory, written);
        if (source.kind != SourceKind::cc || midi::controlMeaning(source.number).empty()) return;
        findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                 "it listens to CC " + std::to_string(source.number) + ", which is " +
                                     midi::controlMeaning(source.number),
                                 "use a program, RPN or NRPN source, or another number"));
    });
}

}  // namespace

extern const Rule controlWithAMeaning{.chain = lookAtSources, .instrument = lookAtParameters};

}  // namespace mellow::checks
