// Balance on the practice rack: how long a measurement takes, how near levelling and matching come, and how
// quick fitting is. Prints "name value" lines; times in milliseconds, the best of three.
// usage: bench-balance ENSEMBLE.lever [LIBRARY-FOLDER]
#include <chrono>
#include <cmath>
#include <cstdio>
#include <tuple>

#include "core/balance/levelling.h"
#include "core/files/files.h"
#include "core/reuse/parts.h"
#include "core/store/ensemble_json.h"
#include "core/store/part_json.h"
#include "io/balance/rack_measuring.h"
#include "io/sound/practice_sound.h"

using namespace mellow;
using namespace mellow::balance;

namespace {

template<class Act>
double took(Act&& act) {
    double best = 1e9;
    for (int i = 0; i < 3; ++i) {
        const auto begun = std::chrono::steady_clock::now();
        act();
        const std::chrono::duration<double, std::milli> time = std::chrono::steady_clock::now() - begun;
        best = std::min(best, time.count());
    }
    return best;
}

Result<Curve> onRack(const Ensemble& ensemble, const SweepPlan& plan, const std::string& = {}) {
    return io::measureOnRack(ensemble, plan);
}

struct Swell {
    std::string instrument;
    std::string source;
    std::string parameter;
};

LevelWish wishFor(const Ensemble& ensemble, const Swell& swell) {
    const Instrument& instrument = *findById(ensemble.instruments, swell.instrument);
    LevelWish wish;
    wish.plan.instrument = swell.instrument;
    wish.plan.motion = *parseMotion(ensemble, instrument, swell.source);
    wish.plan.keys = usualKeys(instrument, wish.plan.motion);
    wish.plan.settle = 600'000;
    wish.parameter = swell.parameter;
    return wish;
}

struct Worst {
    double off = 0;
    std::size_t points = 0;
};

void levelOne(const Ensemble& ensemble, const Swell& swell, Worst& worst) {
    const auto levelled = level(ensemble, wishFor(ensemble, swell), onRack);
    if (!levelled) {
        std::printf("# %s\n", levelled.problem().sentence().c_str());
        worst.off = 99;
        return;
    }
    std::printf("# %s by %s: %.2f LU, was %.1f, %zu points\n", swell.instrument.c_str(), swell.source.c_str(),
                levelled->off, levelled->offBefore, levelled->points);
    worst.off = std::max(worst.off, levelled->off);
    worst.points = std::max(worst.points, levelled->points);
}

Worst levelTheDemo(const Ensemble& ensemble) {
    Worst worst;
    for (const Swell& swell : {Swell{"glass", "cc 1", "cc 7"},
                               {"flute", "cc 2", "cc 7"},
                               {"whistles", "cc 1", "cc 7"},
                               {"hurdy", "cc 11", "volume"},
                               {"drone", "cc 1", "cc 7"}})
        levelOne(ensemble, swell, worst);
    return worst;
}

/// By each chain that makes it louder; what has no sound of its own plays strings.
Worst levelTheLibrary(const std::string& folder) {
    Worst worst;
    for (const auto& [file, chain, parameter] : {std::tuple{"orchestral-strings", "dynamics", "cc 7"},
                                                 {"orchestral-strings", "expression", "cc 7"},
                                                 {"nine-drawbar-organ", "swell", "cc 7"},
                                                 {"general-midi", "swell", "volume"}}) {
        const auto text = files::readTextFile(folder + "/" + file + ".lever-part");
        const auto part = text ? store::parsePart(*text) : Result<Part>(text.problem());
        if (!part) {
            worst.off = 99;
            continue;
        }
        Ensemble ensemble;
        const std::string id = reuse::putInstruments(ensemble, *part).front();
        Instrument& instrument = *findById(ensemble.instruments, id);
        constexpr int strings = 48;
        if (io::practiceSound(instrument) == 0)
            instrument.extras.emplace_back("practiceSound", std::to_string(strings));
        levelOne(ensemble, {id, chain, parameter}, worst);
    }
    return worst;
}

/// The whistles as loud as the glass harmonium, at the same wheel; the worst where there is room.
void match(const Ensemble& ensemble) {
    LevelWish wish = wishFor(ensemble, {"whistles", "cc 1", "cc 7"});
    const auto reference = onRack(ensemble, wishFor(ensemble, {"glass", "cc 1", "cc 7"}).plan);
    if (!reference) return;
    wish.goal.kind = Goal::Kind::line;
    for (const CurvePoint& each : meanOf(*reference)) {
        if (each.heard.loudness) wish.goal.points.emplace_back(each.position, *each.heard.loudness);
    }
    const auto levelled = level(ensemble, wish, onRack);
    if (!levelled || levelled->reached == 0) return;
    std::printf("# matched at %zu of %zu positions\nmatchOff %.2f\n", levelled->reached,
                levelled->goal.size(), levelled->off);
}

void fitting() {
    std::vector<CurvePoint> law;
    std::vector<FitPoint> points;
    for (int i = 0; i < mostPositions; ++i) {
        const double place = i / 127.0;
        CurvePoint point;
        point.position = place;
        point.heard.loudness = i == 0 ? -80 : 40 * std::log10(place) - 10;
        law.push_back(point);
        points.push_back({place, -30 + 12 * place + 3 * std::sin(20 * place), -20, -28});
    }
    const auto known = LevelLaw::of(law);
    std::printf("fitMs %.2f\n", took([&] { (void)fit(*known, points, {1, 0.4, 0.5, -1}); }));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    const auto text = files::readTextFile(argv[1]);
    const auto ensemble = text ? store::parseEnsemble(*text) : Result<Ensemble>(text.problem());
    if (!ensemble) return 2;
    SweepPlan plan = wishFor(*ensemble, {"glass", "cc 1", "cc 7"}).plan;
    plan.settle = SweepPlan{}.settle;
    plan.keys = {48, 60, 72};
    std::printf("measureMs %.0f\n", took([&] { (void)onRack(*ensemble, plan); }));
    const Worst demo = levelTheDemo(*ensemble);
    const Worst library = argc > 2 ? levelTheLibrary(argv[2]) : Worst{};
    std::printf("levelOff %.2f\nlibraryOff %.2f\nlevelPoints %zu\n", demo.off, library.off,
                std::max(demo.points, library.points));
    match(*ensemble);
    fitting();
    return 0;
}
