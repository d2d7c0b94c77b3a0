// Instruments are compared by their addresses first, since an edit leaves those of most as they were.
#include "core/model/change.h"

#include <algorithm>

namespace mellow {

bool Change::concerns(std::size_t instrument) const {
    return surroundings() || std::binary_search(instruments.begin(), instruments.end(), instrument);
}

bool sameFrame(const Instrument& a, const Instrument& b) {
    return a.id == b.id && a.name == b.name && a.on == b.on && a.input == b.input && a.output == b.output &&
           a.pass == b.pass && a.parameters == b.parameters && a.articulations == b.articulations &&
           a.extras == b.extras;
}

namespace {

/// The chains that differ, where nothing else of an instrument does.
std::optional<std::vector<std::size_t>> chainsBetween(const Instrument& before, const Instrument& after) {
    if (!sameFrame(before, after) || before.chains.size() != after.chains.size()) return std::nullopt;
    std::vector<std::size_t> chains;
    for (std::size_t c = 0; c < after.chains.size(); ++c) {
        if (before.chains[c] != after.chains[c]) chains.push_back(c);
    }
    return chains;
}

}  // namespace

Change differenceOf(const Ensemble& before, const Ensemble& after) {
    Change change;
    const auto& were = before.instruments;
    const auto& are = after.instruments;
    change.order = were.size() != are.size();
    for (std::size_t i = 0; i < are.size(); ++i) {
        const bool there = i < were.size();
        if (there && were[i].id != are[i].id) change.order = true;
        if (!there || !(&were[i] == &are[i] || were[i] == are[i])) change.instruments.push_back(i);
    }
    if (change.instruments.size() == 1 && !change.order) {
        const std::size_t i = change.instruments.front();
        change.chains = chainsBetween(were[i], are[i]);
    }
    change.title = before.title != after.title;
    change.controllers = before.controllers != after.controllers;
    change.tieLines = before.tieLines != after.tieLines;
    change.sharedChains = before.sharedChains != after.sharedChains;
    change.inHand = before.inHand != after.inHand;
    change.tempo = before.tempo != after.tempo;
    change.hands = before.sections != after.sections || before.handOrder != after.handOrder;
    change.desk = before.desk != after.desk;
    change.takes = before.takes != after.takes;
    change.measurements = before.measurements != after.measurements;
    return change;
}

}  // namespace mellow
