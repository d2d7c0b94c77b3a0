// The window of a fade begins a key (or a velocity) before the overlap and ends one behind it, so that at
// both ends of the overlap both still sound; between them the two positions add up to one. Loudness goes with
// the fourth power of what a level control or a velocity is set to (40·log10, as the standard recommends), so
// the fourth root of the position keeps the sum of the two powers: a bend of −2/3, since 8^(−2/3) = 1/4.
#include "core/layering/layering.h"

#include <algorithm>
#include <cmath>

#include "core/filling/filling.h"
#include "core/model/edit.h"
#include "core/steps/step.h"

namespace mellow::layering {

namespace {

constexpr int lastKey = 127;
constexpr int lastVelocity = 127;
constexpr int octave = 12;
constexpr int velocitiesOfAFade = 25;
constexpr double equalPower = -2.0 / 3;

SourceKind sourceOf(Along along) {
    return along == Along::keys ? SourceKind::keyNumber : SourceKind::velocity;
}

int lowOf(const Area& area, Along along) {
    return along == Along::keys ? area.lowKey : area.lowVelocity;
}
int highOf(const Area& area, Along along) {
    return along == Along::keys ? area.highKey : area.highVelocity;
}

bool meet(const Area& one, const Area& other, Along along) {
    const Along across = along == Along::keys ? Along::velocities : Along::keys;
    return std::max(lowOf(one, across), lowOf(other, across)) <=
           std::min(highOf(one, across), highOf(other, across));
}

bool isBelow(const Area& lower, const Area& upper, Along along) {
    return lowOf(lower, along) < lowOf(upper, along) && highOf(lower, along) < highOf(upper, along);
}

/// Where a fade between two neighbours lies: over their overlap, or shut where the upper one begins.
std::optional<Overlap> overOf(const Area& lower, const Area& upper, Along along) {
    if (!isBelow(lower, upper, along) || !meet(lower, upper, along)) return std::nullopt;
    const int joint = lowOf(upper, along);
    if (joint <= highOf(lower, along)) return Overlap{joint, highOf(lower, along)};
    return Overlap{joint + 1, joint - 1};
}

void setArea(Instrument& instrument, const Area& area) {
    instrument.input.lowKey = area.lowKey;
    instrument.input.highKey = area.highKey;
    instrument.input.lowVelocity = area.lowVelocity;
    instrument.input.highVelocity = area.highVelocity;
}

/// What an instrument's own keys are shifted by where its chains hear them.
int shiftOf(const Instrument& instrument, Along along) {
    return along == Along::keys ? instrument.input.transpose : 0;
}

/// A fade's window: before and behind an overlap, as positions.
std::vector<FieldValue> windowOver(const Overlap& over, int shift) {
    const auto position = [&](int value) {
        return std::clamp(static_cast<double>(value + shift) / lastKey, 0.0, 1.0);
    };
    return {position(over.low - 1), position(over.high + 1)};
}

bool isFadeWindow(const Chain& chain) {
    return !chain.steps.empty() && chain.steps[0].kind->name == "window" && chain.steps[0].on;
}

bool turnsRound(const Chain& chain) {
    return chain.steps.size() > 1 && chain.steps[1].kind->name == "reverse";
}

/// The chain of an instrument that fades it over an overlap, going by what it is; not one of `known`.
const Chain* fadeOver(const Instrument& instrument, Along along, bool isLower, const Overlap& over,
                      const std::vector<Fade>& known) {
    const auto isKnown = [&](const Chain& chain) {
        return std::any_of(known.begin(), known.end(), [&](const Fade& fade) {
            return fade.instrument == instrument.id && fade.chain == chain.id;
        });
    };
    const auto found =
        std::find_if(instrument.chains.begin(), instrument.chains.end(), [&](const Chain& chain) {
            return chain.source.kind == sourceOf(along) && isFadeWindow(chain) &&
                   turnsRound(chain) == isLower &&
                   chain.steps[0].values == windowOver(over, shiftOf(instrument, along)) && !isKnown(chain);
        });
    return found == instrument.chains.end() ? nullptr : &*found;
}

/// The velocity of the notes that pass, as something that factors are multiplied into: the played velocity is
/// the first of them.
std::string velocityParameter(Instrument& instrument) {
    const auto isVelocity = [](const Parameter& each) { return each.message.kind == MessageKind::velocity; };
    auto found = std::find_if(instrument.parameters.begin(), instrument.parameters.end(), isVelocity);
    if (found == instrument.parameters.end()) {
        Parameter parameter;
        parameter.name = "Velocity";
        parameter.id = newId(instrument.parameters, parameter.name);
        parameter.message.kind = MessageKind::velocity;
        instrument.parameters.push_back(std::move(parameter));
        found = instrument.parameters.end() - 1;
    }
    std::string id = found->id;
    const bool isDriven =
        std::any_of(instrument.chains.begin(), instrument.chains.end(), [&](const Chain& c) {
            return std::any_of(c.branches.begin(), c.branches.end(),
                               [&id](const Branch& branch) { return branch.target == id; });
        });
    if (!isDriven) {
        Chain chain;
        chain.name = "As struck";
        chain.id = newId(instrument.chains, chain.name);
        chain.source = makeSource(SourceKind::velocity);
        chain.branches.push_back(wholeBranch(*found));
        instrument.chains.push_back(std::move(chain));
    }
    return id;
}

/// What fades of an instrument lead to, made ready for it; empty where there is nothing.
std::string fadingParameter(Instrument& instrument, Fading fading) {
    std::string id;
    if (fading == Fading::velocity) {
        id = velocityParameter(instrument);
    } else if (const Parameter* level = filling::levelOf(instrument)) {
        id = level->id;
    }
    if (Parameter* parameter = findById(instrument.parameters, id)) parameter->mix = Mix::product;
    return id;
}

void addFade(Instrument& instrument, const Instrument& other, Along along, bool isLower, const Overlap& over,
             Fading fading) {
    const std::string target = fadingParameter(instrument, fading);
    Chain chain;
    chain.name = "Fade to " + nameOf(other);
    chain.id = newId(instrument.chains, chain.name);
    chain.source = makeSource(sourceOf(along));
    Step window = makeStep(*findStepKind("window"));
    window.values = windowOver(over, shiftOf(instrument, along));
    chain.steps.push_back(std::move(window));
    if (isLower) chain.steps.push_back(makeStep(*findStepKind("reverse")));
    Step bend = makeStep(*findStepKind("bend"));
    bend.values = {equalPower};
    chain.steps.push_back(std::move(bend));
    chain.branches.push_back(wholeBranch(*findById(instrument.parameters, target)));
    instrument.chains.push_back(std::move(chain));
}

bool canFade(const Instrument& instrument, Fading fading) {
    return fading == Fading::velocity || filling::levelOf(instrument) != nullptr;
}

/// Two that only touch, each moved into the other by half.
void makeOverlap(Area& lower, Area& upper, Along along) {
    const int half = (along == Along::keys ? octave : velocitiesOfAFade) / 2;
    int& end = along == Along::keys ? lower.highKey : lower.highVelocity;
    int& begin = along == Along::keys ? upper.lowKey : upper.lowVelocity;
    // Neither swallows the other.
    end = std::min(end + half, highOf(upper, along) - 1);
    begin = std::max(begin - half, lowOf(lower, along) + 1);
}

}  // namespace

Area areaOf(const Instrument& instrument) {
    const Input& input = instrument.input;
    return within({input.lowKey, input.highKey, input.lowVelocity, input.highVelocity});
}

Area within(Area area) {
    const auto fit = [](int& low, int& high, int first, int last) {
        low = std::clamp(low, first, last);
        high = std::clamp(high, first, last);
        if (low > high) std::swap(low, high);
    };
    fit(area.lowKey, area.highKey, 0, lastKey);
    fit(area.lowVelocity, area.highVelocity, 1, lastVelocity);
    return area;
}

Area dragged(Area area, Grip grip, int keys, int velocities) {
    if (grip.isInside()) {
        keys = std::clamp(keys, -area.lowKey, lastKey - area.highKey);
        velocities = std::clamp(velocities, 1 - area.lowVelocity, lastVelocity - area.highVelocity);
        return {area.lowKey + keys, area.highKey + keys, area.lowVelocity + velocities,
                area.highVelocity + velocities};
    }
    if (grip.left) area.lowKey = std::clamp(area.lowKey + keys, 0, area.highKey);
    if (grip.right) area.highKey = std::clamp(area.highKey + keys, area.lowKey, lastKey);
    if (grip.bottom) area.lowVelocity = std::clamp(area.lowVelocity + velocities, 1, area.highVelocity);
    if (grip.top)
        area.highVelocity = std::clamp(area.highVelocity + velocities, area.lowVelocity, lastVelocity);
    return area;
}

std::optional<Overlap> overlapOf(const Area& lower, const Area& upper, Along along) {
    const auto over = overOf(lower, upper, along);
    return over && over->low <= over->high ? over : std::nullopt;
}

std::vector<Fade> fadesOf(const Ensemble& ensemble) {
    std::vector<Fade> fades;
    for (const Instrument& one : ensemble.instruments) {
        for (const Instrument& other : ensemble.instruments) {
            for (const Along along : {Along::keys, Along::velocities}) {
                const auto over = overOf(areaOf(one), areaOf(other), along);
                if (!over) continue;
                const auto add = [&](const Instrument& from, const Instrument& to, bool isLower) {
                    if (const Chain* chain = fadeOver(from, along, isLower, *over, fades))
                        fades.push_back({from.id, to.id, chain->id, along, isLower, *over});
                };
                add(one, other, true);
                add(other, one, false);
            }
        }
    }
    return fades;
}

void follow(Ensemble& ensemble, const std::vector<Fade>& fades) {
    for (const Fade& fade : fades) {
        const Instrument* own = findById(std::as_const(ensemble.instruments), fade.instrument);
        const Instrument* other = findById(std::as_const(ensemble.instruments), fade.other);
        if (own == nullptr || other == nullptr) continue;
        const Area& lower = areaOf(fade.isLower ? *own : *other);
        const Area& upper = areaOf(fade.isLower ? *other : *own);
        const auto over = overOf(lower, upper, fade.along);
        if (!over) continue;
        const auto window = windowOver(*over, shiftOf(*own, fade.along));
        const Chain* chain = findById(own->chains, fade.chain);
        if (chain == nullptr || !isFadeWindow(*chain) || chain->steps[0].values == window) continue;
        findById(findById(ensemble.instruments, fade.instrument)->chains, fade.chain)->steps[0].values =
            window;
    }
}

void place(Ensemble& ensemble, const std::string& id, const Area& area) {
    place(ensemble, id, area, fadesOf(ensemble));
}

void place(Ensemble& ensemble, const std::string& id, const Area& area, const std::vector<Fade>& fades) {
    if (Instrument* instrument = findById(ensemble.instruments, id)) setArea(*instrument, within(area));
    follow(ensemble, fades);
}

void spread(Ensemble& ensemble, std::span<const std::string> ids, Along along) {
    editAreas(ensemble, [&](Ensemble& e) {
        int low = lastKey;
        int high = 0;
        for (const std::string& id : ids) {
            const Instrument* instrument = findById(std::as_const(e.instruments), id);
            if (instrument == nullptr) continue;
            low = std::min(low, lowOf(areaOf(*instrument), along));
            high = std::max(high, highOf(areaOf(*instrument), along));
        }
        const int count = static_cast<int>(ids.size());
        if (high - low + 1 < count) return;
        for (int i = 0; i < count; ++i) {
            Instrument* instrument = findById(e.instruments, ids[static_cast<std::size_t>(i)]);
            if (instrument == nullptr) continue;
            const auto share = [&](int part) { return low + (high - low + 1) * part / count; };
            Area area = areaOf(*instrument);
            (along == Along::keys ? area.lowKey : area.lowVelocity) = share(i);
            (along == Along::keys ? area.highKey : area.highVelocity) = share(i + 1) - 1;
            setArea(*instrument, area);
        }
    });
}

std::optional<std::string> neighbourOf(const Ensemble& ensemble, const std::string& id,
                                       std::span<const std::string> among, Along along) {
    const Instrument* own = findById(ensemble.instruments, id);
    if (own == nullptr) return std::nullopt;
    const Area area = areaOf(*own);
    std::optional<std::string> nearest;
    int lowest = 0;
    for (const std::string& each : among) {
        const Instrument* other = findById(ensemble.instruments, each);
        if (other == nullptr || other == own) continue;
        const Area theirs = areaOf(*other);
        const bool above = isBelow(area, theirs, along);
        const bool touches = lowOf(theirs, along) <= highOf(area, along) + 1;
        if (!above || !touches || !meet(area, theirs, along)) continue;
        if (nearest && lowOf(theirs, along) >= lowest) continue;
        nearest = each;
        lowest = lowOf(theirs, along);
    }
    return nearest;
}

bool crossfade(Ensemble& ensemble, const std::string& one, const std::string& other, Along along,
               Fading fading) {
    const std::vector<std::string> both{one, other};
    const bool isFirst = neighbourOf(ensemble, one, both, along).has_value();
    const std::string& lowerId = isFirst ? one : other;
    const std::string& upperId = isFirst ? other : one;
    if (!isFirst && !neighbourOf(ensemble, other, both, along)) return false;
    const Instrument* lowerNow = findById(std::as_const(ensemble.instruments), lowerId);
    const Instrument* upperNow = findById(std::as_const(ensemble.instruments), upperId);
    if (!canFade(*lowerNow, fading) || !canFade(*upperNow, fading)) return false;
    Area lower = areaOf(*lowerNow);
    Area upper = areaOf(*upperNow);
    if (!overlapOf(lower, upper, along)) makeOverlap(lower, upper, along);
    const auto over = overlapOf(lower, upper, along);
    if (!over) return false;
    removeCrossfade(ensemble, one, other, along);
    editAreas(ensemble, [&](Ensemble& e) {
        setArea(*findById(e.instruments, lowerId), lower);
        setArea(*findById(e.instruments, upperId), upper);
    });
    Instrument& below = *findById(ensemble.instruments, lowerId);
    Instrument& above = *findById(ensemble.instruments, upperId);
    addFade(below, above, along, true, *over, fading);
    addFade(above, below, along, false, *over, fading);
    return true;
}

void removeCrossfade(Ensemble& ensemble, const std::string& one, const std::string& other, Along along) {
    for (const Fade& fade : fadesOf(ensemble)) {
        const bool isTheirs = (fade.instrument == one && fade.other == other) ||
                              (fade.instrument == other && fade.other == one);
        if (!isTheirs || fade.along != along) continue;
        std::erase_if(findById(ensemble.instruments, fade.instrument)->chains,
                      [&fade](const Chain& chain) { return chain.id == fade.chain; });
    }
}

}  // namespace mellow::layering
