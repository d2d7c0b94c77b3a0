// Putting: each reference is fitted to where it now stands, and what it needs and is not there is made.
#include <algorithm>
#include <iterator>

#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"
#include "core/reuse/carrying.h"
#include "core/reuse/parts.h"

namespace mellow::reuse {

namespace {

template<class Thing>
const Thing* byIdOrName(const std::vector<Thing>& list, const Thing& wanted) {
    const auto named = std::find_if(list.begin(), list.end(),
                                    [&](const Thing& each) { return nameOf(each) == nameOf(wanted); });
    if (named != list.end()) return &*named;
    return findById(list, wanted.id);
}

std::vector<Chain>* chainsOf(Ensemble& ensemble, const std::string& owner) {
    if (owner == sharedOwner) return &ensemble.sharedChains;
    Instrument* instrument = findById(ensemble.instruments, owner);
    return instrument == nullptr ? nullptr : &instrument->chains;
}

/// Fits what a part refers to into an ensemble.
class Fitter {
 public:
    Fitter(Ensemble& ensemble, const Part& part) : ensemble_(ensemble), part_(part) {}

    void fit(Source& source) {
        if (source.kind == SourceKind::tieLine) source.tieLine = tieLine(source.tieLine);
        if (!source.controller.empty()) fitController(source);
    }
    void fit(std::vector<Step>& steps) {
        for (Step& step : steps) {
            if (step.with) fit(*step.with);
        }
    }
    /// The tie line that stands here for one of the part: made where there is none.
    std::string tieLine(const std::string& id) {
        const TieLine* wanted = findById(part_.tieLines, id);
        if (wanted == nullptr) return id;
        if (const TieLine* there = byIdOrName(ensemble_.tieLines, *wanted)) return there->id;
        TieLine made = *wanted;
        made.id = newId(ensemble_.tieLines, nameOf(made));
        ensemble_.tieLines.push_back(made);
        return made.id;
    }

 private:
    const Controller* ofPart(const std::string& id) const {
        const Controller* used = findById(part_.usedControllers, id);
        return used != nullptr ? used : findById(part_.controllers, id);
    }
    /// The controller and control that stand here for those of the part, or the message alone.
    void fitController(Source& source) {
        const Controller* wanted = ofPart(source.controller);
        if (wanted == nullptr) return;
        const Controller* there = byIdOrName(ensemble_.controllers, *wanted);
        const auto* control = findById(wanted->controls, source.control);
        if (there != nullptr && source.kind != SourceKind::control) {
            source.controller = there->id;
            return;
        }
        if (there != nullptr && control != nullptr) {
            const Matches matches = matchControls({*control}, there->controls);
            if (matches.front().to) {
                source.controller = there->id;
                source.control = *matches.front().to;
                return;
            }
        }
        if (control != nullptr) {
            beMessage(source, *control);
        } else if (source.kind != SourceKind::control) {
            source.controller.clear();
        }
    }

    Ensemble& ensemble_;
    const Part& part_;
};

class Putter {
 public:
    Putter(Ensemble& ensemble, const std::string& owner, const Part& part, const Matches& matches)
        : ensemble_(ensemble), owner_(owner), part_(part), matches_(matches), fitter_(ensemble, part) {}

    std::vector<Branch> branches(const std::vector<Branch>& wanted) {
        std::vector<Branch> fitted;
        for (Branch branch : wanted) {
            if (!leadOn(branch)) continue;
            fitter_.fit(branch.steps);
            fitted.push_back(std::move(branch));
        }
        return fitted;
    }
    Chain chain(Chain wanted) {
        wanted.branches = branches(wanted.branches);
        fitter_.fit(wanted.source);
        fitter_.fit(wanted.steps);
        if (wanted.fan.by) fitter_.fit(*wanted.fan.by);
        return wanted;
    }

 private:
    /// False when it leads nowhere here.
    bool leadOn(Branch& branch) {
        if (const auto line = tieLineOf(branch.target)) {
            branch.target = std::string(tieLineTarget) + fitter_.tieLine(*line);
            return true;
        }
        const Match* match = find(matches_, branch.target);
        const Parameter* from = findById(part_.parameters, branch.target);
        if (match == nullptr || from == nullptr) return true;
        const std::string to = match->to ? *match->to : match->make ? made(*from) : std::string();
        const Instrument* instrument =
            owner_ == sharedOwner ? nullptr : findById(std::as_const(ensemble_.instruments), owner_);
        const Target target = targetOf(ensemble_, instrument, to);
        if (!target.exists()) return false;
        branch.target = to;
        carryReach(branch, rangeOf(*from), rangeOf(target));
        return true;
    }
    /// The parameter, made here; once for each. Empty where nothing can be made.
    std::string made(const Parameter& from) {
        if (const auto done = std::find_if(made_.begin(), made_.end(),
                                           [&](const auto& pair) { return pair.first == from.id; });
            done != made_.end())
            return done->second;
        Instrument* instrument = owner_ == sharedOwner ? nullptr : findById(ensemble_.instruments, owner_);
        if (instrument == nullptr) return {};
        Parameter copy = from;
        copy.id = newId(instrument->parameters, from.name.empty() ? from.id : from.name);
        instrument->parameters.push_back(copy);
        const bool chooses = copy.message.kind == MessageKind::articulation;
        if (chooses && instrument->articulations.empty()) instrument->articulations = part_.articulations;
        nameArticulations(*instrument);
        made_.emplace_back(from.id, copy.id);
        return copy.id;
    }

    Ensemble& ensemble_;
    const std::string& owner_;
    const Part& part_;
    const Matches& matches_;
    Fitter fitter_;
    std::vector<std::pair<std::string, std::string>> made_;
};

/// What was measured of an instrument of the part holds of the one that has come of it.
void putMeasurements(Ensemble& ensemble, const Part& part, const std::string& from, const std::string& to) {
    for (KeptCurve curve : part.measurements) {
        if (curve.instrument != from) continue;
        curve.instrument = to;
        curve.id = newId(ensemble.measurements, nameOf(curve));
        ensemble.measurements.push_back(std::move(curve));
    }
}

}  // namespace

Matches proposal(const Ensemble& ensemble, const std::string& owner, const Part& part) {
    Matches matches = matchParameters(part.parameters, targetsOf(ensemble, owner));
    for (Match& match : matches) match.make = match.make && owner != sharedOwner;
    return matches;
}

std::vector<std::string> putChains(Ensemble& ensemble, const std::string& owner, const Part& part,
                                   const Matches& matches, std::string_view behind) {
    std::vector<std::string> ids;
    if (chainsOf(ensemble, owner) == nullptr) return ids;
    Putter putter(ensemble, owner, part, matches);
    FreshIds fresh(*chainsOf(ensemble, owner));
    std::vector<Chain> put;
    for (const Chain& wanted : part.chains) {
        Chain& chain = put.emplace_back(putter.chain(wanted));
        chain.id = fresh.make(nameOf(chain));
        ids.push_back(chain.id);
    }
    std::vector<Chain>& chains = *chainsOf(ensemble, owner);
    const std::size_t place = placeOf(chains, behind);
    const std::size_t at = place < chains.size() ? place + 1 : chains.size();
    chains.insert(chains.begin() + static_cast<std::ptrdiff_t>(at), std::make_move_iterator(put.begin()),
                  std::make_move_iterator(put.end()));
    return ids;
}

std::vector<Branch> putBranches(Ensemble& ensemble, const std::string& owner, const Part& part,
                                const Matches& matches) {
    return Putter(ensemble, owner, part, matches).branches(part.branches);
}

std::vector<Step> putSteps(Ensemble& ensemble, const Part& part) {
    std::vector<Step> steps = part.steps;
    Fitter(ensemble, part).fit(steps);
    return steps;
}

std::vector<std::string> putElements(Ensemble& ensemble, const std::string& page, const Part& part) {
    std::vector<std::string> ids;
    for (DeskElement element : part.elements) {
        element.id = newElement(ensemble, element.kind, element.name.empty() ? element.id : element.name).id;
        DeskPage* there = findById(ensemble.desk.pages, page);
        const auto place =
            there == nullptr ? std::nullopt : freePlace(*there, element.place[2], element.place[3]);
        if (!place) continue;
        element.place = *place;
        ids.push_back(element.id);
        there->elements.push_back(std::move(element));
    }
    return ids;
}

std::vector<std::string> putInstruments(Ensemble& ensemble, const Part& part) {
    std::vector<std::string> ids;
    const Matches none;
    for (const Instrument& wanted : part.instruments) {
        Instrument instrument = wanted;
        const auto& there = std::as_const(ensemble.instruments);
        instrument.id = newId(there, nameOf(instrument));
        const bool taken = std::any_of(there.begin(), there.end(), [&](const Instrument& each) {
            return each.output.port == instrument.output.port &&
                   each.output.channel == instrument.output.channel;
        });
        if (taken) instrument.output.channel = freeChannel(ensemble, instrument.output.port);
        // Its chains lead to its own parameters, which come along.
        Putter putter(ensemble, instrument.id, part, none);
        for (Chain& chain : instrument.chains) chain = putter.chain(std::move(chain));
        putMeasurements(ensemble, part, wanted.id, instrument.id);
        ids.push_back(instrument.id);
        ensemble.instruments.push_back(std::move(instrument));
    }
    return ids;
}

std::vector<std::string> putControllers(Ensemble& ensemble, const Part& part) {
    std::vector<std::string> ids;
    for (Controller controller : part.controllers) {
        const Controller* there = byIdOrName(ensemble.controllers, controller);
        if (there != nullptr && nameOf(*there) == nameOf(controller) &&
            there->controls == controller.controls) {
            ids.push_back(there->id);
            continue;
        }
        controller.id = newId(ensemble.controllers, nameOf(controller));
        ids.push_back(controller.id);
        ensemble.controllers.push_back(std::move(controller));
    }
    return ids;
}

}  // namespace mellow::reuse
