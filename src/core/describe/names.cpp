#include "core/describe/names.h"

#include <utility>

#include "core/describe/sentence.h"

namespace mellow::describe {

namespace {

/// New names by place; empty: it keeps its own.
using NewNames = std::vector<std::string>;

template<class List, class IsMade, class Make>
NewNames newNames(const List& before, const List& after, IsMade&& isMade, Make&& make) {
    NewNames names;
    for (std::size_t i = 0; i < after.size(); ++i) {
        const auto& now = after[i];
        const bool sameplace = i < before.size() && before[i].id == now.id;
        const auto* was = sameplace ? &before[i] : findById(before, now.id);
        if (was == nullptr || was->name != now.name || !isMade(*was)) continue;
        std::string name = make(now);
        if (name == now.name) continue;
        names.resize(after.size());
        names[i] = std::move(name);
    }
    return names;
}

template<class List>
void rename(List& list, const NewNames& names) {
    for (std::size_t i = 0; i < names.size(); ++i) {
        if (!names[i].empty()) list[i].name = names[i];
    }
}

bool isMade(const Ensemble& ensemble, const Chain& chain) {
    const bool isControl = chain.source.kind == SourceKind::cc;
    return chain.name == madeName(ensemble, chain) ||
           (isControl && chain.name == midi::controlName(chain.source.number));
}

NewNames namesOfChains(const Ensemble& before, const std::vector<Chain>& chainsBefore, const Ensemble& after,
                       const std::vector<Chain>& chainsAfter) {
    if (chainsBefore == chainsAfter) return {};
    return newNames(
        chainsBefore, chainsAfter, [&](const Chain& chain) { return isMade(before, chain); },
        [&](const Chain& chain) {
            const Chain* was = findById(chainsBefore, chain.id);
            return was->source == chain.source ? chain.name : madeName(after, chain);
        });
}

}  // namespace

std::string madeName(const Message& message) {
    return message.kind == MessageKind::cc ? midi::controlName(message.number) : targetMessage(message);
}

std::string madeName(const Ensemble& ensemble, const Chain& chain) {
    return sourceName(ensemble, chain.source);
}

void followNames(const Ensemble& before, Ensemble& after) {
    rename(after.sharedChains, namesOfChains(before, before.sharedChains, after, after.sharedChains));
    for (std::size_t i = 0; i < after.instruments.size(); ++i) {
        const Instrument& now = std::as_const(after.instruments)[i];
        const bool samePlace = i < before.instruments.size() && before.instruments[i].id == now.id;
        const Instrument* was = samePlace ? &before.instruments[i] : findById(before.instruments, now.id);
        if (was == nullptr || was == &now) continue;
        const NewNames chains = namesOfChains(before, was->chains, after, now.chains);
        const NewNames parameters = newNames(
            was->parameters, now.parameters,
            [](const Parameter& parameter) { return parameter.name == madeName(parameter.message); },
            [](const Parameter& parameter) { return madeName(parameter.message); });
        if (!chains.empty()) rename(after.instruments[i].chains, chains);
        if (!parameters.empty()) rename(after.instruments[i].parameters, parameters);
    }
}

}  // namespace mellow::describe
