// What the hands hold down, by input port and channel: keys and pedals.
//
// Chains remember where their own sources stand; this is what the engine must know beside that. A sustain
// pedal's going down is a cue, an envelope ends with the last key, and an instrument that comes into hand
// gets the pedals that are down. Room is kept for 4,096 ports; whoever has more of them must refuse them.
#pragma once

#include <algorithm>
#include <array>
#include <bitset>
#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <memory>
#include <vector>

#include "core/engine/program/plan.h"

namespace mellow::engine {

class Hands {
 public:
    static constexpr int down = 64;  ///< from this value on a pedal is down
    static constexpr std::size_t portCount = 4096;

    /// Takes a control's value. True when it is the sustain pedal and goes down with it.
    bool control(PortId port, std::size_t channel, int number, int value) {
        for (std::size_t p = 0; p < midi::holdingPedals.size(); ++p) {
            if (midi::holdingPedals[p] != number) continue;
            std::uint8_t& last = placesOf(port).values[channel][p];
            const bool treads = last < down && value >= down;
            last = static_cast<std::uint8_t>(value);
            return treads && number == midi::sustain;
        }
        return false;
    }
    /// Takes a key; true when that changes whether it is down. velocity: of a note-on; 0: it comes up.
    bool key(PortId port, std::size_t channel, std::size_t key, std::uint8_t velocity) {
        const bool isDown = velocity > 0;
        auto& keys = placesOf(port).keys[channel];
        if (isDown) velocities_.at(port, channel, key) = velocity;
        placesOf(port).loose[channel][key] = false;
        if (keys[key] == isDown) return false;
        keys[key] = isDown;
        return true;
    }
    /// With which a key was struck last; 0: it never was.
    [[nodiscard]] int velocity(PortId port, std::size_t channel, std::size_t key) const {
        return velocities_.at(port, channel, key);
    }
    [[nodiscard]] bool isDown(PortId port, std::size_t channel, std::size_t key) const {
        return places_[port % portCount].keys[channel][key];
    }
    /// Whether a key is down and holds envelopes.
    [[nodiscard]] bool isHeld(PortId port, std::size_t channel, std::size_t key) const {
        const Places& places = places_[port % portCount];
        return places.keys[channel][key] && !places.loose[channel][key];
    }
    /// The keys that are down on a channel hold no envelope until they are struck again.
    void loosen(PortId port, std::size_t channel) {
        Places& places = placesOf(port);
        places.loose[channel] = places.keys[channel];
    }
    /// The value of one of midi::holdingPedals, by its place there.
    [[nodiscard]] int pedal(PortId port, std::size_t channel, std::size_t place) const {
        return places_[port % portCount].values[channel][place];
    }
    /// Ports below this number may hold something down.
    [[nodiscard]] std::size_t portsUsed() const { return used_; }

 private:
    struct Places {
        std::array<std::bitset<128>, 16> keys{};
        std::array<std::bitset<128>, 16> loose{};  ///< of those the ones that hold no envelope
        std::array<std::array<std::uint8_t, midi::holdingPedals.size()>, 16> values{};
    };
    Places& placesOf(PortId port) {
        const std::size_t place = port % portCount;
        used_ = std::max(used_, place + 1);
        return places_[place];
    }

    /// Two kilobytes a port, which the system provides as they are written.
    class Velocities {
     public:
        std::uint8_t& at(PortId port, std::size_t channel, std::size_t key) {
            return bytes_.get()[((port % portCount) * 16 + channel) * 128 + key];
        }
        [[nodiscard]] std::uint8_t at(PortId port, std::size_t channel, std::size_t key) const {
            return bytes_.get()[((port % portCount) * 16 + channel) * 128 + key];
        }

     private:
        struct Free {
            void operator()(std::uint8_t* bytes) const { std::free(bytes); }
        };
        std::unique_ptr<std::uint8_t, Free> bytes_{
            static_cast<std::uint8_t*>(std::calloc(portCount * 16, 128))};
    };

    std::vector<Places> places_ = std::vector<Places>(portCount);
    Velocities velocities_;
    std::size_t used_ = 0;
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
