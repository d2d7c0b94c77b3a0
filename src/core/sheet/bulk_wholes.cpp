// Edits that make, rename or take away whole things: what is given, renamed, removed.
#include <algorithm>
#include <map>
#include <set>

#include "core/model/edit.h"
#include "core/model/resolve.h"
#include "core/reuse/parts.h"
#include "core/sheet/bulk.h"

namespace mellow::sheet::bulk {

namespace {

using Rows = std::vector<AssignmentId>;
using Complaints = std::vector<Complaint>;

/// The rows' chains, each with the branches that are meant, by owner and chain in the rows' order.
struct Given {
    std::string owner;
    std::string chain;
    std::set<int> branches;
};
std::vector<Given> givenBy(const Rows& rows) {
    std::vector<Given> all;
    for (const AssignmentId& id : rows) {
        if (id.chain.empty()) continue;
        const auto found = std::find_if(all.begin(), all.end(), [&id](const Given& given) {
            return given.owner == id.owner && given.chain == id.chain;
        });
        Given& given = found == all.end() ? all.emplace_back(Given{id.owner, id.chain, {}}) : *found;
        if (id.branch >= 0) given.branches.insert(id.branch);
    }
    return all;
}

/// Keeps of a chain's branches those that are meant.
void keepBranches(Chain& chain, const std::set<int>& meant) {
    int place = 0;
    std::erase_if(chain.branches, [&](const Branch&) { return !meant.contains(place++); });
}

/// Copies what is meant of one owner's chains to an instrument. before: with the chains as they were.
void give(Ensemble& ensemble, const Ensemble& before, const std::vector<Given>& all, const std::string& to) {
    std::map<std::string, std::vector<const Given*>> byOwner;
    for (const Given& given : all) byOwner[given.owner].push_back(&given);
    for (const auto& [owner, given] : byOwner) {
        if (owner == to) continue;
        Ensemble meant = before;
        Instrument* from = findById(meant.instruments, owner);
        if (from == nullptr) continue;
        std::vector<std::string> ids;
        for (const Given* each : given) {
            if (Chain* chain = findById(from->chains, each->chain)) {
                keepBranches(*chain, each->branches);
                ids.push_back(each->chain);
            }
        }
        const Part part = reuse::takeChains(meant, owner, ids);
        reuse::Matches matches = reuse::proposal(ensemble, to, part);
        for (reuse::Match& match : matches) match.make = true;
        reuse::putChains(ensemble, to, part, matches);
    }
}

/// "*" is the name before, "#" the number, as many digits as there are of it.
std::string patterned(const std::string& pattern, const std::string& before, int number) {
    std::string name;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        if (pattern[i] == '*') {
            name += before;
        } else if (pattern[i] == '#') {
            const std::size_t end = std::min(pattern.find_first_not_of('#', i), pattern.size());
            std::string digits = std::to_string(number);
            if (digits.size() < end - i) digits.insert(0, end - i - digits.size(), '0');
            name += digits;
            i = end - 1;
        } else {
            name += pattern[i];
        }
    }
    return name;
}

/// What of a row has a name that can be changed.
struct Nameable {
    std::string* name = nullptr;
    std::string before;  ///< for people
};

template<class Thing>
Nameable nameable(Thing* thing) {
    return thing == nullptr ? Nameable{} : Nameable{&thing->name, nameOf(*thing)};
}

Nameable nameableOf(Ensemble& ensemble, const AssignmentId& id, Named what) {
    const auto row = assignmentAt(ensemble, id);
    if (!row) return {};
    if (what == Named::chain) return nameable(chainOf(ensemble, id));
    if (what == Named::move) {
        if (row->control == nullptr) return {};
        return nameable(
            findById(findById(ensemble.controllers, row->controller->id)->controls, row->control->id));
    }
    if (row->target.tieLine != nullptr) return nameable(findById(ensemble.tieLines, row->target.tieLine->id));
    if (row->target.parameter == nullptr) return {};
    return nameable(findById(findById(ensemble.instruments, row->target.instrument->id)->parameters,
                             row->target.parameter->id));
}

const char* unnamed(Named what) {
    return what == Named::chain  ? "it has no chain"
           : what == Named::move ? "no control of a controller moves it"
                                 : "it leads to nothing that has a name";
}

}  // namespace

Bulk giveTo(const std::vector<std::string>& instruments) {
    Bulk bulk{"Give to other instruments", {}, {}, "is given"};
    bulk.make = [instruments](Ensemble& ensemble, const Rows& rows) {
        Complaints complaints(rows.size());
        for (std::size_t i = 0; i < rows.size(); ++i) {
            if (rows[i].chain.empty()) complaints[i] = "it has no chain";
            if (rows[i].owner == sharedOwner)
                complaints[i] = "a shared chain leads to any instrument already";
            if (instruments.size() == 1 && rows[i].owner == instruments.front())
                complaints[i] = "the chain is that instrument’s already";
        }
        const Ensemble before = ensemble;
        const std::vector<Given> all = givenBy(rows);
        for (const std::string& instrument : instruments) give(ensemble, before, all, instrument);
        return complaints;
    };
    return bulk;
}

Bulk rename(Named what, const std::string& pattern, int first) {
    const char* column = what == Named::chain ? "chain" : what == Named::move ? "move" : "target";
    return {"Rename", {column}, [what, pattern, first](Ensemble& ensemble, const Rows& rows) {
                Complaints complaints(rows.size());
                std::map<const std::string*, Complaint> done;
                int number = first;
                for (std::size_t i = 0; i < rows.size(); ++i) {
                    const Nameable thing = nameableOf(ensemble, rows[i], what);
                    if (thing.name == nullptr) {
                        complaints[i] = unnamed(what);
                        continue;
                    }
                    const auto [at, isNew] = done.try_emplace(thing.name);
                    if (isNew) {
                        const std::string name = patterned(pattern, thing.before, number++);
                        if (name.find_first_not_of(' ') == std::string::npos) {
                            at->second = "a name has at least one letter";
                        } else {
                            *thing.name = name;
                        }
                    }
                    complaints[i] = at->second;
                }
                return complaints;
            }};
}

namespace {

/// Takes branches out of a chain; the chain goes where it leads nowhere then.
void removeFrom(std::vector<Chain>& chains, const Given& given) {
    const std::size_t place = placeOf(chains, given.chain);
    if (place >= chains.size()) return;
    std::vector<Branch>& branches = chains[place].branches;
    int branch = 0;
    std::erase_if(branches, [&](const Branch&) { return given.branches.contains(branch++); });
    if (branches.empty()) chains.erase(chains.begin() + static_cast<std::ptrdiff_t>(place));
}

}  // namespace

Bulk remove() {
    Bulk bulk{"Remove rows", {}, {}, "goes"};
    bulk.make = [](Ensemble& ensemble, const Rows& rows) {
        for (const Given& given : givenBy(rows)) {
            Instrument* owner = findById(ensemble.instruments, given.owner);
            if (owner != nullptr) removeFrom(owner->chains, given);
            if (given.owner == sharedOwner) removeFrom(ensemble.sharedChains, given);
        }
        for (const AssignmentId& id : rows) {
            if (Controller* controller = findById(ensemble.controllers, id.controller))
                std::erase_if(controller->controls,
                              [&](const ControllerControl& control) { return control.id == id.control; });
            Instrument* instrument =
                id.parameter.empty() ? nullptr : findById(ensemble.instruments, id.instrument);
            if (instrument != nullptr) removeParameter(ensemble, *instrument, id.parameter);
        }
        return Complaints(rows.size());
    };
    return bulk;
}

}  // namespace mellow::sheet::bulk
