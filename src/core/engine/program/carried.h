// What a plan keeps for the next one: what each instrument was compiled from, and where its chains are, so
// that an instrument that an edit left alone is taken over as it is.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/checks/check.h"
#include "core/engine/program/chain_body.h"

namespace mellow::engine {

/// How many of each thing, or where the next of each goes.
struct Extent {
    std::uint32_t chains = 0;
    std::uint32_t branches = 0;
    std::uint32_t ears = 0;
    std::uint32_t states = 0;
    std::uint32_t hearings = 0;
    bool operator==(const Extent&) const = default;
};

using Bodies = std::vector<std::shared_ptr<const ChainBody>>;

/// What an instrument's chains were compiled from, and where they are: as long as that stays the same, the
/// next plan takes them over as they are.
struct Record {
    std::shared_ptr<const Instrument> written;
    StoppedChains stoppedAlone;  ///< what cannot run, whatever else the ensemble holds
    StoppedChains stopped;
    std::shared_ptr<const Bodies> bodies;
    Extent from;
    Extent to;
};

/// What chains refer to beyond their instrument.
struct Surroundings {
    std::vector<Controller> controllers;
    std::vector<TieLine> tieLines;
    std::optional<std::vector<std::string>> inHand;
    bool handMoves = false;
    Tempo tempo;
    Desk desk;
    bool operator==(const Surroundings&) const = default;
};

}  // namespace mellow::engine
