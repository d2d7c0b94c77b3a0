#include "app/acts/played_reach.h"

#include <algorithm>
#include <cmath>

#include "app/ground/words.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/steps/step.h"

namespace mellow::app {

namespace {

/// The chain that is played beside the one that is edited. Ids have no spaces, so it is nobody's.
const std::string byPlaying = "by playing";
constexpr double least = 0.05;  // of the travel, for a calibration

double rounded(double position) {
    return std::round(position * 1000) / 1000;
}

}  // namespace

PlayedReach::PlayedReach(Document& document, Selection& selection, Live& live, QObject* parent)
    : QObject(parent), document_(document), selection_(selection), live_(live) {
    connect(&live_, &Live::moved, this, &PlayedReach::follow);
    connect(&document_, &Document::changed, this, &PlayedReach::cancel);
    connect(&selection_, &Selection::changed, this, &PlayedReach::cancel);
}

/// The branch that is selected, or the only one of the chain.
std::optional<int> PlayedReach::branchPlace() const {
    const Selected& now = selection_.now();
    const Chain* chain = chainOf(document_.ensemble(), now);
    if (chain == nullptr) return std::nullopt;
    const bool chosen = now.part == Part::branch || now.part == Part::branchStep;
    if (chosen && now.index < static_cast<int>(chain->branches.size())) return now.index;
    return chain->branches.size() == 1 ? std::optional(0) : std::nullopt;
}

std::optional<Range> PlayedReach::range() const {
    const Ensemble& ensemble = document_.ensemble();
    const Chain* chain = chainOf(ensemble, place_);
    if (chain == nullptr || branch_ >= static_cast<int>(chain->branches.size())) return std::nullopt;
    const Target target = targetOf(ensemble, instrumentOf(ensemble, place_),
                                   chain->branches[static_cast<std::size_t>(branch_)].target);
    return target.exists() ? std::optional(rangeOf(target)) : std::nullopt;
}

bool PlayedReach::begin(What what) {
    if (isOn()) return false;
    place_ = selection_.now();
    const Ensemble& ensemble = document_.ensemble();
    const Chain* chain = chainOf(ensemble, place_);
    if (chain == nullptr) return false;
    const auto branch = branchPlace();
    branch_ = branch.value_or(0);
    if (what != What::travel && (!branch || !range())) return false;
    const ChainReading reading = live_.reading(place_.instrument, chain->id);
    first_ = reading.spoken ? reading.position : -1;
    low_ = 1;
    high_ = 0;
    value_ = -1;
    moved_ = false;
    if (what != What::travel) {
        Ensemble played = ensemble;
        Chain* edited = chainOf(played, place_);
        Branch& written = edited->branches[static_cast<std::size_t>(branch_)];
        Chain beside;
        beside.id = byPlaying;
        beside.source = edited->source;
        beside.active = edited->active;
        const auto whole = wholeBranch(played, instrumentOf(played, place_), written.target);
        if (!whole) return false;
        beside.branches = {*whole};
        written.on = false;
        chainsOf(played, place_)->push_back(std::move(beside));
        live_.preview(&played);
    }
    what_ = what;
    emit changed();
    return true;
}

void PlayedReach::follow() {
    if (!isOn()) return;
    const bool travels = *what_ == What::travel;
    const ChainReading reading = live_.reading(place_.instrument, travels ? place_.chain : byPlaying);
    if (!reading.spoken) return;
    if (!moved_ && reading.position != first_) moved_ = true;
    if (!moved_) return;
    low_ = std::min(low_, reading.position);
    high_ = std::max(high_, reading.position);
    if (!travels && !reading.values.empty()) value_ = reading.values.front();
    emit changed();
}

void PlayedReach::stop() {
    const bool previewed = *what_ != What::travel;
    what_.reset();
    if (previewed) live_.preview(nullptr);
    emit changed();
}

void PlayedReach::cancel() {
    if (isOn()) stop();
}

void PlayedReach::end() {
    if (!isOn()) return;
    follow();
    const What what = *what_;
    const auto reach = range();
    stop();
    if (what == What::travel) {
        if (high_ - low_ < least) return;
        document_.edit(tr("Calibrate the source"), [&](Ensemble& e) {
            Chain* chain = chainOf(e, place_);
            if (chain == nullptr) return;
            if (chain->steps.empty() || chain->steps.front().kind->name != "window")
                chain->steps.insert(chain->steps.begin(), makeStep(*findStepKind("window")));
            chain->steps.front().on = true;
            chain->steps.front().values = {rounded(low_), rounded(high_)};
        });
        return;
    }
    if (!moved_ || value_ < 0 || !reach) return;
    document_.edit(what == What::low ? tr("Set the low end by playing") : tr("Set the high end by playing"),
                   [&](Ensemble& e) {
                       Chain* chain = chainOf(e, place_);
                       if (chain == nullptr || branch_ >= static_cast<int>(chain->branches.size())) return;
                       Branch& branch = chain->branches[static_cast<std::size_t>(branch_)];
                       (what == What::low ? branch.low : branch.high) = levelAt(*reach, value_);
                   });
}

bool PlayedReach::restHere() {
    const Selected place = selection_.now();
    const Chain* chain = chainOf(document_.ensemble(), place);
    if (chain == nullptr) return false;
    const ChainReading reading = live_.reading(place.instrument, chain->id);
    constexpr double edge = 0.01;
    if (!reading.spoken || reading.position < edge || reading.position > 1 - edge) return false;
    document_.edit(tr("Rest here"), [&](Ensemble& e) {
        Chain* changed = chainOf(e, place);
        if (changed == nullptr) return;
        if (changed->steps.empty() || changed->steps.front().kind->name != "restAt")
            changed->steps.insert(changed->steps.begin(), makeStep(*findStepKind("restAt")));
        changed->steps.front().on = true;
        changed->steps.front().values = {rounded(reading.position), 0.5};
    });
    return true;
}

QString PlayedReach::says() const {
    if (!isOn()) return {};
    if (*what_ == What::travel) {
        if (high_ < low_) return tr("Calibrating: move the control to both its ends, then let go.");
        return tr("Calibrating: %1 % to %2 % so far. Let go when it has been at both ends.")
            .arg(std::lround(low_ * 100))
            .arg(std::lround(high_ * 100));
    }
    const Ensemble& ensemble = document_.ensemble();
    const Chain* chain = chainOf(ensemble, place_);
    const auto reach = range();
    if (chain == nullptr || !reach) return {};
    const Target target = targetOf(ensemble, instrumentOf(ensemble, place_),
                                   chain->branches[static_cast<std::size_t>(branch_)].target);
    const QString name = nameToShow(nameOf(target, isShared(place_)));
    const QString end = *what_ == What::low ? tr("Low end of %1").arg(name) : tr("High end of %1").arg(name);
    if (value_ < 0) return tr("%1: move the control to where the sound is right, then let go.").arg(end);
    return tr("%1: %2. Let go to keep it.").arg(end, toQt(displayText(*reach, value_)));
}

}  // namespace mellow::app
