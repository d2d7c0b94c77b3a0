// A backend drives the player: it brings messages in, carries them out, and says what time it is.
//
// There are three. JACK (jack_backend.h) has ports and a hard clock. The clock (clock_backend.h) has no ports
// and stands in when there is no JACK. The loopback (loopback_backend.h) has whatever ports a test names and
// the time that the test says.
#pragma once

#include <string>
#include <vector>

#include "core/result.h"
#include "io/player.h"

namespace mellow::io {

/// The ports that an ensemble wants, by the names that the document uses. The practice keys and the practice
/// rack are not among them: they are inside the program.
struct PortNames {
    std::vector<std::string> inputs;
    std::vector<std::string> outputs;
    bool operator==(const PortNames&) const = default;
};
PortNames portsOf(const Ensemble& ensemble);

class Backend {
 public:
    virtual ~Backend() = default;

    /// Begins to call player.cycle(). Error: why it cannot.
    virtual Outcome start(Player& player) = 0;
    /// Returns when the last cycle has run.
    virtual void stop() = 0;
    /// Makes and removes ports, while running or not.
    virtual void wantPorts(const PortNames& names) = 0;
    /// False once it has ended by itself, as when the JACK server is gone.
    [[nodiscard]] virtual bool alive() const = 0;
    /// One line for people: what it is and how it is.
    [[nodiscard]] virtual std::string status() const = 0;
};

}  // namespace mellow::io
