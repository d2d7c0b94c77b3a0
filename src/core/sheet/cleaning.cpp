#include "core/sheet/cleaning.h"

#include <algorithm>
#include <set>
#include <unordered_map>

#include "core/assignments/assignments.h"
#include "core/describe/sentence.h"
#include "core/desk/element_targets.h"
#include "core/model/alike.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow::sheet {

namespace {

class Cleaner {
 public:
    explicit Cleaner(const Ensemble& ensemble) : ensemble_(ensemble) {
        forEachChain(ensemble, [this](const Chain& chain, const Instrument* owner) { note(chain, owner); });
    }

    std::vector<Unused> all() {
        parameters();
        chains();
        tieLines();
        controllers();
        elements();
        return std::move(all_);
    }

 private:
    void note(const Chain& chain, const Instrument* owner) {
        forEachSource(chain, [&](const Source& source) {
            controllers_.insert(source.controller);
            controllers_.insert(nameOfController(owner, source));
            if (source.kind == SourceKind::tieLine) read_.insert(source.tieLine);
            if (source.kind == SourceKind::desk) elements_.insert(elementOf(source));
        });
        for (const Branch& branch : chain.branches) {
            if (const auto line = tieLineOf(branch.target)) written_.insert(*line);
        }
        // A step or branch that is off may be switched on again, and is somebody's.
        const auto look = [this](const std::vector<Step>& steps) {
            for (const Step& step : steps) {
                if (!step.with) continue;
                controllers_.insert(step.with->controller);
                read_.insert(step.with->tieLine);
                if (step.with->kind == SourceKind::desk) elements_.insert(elementOf(*step.with));
            }
        };
        look(chain.steps);
        for (const Branch& branch : chain.branches) look(branch.steps);
    }
    [[nodiscard]] std::string nameOfController(const Instrument* owner, const Source& source) const {
        const ControlOf found = controlOf(ensemble_, owner, source);
        return found.controller == nullptr ? std::string() : found.controller->id;
    }

    void add(const char* group, std::string words, std::function<void(Ensemble&)> remove) {
        all_.push_back({group, std::move(words), std::move(remove)});
    }

    void parameters() {
        for (const Assignment& row : assignmentsOf(ensemble_)) {
            const Parameter* parameter = row.target.parameter;
            if (row.chain != nullptr || parameter == nullptr) continue;
            const Instrument& instrument = *row.target.instrument;
            const bool isTold = instrument.output.onConnect != OnConnect::nothing;
            if (isTold || parameter->locked || parameter->message.kind == MessageKind::articulation) continue;
            add("Parameters that nothing moves",
                nameOf(*parameter) + " of " + nameOf(instrument) + " (" +
                    describe::targetMessage(parameter->message) + ")",
                [instrument = instrument.id, parameter = parameter->id](Ensemble& to) {
                    if (Instrument* at = findById(to.instruments, instrument))
                        removeParameter(to, *at, parameter);
                });
        }
    }

    static std::vector<Chain>* chainsAt(Ensemble& to, const std::string& owner) {
        if (owner == sharedOwner) return &to.sharedChains;
        Instrument* at = findById(to.instruments, owner);
        return at == nullptr ? nullptr : &at->chains;
    }
    void addChain(const char* group, const Chain& chain, const Instrument* owner, const std::string& why) {
        add(group, nameOf(chain) + (owner == nullptr ? ", shared" : " of " + nameOf(*owner)) + why,
            [owner = owner == nullptr ? sharedOwner : owner->id, id = chain.id](Ensemble& to) {
                std::vector<Chain>* chains = chainsAt(to, owner);
                if (chains == nullptr) return;
                std::erase_if(*chains, [&id](const Chain& each) { return each.id == id; });
            });
    }

    void chains() {
        forEachChain(ensemble_, [this](const Chain& chain, const Instrument* owner) {
            // One that hears something may take it from what is passed on, though it leads nowhere.
            bool hears = false;
            forEachSource(chain, [&](const Source& source) {
                hears = hears || row(source.kind).origin != Origin::generator;
            });
            if (chain.branches.empty() && !hears) addChain("Chains that lead nowhere", chain, owner, "");
            if (chain.source.kind == SourceKind::control &&
                resolved(ensemble_, chain.source).kind == SourceKind::control)
                addChain("Chains of controls that nobody has", chain, owner, "");
        });
        for (const Instrument& instrument : ensemble_.instruments) twins(instrument.chains, &instrument);
        twins(ensemble_.sharedChains, nullptr);
    }
    /// Of chains that are the same but for their names, all but the first; where nothing is mixed or repeated
    /// they send nothing that the first does not send.
    void twins(const std::vector<Chain>& chains, const Instrument* owner) {
        std::unordered_map<std::size_t, std::vector<const Chain*>> seen;
        for (const Chain& chain : chains) {
            std::vector<const Chain*>& before = seen[digestOf(chain)];
            const auto same = std::find_if(before.begin(), before.end(),
                                           [&chain](const Chain* each) { return isAlike(*each, chain); });
            if (same == before.end()) {
                before.push_back(&chain);
            } else if (isPlain(chain, owner)) {
                addChain("Chains that do the same", chain, owner, ", as " + nameOf(**same));
            }
        }
    }
    [[nodiscard]] bool isPlain(const Chain& chain, const Instrument* owner) const {
        if (chain.branches.empty() || row(chain.source.kind).origin == Origin::generator) return false;
        return std::all_of(chain.branches.begin(), chain.branches.end(), [&](const Branch& branch) {
            const Parameter* parameter = targetOf(ensemble_, owner, branch.target).parameter;
            return parameter != nullptr && parameter->mix == Mix::latest && !parameter->repeats;
        });
    }

    void tieLines() {
        for (const TieLine& line : ensemble_.tieLines) {
            // One that is written gives its writers a place in the order of an event, and one that is read
            // rests somewhere.
            if (read_.contains(line.id) || written_.contains(line.id)) continue;
            add("Tie lines that nobody writes or follows", nameOf(line),
                [id = line.id](Ensemble& to) { removeTieLine(to, id); });
        }
    }

    void controllers() {
        for (const Controller& controller : ensemble_.controllers) {
            // Motors are told where they stand, and zones that are said by hand decide who hears what.
            const bool does = !controller.feedback.empty() || !(controller.zones == ZoneSettings{});
            if (controllers_.contains(controller.id) || does) continue;
            add("Controllers that no chain follows", nameOf(controller) + " on " + controller.port,
                [id = controller.id](Ensemble& to) {
                    std::erase_if(to.controllers, [&id](const Controller& each) { return each.id == id; });
                });
        }
    }

    void elements() {
        for (const DeskPage& page : ensemble_.desk.pages) {
            for (const DeskElement& element : page.elements) {
                if (!isSource(element) || elements_.contains(element.id)) continue;
                add("Elements of the desk that move nothing", nameOf(element) + " on " + nameOf(page),
                    [id = element.id](Ensemble& to) {
                        for (DeskPage& at : to.desk.pages)
                            std::erase_if(at.elements,
                                          [&id](const DeskElement& each) { return each.id == id; });
                    });
            }
        }
    }

    const Ensemble& ensemble_;
    std::set<std::string> controllers_;
    std::set<std::string> read_;
    std::set<std::string> written_;
    std::set<std::string> elements_;
    std::vector<Unused> all_;
};

}  // namespace

std::vector<Unused> unusedIn(const Ensemble& ensemble) {
    return Cleaner(ensemble).all();
}

}  // namespace mellow::sheet
