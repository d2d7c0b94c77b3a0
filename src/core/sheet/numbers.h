// Which control numbers an output uses: the 128 of a port and channel, each free, sent by a chain, passed on
// as it comes, both, or sent by two chains that meet.
//
// What is passed on is what the ensemble knows: the controls of its controllers that an instrument hears,
// takes by no chain, and lets through. What else may come from a port nobody can know.
#pragma once

#include <array>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "core/assignments/assignments.h"
#include "core/midi/controls.h"

namespace mellow::sheet {

/// Where instruments are played: a port and a channel, 1..16.
struct Outlet {
    std::string port;
    int channel = 1;
    bool operator==(const Outlet&) const = default;
};
/// Of all instruments, in document order, each once.
std::vector<Outlet> outletsOf(const Ensemble& ensemble);

enum class Use { free, sent, passed, both, met };

struct NumberUse {
    Use use = Use::free;
    bool listened = false;             ///< a parameter has it, whether anything moves that or not
    std::vector<AssignmentId> rows;    ///< that send it, or of parameters that only listen
    std::vector<std::string> passing;  ///< controls that are passed on as it, by name
};

/// Registers, keys and programs that parameters of an outlet have, with the rows that send them.
struct OtherUse {
    std::string message;
    std::vector<AssignmentId> rows;
    bool met = false;
};

struct NumberField {
    std::array<NumberUse, midi::controlCount> controls;
    std::vector<OtherUse> others;  ///< in the order of their messages
};
NumberField numbersOf(const Ensemble& ensemble, const Outlet& outlet);

/// Numbers that nobody has: no parameter listens to them, nothing is passed on as them, they have no meaning
/// of their own and are no half of a pair in use. The ensemble must outlive it.
class FreeNumbers {
 public:
    explicit FreeNumbers(const Ensemble& ensemble) : ensemble_(ensemble) {}
    /// The first free one of an outlet behind `after`, and then from the beginning; it counts as taken from
    /// now on. −1: there is none.
    int take(const Outlet& outlet, int after);

 private:
    using Taken = std::array<bool, midi::controlCount>;
    [[nodiscard]] Taken takenAt(const Outlet& outlet) const;

    const Ensemble& ensemble_;
    std::map<std::pair<std::string, int>, Taken> taken_;
};

}  // namespace mellow::sheet
