#include "app/pages/gear/port_activity.h"

#include <utility>

namespace mellow::app {

namespace {

constexpr int countEvery = 250;  // ms
constexpr int stillAfter = 2;    // counts without a message

}  // namespace

PortActivity::PortActivity(Live& live, QObject* parent) : QObject(parent), live_(live) {
    connect(&live_, &Live::happened, this, &PortActivity::see);
    connect(&counting_, &QTimer::timeout, this, &PortActivity::count);
    counting_.start(countEvery);
}

const PortActivity::Port* PortActivity::find(const PortName& name) const {
    const auto found = ports_.find(name);
    return found == ports_.end() ? nullptr : &found->second;
}

/// A port keeps its number for as long as the program runs.
PortActivity::Counted& PortActivity::portOf(const io::Happening& happening) {
    auto& known = byNumber_.at(happening.out ? 1 : 0);
    if (known.size() <= happening.port) known.resize(happening.port + 1);
    Counted*& port = known[happening.port];
    if (port == nullptr) port = &ports_[{!happening.out, live_.readings().portName(happening.port)}];
    return *port;
}

void PortActivity::see(const io::Happening& happening) {
    Counted& port = portOf(happening);
    port.shapes.see(happening.time, happening.message.bytes());
    ++port.messages;
    port.moves = true;
    port.quiet = 0;
    now_ = std::max(now_, happening.time);
}

void PortActivity::count() {
    bool any = false;
    for (auto& [name, port] : ports_) {
        const int rate = std::exchange(port.messages, 0) * 1000 / countEvery;
        const bool moves = rate > 0 || ++port.quiet < stillAfter;
        any = any || rate != port.rate || moves != port.moves || rate > 0;
        port.rate = rate;
        port.moves = moves;
    }
    // What was moving rests when time goes on without it.
    now_ += countEvery * 1000;
    if (any) emit changed();
}

}  // namespace mellow::app
