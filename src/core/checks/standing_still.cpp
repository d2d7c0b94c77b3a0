// What is meant to move and does not: a generator with a rate of 0, a tempo of none. And a cycle that is
// given both a rate and beats, of which only the beats count.
#include <algorithm>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

constexpr double noField = 0;

double fieldOf(const Source& source, std::string_view key) {
    const auto fields = row(source.kind).fields;
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (fields[i].key == key) return numberOf(source, i);
    }
    return noField;
}

/// Sets fields of every source of a kind to what they start as, where those sources are as `wrong` says.
Mend startAgain(const ChainAt& at, std::string name, SourceKind kind, std::vector<std::string_view> keys,
                bool (*wrong)(const Source&)) {
    return mendSources(at, std::move(name), [kind, keys = std::move(keys), wrong](Source& source) {
        if (source.kind != kind || !wrong(source)) return;
        const auto fields = row(kind).fields;
        for (std::size_t i = 0; i < fields.size(); ++i) {
            if (std::find(keys.begin(), keys.end(), fields[i].key) != keys.end())
                source.values[i] = startOf(fields[i]);
        }
    });
}

bool walkStandsStill(const Source& source) {
    return fieldOf(source, "stepsPerSecond") == 0 || fieldOf(source, "size") == 0;
}
bool cycleStandsStill(const Source& source) {
    return fieldOf(source, "beats") == 0 && fieldOf(source, "hz") == 0;
}
bool cycleHasTwoRates(const Source& source) {
    return fieldOf(source, "beats") > 0 && fieldOf(source, "hz") != fieldOf(makeSource(source.kind), "hz");
}

void lookAtSource(const ChainAt& at, const Source& source, Findings& findings) {
    const auto note = [&](std::string what, std::string mend, Mend cure) {
        findings.push_back(about(at, {}, Severity::note, Stops::nothing, std::move(what), std::move(mend),
                                 {std::move(cure)}));
    };
    if (source.kind == SourceKind::walk && walkStandsStill(source))
        note("its random walk takes no steps, so it stands still", "give it steps a second and a size",
             startAgain(at, "Let it walk", SourceKind::walk, {"stepsPerSecond", "size"}, walkStandsStill));
    if (source.kind != SourceKind::lfo) return;
    if (cycleStandsStill(source))
        note("its cycle has a rate of 0, so it stands still", "give it a rate in Hz or in beats",
             startAgain(at, "Turn once a second", SourceKind::lfo, {"hz"}, cycleStandsStill));
    if (cycleHasTwoRates(source))
        note("its cycle has a rate in Hz and in beats, and the beats count", "leave one of them out",
             startAgain(at, "Count in beats", SourceKind::lfo, {"hz"}, cycleHasTwoRates));
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    forEachSource(at.chain, [&](const Source& source) { lookAtSource(at, source, findings); });
}

void lookAtTempo(const Whole& whole, Findings& findings) {
    if (whole.ensemble().tempo.bpm > 0) return;
    findings.push_back({Severity::trouble,
                        Stops::nothing,
                        {},
                        {"Tempo", "it is no number above 0, so 120 is used", "set the beats a minute"},
                        {{"Use 120", [](Ensemble& ensemble) { ensemble.tempo.bpm = Tempo{}.bpm; }}}});
}

}  // namespace

extern const Rule standingStill{.chain = lookAtChain, .whole = lookAtTempo, .everyChain = true};

}  // namespace mellow::checks
