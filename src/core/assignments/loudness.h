// How loud an instrument was when it was last measured along what moves it, for a row of assignments.
//
// A document keeps measurements in a list; rows ask for theirs by instrument and by what moves it. Of many
// rows all are found in one walk through the list. Whether the instrument was edited since costs a sum of all
// of it, so that it is worked out once for all rows that have the same measurement, and only when somebody
// asks.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>

#include "core/model/ensemble.h"

namespace mellow {

struct Assignment;

/// A measurement that a document keeps. It lives as long as the ensemble that it is of.
class Loudness {
 public:
    Loudness(const Ensemble& ensemble, const KeptCurve& curve) : ensemble_(ensemble), curve_(curve) {}

    [[nodiscard]] const KeptCurve& curve() const { return curve_; }
    /// Whether the instrument was edited since. Asked by one thread at a time.
    [[nodiscard]] bool isOutdated() const;

 private:
    const Ensemble& ensemble_;
    const KeptCurve& curve_;
    mutable std::optional<bool> isOutdated_;  ///< nothing: nobody has asked yet
};

/// Of each instrument and what moves it, what was measured last.
class LastMeasured {
 public:
    explicit LastMeasured(const Ensemble& ensemble);
    /// nullptr: nothing was.
    [[nodiscard]] std::shared_ptr<const Loudness> of(const Assignment& row) const;

 private:
    std::map<std::pair<std::string, std::string>, std::shared_ptr<const Loudness>> all_;
};

/// The same for one row, without looking at what others have.
std::shared_ptr<const Loudness> loudnessOf(const Ensemble& ensemble, const Assignment& row);

}  // namespace mellow
