// Many chains in one act: consecutive controls to consecutive parameters, and two knobs for everything.
//
// Nine sliders and nine drawbars stand in rows; whoever names the first of each and says how many has said it
// all. A second bank of controls that begins at another number is a step in the row. The rows are a proposal,
// which a person may change before chains are made of it.
#pragma once

#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::reuse {

struct RunRow {
    Source source;
    std::string parameter;  ///< id; empty: the row is left out
    bool falls = false;     ///< the reach is turned round
};

struct RunWish {
    Source first;                ///< a control of a controller, or a message with a number
    std::string firstParameter;  ///< id
    int count = 1;               ///< 1 to 128
    int bank = 0;                ///< controls in a bank, behind which numbers jump; 0: they do not
    int nextBank = 0;            ///< number at which the second bank begins; each further bank as far behind
};

/// As many rows as controls and parameters last. A control of a controller is followed by those behind it in
/// its list that send the same kind of message, a message by those of the next numbers; a parameter by those
/// behind it.
std::vector<RunRow> run(const Ensemble& ensemble, const Instrument& instrument, const RunWish& wish);
/// Why there are fewer rows than were wished for; empty: there are not.
std::string whyRunEnds(const Ensemble& ensemble, const Instrument& instrument, const RunWish& wish);

/// A chain a row, behind the instrument's others. Returns the new ids.
std::vector<std::string> makeRun(Ensemble& ensemble, const std::string& instrument,
                                 const std::vector<RunRow>& rows);

/// One chain: `sets` moves whichever parameter `chooses` points at, over its whole range. Returns its id, or
/// nothing ("") where no parameter is named.
std::string makeTwoKnobs(Ensemble& ensemble, const std::string& instrument, const Source& chooses,
                         const Source& sets, const std::vector<std::string>& parameters);

}  // namespace mellow::reuse
