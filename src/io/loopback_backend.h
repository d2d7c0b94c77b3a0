// A backend for tests: time passes when the test says so, and what would leave through a port is kept.
#pragma once

#include <string>
#include <vector>

#include "io/backend.h"

namespace mellow::io {

class LoopbackBackend : public Backend {
 public:
    struct Sent {
        engine::Time time = 0;
        std::string port;
        std::vector<std::uint8_t> bytes;
        bool operator==(const Sent&) const = default;
    };

    Outcome start(Player& player) override;
    void stop() override { player_ = nullptr; }
    void wantPorts(const PortNames& names) override { ports_ = names; }
    [[nodiscard]] bool alive() const override { return true; }
    [[nodiscard]] std::string status() const override { return "Loopback"; }

    /// Runs one cycle up to and including a time, with one message coming in at that time, or none.
    void run(engine::Time until);
    void run(engine::Time until, const std::string& port, const std::vector<std::uint8_t>& bytes);

    [[nodiscard]] const std::vector<Sent>& sent() const { return sent_; }
    [[nodiscard]] const PortNames& ports() const { return ports_; }
    void forget() { sent_.clear(); }

 private:
    void cycle(std::span<const Incoming> incoming, engine::Time until);

    Player* player_ = nullptr;
    PortNames ports_;
    std::vector<Sent> sent_;
};

}  // namespace mellow::io
