// Swapping: what is referred to changes, and everything that refers to it follows.
#include <algorithm>
#include <set>

#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"
#include "core/reuse/carrying.h"
#include "core/reuse/parts.h"

namespace mellow::reuse {

namespace {

/// The source, if all it says is a message that a control sends.
bool isMessageOf(const Source& source, const ControllerControl& control) {
    const Source sent = sourceOf(control.message);
    return source.kind == sent.kind && source.number == sent.number && source.values == sent.values;
}

/// The control whose message a source names without naming the control; of a source from any port only where
/// no other controller sends it.
const ControllerControl* meantBy(const Ensemble& ensemble, const Controller& controller,
                                 const Source& source) {
    if (!source.controller.empty() && source.controller != controller.id) return nullptr;
    const auto sends = [&source](const Controller& each) {
        const auto found =
            std::find_if(each.controls.begin(), each.controls.end(),
                         [&](const ControllerControl& control) { return isMessageOf(source, control); });
        return found == each.controls.end() ? nullptr : &*found;
    };
    if (source.controller.empty()) {
        for (const Controller& each : ensemble.controllers) {
            if (each.id != controller.id && sends(each) != nullptr) return nullptr;
        }
    }
    return sends(controller);
}

class ControllerSwap {
 public:
    ControllerSwap(const Ensemble& before, const Controller& from, const Controller& to,
                   const Matches& matches)
        : before_(before), from_(from), to_(to), matches_(matches) {}

    /// False where the source used a control that nothing replaces.
    bool follow(Source& source) const {
        const bool named = source.kind == SourceKind::control && source.controller == from_.id;
        const ControllerControl* old =
            named ? findById(from_.controls, source.control) : meantBy(before_, from_, source);
        if (old == nullptr) return true;
        const Match* match = find(matches_, old->id);
        const auto* now = match != nullptr && match->to ? findById(to_.controls, *match->to) : nullptr;
        if (now == nullptr) {
            if (named) beMessage(source, *old);
            return false;
        }
        if (named) {
            source.control = now->id;
            return true;
        }
        const std::string port = source.controller;
        beMessage(source, *now);
        source.controller = port;
        return true;
    }
    [[nodiscard]] std::string nameOfControl(const Source& source) const {
        const bool named = source.kind == SourceKind::control && source.controller == from_.id;
        const ControllerControl* old =
            named ? findById(from_.controls, source.control) : meantBy(before_, from_, source);
        return old == nullptr ? std::string() : nameOf(*old);
    }

 private:
    const Ensemble& before_;
    const Controller& from_;
    const Controller& to_;
    const Matches& matches_;
};

}  // namespace

std::vector<LeftOver> swapInstrument(Ensemble& ensemble, const std::string& id, const Instrument& other,
                                     const Matches& matches) {
    std::vector<LeftOver> left;
    Instrument* instrument = findById(ensemble.instruments, id);
    if (instrument == nullptr) return left;
    const std::vector<Parameter> before = instrument->parameters;
    std::vector<Parameter> now = other.parameters;
    // What is to be kept of the old one stands behind the new one's.
    std::vector<std::pair<std::string, std::string>> led;
    for (const Parameter& parameter : before) {
        const Match* match = find(matches, parameter.id);
        if (match == nullptr || (!match->to && !match->make)) continue;
        if (match->to && findById(now, *match->to) != nullptr) {
            led.emplace_back(parameter.id, *match->to);
        } else if (match->make) {
            Parameter kept = parameter;
            while (findById(now, kept.id) != nullptr) kept.id += "-2";
            led.emplace_back(parameter.id, kept.id);
            now.push_back(std::move(kept));
        }
    }
    const auto follow = [&](Chain& chain, const std::string& prefix) {
        std::erase_if(chain.branches, [&](Branch& branch) {
            if (tieLineOf(branch.target) || !branch.target.starts_with(prefix)) return false;
            const std::string target = branch.target.substr(prefix.size());
            const Parameter* from = findById(before, target);
            if (from == nullptr) return false;
            const auto pair =
                std::find_if(led.begin(), led.end(), [&](const auto& each) { return each.first == target; });
            if (pair == led.end()) {
                left.push_back({nameOf(*from), nameOf(chain)});
                return true;
            }
            branch.target = prefix + pair->second;
            carryReach(branch, rangeOf(*from), rangeOf(*findById(now, pair->second)));
            return false;
        });
    };
    for (Chain& chain : instrument->chains) follow(chain, "");
    for (Chain& chain : ensemble.sharedChains) follow(chain, id + "/");
    instrument->parameters = std::move(now);
    return left;
}

std::vector<LeftOver> swapController(Ensemble& ensemble, const std::string& id, const Controller& other,
                                     const Matches& matches) {
    std::vector<LeftOver> left;
    Controller* controller = findById(ensemble.controllers, id);
    if (controller == nullptr) return left;
    const Ensemble before = ensemble;
    const ControllerSwap swap(before, *findById(before.controllers, id), other, matches);
    forEachChain(ensemble, [&](Chain& chain, const Instrument*) {
        forEachWritten(chain, [&](Source& source) {
            const std::string used = swap.nameOfControl(source);
            if (!swap.follow(source)) left.push_back({used, nameOf(chain)});
        });
    });
    controller->name = nameOf(other);
    controller->controls = other.controls;
    if (other.port != anyPort) controller->port = other.port;
    return left;
}

}  // namespace mellow::reuse
