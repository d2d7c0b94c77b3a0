// An insertion sort puts what came into order: it keeps the order of ports at one time, allocates nothing,
// and is quick where nearly all is in order already, as it is.
#include "io/ports/patchbay.h"

#include <thread>

namespace mellow::io {

namespace {

constexpr std::size_t mostIncoming = 8192;
constexpr std::size_t mostPaced = 256;
constexpr std::size_t mostBytes = std::size_t{1} << 18;

void sortByTime(std::vector<Incoming>& messages) {
    for (std::size_t i = 1; i < messages.size(); ++i) {
        for (std::size_t j = i; j > 0 && messages[j].time < messages[j - 1].time; --j)
            std::swap(messages[j], messages[j - 1]);
    }
}

}  // namespace

Patchbay::Patchbay(Player& player) : player_(player), pacers_(engine::Hands::portCount), paced_(mostPaced) {
    messages_.reserve(mostIncoming);
    bytes_.reserve(mostBytes);
}

void Patchbay::add(Ports& ports) {
    ports.join(player_);
    ports_.push_back(&ports);
}

void Patchbay::want(const PortNames& names) {
    for (Ports* ports : ports_) ports->want(names);
}

void Patchbay::setRate(engine::PortId port, int bytesASecond) {
    auto& place = pacers_[port % pacers_.size()];
    Pacer* pacer = place.load(std::memory_order_relaxed);
    const std::size_t count = pacedCount_.load(std::memory_order_relaxed);
    if (pacer == nullptr) {
        if (bytesASecond <= 0 || count == paced_.size()) return;
        made_.push_back(std::make_unique<Pacer>());
        pacer = made_.back().get();
        pacer->setRate(bytesASecond);
        place.store(pacer, std::memory_order_release);
        paced_[count].store(port, std::memory_order_relaxed);
        pacedCount_.store(count + 1, std::memory_order_release);
    }
    pacer->setRate(bytesASecond);
    player_.nudge();
}

const Pacer* Patchbay::pacer(engine::PortId port) const {
    return pacers_[port % pacers_.size()].load(std::memory_order_relaxed);
}

void Patchbay::tend() {
    for (Ports* ports : ports_) ports->tend();
}

void Patchbay::cycle(engine::Time until) {
    messages_.clear();
    bytes_.clear();
    Arrivals arrivals(player_, messages_, bytes_);
    for (Ports* ports : ports_) ports->gather(arrivals);
    sortByTime(messages_);
    auto give = [this](const engine::Output& output) {
        for (Ports* ports : ports_) ports->send(output);
    };
    const engine::Sink out = engine::sinkTo(give);
    auto send = [&](const engine::Output& output) {
        Pacer* pacer = pacers_[output.port % pacers_.size()].load(std::memory_order_acquire);
        pacer == nullptr ? out(output) : pacer->offer(output, out);
    };
    player_.cycle(messages_, until, engine::sinkTo(send));
    waits_ = false;
    for (std::size_t i = 0; i < pacedCount_.load(std::memory_order_acquire); ++i) {
        Pacer& pacer = *pacers_[paced_[i].load(std::memory_order_relaxed)].load(std::memory_order_acquire);
        pacer.pump(until, out);
        waits_ = waits_ || pacer.waits();
    }
    cycles_.fetch_add(1, std::memory_order_release);
}

void Patchbay::awaitCycles(int count, std::chrono::milliseconds patience) {
    const auto limit = std::chrono::steady_clock::now() + patience;
    const std::uint64_t wanted = cycles_.load(std::memory_order_acquire) + static_cast<std::uint64_t>(count);
    while (cycles_.load(std::memory_order_acquire) < wanted && std::chrono::steady_clock::now() < limit) {
        player_.nudge();
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
}

}  // namespace mellow::io
