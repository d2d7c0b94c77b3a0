// An insertion sort puts what came into order: it keeps the order of ports at one time, allocates nothing,
// and is quick where nearly all is in order already, as it is.
#include "io/patchbay.h"

namespace mellow::io {

namespace {

constexpr std::size_t mostIncoming = 8192;
constexpr std::size_t mostAnew = 1024;

void sortByTime(std::vector<Incoming>& messages) {
    for (std::size_t i = 1; i < messages.size(); ++i) {
        for (std::size_t j = i; j > 0 && messages[j].time < messages[j - 1].time; --j)
            std::swap(messages[j], messages[j - 1]);
    }
}

}  // namespace

Patchbay::Patchbay(Player& player) : player_(player) {
    messages_.reserve(mostIncoming);
    anew_.reserve(mostAnew);
}

void Patchbay::add(Ports& ports) {
    ports.join(player_);
    ports_.push_back(&ports);
}

void Patchbay::want(const PortNames& names) {
    for (Ports* ports : ports_) ports->want(names);
}

void Patchbay::cycle(engine::Time until) {
    messages_.clear();
    anew_.clear();
    Arrivals arrivals{messages_, anew_};
    for (Ports* ports : ports_) ports->gather(arrivals);
    sortByTime(messages_);
    for (const engine::PortId port : anew_) player_.heardAnew(port);
    auto send = [this](const engine::Output& output) {
        for (Ports* ports : ports_) {
            if (ports->send(output)) return;
        }
    };
    player_.cycle(messages_, until, engine::sinkTo(send));
}

}  // namespace mellow::io
