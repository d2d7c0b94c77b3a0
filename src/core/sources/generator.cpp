// Which kind does what when a grid point, a note, a start or a change of tempo comes. The arithmetic of a
// kind is in its own file; here is only how its memory is kept: what a cycle has done before its rate
// changed, since when a course runs, whether any key holds it.
#include "core/sources/generator.h"

namespace mellow {

double randomDraw(std::uint64_t seed, std::uint64_t index) {
    std::uint64_t x = seed + (index + 1) * 0x9E3779B97F4A7C15U;
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9U;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBU;
    x ^= x >> 31;
    return static_cast<double>(x >> 11) * 0x1p-53;
}

namespace {

double cyclesAt(const Source& source, const GeneratorState& state, Microseconds now, double tempo) {
    const double seconds = static_cast<double>(now - state.since) / 1e6;
    return state.turned + cycleFrequency(source, tempo) * seconds;
}

void beginAgain(GeneratorState& state, Microseconds now) {
    state.since = now;
    state.turned = 0;
}

}  // namespace

double movedTo(const Source& source, GeneratorState& state, Microseconds now, double tempo) {
    switch (source.kind) {
        case SourceKind::lfo:
            state.position = cyclePosition(source, cyclesAt(source, state, now, tempo));
            break;
        case SourceKind::envelope:
            state.position = envelopePosition(source, state, now);
            break;
        default:
            state.position = walkPosition(source, state, now);
            break;
    }
    state.started = true;
    return state.position;
}

bool keepsMoving(const Source& source, const GeneratorState& state) {
    if (!state.started) return true;
    switch (source.kind) {
        case SourceKind::lfo:
            return cycleFrequency(source, unknownTempo) > 0;
        case SourceKind::envelope:
            return !state.resting;
        default:
            return walkMoves(source);
    }
}

void tempoChanges(const Source& source, GeneratorState& state, Microseconds now, double before) {
    if (!cycleCountsBeats(source)) return;
    state.turned = cyclesAt(source, state, now, before);
    state.since = now;
}

void clockStarts(const Source& source, GeneratorState& state, Microseconds now) {
    if (source.kind == SourceKind::lfo && cycleRestartsByStart(source)) beginAgain(state, now);
}

void noteBegins(const Source& source, GeneratorState& state, Microseconds now) {
    if (source.kind == SourceKind::lfo && cycleRestartsByNote(source)) beginAgain(state, now);
    if (source.kind != SourceKind::envelope) return;
    state.since = now;
    state.from = state.position;
    state.held = true;
    state.resting = false;
}

void lastNoteEnds(const Source& source, GeneratorState& state, Microseconds now) {
    if (source.kind != SourceKind::envelope || !state.held) return;
    state.since = now;
    state.from = state.position;
    state.held = false;
    state.resting = false;
}

}  // namespace mellow
