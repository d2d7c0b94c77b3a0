// Pacing: what leaves for a wire that is slow.
//
// A 5-pin DIN cable carries 3,125 bytes a second, about a thousand messages; a hand that moves eight
// parameters sends more. What does not fit has to wait, and what waits gets stale. So notes, pedals and
// everything else that happens once goes first, in order; of each control only the newest value waits, in the
// order in which they began to wait; and what belongs together leaves together: the two bytes of a pair, a
// register's selection with its data (which is selected again where something else was selected in between).
// Real-time messages wait for nothing.
//
// Time is the engine's. The wire is free again when the bytes of the last message are through. All memory
// comes with the pacer, and nothing here waits, so that it runs on the playing side.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <vector>

#include "core/engine/program/output.h"
#include "core/midi/pairs.h"

namespace mellow::io {

class Pacer {
 public:
    static constexpr int dinRate = 3125;  ///< bytes a second of a 5-pin cable

    Pacer();

    /// bytesASecond: of the wire; 0: as fast as it can, and then nobody should ask here.
    void setRate(int bytesASecond) { rate_.store(bytesASecond, std::memory_order_relaxed); }
    [[nodiscard]] int rate() const { return rate_.load(std::memory_order_relaxed); }

    /// Takes a message; times never fall. emit: where messages go that the wire has room for up to then.
    void offer(const engine::Output& output, const engine::Sink& emit);
    /// Sends what the wire has room for up to and including a time.
    void pump(engine::Time until, const engine::Sink& emit);
    [[nodiscard]] bool waits() const { return urgentCount_ > 0 || orderCount_ > 0; }

    /// How full the wire was in the last second, 0 to 1; any thread.
    [[nodiscard]] float load() const { return load_.load(std::memory_order_relaxed); }
    /// How many values gave way to newer ones since the start, and messages found no room; any thread.
    [[nodiscard]] std::uint64_t dropped() const { return dropped_.load(std::memory_order_relaxed); }

 private:
    /// Something that happens once.
    struct Urgent {
        engine::Output from;  ///< without its bytes
        midi::Short message;
        midi::Selection needs;  ///< of data increment and decrement: the register that is meant
        std::uint32_t sysExSize = 0;
    };
    /// The newest value of a control, pair or register.
    struct Unit {
        engine::Output from;
        bool pending = false;
        std::int16_t high = -1;  ///< the first data byte's value; −1: not to be sent
        std::int16_t low = -1;
        midi::Selection selection;  ///< of a register
        std::uint8_t channel = 0;
    };

    void take(const engine::Output& output);
    void takeControl(const engine::Output& output, int channel);
    void takeData(const engine::Output& output, int channel);
    void hurry(const engine::Output& output, const midi::Selection& needs = {});
    void tidyOrder();
    void wait(std::size_t unit, const engine::Output& output, int high, int low);
    [[nodiscard]] std::size_t unitOfRegister(const midi::Selection& selection, int channel);
    engine::Time sendUrgent(engine::Time at, const engine::Sink& emit);
    engine::Time sendUnit(engine::Time at, const engine::Sink& emit);
    void select(const midi::Selection& wanted, int channel, const engine::Output& from, engine::Time& at,
                const engine::Sink& emit);
    void put(const engine::Output& from, midi::Bytes bytes, engine::Time& at, const engine::Sink& emit);
    void countLoad(engine::Time at, std::size_t bytes);

    static constexpr std::size_t urgentRoom = 4096;
    static constexpr std::size_t sysExRoom = std::size_t{1} << 16;
    static constexpr std::size_t controlsAChannel =
        128 + 1 + 1 + 128;  ///< controls, bend, pressure, key pressure
    static constexpr std::size_t plainUnits = 16 * controlsAChannel;
    static constexpr std::size_t registerUnits = 256;

    std::atomic<int> rate_{0};
    std::atomic<float> load_{0};
    std::atomic<std::uint64_t> dropped_{0};
    engine::Time free_ = 0;   ///< when the wire is
    engine::Time asked_ = 0;  ///< the time of the last offer
    std::int32_t lastBranch_ = -1;

    std::vector<Urgent> urgent_;  ///< a ring
    std::size_t urgentFirst_ = 0;
    std::size_t urgentCount_ = 0;
    std::vector<std::uint8_t> sysEx_;  ///< a ring of the bytes of those that are long
    std::size_t sysExFirst_ = 0;
    std::size_t sysExCount_ = 0;
    std::vector<std::uint8_t> whole_;  ///< of one that is sent

    std::vector<Unit> units_;
    std::size_t registersUsed_ = 0;
    std::vector<std::uint32_t> order_;  ///< a ring of units that wait
    std::size_t orderFirst_ = 0;
    std::size_t orderCount_ = 0;

    std::array<midi::Selection, 16> offered_{};  ///< the register that is selected in what comes
    std::array<midi::Selection, 16> wire_{};     ///< and on the wire
    engine::Time second_ = 0;                    ///< since when bytes are counted
    std::size_t secondBytes_ = 0;
};

}  // namespace mellow::io
