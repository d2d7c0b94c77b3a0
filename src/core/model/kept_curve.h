// A measurement of loudness that a document keeps: what was measured, in a few numbers, and which file beside
// the document holds all of it (core/balance/curve.h).
//
// As with takes, a file is written once and never changed, so that undo is undo of a name.
#pragma once

#include <optional>
#include <string>

#include "core/model/field.h"

namespace mellow {

struct KeptCurve {
    std::string id;  ///< unique among the document's measurements
    std::string name;
    std::string instrument;  ///< id
    std::string moved;       ///< what moved, in words that balance::parseMotion() reads
    std::string heardFrom;   ///< for people
    std::string file;        ///< a name in the folder NAME.measurements beside the document
    std::string sha256;      ///< of the file, in hexadecimal; empty: nobody said
    std::string measured;    ///< when, as ISO 8601 in universal time
    std::string state;       ///< how the instrument was (core/store/instrument_state.h); empty: nobody said
    // LUFS; absent: too quiet.
    std::optional<double> rest;  ///< at the lowest position
    std::optional<double> half;
    std::optional<double> full;
    // LU; absent: nobody said.
    std::optional<double> range;  ///< between the loudest and the softest that can be heard
    std::optional<double> bump;   ///< the most by which it goes against its own direction
    Extras extras;
    bool operator==(const KeptCurve&) const = default;
};

}  // namespace mellow
