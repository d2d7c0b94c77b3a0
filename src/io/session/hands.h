// What plays into a session by hand: messages, elements of the desk, articulations.
#pragma once

#include <string_view>

#include "io/playing/player.h"

namespace mellow::io {

class Hands {
 public:
    explicit Hands(Player& player) : player_(player), keysPort_(player.ports().of(practiceKeysPort)) {}

    /// Plays a message as if on the practice keys, or as if it came in through a port.
    void send(const midi::Short& message) { player_.send(keysPort_, message); }
    void sendTo(std::string_view port, const midi::Short& message) {
        player_.send(player_.ports().of(port), message);
    }
    /// Moves an element of the desk, by its address, to a position from 0 to 1.
    void moveDesk(std::string_view address, double position) { player_.moveDesk(address, position); }
    /// Has an instrument play one of its articulations, by place.
    void choose(std::string_view instrument, std::size_t articulation) {
        const auto number = player_.programs().names().instruments.find(instrument);
        if (number) player_.choose(*number, static_cast<std::uint32_t>(articulation));
    }
    void silenceAll() { player_.silenceAll(); }

 private:
    Player& player_;
    engine::PortId keysPort_;
};

}  // namespace mellow::io
