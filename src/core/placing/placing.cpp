#include "core/placing/placing.h"

#include <set>

#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"

namespace mellow {

namespace {

/// A number from 0 to 1 for a seed and a name, evenly spread (SplitMix64 over FNV-1a).
double drawFor(std::uint64_t seed, const std::string& name) {
    std::uint64_t hash = 14695981039346656037ULL ^ seed * 0x9E3779B97F4A7C15ULL;
    for (const char c : name) {
        hash ^= static_cast<unsigned char>(c);
        hash *= 1099511628211ULL;
    }
    hash += 0x9E3779B97F4A7C15ULL;
    hash = (hash ^ hash >> 30) * 0xBF58476D1CE4E5B9ULL;
    hash = (hash ^ hash >> 27) * 0x94D049BB133111EBULL;
    hash ^= hash >> 31;
    constexpr int bits = 53;
    return static_cast<double>(hash >> (64 - bits)) / static_cast<double>(1ULL << bits);
}

/// What stays where it is put.
bool canBePut(const Parameter& parameter) {
    return row(parameter.message.kind).stays;
}

/// Calls visit(owner, chain, branch, target) for the first branch that is on to each parameter that can be
/// put, locked ones included.
template<class Visit>
void forEachTarget(const Ensemble& ensemble, const Whose& whose, Visit&& visit) {
    std::set<std::pair<std::string_view, std::string_view>> done;
    const Directory directory(ensemble);
    const auto chains = [&](const std::vector<Chain>& list, const Instrument* instrument,
                            const std::string& owner) {
        if (whose.owner && *whose.owner != owner) return;
        for (const Chain& chain : list) {
            if (!chain.on || (whose.chain && *whose.chain != chain.id)) continue;
            for (std::uint32_t b = 0; b < chain.branches.size(); ++b) {
                if (!chain.branches[b].on || (whose.branch && *whose.branch != b)) continue;
                const Target target = targetOf(directory, instrument, chain.branches[b].target);
                if (target.parameter == nullptr || !canBePut(*target.parameter)) continue;
                if (done.emplace(target.instrument->id, target.parameter->id).second)
                    visit(owner, chain, b, target);
            }
        }
    };
    for (const Instrument& instrument : ensemble.instruments)
        chains(instrument.chains, &instrument, instrument.id);
    chains(ensemble.sharedChains, nullptr, sharedOwner);
}

template<class Position>
Placements put(const Ensemble& ensemble, const Whose& whose, Position&& position) {
    Placements placements;
    forEachTarget(
        ensemble, whose,
        [&](const std::string& owner, const Chain& chain, std::uint32_t b, const Target& target) {
            if (target.parameter->locked) return;
            const std::string name = target.instrument->id + "/" + target.parameter->id;
            placements.push_back({owner, chain.id, b, position(chain.branches[b], *target.parameter, name)});
        });
    return placements;
}

}  // namespace

std::vector<Placeable> placeable(const Ensemble& ensemble, const Whose& whose) {
    std::vector<Placeable> list;
    forEachTarget(ensemble, whose,
                  [&list](const std::string&, const Chain&, std::uint32_t, const Target& target) {
                      list.push_back({target.instrument, target.parameter});
                  });
    return list;
}

Placements atRest(const Ensemble& ensemble, const Whose& whose) {
    return put(ensemble, whose, [](const Branch&, const Parameter& parameter, const std::string&) {
        return restPosition(parameter);
    });
}

Placements drawn(const Ensemble& ensemble, const Whose& whose, std::uint64_t seed) {
    return put(ensemble, whose,
               [seed](const Branch& branch, const Parameter& parameter, const std::string& name) {
                   const Range range = rangeOf(parameter);
                   const double low = clampPosition(rawPosition(range, branch.low).value_or(0));
                   const double high = clampPosition(rawPosition(range, branch.high).value_or(1));
                   return low + drawFor(seed, name) * (high - low);
               });
}

}  // namespace mellow
