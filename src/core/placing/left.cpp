// An edit changes few instruments; those that both ensembles share are not looked at, unless shared chains
// have changed, which may lead anywhere.
#include "core/placing/left.h"

#include <optional>

#include "core/midi/controls.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"

namespace mellow {

namespace {

/// The first branch that leads to each parameter of an instrument.
struct Way {
    const std::string* owner;
    const std::string* chain;
    std::uint32_t branch;
};
using Ways = std::map<std::string_view, std::vector<Way>>;

Ways waysTo(const Instrument& instrument, const std::vector<Chain>& sharedChains) {
    Ways ways;
    for (const Chain& chain : instrument.chains) {
        for (std::uint32_t b = 0; b < chain.branches.size(); ++b)
            ways[chain.branches[b].target].push_back({&instrument.id, &chain.id, b});
    }
    for (const Chain& chain : sharedChains) {
        for (std::uint32_t b = 0; b < chain.branches.size(); ++b) {
            const std::string_view target = chain.branches[b].target;
            const bool isOurs = target.size() > instrument.id.size() && target.starts_with(instrument.id) &&
                                target[instrument.id.size()] == '/';
            if (isOurs) ways[target.substr(instrument.id.size() + 1)].push_back({&sharedOwner, &chain.id, b});
        }
    }
    return ways;
}

/// What has a place to rest at that anybody would want: a value that stays, and no choice of sounds.
bool canRest(const Parameter& parameter) {
    const Message& message = parameter.message;
    const bool chooses = message.kind == MessageKind::program || message.kind == MessageKind::articulation;
    const bool means = message.kind == MessageKind::cc &&
                       (midi::isDataEntry(message.number) || midi::selectsRegister(message.number) ||
                        midi::isBankSelect(message.number) || message.number >= midi::allSoundOff);
    return row(message.kind).stays && !chooses && !means && !parameter.locked;
}

}  // namespace

Placements LeftBehind::follow(const Ensemble& next, const Stands& stands) {
    Placements placements;
    const bool sameShared = sharedChains_ == next.sharedChains;
    for (std::size_t i = 0; i < instruments_.size(); ++i) {
        const Instrument& was = std::as_const(instruments_)[i];
        const bool stayed = i < next.instruments.size() && &next.instruments[i] == &was;
        if (stayed && sameShared) continue;
        const Instrument* now = stayed ? &was : findById(next.instruments, was.id);
        const bool playsThere = now != nullptr && now->output.port == was.output.port &&
                                now->output.channel == was.output.channel;
        if (!playsThere) {
            std::erase_if(left_, [&was](const auto& each) { return each.first.first == was.id; });
            continue;
        }
        const Ways before = waysTo(was, sharedChains_);
        const Ways after = waysTo(*now, next.sharedChains);
        for (const Parameter& parameter : now->parameters) {
            const auto then = before.find(parameter.id);
            const auto ways = after.find(parameter.id);
            const std::pair key(now->id, parameter.id);
            if (ways == after.end()) {
                if (then == before.end() || !canRest(parameter)) continue;
                Left left{-1, restPosition(parameter)};
                for (const Way& way : then->second) {
                    if (left.stood < 0) left.stood = stands(*way.owner, *way.chain, way.branch);
                }
                left_[key] = left;
                placements.push_back({now->id, {}, 0, left.rest, parameter.id});
            } else if (const auto left = left_.find(key); left != left_.end()) {
                const Way& way = ways->second.front();
                if (left->second.stood >= 0)
                    placements.push_back({*way.owner, *way.chain, way.branch, left->second.stood, {}, true});
                left_.erase(left);
            }
        }
        std::erase_if(left_, [now](const auto& each) {
            return each.first.first == now->id && findById(now->parameters, each.first.second) == nullptr;
        });
    }
    instruments_ = next.instruments;
    if (!sameShared) sharedChains_ = next.sharedChains;
    return placements;
}

Placements LeftBehind::atRest() const {
    Placements placements;
    for (const auto& [key, left] : left_) placements.push_back({key.first, {}, 0, left.rest, key.second});
    return placements;
}

}  // namespace mellow
