// How busy instruments are, as small bars beside their names show it: a message is seen for a moment, and
// fades.
#pragma once

#include <algorithm>
#include <cstdint>
#include <unordered_map>

#include "core/midi/message.h"

namespace mellow::app {

class Activity {
 public:
    /// A message went to an instrument, by its number; empty: a number by OSC.
    void add(std::uint32_t instrument, midi::Bytes message) {
        double& level = levels_[instrument];
        level = std::max(level, of(message));
    }
    /// 0 to 1.
    [[nodiscard]] double level(std::uint32_t instrument) const {
        const auto found = levels_.find(instrument);
        return found == levels_.end() ? 0.0 : found->second;
    }
    /// A picture later; true while some is still to be seen.
    bool fade() {
        constexpr double kept = 0.92;  // of it, a picture
        constexpr double seen = 0.02;
        bool fading = false;
        for (auto& [instrument, level] : levels_) {
            if (level <= 0) continue;
            level = level * kept < seen ? 0.0 : level * kept;
            fading = true;
        }
        return fading;
    }
    void clear() { levels_.clear(); }

 private:
    static double of(midi::Bytes message) {
        constexpr double touched = 0.35;
        if (message.empty()) return touched;
        if (midi::isNoteOn(message)) return 0.3 + 0.7 * message[2] / midi::max7;
        return midi::isChannelStatus(message[0]) ? touched : 0.0;
    }

    std::unordered_map<std::uint32_t, double> levels_;
};

}  // namespace mellow::app
