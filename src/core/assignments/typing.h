// What typing into a cell of a row does, for each column that can be typed into.
//
// What a cell says can be typed into it, and so can what people write instead: "30-127", "400 to 6.2k",
// "6.2 kHz falling to 400 Hz". Each gives a complaint, a sentence without its full stop, and then the
// ensemble is as it was; nothing where it is done.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "core/assignments/assignments.h"
#include "core/model/law.h"

namespace mellow::typing {

using Complaint = std::optional<std::string>;

Complaint setMove(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setInPort(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setChannel(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setMessage(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setResolution(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setChainName(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setTarget(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setSends(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setOut(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setOutPort(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setReach(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setLow(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setHigh(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setDirection(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setRest(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setState(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setLocked(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);
Complaint setNote(Ensemble& ensemble, const AssignmentId& id, std::string_view typed);

/// Both ends of a reach in a range, as somebody writes them; nothing where they cannot be read.
std::optional<std::pair<Level, Level>> parseReach(const Range& range, std::string_view typed);

}  // namespace mellow::typing
