// What levelling did, in sentences.
#include <cmath>

#include "core/balance/levelling.h"
#include "core/describe/sentence.h"
#include "core/text/numbers.h"

namespace mellow::balance {

namespace {

std::string inUnits(double value, const char* unit) {
    constexpr double tenths = 10;
    return text::withUnit(std::round(value * tenths) / tenths, unit);
}

/// A position of what moves as it is played: "9", "C4".
std::string placeWords(const Motion& motion, double position) {
    return std::to_string(std::lround(position * midi::max7)) + (isKeys(motion) ? " of the keys" : "");
}

/// "Volume 44–102".
std::string reachOf(const Ensemble& ensemble, const Instrument& instrument, const Branch& branch) {
    const Target target = targetOf(ensemble, &instrument, branch.target);
    return mellow::nameOf(target, false) + " " + describe::reachWords(ensemble, target, branch);
}

std::string lackWords(const NoRoom& lack, const std::string& parameter, const std::string& left) {
    switch (lack.why) {
        case Lack::steps:
            return "the values of " + parameter + " are too far apart to come nearer than " + left;
        case Lack::joined:
            return "the chain's steps bring positions together that want different levels: " + left +
                   " are left there";
        default:
            return parameter + " has no room: " + left + " are left there, too " +
                   (lack.left > 0 ? "soft" : "loud");
    }
}

}  // namespace

std::vector<std::string> sentencesOf(const Levelled& levelled, const LevelWish& wish) {
    const Instrument* instrument = findById(levelled.ensemble.instruments, wish.plan.instrument);
    const Chain* chain = instrument == nullptr ? nullptr : findById(instrument->chains, levelled.chain);
    if (chain == nullptr) return {};
    const std::string moved = motionName(levelled.ensemble, *instrument, wish.plan.motion);
    const std::string points = std::to_string(levelled.points) + " points";
    const std::string off = inUnits(levelled.off, "LU") + ", was " + inUnits(levelled.offBefore, "LU");
    // What made equal steps is no branch.
    if (!levelled.branch)
        return {moved + " is bent, in " + points + ", at the beginning of " + mellow::nameOf(*chain),
                "Equal travel gives equal steps of loudness within " + off};
    const Branch& branch = chain->branches[static_cast<std::size_t>(*levelled.branch)];
    std::vector<std::string> sentences;
    sentences.push_back(moved + ", drawn in " + points + ", reaches " +
                        reachOf(levelled.ensemble, *instrument, branch));
    if (levelled.reached > 0) sentences.push_back("Loudness follows the goal within " + off);
    if (levelled.peak > wish.ceiling + alikePeaks)
        sentences.push_back("It still reaches " + inUnits(levelled.peak, "dB") + " true peak, where " +
                            inUnits(wish.ceiling, "dB") + " was allowed");
    if (!levelled.others.empty())
        sentences.push_back(text::listed(levelled.others) +
                            (levelled.others.size() == 1 ? " moves it too" : " move it too") +
                            ", and whichever moves last is heard");
    return sentences;
}

std::vector<std::string> roomSentences(const Levelled& levelled, const LevelWish& wish) {
    const Instrument* instrument = findById(levelled.ensemble.instruments, wish.plan.instrument);
    const Parameter* parameter =
        instrument == nullptr ? nullptr : findById(instrument->parameters, levelled.parameter);
    if (parameter == nullptr) return {};
    std::vector<std::string> sentences;
    for (const NoRoom& each : levelled.noRoom) {
        const bool atBottom = each.from <= levelled.goal.front().first;
        const bool atTop = each.to >= levelled.goal.back().first;
        const std::string from = placeWords(wish.plan.motion, each.from);
        const std::string to = placeWords(wish.plan.motion, each.to);
        const std::string where = atBottom && atTop ? "Everywhere"
                                  : atBottom        ? "Up to " + to
                                  : atTop           ? "From " + from + " on"
                                                    : "From " + from + " to " + to;
        const std::string left = inUnits(std::abs(each.left), "LU");
        sentences.push_back(where + ' ' + lackWords(each, nameOf(*parameter), left));
    }
    return sentences;
}

}  // namespace mellow::balance
