// Shapes, courses and steps as section 7 has them. SplitMix64 is written as its authors give it, as a state
// that is advanced; the program computes draw n directly.
#include "reference/generators.h"

#include <cmath>
#include <numbers>

#include "reference/steps.h"

namespace mellow::reference {

namespace {

/// SplitMix64, as its authors give it: a state that is advanced, and mixed.
struct SplitMix {
    std::uint64_t state;
    double next() {
        state += 0x9E3779B97F4A7C15ULL;
        std::uint64_t z = state;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
        z = z ^ (z >> 31);
        return static_cast<double>(z >> 11) / 9007199254740992.0;
    }
};

double draw(const Source& source, std::uint64_t n) {
    SplitMix random{static_cast<std::uint64_t>(number(source, "seed"))};
    random.state += n * 0x9E3779B97F4A7C15ULL;
    return random.next();
}

double frequency(const Source& source, double tempo) {
    const double beats = number(source, "beats");
    return beats > 0 ? tempo / 60 / beats : number(source, "hz");
}

double cycle(const Source& source, const Generator& generator, std::int64_t now, double tempo) {
    const double t = static_cast<double>(now - generator.t0) / 1e6;
    const double phase = number(source, "phase");
    const double turns = (phase == 1 ? 0 : phase) + (generator.phiAtT0 + frequency(source, tempo) * t);
    const double phi = turns - std::floor(turns);
    const auto n = static_cast<std::uint64_t>(std::floor(turns));
    const std::string_view shape = choice(source, "shape");
    if (shape == "sine") return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * phi);
    if (shape == "triangle") return phi < 0.5 ? 2 * phi : 2 - 2 * phi;
    if (shape == "rampUp") return phi;
    if (shape == "rampDown") return 1 - phi;
    if (shape == "square") return phi < 0.5 ? 1 : 0;
    if (shape == "steps") return draw(source, n);
    const double before = n == 0 ? 0.5 : draw(source, n - 1);
    return before + (draw(source, n) - before) * (0.5 - 0.5 * std::cos(std::numbers::pi * phi));
}

double envelope(const Source& source, Generator& generator, std::int64_t now) {
    if (generator.leg == Generator::Leg::still) return generator.position;
    double ms = static_cast<double>(now - generator.legBegan) / 1000;
    if (generator.leg == Generator::Leg::release) {
        const double release = number(source, "release");
        if (ms < release) return generator.legFrom - generator.legFrom * ms / release;
        generator.leg = Generator::Leg::still;
        return 0;
    }
    const double attack = number(source, "attack");
    if (ms < attack) return generator.legFrom + (1 - generator.legFrom) * ms / attack;
    ms -= attack;
    if (ms < number(source, "hold")) return 1;
    ms -= number(source, "hold");
    const double decay = number(source, "decay");
    const double sustain = number(source, "sustain");
    if (ms < decay) return 1 + (sustain - 1) * ms / decay;
    generator.leg = Generator::Leg::still;
    return sustain;
}

double walk(const Source& source, Generator& generator, std::int64_t now) {
    const auto due =
        static_cast<std::uint64_t>(static_cast<double>(now) * number(source, "stepsPerSecond") / 1e6);
    if (!generator.begun) {
        generator.stepsTaken = due;
        return 0.5;
    }
    double p = generator.position;
    for (; generator.stepsTaken < due; ++generator.stepsTaken) {
        p += number(source, "size") * (2 * draw(source, generator.stepsTaken) - 1);
        if (p < 0) p = -p;
        if (p > 1) p = 2 - p;
    }
    return p;
}

}  // namespace

double positionAt(const Source& source, Generator& generator, std::int64_t now, double tempo) {
    if (source.kind == SourceKind::lfo) generator.position = cycle(source, generator, now, tempo);
    if (source.kind == SourceKind::envelope) generator.position = envelope(source, generator, now);
    if (source.kind == SourceKind::walk) generator.position = walk(source, generator, now);
    generator.begun = true;
    return generator.position;
}

bool stillMoves(const Source& source, const Generator& generator) {
    if (!generator.begun) return true;
    if (source.kind == SourceKind::lfo) return number(source, "beats") > 0 || number(source, "hz") > 0;
    if (source.kind == SourceKind::envelope) return generator.leg != Generator::Leg::still;
    return number(source, "stepsPerSecond") > 0 && number(source, "size") > 0;
}

void noteOn(const Source& source, Generator& generator, std::int64_t now) {
    if (source.kind == SourceKind::lfo && choice(source, "restart") == "note") {
        generator.t0 = now;
        generator.phiAtT0 = 0;
    }
    if (source.kind == SourceKind::envelope) {
        generator.held = true;
        generator.leg = Generator::Leg::attack;
        generator.legBegan = now;
        generator.legFrom = generator.position;
    }
}

void lastKeyUp(const Source& source, Generator& generator, std::int64_t now) {
    if (source.kind != SourceKind::envelope || !generator.held) return;
    generator.held = false;
    generator.leg = Generator::Leg::release;
    generator.legBegan = now;
    generator.legFrom = generator.position;
}

void clockStart(const Source& source, Generator& generator, std::int64_t now) {
    if (source.kind != SourceKind::lfo || choice(source, "restart") != "start") return;
    generator.t0 = now;
    generator.phiAtT0 = 0;
}

void tempoChange(const Source& source, Generator& generator, std::int64_t now, double tempo) {
    if (source.kind != SourceKind::lfo || number(source, "beats") <= 0) return;
    generator.phiAtT0 += frequency(source, tempo) * (static_cast<double>(now - generator.t0) / 1e6);
    generator.t0 = now;
}

double encoderMove(const Source& source, int value) {
    const std::string_view encoding = choice(source, "encoding");
    int n = 0;
    if (encoding == "twos" && value != 64) n = value < 64 ? value : value - 128;
    if (encoding == "offset") n = value - 64;
    if (encoding == "sign") n = value <= 63 ? value : 64 - value;
    return n * number(source, "speed") / 127;
}

}  // namespace mellow::reference
