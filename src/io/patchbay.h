// The patchbay: all ports and the player, as one thing that a clock drives.
//
// A cycle gathers what came in through all ports, puts it in order of time, has the player play it, and gives
// each message that leaves to whoever serves its port. It is the only place where several classes of ports
// meet.
#pragma once

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

    void cycle(engine::Time until) override;
    [[nodiscard]] bool busy() const override { return player_.busy(); }
    [[nodiscard]] engine::Time now() const override { return player_.now(); }
    void onWork(std::function<void()> wake) override { player_.onWork(std::move(wake)); }

 private:
    Player& player_;
    std::vector<Ports*> ports_;
    std::vector<Incoming> messages_;
    std::vector<engine::PortId> anew_;
};

}  // namespace mellow::io
