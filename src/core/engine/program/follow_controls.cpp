// Who is told where it stands, and by which way back.
//
// Of the chains that a control moves the first that is awake while one plays counts: what several instruments
// make of one wheel may differ, and a motor can stand in one place only.
#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/engine/program/state.h"
#include "core/model/resolve.h"

namespace mellow::engine {

namespace {

/// Controls by what they send: several controllers may have a wheel.
using ControlsBySource = std::multimap<std::pair<SourceKind, int>, FollowedControl*>;

bool hasMotorOrLight(MessageKind kind) {
    constexpr std::array told{MessageKind::cc,       MessageKind::cc14, MessageKind::bend,
                              MessageKind::pressure, MessageKind::note, MessageKind::relative,
                              MessageKind::rpn,      MessageKind::nrpn};
    return std::find(told.begin(), told.end(), kind) != told.end();
}

/// What a branch sends at rest for a position of its control; −1 where it is silent.
int valueFrom(const PlanChain& chain, std::uint32_t branch, const BranchBody& body, bool toTieLine,
              double position, int raw) {
    if (chain.table != nullptr && raw >= 0) {
        const Payload payload = chain.table[static_cast<std::size_t>(raw) * chain.branchCount + branch];
        return payload == noPayload ? -1 : valueOf(body, payload);
    }
    const double settled = settledPosition(chain.steps(), position);
    if (!toTieLine) return settledValue(body, settled).value_or(-1);
    const auto q = settledReach(body, settled);
    return q ? static_cast<int>(std::lround(*q * midi::max14)) : -1;
}

bool waitsForElse(std::span<const Step> steps) {
    return std::any_of(steps.begin(), steps.end(), [](const Step& step) { return step.kind->recalls; });
}

bool hasSecondSource(std::span<const Step> steps) {
    return std::any_of(steps.begin(), steps.end(), [](const Step& step) { return step.with.has_value(); });
}

bool keepsAValue(const PlanBranch& branch) {
    constexpr std::array keeping{MessageKind::cc,       MessageKind::cc14, MessageKind::bend,
                                 MessageKind::pressure, MessageKind::rpn,  MessageKind::nrpn};
    return branch.tieLine != none ||
           (branch.part != none && std::find(keeping.begin(), keeping.end(), branch.kind) != keeping.end());
}

NoWayBack shapeOf(WayBack& way) {
    bool rises = false;
    bool falls = false;
    bool gap = false;  // silence after something was sent
    int last = -1;
    for (const int value : way.values) {
        if (value < 0) {
            gap = last >= 0;
            continue;
        }
        if (gap) return NoWayBack::twoPlaces;
        rises = rises || (last >= 0 && value > last);
        falls = falls || (last >= 0 && value < last);
        if (last >= 0) way.grain = std::max(way.grain, std::abs(value - last));
        last = value;
    }
    if (rises && falls) return NoWayBack::twoPlaces;
    return rises || falls ? NoWayBack::hasOne : NoWayBack::standsStill;
}

NoWayBack findWay(const Plan& plan, FollowedChain& control, std::uint32_t branchPlace) {
    const PlanChain& chain = plan.chains[control.chain];
    const PlanBranch& branch = plan.branches[branchPlace];
    if (!branch.on || !keepsAValue(branch)) return NoWayBack::noValue;
    if (branch.mix != none) return NoWayBack::mixed;
    if (hasSecondSource(chain.steps()) || hasSecondSource(branch.body->steps)) return NoWayBack::secondSource;
    if (waitsForElse(chain.steps()) || waitsForElse(branch.body->steps)) return NoWayBack::waits;
    WayBack way;
    // What is looked up is known for all.
    way.step = control.max > midi::max7 && chain.table == nullptr ? control.grid : 1;
    for (int raw = 0;; raw = std::min(raw + way.step, control.max)) {
        way.values.push_back(valueFrom(chain, branchPlace - chain.firstBranch, *branch.body,
                                       branch.tieLine != none, decode(control.scale, raw, control.max), raw));
        if (raw == control.max) break;
    }
    const NoWayBack found = shapeOf(way);
    if (found != NoWayBack::hasOne) return found;
    way.branch = branchPlace;
    control.back = std::move(way);
    return found;
}

void findWays(const Plan& plan, FollowedChain& control) {
    if (control.chain == none) return;
    const PlanChain& chain = plan.chains[control.chain];
    control.without = NoWayBack::noValue;
    for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
        const NoWayBack found = findWay(plan, control, chain.firstBranch + b);
        if (b == 0 || found == NoWayBack::hasOne) control.without = found;
        if (found == NoWayBack::hasOne) return;
    }
}

/// A chain that a control moves is one of its chains.
void offerChain(const Plan& plan, std::uint32_t place, FollowedControl& control) {
    const PlanChain& chain = plan.chains[place];
    const Ear& ear = plan.ears[chain.firstEar];
    const bool heard = portFits(ear.port, control.from) &&
                       (chain.part == none || portFits(plan.parts[chain.part].inputPort, control.from));
    if (!heard) return;
    FollowedChain& followed = control.chains.emplace_back();
    followed.scale = control.scale;
    followed.max = control.max;
    followed.chain = place;
    findWays(plan, followed);
    if (ear.channel >= 0 && control.channel < 0) control.channel = ear.channel;
}

/// Each axis of the desk with each chain that it moves and that has a way back, by axis.
std::vector<FollowedElement> followElements(const Plan& plan) {
    constexpr int asSeen = 64;  // a surface is not much more than 256 points high
    std::vector<FollowedElement> elements;
    for (std::uint32_t d = 0; d < plan.desk.size(); ++d) {
        for (const std::uint32_t ear : plan.desk[d].ears) {
            FollowedElement element;
            element.place = d;
            element.chain = plan.ears[ear].chain;
            element.max = plan.desk[d].isSwitch ? 1 : midi::max14;
            element.grid = asSeen;
            if (plan.chains[element.chain].firstEar != ear) continue;
            findWays(plan, element);
            if (element.back.branch != none) elements.push_back(std::move(element));
        }
    }
    return elements;
}

}  // namespace

Feedback followControls(const Ensemble& ensemble, Plan& plan) {
    std::vector<FollowedControl> controls;
    std::vector<Source> sources;
    for (std::uint32_t c = 0; c < ensemble.controllers.size(); ++c) {
        const Controller& controller = ensemble.controllers[c];
        if (controller.feedback.empty()) continue;
        const auto from = static_cast<PortId>(plan.numbering.ports.intern(controller.port));
        const auto to = static_cast<PortId>(plan.numbering.ports.intern(controller.feedback));
        for (std::uint32_t i = 0; i < controller.controls.size(); ++i) {
            const ControllerControl& written = controller.controls[i];
            if (!hasMotorOrLight(written.message.kind)) continue;
            Source source = sourceOf(written.message);
            source.rest = written.rest;
            FollowedControl control;
            control.controller = c;
            control.control = i;
            control.from = from;
            control.to = to;
            control.kind = written.message.kind;
            control.number = written.message.number;
            control.scale = scaleOf(source);
            control.max = maxOf(source) > 0 ? maxOf(source) : midi::max7;
            control.light = control.kind == MessageKind::note || control.kind == MessageKind::relative;
            controls.push_back(std::move(control));
            sources.push_back(std::move(source));
        }
    }
    ControlsBySource bySource;
    for (std::size_t i = 0; i < controls.size(); ++i)
        bySource.emplace(std::pair(sources[i].kind, sources[i].number), &controls[i]);
    for (std::uint32_t c = 0; c < plan.chains.size() && !bySource.empty(); ++c) {
        const Ear& ear = plan.ears[plan.chains[c].firstEar];
        const auto [begin, end] = bySource.equal_range({ear.kind, ear.source->number});
        for (auto at = begin; at != end; ++at) offerChain(plan, c, *at->second);
    }
    return {std::move(controls), followElements(plan)};
}

}  // namespace mellow::engine
