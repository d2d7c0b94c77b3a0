// What an edit leaves behind.
//
// A parameter that a chain has moved stands where that left it. While the chain leads there, the next
// movement takes it on; once no chain leads there any more, nothing would ever move it again: an expression
// at 0 that nobody reaches is an instrument that nobody hears. So what no longer is led to goes to rest as
// the edit is heard, and when something leads there again (as after undo), it goes back to where it stood,
// unless what leads there knows better. A chain that is merely switched off still leads where it leads.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "core/placing/placing.h"

namespace mellow {

class LeftBehind {
 public:
    /// Where a branch's target stands, as a raw position; negative: unknown.
    using Stands =
        std::function<double(const std::string& owner, const std::string& chain, std::uint32_t branch)>;

    /// What is to be put when an ensemble is played instead of the one that was given last: parameters at
    /// rest, for those that nothing leads to any more; branches, for those that something leads to again.
    /// Programs and articulations stay as they are, and so does what is locked.
    Placements follow(const Ensemble& next, const Stands& stands);

    /// Parameters that edits left behind and that nothing leads to, at rest.
    [[nodiscard]] Placements atRest() const;

 private:
    SharedList<Instrument> instruments_;
    std::vector<Chain> sharedChains_;
    /// By instrument and parameter: where it stood, or −1; and where it rests.
    struct Left {
        double stood = -1;
        double rest = 0;
    };
    std::map<std::pair<std::string, std::string>, Left> left_;
};

}  // namespace mellow
