// Display values are carried by raw position (signal rules, section 4): half of a percentage is half of a log
// range. Within one and the same range they stay as they were written, to the digit.
#include "core/reuse/carrying.h"
#include "core/model/resolve.h"

#include "core/model/scale.h"

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

void beMessage(Source& source, const ControllerControl& control) {
    Source message = sourceOf(control.message);
    message.channel = source.channel;
    message.rest = source.rest ? source.rest : control.rest;
    source = std::move(message);
}

}  // namespace mellow::reuse
