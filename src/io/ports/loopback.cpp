// A cycle is a call of what is driven, with what the test hands in, and what comes out is appended to a list.
#include "io/ports/loopback.h"

namespace mellow::io {

Outcome Loopback::start(Driven& driven) {
    driven_ = &driven;
    return Done{};
}

void Loopback::run(engine::Time until) {
    driven_->cycle(until);
}

void Loopback::run(engine::Time until, const std::string& port, const std::vector<std::uint8_t>& bytes) {
    incoming_ = Incoming{until, player_->ports().of(port), bytes};
    driven_->cycle(until);
}

void Loopback::gather(Arrivals& arrivals) {
    if (incoming_) arrivals.add(*incoming_);
    incoming_.reset();
}

bool Loopback::send(const engine::Output& output) {
    sent_.push_back(
        {output.time, player_->ports().name(output.port), {output.bytes.begin(), output.bytes.end()}});
    return true;
}

}  // namespace mellow::io
