// Loops: what was sent comes back in, is played again, and comes back again.
//
// Every message that is sent carries how often it has been round: one more than what came in and caused it.
// What comes in and equals something that was sent a moment ago has been round as often as that. Nobody's
// hands do that many times in a row, so at sixteen the port is taken to be in a loop. From then on what comes
// back through it is dropped, and all else is heard as before; once nothing has come back for some seconds,
// everything is.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <utility>

#include "core/engine/program/output.h"

namespace mellow::io {

class LoopWatch {
 public:
    static constexpr engine::Time window = 25'000;       ///< µs in which what is sent comes back
    static constexpr engine::Time patience = 5'000'000;  ///< µs without any after which a loop is over
    static constexpr int mostRounds = 16;

    struct Loop {
        engine::PortId in = 0;
        engine::PortId out = 0;
    };

    /// A message came in through a port. False: it came back, and is to be dropped.
    bool hears(engine::Time time, engine::PortId port, midi::Bytes bytes) {
        rounds_ = 0;
        if (bytes.empty() || bytes[0] >= 0xF8) return true;
        State& state = states_[port % states_.size()];
        const Sent* sent = find(time, hashOf(bytes));
        if (state.looping && time - state.last > patience) state = {};
        if (sent == nullptr) return true;
        rounds_ = sent->rounds;
        state.last = time;
        if (state.looping) return false;
        if (rounds_ < mostRounds) return true;
        state.looping = true;
        found_ = Loop{port, sent->port};
        return false;
    }
    /// A message is sent, because of what was heard last.
    void sends(engine::Time time, engine::PortId port, midi::Bytes bytes) {
        if (bytes.empty() || bytes[0] >= 0xF8) return;
        sent_[next_++ % sent_.size()] = {time, hashOf(bytes), port, rounds_ + 1};
    }
    /// A loop that was found since the last call.
    std::optional<Loop> take() { return std::exchange(found_, std::nullopt); }

 private:
    struct Sent {
        engine::Time time = -window - 1;
        std::uint64_t hash = 0;
        engine::PortId port = 0;
        int rounds = 0;
    };
    struct State {
        bool looping = false;
        engine::Time last = 0;  ///< when something came back
    };

    static std::uint64_t hashOf(midi::Bytes bytes) {
        std::uint64_t hash = bytes.size();
        for (const std::uint8_t byte : bytes) hash = hash * 0x100000001b3U + byte;
        return hash;
    }
    /// The newest that equals a message and was sent a moment ago.
    [[nodiscard]] const Sent* find(engine::Time time, std::uint64_t hash) const {
        for (std::size_t i = 1; i <= sent_.size(); ++i) {
            const Sent& each = sent_[(next_ - i) % sent_.size()];
            if (time - each.time > window) return nullptr;
            if (each.hash == hash) return &each;
        }
        return nullptr;
    }

    std::array<Sent, 512> sent_{};  ///< a ring
    std::size_t next_ = 512;        ///< counts on; its place is the rest
    std::array<State, 4096> states_{};
    int rounds_ = 0;
    std::optional<Loop> found_;
};

}  // namespace mellow::io
