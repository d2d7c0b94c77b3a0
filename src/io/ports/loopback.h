// A clock and ports for tests: time passes when the test says so, and what would leave through a port is
// kept.
#pragma once

#include <string>
#include <vector>

#include "io/ports/patchbay.h"

namespace mellow::io {

class Loopback : public Clock, public Ports {
 public:
    struct Sent {
        engine::Time time = 0;
        std::string port;
        std::vector<std::uint8_t> bytes;
        bool operator==(const Sent&) const = default;
    };

    Outcome start(Driven& driven) override;
    void stop() override { driven_ = nullptr; }
    [[nodiscard]] bool alive() const override { return true; }
    [[nodiscard]] std::string status() const override { return "Loopback"; }
    [[nodiscard]] Word word() const override { return {"loopback", Word::Health::well}; }

    void want(const PortNames& names) override { ports_ = names; }
    [[nodiscard]] std::vector<PortState> present() const override { return {}; }
    void gather(Arrivals& arrivals) override;
    bool send(const engine::Output& output) override;

    /// Runs one cycle up to and including a time, with one message coming in at that time, or none.
    void run(engine::Time until);
    void run(engine::Time until, const std::string& port, const std::vector<std::uint8_t>& bytes);

    [[nodiscard]] const std::vector<Sent>& sent() const { return sent_; }
    [[nodiscard]] const PortNames& ports() const { return ports_; }
    void forget() { sent_.clear(); }

 private:
    Driven* driven_ = nullptr;
    std::optional<Incoming> incoming_;
    PortNames ports_;
    std::vector<Sent> sent_;
};

}  // namespace mellow::io
