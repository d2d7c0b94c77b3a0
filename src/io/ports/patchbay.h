// The patchbay: all ports and the player, as one thing that a clock drives.
//
// A cycle gathers what came in through all ports, puts it in order of time, has the player play it, and gives
// each message that leaves to whoever serves its port. It is the only place where several classes of ports
// meet.
#pragma once

#include <atomic>
#include <chrono>
#include <memory>
#include <vector>

#include "io/clocks/clock.h"
#include "io/ports/pacer.h"
#include "io/ports/ports.h"

namespace mellow::io {

class Patchbay : public Driven {
 public:
    explicit Patchbay(Player& player);

    /// Adds ports, which must outlive this; while no clock runs.
    void add(Ports& ports);
    /// Editing side: each of the ports takes what it serves.
    void want(const PortNames& names);
    void tend();
    /// How fast the wire of an output port is, in bytes a second; 0: as fast as it can.
    void setRate(engine::PortId port, int bytesASecond);
    /// The pacing of an output port; nullptr where it has none.
    [[nodiscard]] const Pacer* pacer(engine::PortId port) const;

    /// Editing side: waits until that many more cycles have run, or for as long as `patience`.
    void awaitCycles(int count, std::chrono::milliseconds patience);

    void cycle(engine::Time until) override;
    [[nodiscard]] bool busy() const override { return player_.busy() || waits_; }
    void transport(const TransportNow& now) override { player_.transport(now); }
    [[nodiscard]] engine::Time now() const override { return player_.time(); }
    void onWork(std::function<void()> wake) override { player_.onWork(std::move(wake)); }

 private:
    Player& player_;
    std::vector<std::unique_ptr<Pacer>> made_;        ///< editing side; they stay as long as this
    std::vector<std::atomic<Pacer*>> pacers_;         ///< by port
    std::vector<std::atomic<engine::PortId>> paced_;  ///< ports that have one, the first pacedCount_
    std::atomic<std::size_t> pacedCount_{0};
    bool waits_ = false;  ///< playing side: some wire is not free for what waits
    std::atomic<std::uint64_t> cycles_{0};
    std::vector<Ports*> ports_;
    std::vector<Incoming> messages_;
    std::vector<std::uint8_t> bytes_;
};

}  // namespace mellow::io
