// The patchbay: all ports and the player, as one thing that a clock drives.
//
// A cycle gathers what came in through all ports, puts it in order of time, has the player play it, and gives
// each message that leaves to whoever serves its port. It is the only place where several classes of ports
// meet.
#pragma once

#include <atomic>
#include <chrono>
#include <vector>

#include "io/clock.h"
#include "io/ports.h"

namespace mellow::io {

class Patchbay : public Driven {
 public:
    explicit Patchbay(Player& player);

    /// Adds ports, which must outlive this; while no clock runs.
    void add(Ports& ports);
    /// Editing side: each of the ports takes what it serves.
    void want(const PortNames& names);
    void tend();

    /// Editing side: waits until that many more cycles have run, or for as long as `patience`.
    void awaitCycles(int count, std::chrono::milliseconds patience);

    void cycle(engine::Time until) override;
    [[nodiscard]] bool busy() const override { return player_.busy(); }
    [[nodiscard]] engine::Time now() const override { return player_.now(); }
    void onWork(std::function<void()> wake) override { player_.onWork(std::move(wake)); }

 private:
    Player& player_;
    std::atomic<std::uint64_t> cycles_{0};
    std::vector<Ports*> ports_;
    std::vector<Incoming> messages_;
    std::vector<std::uint8_t> bytes_;
};

}  // namespace mellow::io
