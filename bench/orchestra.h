// The ensembles that are measured: one control to eight branches, and a hall full of instruments.
#pragma once

#include <string>

#include "core/model/ensemble.h"
#include "core/steps/step.h"

namespace mellow::bench {

inline constexpr int branches = 8;

inline Ensemble fan() {
    Instrument instrument;
    instrument.id = "one";
    instrument.output = {"out", 1, {}};
    Chain chain;
    chain.id = "swell";
    chain.source.number = 1;
    chain.steps = {makeStep(*findStepKind("window")), makeStep(*findStepKind("bend"))};
    chain.steps[0].values = {0.063, 0.945};
    chain.steps[1].values = {0.35};
    for (int i = 0; i < branches; ++i) {
        Parameter parameter;
        parameter.id = "p" + std::to_string(i);
        parameter.message.number = 20 + i;
        instrument.parameters.push_back(parameter);
        Branch branch;
        branch.target = parameter.id;
        branch.low = 5.0 * i;
        branch.high = 127.0 - 3.0 * i;
        chain.branches.push_back(branch);
    }
    instrument.chains.push_back(chain);
    Ensemble ensemble;
    ensemble.instruments.push_back(instrument);
    return ensemble;
}

/// A section of instruments that all answer to one control, in hand, where a chain chooses who is.
inline Ensemble section(int players) {
    Ensemble ensemble;
    Section all{"all", "", {}, {}};
    for (int i = 0; i < players; ++i) {
        Instrument instrument;
        instrument.id = "player" + std::to_string(i);
        instrument.output = {"hall" + std::to_string(i / 16), 1 + i % 16, OnConnect::nothing, {}};
        Parameter parameter;
        parameter.id = "p";
        parameter.message.number = 11;
        instrument.parameters.push_back(parameter);
        Chain chain;
        chain.id = "swell";
        chain.active = Active::inHand;
        chain.source.number = 1;
        Branch branch;
        branch.target = "p";
        chain.branches.push_back(branch);
        instrument.chains.push_back(chain);
        all.instruments.push_back(instrument.id);
        ensemble.instruments.push_back(std::move(instrument));
    }
    ensemble.sections.push_back(all);
    ensemble.handOrder = {"all", "player0"};
    Chain hand;
    hand.id = "hand";
    hand.source = makeSource(SourceKind::program);
    Branch branch;
    branch.target = std::string(handTarget);
    branch.low = std::string("all");
    branch.high = std::string("player0");
    hand.branches.push_back(branch);
    ensemble.sharedChains.push_back(hand);
    return ensemble;
}

/// 200 instruments of 20 chains of 4 branches, each chain on a control and channel of its own as far as there
/// are so many; the fan of above is chain 0 of the first.
inline Ensemble orchestra() {
    Ensemble ensemble = fan();
    for (int i = 0; i < 200; ++i) {
        Instrument instrument;
        instrument.id = "player" + std::to_string(i);
        instrument.output = {"hall" + std::to_string(i / 16), 1 + i % 16, {}};
        instrument.input.channel = 2 + i % 15;
        for (int p = 0; p < 8; ++p) {
            Parameter parameter;
            parameter.id = "p" + std::to_string(p);
            parameter.message.number = 70 + p;
            instrument.parameters.push_back(parameter);
        }
        for (int c = 0; c < 20; ++c) {
            Chain chain;
            chain.id = "c" + std::to_string(c);
            chain.source.number = 20 + (i * 20 + c) % 44;
            chain.steps = {makeStep(*findStepKind("window")), makeStep(*findStepKind("bend"))};
            chain.steps[1].values = {0.01 * c};
            for (int b = 0; b < 4; ++b) {
                Branch branch;
                branch.target = "p" + std::to_string((c + b) % 8);
                branch.low = 1.0 * b;
                branch.high = 127.0 - b;
                chain.branches.push_back(branch);
            }
            instrument.chains.push_back(chain);
        }
        ensemble.instruments.push_back(instrument);
    }
    // Only the first instrument passes what no chain takes, as in the small ensemble.
    for (std::size_t i = 1; i < ensemble.instruments.size(); ++i)
        ensemble.instruments[i].pass.unmatched = false;
    return ensemble;
}

/// The same where no two chains bend alike, so that no table can be shared.
inline Ensemble unalikeOrchestra() {
    Ensemble ensemble = orchestra();
    double amount = -1;
    for (Instrument& instrument : ensemble.instruments) {
        for (Chain& chain : instrument.chains) chain.steps[1].values = {amount += 0.0004};
    }
    return ensemble;
}

}  // namespace mellow::bench
