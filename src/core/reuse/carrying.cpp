// Display values are carried by raw position (signal rules, section 4): half of a percentage is half of a log
// range. Within one and the same range they stay as they were written, to the digit.
#include "core/reuse/carrying.h"
#include "core/model/edit.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"
#include "core/model/visit.h"

namespace mellow::reuse {

namespace {

bool isSameRange(const Range& one, const Range& other) {
    return one.law == other.law && one.low == other.low && one.high == other.high && one.unit == other.unit &&
           one.choices == other.choices;
}

}  // namespace

void carryReach(Branch& branch, const Range& from, const Range& to) {
    if (isSameRange(from, to)) return;
    for (Level* level : {&branch.low, &branch.high}) {
        if (const auto position = rawPosition(from, *level)) *level = levelAt(to, clampPosition(*position));
    }
}

void carryReaches(Ensemble& ensemble, const std::string& instrument, const Parameter& before,
                  const Parameter& now) {
    const Range from = rangeOf(before);
    const Range to = rangeOf(now);
    if (!flawOf(from).empty() || !flawOf(to).empty()) return;
    const auto isKnown = [&to](const Level& level) {
        const auto q = rawPosition(to, level);
        return q && *q >= 0 && *q <= 1;
    };
    const auto carry = [&](Chain& chain, const std::string& target) {
        for (Branch& branch : chain.branches) {
            if (branch.target != target) continue;
            Branch carried = branch;
            carryReach(carried, from, to);
            if (!isKnown(branch.low)) branch.low = carried.low;
            if (!isKnown(branch.high)) branch.high = carried.high;
        }
    };
    for (Chain& chain : ensemble.sharedChains) carry(chain, instrument + "/" + now.id);
    if (Instrument* owner = findById(ensemble.instruments, instrument)) {
        for (Chain& chain : owner->chains) carry(chain, now.id);
    }
}

void beMessage(Source& source, const ControllerControl& control) {
    Source message = sourceOf(control.message);
    message.channel = source.channel;
    message.rest = source.rest ? source.rest : control.rest;
    source = std::move(message);
}

}  // namespace mellow::reuse
