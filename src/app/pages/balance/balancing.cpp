#include "app/pages/balance/balancing.h"

#include <algorithm>

#include "app/ground/words.h"
#include "core/balance/motions.h"
#include "core/balance/trunk.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr int levelMeasures = 7;  // at most
/// Of a parameter's law where each is played in its own time.
constexpr int heardLawPositions = 33;

/// Whether a change may be heard in one instrument that plays alone.
bool isHeard(const Change& change, std::size_t instrument) {
    return change.everything || change.order || change.sharedChains || change.tieLines ||
           change.controllers || change.desk || change.concerns(instrument);
}

/// Whether an instrument is other than when something was worked out of it. An edit of the one that is shown
/// ends what is worked out; of the others somebody has to ask.
bool hasChanged(const Ensemble& since, const Ensemble& now, const std::string& id) {
    const Instrument* was = findById(since.instruments, id);
    const Instrument* is = findById(now.instruments, id);
    return was == nullptr || is == nullptr || (was != is && *was != *is);
}

}  // namespace

Balancing::Balancing(Workspace& workspace, QObject* parent)
    : QObject(parent), workspace_(workspace), inputs_(workspace.live), worker_(this) {
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
    return balance::motionsOf(workspace_.document.ensemble(), wish_.plan.instrument);
}

void Balancing::setInstrument(const std::string& id) {
    if (id == wish_.plan.instrument) return;
    wish_.plan.instrument = id;
    wish_.goal = {};
    isSettleSet_ = false;
    if (const Instrument* played = instrument()) {
        const auto all = motions();
        wish_.plan.motion = all.empty() ? balance::motionOf(makeSource(SourceKind::velocity)) : all.front();
        wish_.plan.keys = balance::usualKeys(*played, wish_.plan.motion);
        wish_.parameter = balance::volumeOf(*played);
        wish_.plan.settle = settleOf(wish_.plan);
    }
    chosenAnew();
}

/// As long as the chain needs that is moved, unless somebody has said how long.
std::int64_t Balancing::settleOf(const balance::SweepPlan& plan) const {
    const Instrument* played = instrument();
    if (played == nullptr || isSettleSet_) return plan.settle;
    const std::string chain = balance::chainMovedBy(workspace_.document.ensemble(), *played, plan);
    return balance::settleFor(findById(played->chains, chain));
}

/// What was measured is of something else now, and so is what is being worked out.
void Balancing::chosenAnew() {
    worker_.cancel();
    curve_.reset();
    earlier_.reset();
    shownKept_.clear();
    forget();
    if (isUnheard() && instrument() != nullptr) return measure();
    emit changed();
}

void Balancing::choose(const std::function<void(balance::SweepPlan&)>& change) {
    balance::SweepPlan plan = wish_.plan;
    change(plan);
    if (plan == wish_.plan) return;
    wish_.plan = std::move(plan);
    chosenAnew();
}

void Balancing::setMotion(const balance::Motion& motion) {
    if (motion == wish_.plan.motion) return;
    const bool keysBefore = balance::isKeys(wish_.plan.motion);
    wish_.goal = {};
    isSettleSet_ = false;
    choose([&](balance::SweepPlan& plan) {
        plan.motion = motion;
        if (instrument() != nullptr && (keysBefore || balance::isKeys(motion)))
            plan.keys = balance::usualKeys(*instrument(), motion);
        plan.settle = settleOf(plan);
    });
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
    isSettleSet_ = true;
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
    wish_.lawPositions = from && heard ? heardLawPositions : balance::mostPositions;
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
    chosenAnew();
    if (heard || !from) return;
    trouble_ = toQt(heard.problem().sentence());
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
    measureWhatIsDue();
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
        wish_.plan.settle = settleOf(wish_.plan);
        trouble_.clear();
        if (shown_ && isUnheard()) return measureNow();
    } else if (!others && !change.measurements) {
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
    shownKept_.clear();
    forget();
    curve_ = std::move(curve);
    due_ = Due::no;
    emit changed();
}

void Balancing::showKept(const std::string& id) {
    const KeptCurve* found = findById(workspace_.document.ensemble().measurements, id);
    if (found == nullptr) return;
    auto curve = workspace_.curves.load(*found);
    if (curve) {
        show(std::move(*curve));
        shownKept_ = id;
        emit changed();
        return;
    }
    trouble_ = toQt(curve.problem().sentence());
    emit changed();
}

void Balancing::keep() {
    if (!curve_) return;
    keep(std::vector{*curve_});
    for (const KeptCurve* each : kept()) {
        const bool isShown = each->moved == curve_->moved && each->heardFrom == curve_->heardFrom &&
                             each->measured == curve_->measured;
        if (isShown) shownKept_ = each->id;
    }
    emit changed();
}

void Balancing::forgetKept() {
    workspace_.curves.forget(std::exchange(shownKept_, {}));
}

bool Balancing::isKept() const {
    return findById(workspace_.document.ensemble().measurements, shownKept_) != nullptr;
}

void Balancing::keep(const std::vector<balance::Curve>& curves) {
    const Outcome done = workspace_.curves.keep(curves);
    if (!done) workspace_.tell(toQt(done.problem().sentence()) + QLatin1Char('.'));
    emit changed();
}

void Balancing::measure() {
    if (!isUnheard() && curve_) earlier_ = curve_;
    due_ = Due::first;
    trouble_.clear();
    if (shown_) return measureNow();
    emit changed();
}

void Balancing::measureNow() {
    if (instrument() == nullptr) return;
    const bool edited = due_ == Due::edited;
    due_ = Due::no;
    worker_.ask(1, [this, edited, ensemble = workspace_.document.shared(),
                    plan = wish_.plan](const balance::Measure& measure) {
        auto curve = measure(*ensemble, plan, "as it is");
        return BalanceWorker::Then([this, edited, curve] { takeCurve(curve, edited); });
    });
    clock_.start();
    emit changed();
}

void Balancing::takeCurve(Result<balance::Curve> curve, bool edited) {
    shownKept_.clear();
    took_ = static_cast<int>(clock_.elapsed());
    if (edited && curve_) earlier_ = std::move(curve_);
    curve_.reset();
    if (curve)
        curve_ = std::move(*curve);
    else
        trouble_ = toQt(curve.problem().sentence());
    emit changed();
}

void Balancing::takeProposal(Result<balance::Levelled> levelled, const QString& text) {
    isProposing_ = false;
    forget();
    trouble_.clear();
    if (!levelled) {
        trouble_ = toQt(levelled.problem().sentence());
    } else {
        proposal_ = std::move(*levelled);
        proposalText_ = text;
        // It has measured what is shown, where that was not done yet.
        if (!curve_) curve_ = proposal_->before;
        due_ = Due::no;
        words_ = balance::sentencesOf(*proposal_, wish_);
        room_ = balance::roomSentences(*proposal_, wish_);
    }
    measureWhatIsDue();
}

void Balancing::measureWhatIsDue() {
    if (due_ != Due::no && shown_ && isUnheard()) return measureNow();
    emit changed();
}

/// Works something out; what was chosen otherwise meanwhile ends it.
void Balancing::work(int measures, BalanceWorker::Job job) {
    forget();
    trouble_.clear();
    // A measurement that this ends is due still.
    if (!curve_ && worker_.isBusy()) due_ = Due::first;
    worker_.ask(measures, std::move(job));
    isProposing_ = true;
    emit changed();
}

void Balancing::level() {
    if (instrument() == nullptr) return;
    work(levelMeasures,
         [this, ensemble = workspace_.document.shared(), wish = wish_](const balance::Measure& measure) {
             auto levelled = balance::level(*ensemble, wish, measure);
             return BalanceWorker::Then([this, levelled] { takeProposal(levelled, tr("Level")); });
         });
}

void Balancing::equal(balance::LoudnessScale scale) {
    if (instrument() == nullptr) return;
    balance::EqualWish wish;
    wish.plan = wish_.plan;
    wish.scale = scale;
    wish.within = wish_.within;
    work(2, [this, ensemble = workspace_.document.shared(), wish](const balance::Measure& measure) {
        auto made = balance::equalSteps(*ensemble, wish, measure);
        return BalanceWorker::Then([this, made] { takeProposal(made, tr("Make equal steps")); });
    });
}

void Balancing::follow(const std::string& other) {
    if (instrument() == nullptr) return;
    work(1, [this, ensemble = workspace_.document.shared(),
             plan = wishFor(other).plan](const balance::Measure& measure) {
        const auto curve = measure(*ensemble, plan, "the other");
        const auto goal = curve ? balance::goalFrom(*curve) : Result<balance::Goal>(curve.problem());
        return BalanceWorker::Then([this, goal] {
            isProposing_ = false;
            if (goal) {
                setGoal(*goal);
                return level();
            }
            trouble_ = toQt(goal.problem().sentence());
            measureWhatIsDue();
        });
    });
}

balance::LevelWish Balancing::wishFor(const std::string& id) const {
    return balance::wishFor(workspace_.document.ensemble(), wish_, id);
}

void Balancing::match(const std::string& reference, const std::vector<std::string>& all) {
    if (findById(workspace_.document.ensemble().instruments, reference) == nullptr) return;
    std::vector<std::string> others = all;
    std::erase(others, reference);
    work(1 + levelMeasures * static_cast<int>(others.size()),
         [this, ensemble = workspace_.document.shared(), wish = wishFor(reference),
          others](const balance::Measure& measure) {
             auto matched = balance::match(*ensemble, wish, others, measure);
             return BalanceWorker::Then([this, ensemble, matched] { takeMatch(matched, *ensemble); });
         });
}

void Balancing::takeMatch(const Result<balance::Matched>& matched, const Ensemble& of) {
    isProposing_ = false;
    forget();
    if (!matched) {
        trouble_ = toQt(matched.problem().sentence());
        return measureWhatIsDue();
    }
    for (const auto& [made, wish] : matched->levelled) {
        const Instrument* its = findById(made.ensemble.instruments, wish.plan.instrument);
        if (its == nullptr) continue;
        if (hasChanged(of, workspace_.document.ensemble(), its->id)) {
            room_.push_back(nameOf(*its) + ": " +
                            tr("it was edited meanwhile; work it out again").toStdString());
            continue;
        }
        matched_.push_back(*its);
        for (const std::string& each : balance::sentencesOf(made, wish))
            words_.push_back(nameOf(*its) + ": " + each);
        for (const std::string& each : balance::roomSentences(made, wish))
            room_.push_back(nameOf(*its) + ": " + each);
    }
    for (const std::string& each : matched->troubles) room_.push_back(each);
    proposalText_ = tr("Match");
    measureWhatIsDue();
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
    if (std::exchange(isProposing_, false)) {
        worker_.cancel();
        // What it had ended before is still to be done.
        if (!curve_ && due_ == Due::no) due_ = Due::first;
    }
    proposal_.reset();
    matched_.clear();
    words_.clear();
    room_.clear();
}

void Balancing::drop() {
    forget();
    measureWhatIsDue();
}

}  // namespace mellow::app
