// Edits of many rows at once, each one step of undo, each to be looked at before it is made (proposal.h).
//
// What several rows share (a chain, a parameter, an instrument) is edited once, on behalf of the first row
// that has it. A row for which an edit makes no sense is left as it is, with the reason.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/step.h"
#include "core/sheet/proposal.h"

namespace mellow::sheet::bulk {

/// Which end of a row is meant: what comes in, or what goes out.
enum class Side { move, hear };

/// channel: nothing for any, which only what comes in can have.
Bulk setChannel(Side side, std::optional<int> channel);
Bulk setPort(Side side, const std::string& port);
/// Numbers go up (or down) by so many.
Bulk moveNumbers(Side side, int by);
/// Numbered from this on, one more for each that has a number of its own.
Bulk numberFrom(Side side, int first);
/// Each parameter takes the next number that nobody has where its instrument plays.
Bulk useFreeNumbers();

/// As typed: "30–127", "400 Hz–6.2 kHz", each in its own target's units.
Bulk setReach(const std::string& typed);
/// Where a reach keeps its place while it is scaled.
enum class About { low, middle, high };
/// factor: 0 to 10. What would leave the target's range ends there.
Bulk scaleReach(double factor, About about);
/// by: a part of the target's range, −1 to 1. A reach that would leave the range stops at its end, whole.
Bulk shiftReach(double by);
/// Two rows take each other's reach, by its place in their ranges; more or fewer cannot.
Bulk exchangeReach();
Bulk turnRound();

Bulk setOn(bool on);
Bulk setLocked(bool locked);
/// As typed, in each target's own units.
Bulk setRest(const std::string& typed);

/// At the end of each chain's steps.
Bulk addStep(const Step& step);
/// A field of all steps of a kind that the rows' chains have, before and behind the fan. value: of the
/// field's type.
Bulk changeStep(std::string_view kind, std::size_t field, const FieldValue& value);
Bulk removeStep(std::string_view kind);
/// The kinds of step that the rows' chains have, in the order of menus, with how many chains have each.
struct KindCount {
    const StepKind* kind = nullptr;
    std::size_t rows = 0;
    /// Its values where they are the same in all of them, field by field.
    std::vector<std::optional<FieldValue>> values;
};
std::vector<KindCount> stepsOf(const Ensemble& ensemble, const std::vector<AssignmentId>& rows);

/// The rows' chains, with these of their branches, are copied to other instruments, where what they lead to
/// is found by name and message; what is not there is made.
Bulk giveTo(const std::vector<std::string>& instruments);

/// What is renamed: the chain, or what the row begins or ends with where that is a thing of its own.
enum class Named { chain, move, hear };
/// "*" stands for the present name, "#" for a number from `first` on, "##" for one of two digits at least.
Bulk rename(Named what, const std::string& pattern, int first);

/// Branches go, and chains that then lead nowhere; of other rows the control, or the parameter.
Bulk remove();

}  // namespace mellow::sheet::bulk
