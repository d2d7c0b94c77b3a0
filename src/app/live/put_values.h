// Where targets were put by hand, as long as the sources of their chains stand still.
#pragma once

#include <functional>
#include <string>
#include <unordered_map>

#include "core/placing/placing.h"
#include "io/session/reading.h"

namespace mellow::app {

class PutValues {
 public:
    /// Where the source of a chain stands, by owner and chain.
    using Stands = std::function<double(const std::string& owner, const std::string& chain)>;

    void remember(const Placements& placements, const Stands& stands);
    /// Writes what was put over what a chain has read.
    void show(const std::string& owner, const std::string& chain, io::ChainReading& reading) const;
    /// What a hand, or anything else, has moved since stands where that says.
    void forgetMoved(const std::string& owner, const Stands& stands);
    [[nodiscard]] bool any() const { return !put_.empty(); }
    void clear() { put_.clear(); }

 private:
    /// What was put to a value, and where the source of its chain stood then.
    struct Put {
        double position = 0;
        double source = 0;
    };
    using Branches = std::unordered_map<std::uint32_t, Put>;
    /// By owner, chain and branch.
    std::unordered_map<std::string, std::unordered_map<std::string, Branches>> put_;
};

}  // namespace mellow::app
