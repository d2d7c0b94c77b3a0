// The sheet as CSV (RFC 4180), for a spreadsheet, and back.
//
// The first column names the row by ids, so that it is found again whatever was sorted, left out or renamed
// in between. Coming back, only cells that say something else than the ensemble says are typed in; rows that
// are not there are left as they are.
#pragma once

#include <string>
#include <string_view>

#include "core/result.h"
#include "core/sheet/proposal.h"
#include "core/sheet/sheet.h"

namespace mellow::sheet {

/// All columns of the rows that are found, in their order, folded or not.
std::string printCsv(const Sheet& sheet, const Wish& wish);

/// What typing in all that a table says otherwise would do. Error: it has no first row with the sheet's
/// titles, or none that names rows. Rows that the ensemble does not have are remarks.
Result<Proposal> readCsv(const Ensemble& ensemble, std::string_view text);

/// "glass/swell/1", "shared:swell/1", "control:keys/wheel", "parameter:glass/tone".
std::string printId(const AssignmentId& id);
/// Nothing where it names no row.
std::optional<AssignmentId> parseId(std::string_view text);

}  // namespace mellow::sheet
