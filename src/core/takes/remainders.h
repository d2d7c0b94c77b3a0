// What is left of a microsecond behind a tick.
//
// A take's file counts in ticks of 20 µs at 120 beats a minute, and of more at slower tempos, which is
// coarser than the frames of a sound card (20.8 µs at 48 kHz). So that what was played goes back to the very
// frame at which it came, each track ends with a sequencer-specific event (Standard MIDI Files 1.0, meta
// event 7F) that holds one signed byte for each of its events: microseconds to be added to the time of its
// tick. Other programs pass it over, and lose less than half a tick. It counts only while there are as many
// as events, so that a file that another program changed is read by its ticks.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <vector>

#include "core/midi/message.h"

namespace mellow {

class Remainders {
 public:
    /// Those in an event's body, or none.
    static Remainders in(midi::Bytes body) {
        Remainders found;
        if (are(body)) found.bytes_.assign(body.begin() + sign.size(), body.end());
        return found;
    }
    static bool are(midi::Bytes body) {
        return body.size() >= sign.size() && std::equal(sign.begin(), sign.end(), body.begin());
    }

    void add(std::int64_t microseconds) {
        const auto byte = static_cast<std::int8_t>(std::clamp<std::int64_t>(microseconds, -128, 127));
        bytes_.push_back(static_cast<std::uint8_t>(byte));
        any_ = any_ || byte != 0;
    }
    [[nodiscard]] bool fit(std::size_t events) const { return bytes_.size() == events; }
    /// Whether some are not 0.
    [[nodiscard]] bool any() const { return any_; }
    /// 0 where there is none.
    [[nodiscard]] std::int64_t at(std::size_t event) const {
        return event < bytes_.size() ? static_cast<std::int8_t>(bytes_[event]) : 0;
    }
    [[nodiscard]] std::vector<std::uint8_t> body() const {
        std::vector<std::uint8_t> whole(sign.begin(), sign.end());
        whole.insert(whole.end(), bytes_.begin(), bytes_.end());
        return whole;
    }

 private:
    /// 7D is the manufacturer that nobody is (MIDI 1.0, System Exclusive IDs); then "ML us".
    static constexpr std::array<std::uint8_t, 6> sign{0x7D, 'M', 'L', ' ', 'u', 's'};

    std::vector<std::uint8_t> bytes_;
    bool any_ = false;
};

}  // namespace mellow
