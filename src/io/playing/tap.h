// The tap: everything that comes in, as it came, for whoever records or looks.
//
// It stands in front of the engine, on the playing side, and keeps what goes by in a ring of bytes: messages
// of any length, SysEx whole, with their port and time, and numbers that came to OSC addresses. Keeping is
// copying a few bytes and never waits; what finds no room, because nobody drained the ring in time, is
// counted as lost, so that a recording can say that it has a hole.
#pragma once

#include <array>
#include <atomic>
#include <cstring>
#include <string_view>
#include <vector>

#include "core/engine/playing/engine.h"

namespace mellow::io {

class Tap {
 public:
    /// bytes: of the ring; a power of two.
    explicit Tap(std::size_t bytes = std::size_t{1} << 18) : ring_(bytes) { body_.reserve(bytes); }

    /// What came in. Of OSC: an address and its number, and no bytes. Neither: a mark of the player's.
    struct Seen {
        engine::Time time = 0;
        engine::PortId port = 0;
        bool fromTake = false;  ///< played by a take, not by hands
        midi::Bytes bytes;
        std::string_view address = {};
        double number = 0;
        std::int64_t position = -1;  ///< in the take that plays, microseconds from its start; −1: none plays
    };

    /// Playing side.
    void see(const Seen& seen) {
        const bool osc = !seen.address.empty();
        Head head;
        head.time = seen.time;
        head.number = seen.number;
        head.position = seen.position;
        head.size = static_cast<std::uint32_t>(osc ? seen.address.size() : seen.bytes.size());
        head.port = seen.port;
        head.osc = osc;
        head.fromTake = seen.fromTake;
        const std::size_t written = written_.load(std::memory_order_relaxed);
        const std::size_t room = ring_.size() - (written - read_.load(std::memory_order_acquire));
        if (sizeof(Head) + head.size > room) {
            lost_.fetch_add(1, std::memory_order_relaxed);
            return;
        }
        put(written, &head, sizeof(Head));
        put(written + sizeof(Head), osc ? static_cast<const void*>(seen.address.data()) : seen.bytes.data(),
            head.size);
        written_.store(written + sizeof(Head) + head.size, std::memory_order_release);
    }

    /// Calls take(Seen) for everything since the last call, in order. One thread; allocates nothing.
    template<class Take>
    void drain(Take&& take) {
        const std::size_t written = written_.load(std::memory_order_acquire);
        std::size_t read = read_.load(std::memory_order_relaxed);
        while (read != written) {
            Head head;
            get(read, &head, sizeof(Head));
            body_.resize(head.size);
            get(read + sizeof(Head), body_.data(), head.size);
            read += sizeof(Head) + head.size;
            Seen seen{head.time, head.port, head.fromTake, {}, {}, head.number, head.position};
            if (head.osc) {
                seen.address = {reinterpret_cast<const char*>(body_.data()), body_.size()};
            } else {
                seen.bytes = body_;
            }
            take(std::as_const(seen));
            read_.store(read, std::memory_order_release);
        }
    }

    /// How many messages found no room since the start.
    [[nodiscard]] std::uint64_t lost() const { return lost_.load(std::memory_order_relaxed); }

 private:
    struct Head {
        engine::Time time = 0;
        double number = 0;
        std::int64_t position = -1;
        std::uint32_t size = 0;
        engine::PortId port = 0;
        bool osc = false;
        bool fromTake = false;
    };

    void put(std::size_t at, const void* bytes, std::size_t size) {
        if (size == 0) return;
        const std::size_t place = at & (ring_.size() - 1);
        const std::size_t first = std::min(size, ring_.size() - place);
        std::memcpy(ring_.data() + place, bytes, first);
        std::memcpy(ring_.data(), static_cast<const std::uint8_t*>(bytes) + first, size - first);
    }
    void get(std::size_t at, void* bytes, std::size_t size) const {
        if (size == 0) return;
        const std::size_t place = at & (ring_.size() - 1);
        const std::size_t first = std::min(size, ring_.size() - place);
        std::memcpy(bytes, ring_.data() + place, first);
        std::memcpy(static_cast<std::uint8_t*>(bytes) + first, ring_.data(), size - first);
    }

    std::vector<std::uint8_t> ring_;
    std::vector<std::uint8_t> body_;  ///< of the message that is being taken
    std::atomic<std::size_t> written_{0};
    std::atomic<std::size_t> read_{0};
    std::atomic<std::uint64_t> lost_{0};
};

}  // namespace mellow::io
