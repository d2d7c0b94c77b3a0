// The lanes of a take: what the hands did, sorted by what they moved.
//
// A take is one stream in order of time; a page shows, and tidying changes, one control at a time. A lane is
// the events of one subject (subject.h): places in the take, with the value that each sets. Where an ensemble
// says that a control sends 14 bits, its two halves are one lane. Notes of a port are a lane of their own,
// from strike to release. Nothing is copied that the take has already, so a take of millions of events has
// lanes at a few bytes each.
#pragma once

#include <compare>
#include <cstdint>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/takes/subject.h"
#include "core/takes/take.h"

namespace mellow {

struct TakeLane {
    Subject subject;                    ///< of a 14-bit pair: of its high half
    bool isPair = false;                ///< two halves of 7 bits make its values
    double highest = 127;               ///< values go from 0 to this
    std::vector<std::uint32_t> events;  ///< places in the take, in order; of a pair those that end a value
    std::vector<float> values;          ///< what each sets

    /// The place of the last event at a time or before; the number of events where there is none.
    [[nodiscard]] std::size_t lastAt(const Take& take, std::int64_t time) const;
    /// What stands at a time; nothing before the first event.
    [[nodiscard]] std::optional<double> valueAt(const Take& take, std::int64_t time) const;
};

struct TakeNote {
    std::int64_t begins = 0;
    std::int64_t ends = 0;  ///< the take's end where nothing released it
    std::uint32_t on = 0;   ///< place of its note-on in the take
    std::uint32_t off = none;
    std::uint16_t port = 0;
    std::uint8_t channel = 0;
    std::uint8_t key = 0;
    std::uint8_t velocity = 0;

    static constexpr std::uint32_t none = 0xFFFFFFFF;
};

struct TakeLanes {
    std::vector<TakeLane> lanes;  ///< in the order of their subjects: port, then what they are about
    std::vector<TakeNote> notes;  ///< in the order in which they begin
    std::int64_t longestNote = 0;
};

/// A control that sends 14 bits, by the number of its high half: on a port, or on any.
struct PairOfControls {
    std::string port;  ///< "any": all
    int number = 0;
    auto operator<=>(const PairOfControls&) const = default;
};
/// Those that an ensemble's controllers and chains name.
std::set<PairOfControls> pairsIn(const Ensemble& ensemble);

TakeLanes lanesOf(const Take& take, const std::set<PairOfControls>& pairs);

/// What an event sets its subject to, 0 to `highest` of its lane: 7 or 14 bits, or 0 to 1 by OSC.
double valueOf(midi::Bytes body);
/// What a lane moves, in words: the name that a controller of the ensemble has for it, or the trade's.
std::string laneName(const Ensemble& ensemble, const Take& take, const TakeLane& lane);
/// How it is said: "CC 1, 7 bits, channel 2".
std::string laneMessage(const TakeLane& lane);

}  // namespace mellow
