#include "core/balance/levelling.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/balance/trunk.h"
#include "core/describe/names.h"
#include "core/midi/names.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/profiles/message_text.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::balance {

namespace {

/// How much of the error that is allowed lines may be off between points, round by round: what is sent is
/// rounded, and what is measured again is not quite what was, which needs its share.
constexpr std::array shares{0.95, 0.8, 0.65, 0.4};
/// Where a parameter stands while the rest is measured, it should not be cut off by what plays it.
constexpr double stillPeak = -3;  // dB

/// The branch of a chain that leads to a parameter; made where there is none.
Branch& branchTo(Chain& chain, const Parameter& parameter) {
    for (Branch& each : chain.branches) {
        if (each.target == parameter.id) return each;
    }
    Branch branch = wholeBranch(parameter);
    chain.branches.push_back(branch);
    return chain.branches.back();
}

bool leadsTo(const Chain& chain, const std::string& target) {
    return chain.on && std::any_of(chain.branches.begin(), chain.branches.end(),
                                   [&](const Branch& each) { return each.on && each.target == target; });
}

/// The other chains that move a parameter.
std::vector<const Chain*> othersOn(const Ensemble& ensemble, const Instrument& instrument, const Chain& mine,
                                   const std::string& parameter) {
    std::vector<const Chain*> found;
    for (const Chain& each : instrument.chains) {
        if (each.id != mine.id && leadsTo(each, parameter)) found.push_back(&each);
    }
    for (const Chain& each : ensemble.sharedChains) {
        if (leadsTo(each, instrument.id + "/" + parameter)) found.push_back(&each);
    }
    return found;
}

class Levelling {
 public:
    Levelling(const Ensemble& ensemble, const LevelWish& wish, const Measure& measure)
        : wish_(wish), measure_(measure), work_(ensemble) {}

    Result<Levelled> run() {
        for (const auto step : {&Levelling::findInstrument, &Levelling::findChain, &Levelling::findParameter,
                                &Levelling::measureBefore, &Levelling::measureLaw, &Levelling::measureStill,
                                &Levelling::fitAgainAndAgain}) {
            if (const Outcome done = (this->*step)(); !done) return done.problem();
        }
        return std::move(best_);
    }

 private:
    Instrument& instrument() { return *findById(work_.instruments, wish_.plan.instrument); }
    Chain& chain() { return *findById(instrument().chains, best_.chain); }
    const Parameter& parameter() { return *findById(instrument().parameters, best_.parameter); }

    Outcome findInstrument() {
        if (findById(work_.instruments, wish_.plan.instrument) != nullptr) return Done{};
        return Problem{text::quoted(wish_.plan.instrument), "there is no instrument with this id",
                       "say one that the ensemble has"};
    }

    Outcome findChain() {
        if (!wish_.plan.motion.parameter.empty())
            return Problem{nameOf(instrument()), "a parameter alone has no chain that could be levelled",
                           "measure along what the hands move"};
        best_.chain = wish_.chain.empty() ? chainMovedBy(work_, instrument(), wish_.plan) : wish_.chain;
        if (best_.chain.empty()) {
            Chain made;
            made.source = wish_.plan.motion.source;
            made.name = describe::madeName(work_, made);
            made.id = newId(instrument().chains, made.name);
            made.keepOriginal = true;  // it went through before
            best_.chain = made.id;
            instrument().chains.push_back(std::move(made));
        }
        const Chain* found = findById(instrument().chains, best_.chain);
        if (found == nullptr)
            return Problem{text::quoted(best_.chain), "there is no chain with this id",
                           "say one that there is"};
        if (found->fan.mode == FanMode::chosen)
            return Problem{nameOf(*found), "it feeds one branch at a time, so none could always level it",
                           "level a chain that feeds all of its branches"};
        return Done{};
    }

    Outcome findParameter() {
        if (const Parameter* there = findById(instrument().parameters, wish_.parameter)) {
            best_.parameter = there->id;
        } else if (const auto message = profiles::parseMessage(wish_.parameter)) {
            Parameter made;
            made.message = *message;
            made.name = describe::madeName(*message);
            made.id = newId(instrument().parameters, made.name);
            best_.parameter = made.id;
            instrument().parameters.push_back(std::move(made));
        } else {
            return Problem{text::quoted(wish_.parameter), "the instrument has no parameter with this id",
                           "say one that it has, or a message such as \"cc 7\""};
        }
        if (!canSetLevel(parameter().message))
            return Problem{nameOf(parameter()), "no level can be set by what it sends",
                           "level by a control that stays where it is put, such as \"cc 7\""};
        const Directory directory(work_);
        for (const Chain* other : othersOn(work_, instrument(), chain(), best_.parameter)) {
            if (resolved(directory, other->source) == resolved(directory, chain().source))
                return Problem{
                    nameOf(parameter()),
                    nameOf(*other) + " moves it too, by the same hand, and one would undo the other",
                    "level by another parameter"};
            best_.others.push_back(nameOf(*other));
        }
        return Done{};
    }

    Outcome measureBefore() {
        auto curve = measure_(work_, wish_.plan, "as it is");
        if (!curve) return curve.problem();
        best_.before = std::move(*curve);
        if (loudestOf(meanOf(best_.before)) == nullptr)
            return Problem{nameOf(instrument()), "nothing is heard at any position of all keys",
                           "choose keys that it plays"};
        return Done{};
    }

    /// At the position where it is loudest, the first key.
    Outcome measureLaw() {
        SweepPlan plan = wish_.plan;
        plan.motion = motionOfParameter(best_.parameter);
        plan.positions = wish_.lawPositions;
        const std::vector<CurvePoint> mean = meanOf(best_.before);
        const CurvePoint* loudest = loudestOf(mean);
        if (isKeys(wish_.plan.motion)) {
            plan.keys = {static_cast<int>(std::lround(loudest->position * midi::max7))};
        } else {
            plan.keys = {wish_.plan.keys.front()};
            if (isVelocity(wish_.plan.motion))
                plan.velocity = std::max(1, static_cast<int>(std::lround(loudest->position * midi::max7)));
            else
                plan.held = Held{wish_.plan.motion, loudest->position};
        }
        const auto curve = measure_(work_, plan, "what " + nameOf(parameter()) + " does");
        if (!curve) return curve.problem();
        auto law = LevelLaw::of(meanOf(*curve), maxOf(parameter()), scaleOf(parameter()));
        if (!law) return Problem{nameOf(parameter()), law.problem().what, law.problem().mend};
        law_ = std::move(*law);
        const double over = std::max(0.0, law_->highestPeak() - stillPeak);
        still_ = law_->positionFor(law_->loudest() - over);
        return Done{};
    }

    /// Has the branch reach one value, or draw a curve.
    void lead(double low, double high, std::vector<Point> points) {
        const Range range = rangeOf(parameter());
        Branch& branch = branchTo(chain(), parameter());
        branch.low = levelAt(range, low);
        branch.high = levelAt(range, high);
        branch.on = true;
        branch.window.reset();
        branch.steps.clear();
        if (!points.empty()) branch.steps.push_back(pointsStep(std::move(points)));
    }

    Outcome measureStill() {
        lead(still_, still_, {});
        const auto curve = measure_(work_, wish_.plan, "with " + nameOf(parameter()) + " standing still");
        if (!curve) return curve.problem();
        const auto trunk = trunkOver(work_, best_.chain, wish_.plan);
        if (!trunk) return trunk.problem();
        const std::vector<CurvePoint> mean = meanOf(*curve);
        for (std::size_t i = 0; i < mean.size(); ++i) {
            if (!mean[i].heard.loudness || i >= trunk->size()) continue;
            places_.push_back(mean[i].position);
            points_.push_back({(*trunk)[i], *mean[i].heard.loudness, mean[i].heard.peak, 0});
        }
        if (points_.size() < 2)
            return Problem{nameOf(instrument()), "too few positions are loud enough to be levelled",
                           "measure at another key or velocity"};
        return setGoals();
    }

    Outcome setGoals() {
        const Goal& goal = wish_.goal;
        const double flat = goal.level.value_or(
            flatLevel(*law_, points_, {still_, wish_.within, wish_.within, wish_.ceiling, {}}));
        const std::vector<CurvePoint> before = meanOf(best_.before);
        const KeyCurve* key = nullptr;
        for (const KeyCurve& each : best_.before.keys) {
            if (each.key == goal.key) key = &each;
        }
        if (goal.kind == Goal::Kind::asAtAKey && key == nullptr)
            return Problem{midi::keyName(goal.key), "it is not among the keys that are measured",
                           "add it to the keys, or choose one of them"};
        for (std::size_t i = 0; i < points_.size(); ++i) {
            double& level = points_[i].goal;
            level = flat;
            if (goal.kind == Goal::Kind::line) level = goal.at(places_[i]).value_or(flat);
            if (goal.kind == Goal::Kind::asItIs)
                level = loudnessAt(before, places_[i]).value_or(points_[i].have);
            if (goal.kind == Goal::Kind::asAtAKey) level = loudnessAt(key->points, places_[i]).value_or(flat);
            best_.goal.emplace_back(places_[i], level);
        }
        return Done{};
    }

    Outcome fitAgainAndAgain() {
        constexpr double nothing = std::numeric_limits<double>::infinity();
        const Range range = rangeOf(parameter());
        std::pair best{nothing, nothing};  // dB above the peak, and LU off
        for (const double share : shares) {
            const Fit now =
                fit(*law_, points_,
                    {still_, wish_.within * share, wish_.within, wish_.ceiling,
                     [range](double q) { return rawPosition(range, levelAt(range, q)).value_or(q); }});
            lead(now.low, now.high, now.points);
            auto curve = measure_(work_, wish_.plan, "what comes of it");
            if (!curve) return curve.problem();
            learn(*curve, branchTo(chain(), parameter()).steps);
            const double off = worst(shortOf(best_.goal, *curve), now.lacks);
            const double over = overCeiling(*curve);
            if (std::pair(over, off) < best) {
                best = {over, off};
                keep(now, std::move(*curve), off);
            }
            if (over <= 0 && off <= wish_.within) break;
        }
        return Done{};
    }

    /// By how much a curve is above the peak; 0: it is not, as far as one peak is like the next.
    double overCeiling(const Curve& curve) const {
        const double over = readoutOf(meanOf(curve)).peak - wish_.ceiling;
        return over <= alikePeaks ? 0 : over;
    }

    /// What was measured tells anew how loud it is while the parameter stands still, and how high it peaks,
    /// and so what is still missing.
    void learn(const Curve& curve, const std::vector<Step>& drawn) {
        const std::vector<CurvePoint> mean = meanOf(curve);
        for (std::size_t i = 0; i < points_.size(); ++i) {
            const auto here = std::find_if(mean.begin(), mean.end(), [&](const CurvePoint& each) {
                return each.position == places_[i];
            });
            if (here == mean.end() || !here->heard.loudness) continue;
            const double more = law_->level(still_) - law_->levelSent(sentAt(drawn, points_[i].trunk));
            points_[i].have = *here->heard.loudness + more;
            points_[i].peak = here->heard.peak + more;
        }
    }

    /// The raw position that the branch reaches for one of the trunk.
    double sentAt(const std::vector<Step>& drawn, double trunk) {
        const Range range = rangeOf(parameter());
        const Branch& branch = branchTo(chain(), parameter());
        const double low = rawPosition(range, branch.low).value_or(0);
        const double high = rawPosition(range, branch.high).value_or(1);
        return clampPosition(low + settledPosition(drawn, trunk) * (high - low));
    }

    void keep(const Fit& fit, Curve curve, double off) {
        best_.ensemble = work_;
        const Chain& levelled = chain();
        for (std::size_t i = 0; i < levelled.branches.size(); ++i) {
            if (levelled.branches[i].target == best_.parameter) best_.branch = static_cast<int>(i);
        }
        best_.after = std::move(curve);
        best_.off = off;
        best_.offBefore = worst(shortOf(best_.goal, best_.before), fit.lacks);
        best_.points = fit.points.size();
        best_.peak = readoutOf(meanOf(best_.after)).peak;
        best_.reached = static_cast<std::size_t>(std::count(fit.lacks.begin(), fit.lacks.end(), Lack::none));
        best_.noRoom.clear();
        for (const Lack why : {Lack::room, Lack::steps, Lack::joined}) noteLacks(fit, why);
    }

    /// Ends are told stretch by stretch; of the others it is enough to know where they begin and end.
    void noteLacks(const Fit& fit, Lack why) {
        bool open = false;
        for (std::size_t i = 0; i < fit.left.size(); ++i) {
            if (fit.lacks[i] != why) {
                open = open && why != Lack::room;
                continue;
            }
            if (!open) best_.noRoom.push_back({places_[i], places_[i], 0, why});
            open = true;
            NoRoom& here = best_.noRoom.back();
            here.to = places_[i];
            if (std::abs(fit.left[i]) > std::abs(here.left)) here.left = fit.left[i];
        }
    }

    const LevelWish& wish_;
    const Measure& measure_;
    Ensemble work_;
    Levelled best_;
    std::optional<LevelLaw> law_;
    double still_ = 1;
    std::vector<double> places_;    ///< positions of the hand
    std::vector<FitPoint> points_;  ///< one for each
};

}  // namespace

Result<Levelled> level(const Ensemble& ensemble, const LevelWish& wish, const Measure& measure) {
    return Levelling(ensemble, wish, measure).run();
}

bool canSetLevel(const Message& message) {
    const MessageRow& kind = row(message.kind);
    const bool isChoice = message.kind == MessageKind::articulation || message.kind == MessageKind::note ||
                          message.kind == MessageKind::program || message.kind == MessageKind::relative;
    const bool exists = !kind.numbered || (message.number >= 0 && message.number <= kind.highestNumber);
    return kind.stays && !isChoice && exists;
}

std::vector<const Parameter*> levelParameters(const Instrument& instrument) {
    const auto rank = [](const Parameter& each) {
        constexpr int volume = 7;
        constexpr int expression = 11;
        const std::string name = text::folded(nameOf(each));
        const bool isControl = each.message.kind == MessageKind::cc || each.message.kind == MessageKind::cc14;
        if (isControl && each.message.number == volume) return 0;
        for (const char* word : {"volume", "gain", "level"}) {
            if (name.find(word) != std::string::npos) return 1;
        }
        if (isControl && each.message.number == expression) return 2;
        return 3;
    };
    std::vector<const Parameter*> list;
    for (const Parameter& each : instrument.parameters) {
        if (canSetLevel(each.message)) list.push_back(&each);
    }
    std::stable_sort(list.begin(), list.end(),
                     [&](const Parameter* one, const Parameter* other) { return rank(*one) < rank(*other); });
    return list;
}

}  // namespace mellow::balance
