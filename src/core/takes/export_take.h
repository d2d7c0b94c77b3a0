// What is handed on of a take: what comes of it, or the hands themselves, whole or a part.
//
// The window and the command line make the same bytes, since both make them here. What comes of a take is
// the take's file played into the ensemble (engine/driving/file_run.h): first the tempo track with the cues,
// then a track for each instrument.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/smf/file.h"

namespace mellow {

/// Microseconds of the take; the second is not part of it.
struct TakeRange {
    std::int64_t from = 0;
    std::int64_t to = 0;
};

/// A part of a file, or all of it.
Result<std::vector<std::uint8_t>> partOf(const smf::File& file, const std::optional<TakeRange>& range);
/// What comes of a take. trackPorts: of its tracks (take_file.h); instruments: ids, empty: all.
/// Error: as engine::runFile's.
Result<std::vector<std::uint8_t>> renderedTake(const Ensemble& ensemble, const smf::File& take,
                                               const std::vector<std::string>& trackPorts,
                                               const std::vector<std::string>& instruments,
                                               const std::optional<TakeRange>& range);

}  // namespace mellow
