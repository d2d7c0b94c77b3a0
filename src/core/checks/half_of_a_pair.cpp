// A control of seven bits whose number is one half of a 14-bit control in use: each disturbs the other.
#include <algorithm>
#include <map>

#include "core/checks/rules.h"
#include "core/midi/controls.h"

namespace mellow::checks {

namespace {

/// Gives a parameter the first number that is no half of any pair and that nothing else of the instrument
/// has.
void renumber(Instrument& instrument, std::size_t parameter) {
    const auto isTaken = [&instrument](int number) {
        return std::any_of(instrument.parameters.begin(), instrument.parameters.end(),
                           [number](const Parameter& other) {
                               return other.message.kind == MessageKind::cc && other.message.number == number;
                           });
    };
    const auto means = [](int number) {
        return number <= midi::hold2 || midi::isDataEntry(number) || midi::selectsRegister(number);
    };
    for (int number = 2 * midi::pairCount; number <= midi::lastOrdinary; ++number) {
        if (isTaken(number) || means(number)) continue;
        instrument.parameters[parameter].message.number = number;
        return;
    }
}

void lookAtParameters(const InstrumentAt& at, Findings& findings) {
    if (!at.instrument.on) return;
    const auto& parameters = at.instrument.parameters;
    std::map<int, const Parameter*> fine;
    for (const Parameter& parameter : parameters) {
        if (parameter.message.kind == MessageKind::cc14) fine.emplace(parameter.message.number, &parameter);
    }
    for (std::size_t p = 0; p < parameters.size(); ++p) {
        const int number = parameters[p].message.number;
        if (parameters[p].message.kind != MessageKind::cc || !midi::isHalfOfAPair(number)) continue;
        const auto pair = fine.find(midi::pairOf(number));
        if (pair == fine.end()) continue;
        findings.push_back(about(at.place, Severity::trouble, Stops::nothing,
                                 nameOf(parameters[p]) + " is CC " + std::to_string(number) +
                                     ", which is half of " + nameOf(*pair->second) + ", a 14-bit control",
                                 "give one of them another number",
                                 {mendInstrument(at, "Use a free number", [p](Instrument& instrument) {
                                     if (p < instrument.parameters.size()) renumber(instrument, p);
                                 })}));
    }
}

Mend listenToThePair(const ChainAt& at, int number) {
    return mendSources(at, "Listen to the 14-bit control", [number](Source& source) {
        if (source.kind != SourceKind::cc || source.number != number) return;
        source.kind = SourceKind::cc14;
        source.number = midi::pairOf(number);
    });
}

void lookAtSources(const Whole& whole, Findings& findings) {
    if (!whole.somePairsAreHeard()) return;
    std::map<int, std::string> heard;
    const auto eachControl = [&whole](SourceKind kind, auto&& visit) {
        forEachChain(whole.directory(), [&](const ChainAt& at) {
            if (!whole.runs(at.place.instrument, *at.place.chain)) return;
            for (const auto& [of, number] : whole.digest(at.place.instrument, *at.place.chain).controls) {
                if (of == kind) visit(at, number);
            }
        });
    };
    eachControl(SourceKind::cc14,
                [&](const ChainAt& at, int number) { heard.try_emplace(number, placeName(at)); });
    if (heard.empty()) return;
    eachControl(SourceKind::cc, [&](const ChainAt& at, int number) {
        const auto pair = midi::isHalfOfAPair(number) ? heard.find(midi::pairOf(number)) : heard.end();
        if (pair == heard.end()) return;
        findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                 "it listens to CC " + std::to_string(number) +
                                     ", which is half of the 14-bit control that moves " + pair->second,
                                 "listen to the 14-bit control in both", {listenToThePair(at, number)}));
    });
}

}  // namespace

extern const Rule halfOfAPair{.instrument = lookAtParameters, .whole = lookAtSources};

}  // namespace mellow::checks
