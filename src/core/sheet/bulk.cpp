#include "core/sheet/bulk.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/assignments/typing.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"
#include "core/reuse/carrying.h"
#include "core/sheet/numbers.h"
#include "core/steps/step.h"

namespace mellow::sheet::bulk {

namespace {

using Rows = std::vector<AssignmentId>;
using Complaints = std::vector<Complaint>;

/// Does the same to each row, which says why not.
template<class Each>
auto forEach(Each each) {
    return [each](Ensemble& ensemble, const Rows& rows) {
        Complaints complaints;
        complaints.reserve(rows.size());
        for (const AssignmentId& id : rows) complaints.push_back(each(ensemble, id));
        return complaints;
    };
}

/// Types the same into a column of each row.
auto typeEach(const char* column, std::string typed) {
    return forEach([column, typed = std::move(typed)](Ensemble& ensemble, const AssignmentId& id) {
        return typeInto(ensemble, *findAssignmentColumn(column), id, typed);
    });
}

Target targetAt(const Ensemble& ensemble, const AssignmentId& id) {
    const auto row = assignmentAt(ensemble, id);
    return row ? row->target : Target{};
}

Parameter* parameterAt(Ensemble& ensemble, const AssignmentId& id) {
    const Target target = targetAt(ensemble, id);
    if (target.parameter == nullptr) return nullptr;
    return findById(findById(ensemble.instruments, target.instrument->id)->parameters, target.parameter->id);
}

/// The number that a row has at a side, by what it belongs to, so that what rows share is met once.
struct Numbered {
    const void* thing = nullptr;
    int* number = nullptr;
    int highest = 0;
    Complaint why;
};

Numbered ofMessage(Message& message, const void* thing) {
    const MessageRow& kind = row(message.kind);
    if (!kind.numbered) return {nullptr, nullptr, 0, "its message has no number"};
    return {thing, &message.number, kind.highestNumber, {}};
}

Numbered numberAt(Ensemble& ensemble, const AssignmentId& id, Side side) {
    if (side == Side::hear) {
        Parameter* parameter = parameterAt(ensemble, id);
        if (parameter == nullptr) return {nullptr, nullptr, 0, "it moves no parameter"};
        return ofMessage(parameter->message, parameter);
    }
    if (Chain* chain = chainOf(ensemble, id)) {
        Source& source = chain->source;
        if (source.kind == SourceKind::control) {
            Controller* controller = findById(ensemble.controllers, source.controller);
            ControllerControl* control =
                controller == nullptr ? nullptr : findById(controller->controls, source.control);
            if (control == nullptr) return {nullptr, nullptr, 0, "its control is not there any more"};
            return ofMessage(control->message, control);
        }
        const SourceRow& kind = row(source.kind);
        if (!kind.numbered || source.number < 0) return {nullptr, nullptr, 0, "what moves it has no number"};
        return {chain, &source.number, kind.highestNumber, {}};
    }
    Controller* controller = findById(ensemble.controllers, id.controller);
    ControllerControl* control = controller == nullptr ? nullptr : findById(controller->controls, id.control);
    if (control == nullptr) return {nullptr, nullptr, 0, "nothing moves it"};
    return ofMessage(control->message, control);
}

/// Gives each thing that has a number another one, once. next(present) gives it.
template<class Next>
Complaints renumber(Ensemble& ensemble, const Rows& rows, Side side, Next&& next) {
    Complaints complaints(rows.size());
    std::map<const void*, Complaint> done;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Numbered at = numberAt(ensemble, rows[i], side);
        if (at.why) {
            complaints[i] = at.why;
            continue;
        }
        if (const auto before = done.find(at.thing); before != done.end()) {
            complaints[i] = before->second;
            continue;
        }
        Complaint& why = done[at.thing];
        const int wanted = next(rows[i], *at.number);
        if (wanted < 0 || wanted > at.highest) {
            why = "its number goes from 0 to " + std::to_string(at.highest);
        } else {
            *at.number = wanted;
        }
        complaints[i] = why;
    }
    return complaints;
}

/// The columns that say a number at a side.
std::vector<std::string_view> numberColumns(Side side) {
    if (side == Side::hear) return {"sends"};
    return {"message", "move"};
}

/// The reach of a row as places in its target's range; nothing where it has none.
struct Reach {
    Branch* branch = nullptr;
    Range range;
    double low = 0;
    double high = 0;
};
std::optional<Reach> reachAt(Ensemble& ensemble, const AssignmentId& id) {
    const Target target = targetAt(ensemble, id);
    if (!target.exists() || target.hand != nullptr) return std::nullopt;
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return std::nullopt;
    Reach reach{branch, rangeOf(target), 0, 0};
    const auto low = rawPosition(reach.range, branch->low);
    const auto high = rawPosition(reach.range, branch->high);
    if (!low || !high) return std::nullopt;
    reach.low = *low;
    reach.high = *high;
    return reach;
}

constexpr const char* noReach = "it has no reach";

/// Gives a row's reach other places. change(reach) sets them.
template<class Change>
Bulk reachBulk(std::string name, Change change) {
    return {std::move(name),
            {"reach", "direction"},
            forEach([change](Ensemble& ensemble, const AssignmentId& id) -> Complaint {
                auto reach = reachAt(ensemble, id);
                if (!reach) return noReach;
                change(*reach);
                reach->branch->low = levelAt(reach->range, clampPosition(reach->low));
                reach->branch->high = levelAt(reach->range, clampPosition(reach->high));
                return std::nullopt;
            })};
}

/// Once for each chain that rows belong to; the others are told the same.
template<class Each>
auto forEachChainOnce(Each each) {
    return [each](Ensemble& ensemble, const Rows& rows) {
        Complaints complaints(rows.size());
        std::map<const Chain*, Complaint> done;
        for (std::size_t i = 0; i < rows.size(); ++i) {
            Chain* chain = chainOf(ensemble, rows[i]);
            if (chain == nullptr) {
                complaints[i] = "it has no chain";
                continue;
            }
            const auto [at, isNew] = done.try_emplace(chain);
            if (isNew) at->second = each(ensemble, *chain);
            complaints[i] = at->second;
        }
        return complaints;
    };
}

/// Calls visit(step) for the steps of a chain, before and behind the fan, that are of a kind.
template<class ChainType, class Visit>
void forEachStep(ChainType& chain, std::string_view kind, Visit&& visit) {
    const auto look = [&](auto& steps) {
        for (auto& step : steps) {
            if (step.kind->name == kind) visit(step);
        }
    };
    look(chain.steps);
    for (auto& branch : chain.branches) look(branch.steps);
}

}  // namespace

Bulk setChannel(Side side, std::optional<int> channel) {
    const bool in = side == Side::move;
    return {"Set the channel",
            {in ? "channel" : "sends", in ? "message" : "out"},
            typeEach(in ? "channel" : "out", channel ? "ch " + std::to_string(*channel) : "any")};
}

Bulk setPort(Side side, const std::string& port) {
    const char* column = side == Side::move ? "port" : "outPort";
    return {"Set the port", {column}, typeEach(column, port)};
}

Bulk moveNumbers(Side side, int by) {
    return {"Move the numbers", numberColumns(side), [side, by](Ensemble& ensemble, const Rows& rows) {
                return renumber(ensemble, rows, side,
                                [by](const AssignmentId&, int now) { return now + by; });
            }};
}

Bulk numberFrom(Side side, int first) {
    return {"Number", numberColumns(side), [side, first](Ensemble& ensemble, const Rows& rows) {
                int next = first;
                return renumber(ensemble, rows, side, [&next](const AssignmentId&, int) { return next++; });
            }};
}

Bulk useFreeNumbers() {
    return {"Use free numbers", numberColumns(Side::hear), [](Ensemble& ensemble, const Rows& rows) {
                const Ensemble before = ensemble;
                FreeNumbers free(before);
                return renumber(ensemble, rows, Side::hear, [&](const AssignmentId& id, int now) {
                    const Target target = targetAt(ensemble, id);
                    if (target.parameter->message.kind != MessageKind::cc) return now;
                    const Output& output = target.instrument->output;
                    return free.take({output.port, output.channel}, now);
                });
            }};
}

Bulk setReach(const std::string& typed) {
    return {"Set the reach", {"reach", "direction"}, typeEach("reach", typed)};
}

Bulk scaleReach(double factor, About about) {
    return reachBulk("Scale the reach", [factor, about](Reach& reach) {
        const double still = about == About::low    ? reach.low
                             : about == About::high ? reach.high
                                                    : (reach.low + reach.high) / 2;
        reach.low = still + (reach.low - still) * factor;
        reach.high = still + (reach.high - still) * factor;
    });
}

Bulk shiftReach(double by) {
    return reachBulk("Shift the reach", [by](Reach& reach) {
        const double lowest = std::min(reach.low, reach.high);
        const double highest = std::max(reach.low, reach.high);
        const double moved = std::clamp(by, std::min(0.0, -lowest), std::max(0.0, 1 - highest));
        reach.low += moved;
        reach.high += moved;
    });
}

Bulk exchangeReach() {
    return {"Exchange reaches", {"reach", "direction"}, [](Ensemble& ensemble, const Rows& rows) {
                Complaints complaints(rows.size());
                constexpr std::size_t two = 2;
                if (rows.size() != two) {
                    std::fill(complaints.begin(), complaints.end(), "two rows exchange their reaches");
                    return complaints;
                }
                auto one = reachAt(ensemble, rows[0]);
                auto other = reachAt(ensemble, rows[1]);
                if (!one) complaints[0] = noReach;
                if (!other) complaints[1] = noReach;
                if (!one || !other) return complaints;
                std::swap(one->branch->low, other->branch->low);
                std::swap(one->branch->high, other->branch->high);
                reuse::carryReach(*one->branch, other->range, one->range);
                reuse::carryReach(*other->branch, one->range, other->range);
                return complaints;
            }};
}

Bulk turnRound() {
    return {"Turn round",
            {"reach", "direction"},
            forEach([](Ensemble& ensemble, const AssignmentId& id) -> Complaint {
                Branch* branch = branchOf(ensemble, id);
                if (branch == nullptr) return noReach;
                std::swap(branch->low, branch->high);
                return std::nullopt;
            })};
}

Bulk setOn(bool on) {
    return {on ? "Switch on" : "Switch off",
            {"state"},
            forEach([on](Ensemble& ensemble, const AssignmentId& id) -> Complaint {
                Branch* branch = branchOf(ensemble, id);
                if (branch == nullptr) return "it leads nowhere";
                branch->on = on;
                if (on) chainOf(ensemble, id)->on = true;
                return std::nullopt;
            })};
}

Bulk setLocked(bool locked) {
    return {locked ? "Lock" : "Unlock", {"locked"}, typeEach("locked", locked ? "locked" : "")};
}

Bulk setRest(const std::string& typed) {
    return {"Set the rest", {"rest"}, typeEach("rest", typed)};
}

Bulk addStep(const Step& step) {
    return {"Add a step", {"steps"}, forEachChainOnce([step](Ensemble&, Chain& chain) -> Complaint {
                chain.steps.push_back(step);
                return std::nullopt;
            })};
}

Bulk changeStep(std::string_view kind, std::size_t field, const FieldValue& value) {
    return {"Change a step",
            {"steps"},
            forEachChainOnce([kind, field, value](Ensemble&, Chain& chain) -> Complaint {
                bool any = false;
                forEachStep(chain, kind, [&](Step& step) {
                    any = true;
                    step.values.at(field) = value;
                });
                return any ? Complaint{} : "it has no such step";
            })};
}

Bulk removeStep(std::string_view kind) {
    return {"Remove a step", {"steps"}, forEachChainOnce([kind](Ensemble&, Chain& chain) -> Complaint {
                std::size_t gone = 0;
                const auto clear = [&](std::vector<Step>& steps) {
                    gone += std::erase_if(steps, [&](const Step& step) { return step.kind->name == kind; });
                };
                clear(chain.steps);
                for (Branch& branch : chain.branches) clear(branch.steps);
                return gone > 0 ? Complaint{} : "it has no such step";
            })};
}

std::vector<KindCount> stepsOf(const Ensemble& ensemble, const std::vector<AssignmentId>& rows) {
    std::map<const StepKind*, KindCount> counts;
    std::set<const Chain*> seen;
    for (const AssignmentId& id : rows) {
        const auto row = assignmentAt(ensemble, id);
        if (!row || row->chain == nullptr || !seen.insert(row->chain).second) continue;
        for (const StepKind* kind : stepKinds()) {
            bool has = false;
            forEachStep(*row->chain, kind->name, [&](const Step& step) {
                KindCount& count = counts[kind];
                count.rows += has ? 0 : 1;
                has = true;
                if (count.kind == nullptr) {
                    count.kind = kind;
                    count.values.assign(step.values.begin(), step.values.end());
                }
                for (std::size_t i = 0; i < step.values.size(); ++i) {
                    if (count.values[i] != step.values[i]) count.values[i].reset();
                }
            });
        }
    }
    std::vector<KindCount> all;
    for (const StepKind* kind : stepKinds()) {
        if (const auto found = counts.find(kind); found != counts.end()) all.push_back(found->second);
    }
    return all;
}

}  // namespace mellow::sheet::bulk
