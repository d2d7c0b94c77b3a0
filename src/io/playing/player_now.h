// What is read of a player while it plays: numbers that its playing side leaves after each cycle, for any
// thread.
#pragma once

#include <atomic>
#include <cstdint>

#include "core/engine/playing/engine.h"
#include "io/clocks/clock.h"

namespace mellow::io {

/// The transport as it was in the last cycle: whether it rolls, where it is (−1: there is none), and the
/// engine's time at which it was, or would have been, at 0.
struct Transport {
    bool rolling = false;
    engine::Time position = -1;
    engine::Time origin = 0;
};

class PlayerNow {
 public:
    [[nodiscard]] Transport transport() const {
        return {rolling_.load(std::memory_order_relaxed), position_.load(std::memory_order_relaxed),
                origin_.load(std::memory_order_relaxed)};
    }
    /// The tempo in force, beats a minute.
    [[nodiscard]] double tempo() const { return tempo_.load(std::memory_order_relaxed); }
    [[nodiscard]] engine::TempoFrom tempoFrom() const { return tempoFrom_.load(std::memory_order_relaxed); }
    /// How many notes were not started since more keys were held than can be remembered.
    [[nodiscard]] std::uint64_t notesRefused() const { return notesRefused_.load(std::memory_order_relaxed); }
    /// The engine's time after the last cycle.
    [[nodiscard]] engine::Time time() const { return time_.load(std::memory_order_relaxed); }

    // Playing side.
    void show(const TransportNow& now) {
        rolling_.store(now.rolling, std::memory_order_relaxed);
        position_.store(now.position, std::memory_order_relaxed);
        origin_.store(now.at - now.position, std::memory_order_relaxed);
    }
    void show(const engine::Engine& engine) {
        time_.store(engine.now(), std::memory_order_relaxed);
        tempo_.store(engine.tempo(), std::memory_order_relaxed);
        tempoFrom_.store(engine.tempoFrom(), std::memory_order_relaxed);
        notesRefused_.store(engine.notes().refused(), std::memory_order_relaxed);
    }

 private:
    std::atomic<bool> rolling_{false};
    std::atomic<engine::Time> position_{-1};
    std::atomic<engine::Time> origin_{0};
    std::atomic<double> tempo_{0};
    std::atomic<engine::TempoFrom> tempoFrom_{engine::TempoFrom::document};
    std::atomic<std::uint64_t> notesRefused_{0};
    std::atomic<engine::Time> time_{-1};
};

}  // namespace mellow::io
