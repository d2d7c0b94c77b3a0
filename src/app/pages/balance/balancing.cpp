#include "app/pages/balance/balancing.h"

#include <algorithm>

#include "app/ground/words.h"
#include "core/balance/trunk.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr int levelMeasures = 4;

/// Whether a change may be heard in one instrument that plays alone.
bool isHeard(const Change& change, std::size_t instrument) {
    return change.everything || change.order || change.sharedChains || change.tieLines ||
           change.controllers || change.desk || change.concerns(instrument);
}

/// Whether an instrument is other than when something was worked out of it.
bool hasChanged(const Ensemble& since, const Ensemble& now, const std::string& id) {
    const Instrument* was = findById(since.instruments, id);
    const Instrument* is = findById(now.instruments, id);
    return was == nullptr || is == nullptr || (was != is && *was != *is);
}

QString changedMeanwhile() {
    return Balancing::tr("it was edited meanwhile; work it out again");
}

/// The parameter by which a level is set first: the volume, made where there is none.
std::string volumeOf(const Instrument* instrument) {
    const auto levels =
        instrument == nullptr ? std::vector<const Parameter*>() : balance::levelParameters(*instrument);
    constexpr int volume = 7;
    const bool has = !levels.empty() && levels.front()->message.number == volume &&
                     (levels.front()->message.kind == MessageKind::cc ||
                      levels.front()->message.kind == MessageKind::cc14);
    return has ? levels.front()->id : "cc 7";
}

}  // namespace

Balancing::Balancing(Workspace& workspace, QObject* parent)
    : QObject(parent),
      workspace_(workspace),
      store_(workspace.document),
      inputs_(workspace.live),
      worker_(this) {
    workspace_.keepBeside(store_);
    wish_.parameter = "cc 7";
    connect(&workspace_.document, &Document::changed, this, &Balancing::followDocument);
    connect(&workspace_.document, &Document::replaced, this, [this] {
        worker_.cancel();
        curve_.reset();
        earlier_.reset();
        forget();
        trouble_.clear();
        wish_.plan.instrument.clear();
        due_ = Due::first;
    });
}

const Instrument* Balancing::instrument() const {
    return findById(workspace_.document.ensemble().instruments, wish_.plan.instrument);
}

std::vector<balance::Motion> Balancing::motions() const {
    std::vector<balance::Motion> list;
    const Instrument* played = instrument();
    if (played == nullptr) return list;
    // Whether something can be moved is no matter of the other instruments.
    Ensemble ensemble = workspace_.document.ensemble();
    const Instrument alone = *played;
    ensemble.instruments = {};
    ensemble.instruments.push_back(alone);
    const auto add = [&](const balance::Motion& motion) {
        const bool can = static_cast<bool>(balance::Rig::build(ensemble, played->id, motion));
        if (can && std::find(list.begin(), list.end(), motion) == list.end()) list.push_back(motion);
    };
    for (const Chain& chain : played->chains) add(balance::motionOf(chain));
    for (const char* words : {"velocity", "keys"}) {
        if (const auto motion = balance::parseMotion(ensemble, *played, words)) add(*motion);
    }
    for (const Parameter* parameter : balance::levelParameters(*played))
        add(balance::motionOfParameter(parameter->id));
    return list;
}

void Balancing::setInstrument(const std::string& id) {
    if (id == wish_.plan.instrument) return;
    wish_.plan.instrument = id;
    const Instrument* played = instrument();
    if (played == nullptr) return;
    const auto all = motions();
    wish_.plan.motion = all.empty() ? balance::motionOf(makeSource(SourceKind::velocity)) : all.front();
    wish_.plan.keys = balance::usualKeys(*played, wish_.plan.motion);
    wish_.parameter = volumeOf(played);
    wish_.goal = {};
    settleAsChainNeeds();
    curve_.reset();
    earlier_.reset();
    drop();
    if (isUnheard()) measure();
}

void Balancing::settleAsChainNeeds() {
    const Instrument* played = instrument();
    if (played == nullptr) return;
    const std::string chain = balance::chainMovedBy(workspace_.document.ensemble(), *played, wish_.plan);
    wish_.plan.settle = balance::settleFor(findById(played->chains, chain));
}

void Balancing::choose(const std::function<void(balance::SweepPlan&)>& change) {
    balance::SweepPlan plan = wish_.plan;
    change(plan);
    if (plan == wish_.plan) return;
    wish_.plan = std::move(plan);
    curve_.reset();
    earlier_.reset();
    drop();
    if (isUnheard()) measure();
}

void Balancing::setMotion(const balance::Motion& motion) {
    if (motion == wish_.plan.motion) return;
    const bool keysBefore = balance::isKeys(wish_.plan.motion);
    choose([&](balance::SweepPlan& plan) {
        plan.motion = motion;
        if (instrument() != nullptr && (keysBefore || balance::isKeys(motion)))
            plan.keys = balance::usualKeys(*instrument(), motion);
        wish_.goal = {};
    });
    const std::int64_t before = wish_.plan.settle;
    settleAsChainNeeds();
    if (wish_.plan.settle != before && isUnheard()) measure();
}
void Balancing::setKeys(std::vector<int> keys) {
    choose([&](balance::SweepPlan& plan) { plan.keys = std::move(keys); });
}
void Balancing::setVelocity(int velocity) {
    choose([&](balance::SweepPlan& plan) { plan.velocity = velocity; });
}
void Balancing::setPositions(int positions) {
    choose([&](balance::SweepPlan& plan) { plan.positions = positions; });
}
void Balancing::setHold(std::int64_t hold) {
    choose([&](balance::SweepPlan& plan) { plan.hold = hold; });
}
void Balancing::setSettle(std::int64_t settle) {
    choose([&](balance::SweepPlan& plan) { plan.settle = settle; });
}
void Balancing::setParameter(const std::string& words) {
    if (words == wish_.parameter) return;
    wish_.parameter = words;
    drop();
}

void Balancing::setHeardFrom(const std::optional<io::HeardFrom>& from) {
    if (from == inputs_.from()) return;
    worker_.cancel();
    const Outcome heard = inputs_.hear(from);
    if (from && heard) {
        worker_.measureBy([this, name = from->left](const Ensemble& ensemble, const balance::SweepPlan& plan,
                                                    const auto& progress) {
            auto curve = inputs_.measure(ensemble, plan, progress);
            if (curve) curve->heardFrom = name;
            return curve;
        });
    } else {
        worker_.measureBy({});
    }
    curve_.reset();
    earlier_.reset();
    drop();
    if (!heard && from) {
        trouble_ = toQt(heard.problem().sentence());
    } else if (isUnheard()) {
        measure();
    }
    emit changed();
}

void Balancing::setWithin(double lu) {
    if (lu == wish_.within) return;
    wish_.within = lu;
    drop();
}
void Balancing::setCeiling(double peak) {
    if (peak == wish_.ceiling) return;
    wish_.ceiling = peak;
    drop();
}
void Balancing::setGoal(const balance::Goal& goal) {
    if (goal == wish_.goal) return;
    wish_.goal = goal;
    drop();
}

std::optional<double> Balancing::hand() const {
    const Instrument* played = instrument();
    if (played == nullptr || balance::isKeys(plan().motion) || !plan().motion.parameter.empty())
        return std::nullopt;
    for (const Chain& chain : played->chains) {
        if (chain.source != plan().motion.source) continue;
        const ChainReading reading = workspace_.live.reading(played->id, chain.id);
        if (reading.spoken) return reading.position;
    }
    return std::nullopt;
}

void Balancing::setShown(bool shown) {
    shown_ = shown;
    if (!shown) return;
    if (due_ != Due::no && isUnheard()) return measureNow();
    emit changed();
}

/// While the page is not shown an edit costs it nothing but knowing that there was one.
void Balancing::followDocument(const Change& change) {
    if (instrument() == nullptr) {
        worker_.cancel();
        curve_.reset();
        forget();
        emit changed();
        return;
    }
    const auto& all = workspace_.document.ensemble().instruments;
    const bool others =
        !matched_.empty() && (change.everything || change.order || !change.instruments.empty());
    if (others) forget();
    // What is played for a recording is played no more, since the document is.
    if (!isUnheard() && worker_.isBusy()) worker_.cancel();
    if (isHeard(change, placeOf(all, wish_.plan.instrument))) {
        worker_.cancel();
        forget();
        due_ = curve_ ? Due::edited : Due::first;
        if (shown_ && isUnheard()) return measureNow();
    } else if (!others) {
        return;
    }
    if (shown_) emit changed();
}

std::vector<const KeptCurve*> Balancing::kept() const {
    std::vector<const KeptCurve*> list;
    for (const KeptCurve& each : workspace_.document.ensemble().measurements) {
        if (each.instrument == wish_.plan.instrument) list.push_back(&each);
    }
    std::stable_sort(list.begin(), list.end(), [](const KeptCurve* one, const KeptCurve* other) {
        return one->measured > other->measured;
    });
    return list;
}

void Balancing::show(balance::Curve curve) {
    worker_.cancel();
    const Instrument* played = instrument();
    if (played != nullptr) {
        const auto motion = balance::parseMotion(workspace_.document.ensemble(), *played, curve.moved);
        if (motion) wish_.plan.motion = *motion;
        wish_.plan.keys.clear();
        for (const balance::KeyCurve& line : curve.keys) wish_.plan.keys.push_back(line.key);
        if (balance::isKeys(wish_.plan.motion))
            wish_.plan.keys = balance::usualKeys(*played, wish_.plan.motion);
    }
    trouble_.clear();
    earlier_.reset();
    drop();
    curve_ = std::move(curve);
    due_ = Due::no;
    emit changed();
}

void Balancing::showKept(const std::string& id) {
    const KeptCurve* found = findById(workspace_.document.ensemble().measurements, id);
    if (found == nullptr) return;
    auto curve = store_.load(*found);
    if (curve) return show(std::move(*curve));
    trouble_ = toQt(curve.problem().sentence());
    emit changed();
}

void Balancing::keep() {
    if (!curve_) return;
    balance::Curve curve = *curve_;
    const Outcome done = store_.keep(curve);
    if (!done) workspace_.tell(toQt(done.problem().sentence()) + QLatin1Char('.'));
    emit changed();
}

void Balancing::measure() {
    if (!isUnheard() && curve_) earlier_ = curve_;
    due_ = Due::first;
    if (shown_) return measureNow();
    emit changed();
}

void Balancing::measureNow() {
    if (instrument() == nullptr) return;
    const bool edited = due_ == Due::edited;
    due_ = Due::no;
    trouble_.clear();
    worker_.ask(1, [this, edited, ensemble = workspace_.document.shared(),
                    plan = wish_.plan](const balance::Measure& measure) {
        auto curve = measure(*ensemble, plan, "as it is");
        return BalanceWorker::Then([this, edited, curve] { takeCurve(curve, edited); });
    });
    clock_.start();
    emit changed();
}

void Balancing::takeCurve(Result<balance::Curve> curve, bool edited) {
    took_ = static_cast<int>(clock_.elapsed());
    if (edited && curve_) earlier_ = std::move(curve_);
    curve_.reset();
    if (curve)
        curve_ = std::move(*curve);
    else
        trouble_ = toQt(curve.problem().sentence());
    emit changed();
}

void Balancing::takeProposal(Result<balance::Levelled> levelled, const Ensemble& of, const QString& text) {
    forget();
    trouble_.clear();
    if (!levelled) {
        trouble_ = toQt(levelled.problem().sentence());
    } else if (hasChanged(of, workspace_.document.ensemble(), wish_.plan.instrument)) {
        trouble_ = changedMeanwhile();
    } else {
        proposal_ = std::move(*levelled);
        proposalText_ = text;
        words_ = balance::sentencesOf(*proposal_, wish_);
        room_ = balance::roomSentences(*proposal_, wish_);
    }
    emit changed();
}

void Balancing::level() {
    if (instrument() == nullptr) return;
    forget();
    worker_.ask(levelMeasures, [this, ensemble = workspace_.document.shared(),
                                wish = wish_](const balance::Measure& measure) {
        auto levelled = balance::level(*ensemble, wish, measure);
        return BalanceWorker::Then(
            [this, ensemble, levelled] { takeProposal(levelled, *ensemble, tr("Level")); });
    });
    emit changed();
}

void Balancing::equal(balance::LoudnessScale scale) {
    if (instrument() == nullptr) return;
    forget();
    balance::EqualWish wish;
    wish.plan = wish_.plan;
    wish.scale = scale;
    wish.within = wish_.within;
    worker_.ask(2, [this, ensemble = workspace_.document.shared(), wish](const balance::Measure& measure) {
        auto made = balance::equalSteps(*ensemble, wish, measure);
        return BalanceWorker::Then(
            [this, ensemble, made] { takeProposal(made, *ensemble, tr("Make equal steps")); });
    });
    emit changed();
}

namespace {

/// The loudness of a curve as a goal; nothing where too little is heard.
std::optional<balance::Goal> goalFrom(const balance::Curve& curve) {
    balance::Goal goal;
    goal.kind = balance::Goal::Kind::line;
    for (const balance::CurvePoint& each : balance::meanOf(curve)) {
        if (each.heard.loudness) goal.points.emplace_back(each.position, *each.heard.loudness);
    }
    return goal.points.size() < 2 ? std::nullopt : std::optional(goal);
}

QString tooQuietToFollow() {
    return Balancing::tr("The other instrument is too quiet along this to be followed.");
}

}  // namespace

/// As it is wished for the instrument that is shown, for another.
balance::LevelWish Balancing::wishFor(const std::string& id) const {
    balance::LevelWish wish = wish_;
    wish.plan.instrument = id;
    wish.parameter = volumeOf(findById(workspace_.document.ensemble().instruments, id));
    if (const Instrument* its = findById(workspace_.document.ensemble().instruments, id)) {
        wish.plan.keys = balance::usualKeys(*its, wish.plan.motion);
        const std::string chain = balance::chainMovedBy(workspace_.document.ensemble(), *its, wish.plan);
        wish.plan.settle = balance::settleFor(findById(its->chains, chain));
    }
    return wish;
}

void Balancing::follow(const std::string& other) {
    if (instrument() == nullptr) return;
    drop();
    worker_.ask(1, [this, ensemble = workspace_.document.shared(),
                    plan = wishFor(other).plan](const balance::Measure& measure) {
        auto curve = measure(*ensemble, plan, "the other");
        return BalanceWorker::Then([this, curve] {
            const auto goal = curve ? goalFrom(*curve) : std::nullopt;
            if (goal) {
                setGoal(*goal);
                level();
                return;
            }
            trouble_ = curve ? tooQuietToFollow() : toQt(curve.problem().sentence());
            emit changed();
        });
    });
    emit changed();
}

void Balancing::match(const std::string& reference, const std::vector<std::string>& all) {
    drop();
    std::vector<balance::LevelWish> wishes;
    for (const std::string& id : all) {
        if (id != reference) wishes.push_back(wishFor(id));
    }
    const auto plan = wishFor(reference).plan;
    worker_.ask(
        1 + levelMeasures * static_cast<int>(wishes.size()),
        [this, ensemble = workspace_.document.shared(), plan, wishes](const balance::Measure& measure) {
            std::vector<std::pair<balance::Levelled, balance::LevelWish>> done;
            std::vector<std::string> troubles;
            const auto curve = measure(*ensemble, plan, plan.instrument);
            const auto goal = curve ? goalFrom(*curve) : std::nullopt;
            for (balance::LevelWish wish : wishes) {
                if (!goal) break;
                wish.goal = *goal;
                auto levelled = balance::level(*ensemble, wish, measure);
                if (levelled)
                    done.emplace_back(std::move(*levelled), wish);
                else
                    troubles.push_back(levelled.problem().sentence());
            }
            if (!goal)
                troubles.push_back(curve ? tooQuietToFollow().toStdString() : curve.problem().sentence());
            return BalanceWorker::Then(
                [this, ensemble, done, troubles] { takeMatch(done, *ensemble, troubles); });
        });
    emit changed();
}

void Balancing::takeMatch(const std::vector<std::pair<balance::Levelled, balance::LevelWish>>& levelled,
                          const Ensemble& of, const std::vector<std::string>& troubles) {
    forget();
    for (const auto& [made, wish] : levelled) {
        const Instrument* its = findById(made.ensemble.instruments, wish.plan.instrument);
        if (its == nullptr) continue;
        if (hasChanged(of, workspace_.document.ensemble(), its->id)) {
            room_.push_back(nameOf(*its) + ": " + changedMeanwhile().toStdString());
            continue;
        }
        matched_.push_back(*its);
        for (const std::string& each : balance::sentencesOf(made, wish))
            words_.push_back(nameOf(*its) + ": " + each);
        for (const std::string& each : balance::roomSentences(made, wish))
            room_.push_back(nameOf(*its) + ": " + each);
    }
    for (const std::string& each : troubles) room_.push_back(each);
    proposalText_ = tr("Match");
    emit changed();
}

void Balancing::take() {
    std::vector<Instrument> made = std::move(matched_);
    if (proposal_) {
        if (const Instrument* its = findById(proposal_->ensemble.instruments, wish_.plan.instrument))
            made.push_back(*its);
    }
    const QString text = proposalText_;
    drop();
    workspace_.document.edit(text, [&made](Ensemble& e) {
        for (Instrument& each : made) {
            if (Instrument* at = findById(e.instruments, each.id)) *at = std::move(each);
        }
    });
}

void Balancing::forget() {
    proposal_.reset();
    matched_.clear();
    words_.clear();
    room_.clear();
}

void Balancing::drop() {
    forget();
    emit changed();
}

}  // namespace mellow::app
