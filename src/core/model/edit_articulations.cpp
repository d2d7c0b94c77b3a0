#include "core/model/edit_articulations.h"

#include <map>
#include <utility>

#include "core/model/resolve.h"

namespace mellow {

namespace {

/// New names by old ones, of articulations that are the same by id.
using Renamed = std::map<std::string, std::string>;

Renamed renamedIn(const Instrument& before, const Instrument& after) {
    Renamed renamed;
    for (const Articulation& was : before.articulations) {
        const Articulation* now = findById(after.articulations, was.id);
        if (now != nullptr && nameOf(*now) != nameOf(was)) renamed.emplace(nameOf(was), nameOf(*now));
    }
    return renamed;
}

void rename(Level& level, const Renamed& renamed) {
    auto* name = std::get_if<std::string>(&level);
    if (name == nullptr) return;
    const auto found = renamed.find(*name);
    if (found != renamed.end()) *name = found->second;
}

bool choosesArticulation(const Target& target, const std::string& instrument) {
    return target.parameter != nullptr && target.parameter->message.kind == MessageKind::articulation &&
           target.instrument->id == instrument;
}

void renameIn(std::vector<Chain>& chains, const Ensemble& ensemble, const Instrument* owner,
              const std::string& instrument, const Renamed& renamed) {
    for (Chain& chain : chains) {
        for (Branch& branch : chain.branches) {
            if (!choosesArticulation(targetOf(ensemble, owner, branch.target), instrument)) continue;
            rename(branch.low, renamed);
            rename(branch.high, renamed);
        }
    }
}

}  // namespace

void followArticulations(const Ensemble& before, Ensemble& after) {
    for (std::size_t i = 0; i < after.instruments.size(); ++i) {
        const Instrument& now = std::as_const(after.instruments)[i];
        const bool samePlace = i < before.instruments.size() && before.instruments[i].id == now.id;
        const Instrument* was = samePlace ? &before.instruments[i] : findById(before.instruments, now.id);
        if (was == &now) continue;
        if (!areArticulationsNamed(now)) nameArticulations(after.instruments[i]);
        const Renamed renamed =
            was == nullptr ? Renamed() : renamedIn(*was, std::as_const(after.instruments)[i]);
        if (renamed.empty()) continue;
        Instrument& edited = after.instruments[i];
        renameIn(edited.chains, after, &edited, edited.id, renamed);
        renameIn(after.sharedChains, after, nullptr, edited.id, renamed);
        for (Parameter& parameter : edited.parameters) {
            if (parameter.message.kind == MessageKind::articulation && parameter.rest)
                rename(*parameter.rest, renamed);
        }
    }
}

}  // namespace mellow
