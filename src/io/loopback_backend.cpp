// A cycle is a call of the player with what the test hands in, and what comes out is appended to a list.
#include "io/loopback_backend.h"

namespace mellow::io {

Outcome LoopbackBackend::start(Player& player) {
    player_ = &player;
    return Done{};
}

void LoopbackBackend::run(engine::Time until) {
    cycle({}, until);
}

void LoopbackBackend::run(engine::Time until, const std::string& port,
                          const std::vector<std::uint8_t>& bytes) {
    const Incoming incoming{until, player_->portId(port), bytes};
    cycle({&incoming, 1}, until);
}

void LoopbackBackend::cycle(std::span<const Incoming> incoming, engine::Time until) {
    auto keep = [this](const engine::Output& output) {
        sent_.push_back(
            {output.time, player_->portName(output.port), {output.bytes.begin(), output.bytes.end()}});
    };
    player_->cycle(incoming, until, engine::sinkTo(keep));
}

}  // namespace mellow::io
