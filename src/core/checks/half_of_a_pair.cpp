// A control of seven bits whose number is one half of a 14-bit control in use: each disturbs the other.
#include <map>
#include <set>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

constexpr int pairs = 32;

void lookAtParameters(const Whole& whole, std::size_t i, Findings& findings) {
    std::map<int, const Parameter*> fine;
    for (const Parameter& parameter : whole.ensemble().instruments[i].parameters) {
        if (parameter.message.kind == MessageKind::cc14) fine.emplace(parameter.message.number, &parameter);
    }
    for (const Parameter& parameter : whole.ensemble().instruments[i].parameters) {
        const int number = parameter.message.number;
        if (parameter.message.kind != MessageKind::cc || number < 0 || number >= 2 * pairs) continue;
        const auto pair = fine.find(number % pairs);
        if (pair == fine.end()) continue;
        findings.push_back(about(whole, i, Severity::trouble, Stops::nothing,
                                 nameOf(parameter) + " is CC " + std::to_string(number) +
                                     ", which is half of " + nameOf(*pair->second) + ", a 14-bit control",
                                 "give one of them another number"));
    }
}

}  // namespace

void halfOfAPair(const Whole& whole, Findings& findings) {
    for (std::size_t i = 0; i < whole.ensemble().instruments.size(); ++i) {
        if (whole.ensemble().instruments[i].on) lookAtParameters(whole, i, findings);
    }
    std::map<int, std::string> heard;
    const auto eachSource = [&](auto&& visit) {
        forEachRunning(whole, [&](const ChainAt& at) {
            forEachSource(at.chain,
                          [&](const Source& source) { visit(at, resolved(whole.directory(), source)); });
        });
    };
    eachSource([&](const ChainAt& at, const Source& source) {
        if (source.kind == SourceKind::cc14) heard.try_emplace(source.number, placeName(at));
    });
    if (heard.empty()) return;
    eachSource([&](const ChainAt& at, const Source& source) {
        if (source.kind != SourceKind::cc || source.number >= 2 * pairs) return;
        const auto pair = heard.find(source.number % pairs);
        if (pair == heard.end()) return;
        findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                 "it listens to CC " + std::to_string(source.number) +
                                     ", which is half of the 14-bit control that moves " + pair->second,
                                 "listen to the 14-bit control in both"));
    });
}

}  // namespace mellow::checks
