// What is meant to move and does not: a generator with a rate of 0, a tempo of none. And a cycle that is
// given both a rate and beats, of which only the beats count.
#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

double fieldOf(const Source& source, std::string_view key) {
    const auto fields = row(source.kind).fields;
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (fields[i].key == key) return numberOf(source, i);
    }
    return 0;
}

double startOf(const Source& source, std::string_view key) {
    return fieldOf(makeSource(source.kind), key);
}

void lookAt(const ChainAt& at, const Source& source, Findings& findings) {
    const auto note = [&](std::string what, std::string mend) {
        findings.push_back(about(at, {}, Severity::note, Stops::nothing, std::move(what), std::move(mend)));
    };
    if (source.kind == SourceKind::walk &&
        (fieldOf(source, "stepsPerSecond") == 0 || fieldOf(source, "size") == 0))
        note("its random walk takes no steps, so it stands still", "give it steps a second and a size");
    if (source.kind != SourceKind::lfo) return;
    const double beats = fieldOf(source, "beats");
    const double hz = fieldOf(source, "hz");
    if (beats == 0 && hz == 0)
        note("its cycle has a rate of 0, so it stands still", "give it a rate in Hz or in beats");
    if (beats > 0 && hz != startOf(source, "hz"))
        note("its cycle has a rate in Hz and in beats, and the beats count", "leave one of them out");
}

}  // namespace

void standingStill(const Whole& whole, Findings& findings) {
    forEachChain(whole, [&](const ChainAt& at) {
        forEachSource(at.chain, [&](const Source& source) { lookAt(at, source, findings); });
    });
    const Tempo& tempo = whole.ensemble().tempo;
    if (!(tempo.bpm > 0)) {
        findings.push_back({Severity::trouble,
                            Stops::nothing,
                            {},
                            {"Tempo", "it is no number above 0, so 120 is used", "set the beats a minute"}});
    }
}

}  // namespace mellow::checks
