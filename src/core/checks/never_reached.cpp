// What lies beyond anything that can come: a branch that never opens, a gate that is never passed, a level or
// a choice that no position leads to.
#include <algorithm>
#include <cmath>
#include <set>

#include "core/checks/rules.h"
#include "core/reach/branch.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

using Places = std::vector<double>;

/// The outputs of a step with memory for an input that goes up through all places and down again.
std::set<double> outputsOf(const Step& step, Places places) {
    std::sort(places.begin(), places.end());
    std::set<double> outputs;
    StepState state;
    const auto visit = [&, newest = std::optional<double>()](double p) mutable {
        step.kind->take(step, state, p, 0);
        if (newest != state.output) outputs.insert(state.output);
        newest = state.output;
    };
    std::for_each(places.begin(), places.end(), visit);
    std::for_each(places.rbegin(), places.rend(), visit);
    return outputs;
}

class Look {
 public:
    Look(const ChainAt& at, Findings& findings) : at_(at), findings_(findings) {}

    void chain() {
        if (!hasAnythingToReach()) return;
        Places trunk = placesOf(at_.directory, at_.chain.source);
        steps(at_.chain.steps, trunk, {});
        if (isBlurred(at_.chain.steps)) return;
        for (std::size_t b = 0; b < at_.chain.branches.size(); ++b) branch(b, trunk);
    }

 private:
    /// True where a level, a gate, a window or a choice may lie beyond what can come.
    [[nodiscard]] bool hasAnythingToReach() const {
        const auto limits = [](const std::vector<Step>& steps) {
            return std::any_of(steps.begin(), steps.end(), [](const Step& step) {
                return step.on && (step.kind->name == "levels" || step.kind->name == "gate");
            });
        };
        return limits(at_.chain.steps) ||
               std::any_of(at_.chain.branches.begin(), at_.chain.branches.end(), [&](const Branch& branch) {
                   const Target target = targetOf(at_, branch);
                   const bool chooses =
                       target.hand != nullptr ||
                       (target.parameter != nullptr && !target.parameter->display.choices.empty());
                   return branch.window || chooses || limits(branch.steps);
               });
    }

    void tell(Severity severity, std::optional<std::size_t> branch, std::string what, std::string mend,
              std::vector<Mend> mends) {
        findings_.push_back(
            about(at_, branch, severity, Stops::nothing, std::move(what), std::move(mend), std::move(mends)));
    }

    /// An edit of a value of each step of a kind, in the trunk or a branch.
    [[nodiscard]] Mend mendSteps(std::optional<std::size_t> branch, std::string name, std::string_view kind,
                                 std::size_t field, double value) const {
        return mendChain(at_, std::move(name), [branch, kind, field, value](Chain& chain) {
            if (branch && *branch >= chain.branches.size()) return;
            for (Step& step : branch ? chain.branches[*branch].steps : chain.steps) {
                if (step.kind->name == kind) step.values[field] = value;
            }
        });
    }

    /// Takes places through steps, and looks at what each step can come to on the way.
    void steps(const std::vector<Step>& all, Places& places, std::optional<std::size_t> branch) {
        for (const Step& step : StepRun(all)) {
            if (step.with || places.empty()) return;
            if (step.kind->name == "levels") levels(step, places, branch);
            if (step.kind->name == "gate") gate(step, places, branch);
            for (double& p : places) p = settledPosition(std::span(&step, 1), p);
        }
    }

    void levels(const Step& step, const Places& places, std::optional<std::size_t> branch) {
        const int count = static_cast<int>(numberOf(step, 0));
        const std::set<double> outputs = outputsOf(step, places);
        std::vector<std::string> missing;
        for (int level = 0; level < count; ++level) {
            if (outputs.contains(static_cast<double>(level) / (count - 1))) continue;
            const auto& names = namesOf(step, 2);
            const auto place = static_cast<std::size_t>(level);
            missing.push_back(place < names.size()
                                  ? "\"" + names[place] + "\""
                                  : std::to_string(level + 1) + " of " + std::to_string(count));
        }
        if (missing.empty()) return;
        Step steady = step;
        steady.values[1] = 0.0;
        const bool helps = outputsOf(steady, places).size() == static_cast<std::size_t>(count);
        tell(Severity::note, branch,
             (missing.size() == 1 ? "level " : "levels ") + text::listed(missing) + " cannot be reached",
             "use fewer levels or less hysteresis, or widen what comes before",
             helps ? std::vector<Mend>{mendSteps(branch, "Take its hysteresis away", "levels", 1, 0)}
                   : std::vector<Mend>{});
    }

    void gate(const Step& step, const Places& places, std::optional<std::size_t> branch) {
        if (outputsOf(step, places).contains(1)) return;
        tell(Severity::trouble, branch, "its gate never lets anything through",
             "lower the threshold, or widen what comes before",
             {mendSteps(branch, "Lower the threshold", "gate", 0,
                        *std::max_element(places.begin(), places.end()))});
    }

    void branch(std::size_t b, const Places& trunk) {
        const Branch& branch = at_.chain.branches[b];
        const Target target = targetOf(at_, branch);
        if (!branch.on || !target.exists()) return;
        const auto prepared = prepareBranch(target, branch);
        Places inside;
        for (const double p : trunk) {
            if (const auto through = throughWindow(prepared, p)) inside.push_back(*through);
        }
        if (inside.empty()) {
            tell(Severity::trouble, b, "its window never lets anything through",
                 "move the window to where the chain's values are",
                 {mendBranch(at_, b, "Take the window away", [](Branch& mended) { mended.window.reset(); })});
            return;
        }
        steps(branch.steps, inside, b);
        if (!isBlurred(branch.steps)) choices(b, prepared, inside);
    }

    void choices(std::size_t b, const BranchBody& branch, const Places& places) {
        if (branch.choices < 2) return;
        std::set<int> met;
        const auto choiceAt = [&](double q) {
            return static_cast<int>(std::lround(q * (branch.choices - 1)));
        };
        for (const double p : places) met.insert(choiceAt(reached(branch, p)));
        std::vector<std::string> missing;
        const int from = choiceAt(std::min(branch.fromRaw, branch.toRaw));
        const int to = choiceAt(std::max(branch.fromRaw, branch.toRaw));
        for (int choice = from; choice <= to; ++choice) {
            if (!met.contains(choice))
                missing.push_back("\"" + branch.range.choices[static_cast<std::size_t>(choice)] + "\"");
        }
        if (missing.empty()) return;
        tell(Severity::note, b,
             (missing.size() == 1 ? "the choice " : "the choices ") + text::listed(missing) +
                 " cannot be reached",
             "widen what comes before, or leave them out of the reach", {});
    }

    const ChainAt& at_;
    Findings& findings_;
};

void look(const ChainAt& at, Findings& findings) {
    Look(at, findings).chain();
}

}  // namespace

extern const Rule neverReached{.chain = look};

}  // namespace mellow::checks
