// What the hands hold down, by input port and channel: keys and pedals.
//
// Chains remember where their own sources stand; this is what the engine must know beside that. A sustain
// pedal's going down is a cue, an envelope ends with the last key, and an instrument that comes into hand
// gets the pedals that are down. Ports beyond the first 256 share.
#pragma once

#include <array>
#include <bitset>
#include <cstddef>
#include <cstdint>
#include <memory>

#include "core/engine/plan.h"

namespace mellow::engine {

class Hands {
 public:
    static constexpr std::array<std::uint8_t, 3> pedals{midi::sustain, midi::sostenuto, midi::legatoPedal};
    static constexpr int down = 64;  ///< from this value on a pedal is down
    static constexpr std::size_t portCount = 256;

    /// Takes a control's value. True when it is the sustain pedal and goes down with it.
    bool control(PortId port, std::size_t channel, int number, int value) {
        for (std::size_t p = 0; p < pedals.size(); ++p) {
            if (pedals[p] != number) continue;
            std::uint8_t& last = places_->values[port % portCount][channel][p];
            const bool treads = last < down && value >= down;
            last = static_cast<std::uint8_t>(value);
            return treads && number == midi::sustain;
        }
        return false;
    }
    /// Takes a key; true when that changes whether it is down.
    bool key(PortId port, std::size_t channel, std::size_t key, bool isDown) {
        auto& keys = places_->keys[port % portCount][channel];
        if (keys[key] == isDown) return false;
        keys[key] = isDown;
        return true;
    }
    [[nodiscard]] bool isDown(PortId port, std::size_t channel, std::size_t key) const {
        return places_->keys[port % portCount][channel][key];
    }
    /// The value of pedal `place` of `pedals`.
    [[nodiscard]] int pedal(PortId port, std::size_t channel, std::size_t place) const {
        return places_->values[port % portCount][channel][place];
    }

 private:
    struct Places {
        std::array<std::array<std::bitset<128>, 16>, portCount> keys{};
        std::array<std::array<std::array<std::uint8_t, pedals.size()>, 16>, portCount> values{};
    };
    std::unique_ptr<Places> places_ = std::make_unique<Places>();
};

/// Follows the register that each input port and channel has selected.
class Selections {
 public:
    midi::Selection& at(PortId port, std::size_t channel) {
        return selections_[(port % Hands::portCount) * 16 + channel];
    }

 private:
    std::vector<midi::Selection> selections_ = std::vector<midi::Selection>(Hands::portCount * 16);
};

}  // namespace mellow::engine
