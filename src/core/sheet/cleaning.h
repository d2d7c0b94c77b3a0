// What an ensemble has and nobody uses: things that can go without any message being another.
//
// Each is told with what its going would change beside what is sent, which is nothing. A parameter is not
// listed where its instrument is told its resting values on being connected, since then it is sent something;
// takes are a person's work, and are never listed.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::sheet {

struct Unused {
    std::string group;  ///< "Parameters that nothing moves", "Chains that lead nowhere"…
    std::string words;  ///< "Rasp of Bass flute (CC 21)", without a full stop
    /// Takes it out, with what refers to it. Nothing happens where it is no more.
    std::function<void(Ensemble&)> remove;
};
std::vector<Unused> unusedIn(const Ensemble& ensemble);

}  // namespace mellow::sheet
