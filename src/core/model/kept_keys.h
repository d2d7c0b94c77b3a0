// How a document names what lies in files beside it, key by key: takes and measurements.
#pragma once

#include "core/model/described.h"
#include "core/model/kept_curve.h"
#include "core/model/kept_take.h"

namespace mellow {

template<>
struct Keys<KeptTake> {
    static constexpr std::string_view name = "take";
    static constexpr auto all = std::tuple{
        Key{"id", &KeptTake::id, Need::isRequired},
        Key{"name", &KeptTake::name},
        Key{"file",
            &KeptTake::file,
            Need::isRequired,
            {},
            nullptr,
            "A Standard MIDI File in the folder NAME.takes beside NAME.lever."},
        Key{"sha256", &KeptTake::sha256, Need::mayBeAbsent, {}, nullptr, "Of the file, in hexadecimal."},
        Key{"recorded",
            &KeptTake::recorded,
            Need::mayBeAbsent,
            {},
            nullptr,
            "When, as ISO 8601 in universal time."},
        Key{"start_us",
            &KeptTake::startUs,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Where its beginning stands in the piece, in microseconds."},
        Key{"ports",
            &KeptTake::ports,
            Need::mayBeAbsent,
            {},
            nullptr,
            "The port that each track plays through, by the track's name; absent: the port of that name.",
            "a port's name"},
    };
};

template<>
struct Keys<KeptCurve> {
    static constexpr std::string_view name = "measurement";
    static constexpr auto all = std::tuple{
        Key{"id", &KeptCurve::id, Need::isRequired},
        Key{"name", &KeptCurve::name},
        Key{"instrument",
            &KeptCurve::instrument,
            Need::mayBeAbsent,
            {},
            nullptr,
            "The id of the instrument that was measured."},
        Key{"moved",
            &KeptCurve::moved,
            Need::mayBeAbsent,
            {},
            nullptr,
            "What moved, such as cc 1, velocity or keys."},
        Key{"heardFrom", &KeptCurve::heardFrom},
        Key{"file",
            &KeptCurve::file,
            Need::isRequired,
            {},
            nullptr,
            "A file in the folder NAME.measurements beside NAME.lever."},
        Key{"sha256", &KeptCurve::sha256, Need::mayBeAbsent, {}, nullptr, "Of the file, in hexadecimal."},
        Key{"measured",
            &KeptCurve::measured,
            Need::mayBeAbsent,
            {},
            nullptr,
            "When, as ISO 8601 in universal time."},
        Key{"state",
            &KeptCurve::state,
            Need::mayBeAbsent,
            {},
            nullptr,
            "A sum of what the instrument was like; another one since means that it was edited."},
        Key{"rest",
            &KeptCurve::rest,
            Need::mayBeAbsent,
            {},
            nullptr,
            "LUFS at the lowest position; absent: too quiet."},
        Key{"half", &KeptCurve::half, Need::mayBeAbsent, {}, nullptr, "LUFS half way."},
        Key{"full", &KeptCurve::full, Need::mayBeAbsent, {}, nullptr, "LUFS at the highest position."},
        Key{"range",
            &KeptCurve::range,
            Need::mayBeAbsent,
            {},
            nullptr,
            "LU from its softest to its loudest."},
        Key{"bump",
            &KeptCurve::bump,
            Need::mayBeAbsent,
            {},
            nullptr,
            "LU by which it goes back on its way, at most."},
    };
};

}  // namespace mellow
