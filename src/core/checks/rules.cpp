// What rules share: words for places, edits that find their thing again, and where a source can stand.
#include "core/checks/rules.h"

#include <algorithm>

#include "core/model/edit.h"

namespace mellow::checks {

std::string placeName(const ChainAt& at, std::optional<std::size_t> branch) {
    const Ensemble& ensemble = at.directory.ensemble();
    std::string name =
        at.instrument != nullptr ? nameAmong(ensemble.instruments, *at.instrument) : "Shared chains";
    name += ", ";
    name += nameAmong(at.instrument != nullptr ? at.instrument->chains : ensemble.sharedChains, at.chain);
    if (branch) name += ", branch " + std::to_string(*branch + 1);
    return name;
}

Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend, std::vector<Mend> mends) {
    Place place = at.place;
    place.branch = branch;
    return {severity, stops, place, {"", std::move(what), std::move(mend)}, std::move(mends)};
}

Finding about(std::size_t instrument, Severity severity, Stops stops, std::string what, std::string mend,
              std::vector<Mend> mends) {
    return {severity,
            stops,
            {instrument, std::nullopt, std::nullopt},
            {"", std::move(what), std::move(mend)},
            std::move(mends)};
}

namespace {

/// The thing at a place, if it still has the id that it had, or the first that has.
template<class List>
auto* again(List& list, std::size_t place, const std::string& id) {
    const bool there = place < list.size() && std::as_const(list)[place].id == id;
    return there ? &list[place] : findById(list, id);
}

/// Finds a chain again in an ensemble, however that changed; nullptr where it is gone.
struct ChainFinder {
    explicit ChainFinder(const ChainAt& at)
        : place(at.place),
          instrument(at.instrument != nullptr ? at.instrument->id : ""),
          chain(at.chain.id) {}

    Instrument* owner(Ensemble& ensemble) const {
        return place.instrument ? again(ensemble.instruments, *place.instrument, instrument) : nullptr;
    }
    Chain* operator()(Ensemble& ensemble) const {
        Instrument* owner = this->owner(ensemble);
        if (place.instrument && owner == nullptr) return nullptr;
        return again(owner != nullptr ? owner->chains : ensemble.sharedChains, *place.chain, chain);
    }

    Place place;
    std::string instrument;
    std::string chain;
};

}  // namespace

Mend mendChain(const ChainAt& at, std::string name, std::function<void(Chain&)> edit) {
    return {std::move(name), [find = ChainFinder(at), edit = std::move(edit)](Ensemble& ensemble) {
                if (Chain* chain = find(ensemble)) edit(*chain);
            }};
}

Mend mendBranch(const ChainAt& at, std::size_t branch, std::string name, std::function<void(Branch&)> edit) {
    return mendChain(
        at, std::move(name),
        [branch, target = at.chain.branches[branch].target, edit = std::move(edit)](Chain& chain) {
            const bool there = branch < chain.branches.size() && chain.branches[branch].target == target;
            if (there) edit(chain.branches[branch]);
        });
}

Mend mendInstrument(const Directory& directory, std::size_t place, std::string name,
                    std::function<void(Instrument&)> edit) {
    return {std::move(name), [place, id = directory.ensemble().instruments[place].id,
                              edit = std::move(edit)](Ensemble& ensemble) {
                if (Instrument* instrument = again(ensemble.instruments, place, id)) edit(*instrument);
            }};
}

Mend mendInstrument(const InstrumentAt& at, std::string name, std::function<void(Instrument&)> edit) {
    return mendInstrument(at.directory, at.place, std::move(name), std::move(edit));
}

Mend mendParameter(const ChainAt& at, const Branch& branch, std::string name,
                   std::function<void(Parameter&)> edit) {
    const Target target = targetOf(at, branch);
    return {std::move(name), [instrument = target.instrument->id, parameter = target.parameter->id,
                              edit = std::move(edit)](Ensemble& ensemble) {
                Instrument* owner = findById(ensemble.instruments, instrument);
                Parameter* found = owner != nullptr ? findById(owner->parameters, parameter) : nullptr;
                if (found != nullptr) edit(*found);
            }};
}

Mend mendSources(const ChainAt& at, std::string name, std::function<void(Source&)> edit) {
    return mendChain(at, std::move(name), [edit = std::move(edit)](Chain& chain) {
        forEachSource(chain, [&edit](Source& source) { edit(source); });
    });
}

Mend switchOff(const ChainAt& at) {
    return mendChain(at, "Switch the chain off", [](Chain& chain) { chain.on = false; });
}

Mend removeBranch(const ChainAt& at, std::size_t branch) {
    return mendChain(
        at, "Remove the branch", [branch, target = at.chain.branches[branch].target](Chain& chain) {
            const bool there = branch < chain.branches.size() && chain.branches[branch].target == target;
            if (there) chain.branches.erase(chain.branches.begin() + static_cast<std::ptrdiff_t>(branch));
        });
}

Mend wholeReach(const ChainAt& at, std::size_t branch) {
    const std::string& target = at.chain.branches[branch].target;
    const Target led = targetOf(at, at.chain.branches[branch]);
    return {"Use the whole range of " + (led.exists() ? nameOf(led, at.instrument == nullptr) : target),
            [find = ChainFinder(at), branch](Ensemble& ensemble) {
                Chain* chain = find(ensemble);
                if (chain == nullptr || branch >= chain->branches.size()) return;
                Branch& mended = chain->branches[branch];
                const auto whole = wholeBranch(ensemble, find.owner(ensemble), mended.target);
                if (!whole) return;
                mended.low = whole->low;
                mended.high = whole->high;
            }};
}

Digest digestOf(const ChainAt& at) {
    Digest digest{tieLinesWritten(at.chain), tieLinesRead(at.chain), {}};
    forEachSource(at.chain, [&](const Source& written) {
        const Source source = resolved(at.directory, written);
        if (source.kind == SourceKind::cc || source.kind == SourceKind::cc14)
            digest.controls.emplace_back(source.kind, source.number);
    });
    return digest;
}

Target targetOf(const ChainAt& at, const Branch& branch) {
    return mellow::targetOf(at.directory, at.instrument, branch.target);
}

std::string targetName(const ChainAt& at, const Branch& branch) {
    return nameOf(targetOf(at, branch), at.instrument == nullptr);
}

SourcePlaces::SourcePlaces(const Directory& directory, const Source& source) {
    const Source heard = resolved(directory, source);
    const bool hasRaws = maxOf(heard) != 0;
    max_ = hasRaws ? maxOf(heard) : placesWithoutRaw;
    scale_ = hasRaws ? scaleOf(heard) : Scale::edge;
}

std::vector<double> placesOf(const Directory& directory, const Source& source) {
    const SourcePlaces all(directory, source);
    std::vector<double> places;
    places.reserve(static_cast<std::size_t>(all.count()));
    for (int place = 0; place < all.count(); ++place) places.push_back(all[place]);
    return places;
}

bool isBlurred(const std::vector<Step>& steps) {
    return std::any_of(steps.begin(), steps.end(), [](const Step& step) { return step.on && step.with; });
}

}  // namespace mellow::checks
