// A chain's body: what is made of a chain whatever else the ensemble holds. Plans in which a chain is the
// same share its body, so an edit compiles what it touched.
//
// A source yields whole numbers (128 or 16,384 of them), and a run of stateless steps behind it is a function
// of that number alone; so the way through the trunk is written out for each (Trunk), and where all of the
// chain is such a function, what it sends is too (Table): playing is looking up (signal rules, section 8).
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "core/engine/program/numbering.h"
#include "core/midi/message.h"
#include "core/reach/branch.h"

namespace mellow::engine {

/// What a table holds for a branch, and the memory for a message. Of messages whose data bytes are the value
/// and nothing else: both bytes, the second above the first, so that sending is copying and repeating is
/// comparing. Of all others: the value.
using Payload = std::uint16_t;
inline constexpr Payload noPayload = 0xFFFF;  ///< in a table: send nothing; in the memory: unknown

constexpr Payload payload(int first, int second) {
    return static_cast<Payload>(first | second << 8);
}

/// The data that carry a value of a branch, and back.
inline Payload payloadOf(const BranchBody& branch, int value) {
    switch (branch.kind) {
        case MessageKind::cc:
            return payload(branch.number, value);
        case MessageKind::bend:
            return payload(value & midi::max7, value >> 7);
        default:
            return static_cast<Payload>(value);
    }
}

inline int valueOf(const BranchBody& branch, Payload payload) {
    switch (branch.kind) {
        case MessageKind::cc:
            return payload >> 8;
        case MessageKind::bend:
            return (payload & midi::max7) | payload >> 8 << 7;
        default:
            return payload;
    }
}

/// Where a chain's trunk leads from each raw value, as far as it is a function of that.
struct Trunk {
    std::size_t firstLive = 0;  ///< the first step that is not, or the number of steps
    std::vector<double> places;
};

/// All that a chain sends for each raw value: a payload a branch.
struct Table {
    std::vector<Payload> payloads;
    bool silent = false;  ///< some are empty
};

/// What is made of a chain whatever else the plan holds. Shared by plans in which it is the same.
struct ChainBody : std::enable_shared_from_this<ChainBody> {
    // What it was compiled from: an edit that leaves all of it alone leaves the chain alone. It stands in the
    // instruments of the ensemble, which are kept as they were.
    std::shared_ptr<const Instrument> instrument;
    std::vector<std::shared_ptr<const void>> others;  ///< of a shared chain: itself, and where it leads
    const Chain* written = nullptr;
    struct Led {
        const Parameter* target = nullptr;  ///< nullptr: a tie line, or the hand
        std::uint32_t lane = none;          ///< none: it sends nothing
        std::vector<std::string> hands;     ///< of the hand: its order
    };
    std::vector<Led> led;                               ///< one a branch
    std::vector<const Source*> sources;                 ///< resolved, one an ear
    std::vector<std::unique_ptr<const Source>> copies;  ///< of those that differ from what is written

    StepRun steps;
    std::vector<BranchBody> branches;
    bool hearsCues = false;              ///< some step, in trunk or branch, waits for a note or the pedal
    bool ticks = false;                  ///< some step moves with the clock
    std::shared_ptr<const Trunk> trunk;  ///< where the source has raw values and is followed as it is
    std::shared_ptr<const Table> table;  ///< where all of it is a function of the raw value
};

}  // namespace mellow::engine
