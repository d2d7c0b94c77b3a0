// The thread runs the player up to the time that has passed, and then sleeps: three milliseconds where the
// player is busy, until it is woken where it is not. Being woken and going to sleep are under one lock, so
// that no command is slept through.
#include "io/clocks/silent_clock.h"

namespace mellow::io {

using std::chrono::microseconds;
using std::chrono::steady_clock;

namespace {

/// About what a sound card's period is. Commands are obeyed at once all the same.
constexpr microseconds cycleLength(3000);

}  // namespace

Outcome SilentClock::start(Driven& driven) {
    driven_ = &driven;
    zero_ = steady_clock::now() - microseconds(std::max<engine::Time>(driven.now(), 0));
    stopping_ = false;
    driven.onWork([this] { wake(); });
    thread_ = std::thread([this] { run(); });
    return Done{};
}

void SilentClock::stop() {
    if (!thread_.joinable()) return;
    driven_->onWork({});
    {
        const std::lock_guard lock(mutex_);
        stopping_ = true;
    }
    work_.notify_one();
    thread_.join();
}

void SilentClock::wake() {
    {
        const std::lock_guard lock(mutex_);
        woken_ = true;
    }
    work_.notify_one();
}

void SilentClock::run() {
    auto next = steady_clock::now();
    std::unique_lock lock(mutex_);
    while (!stopping_) {
        woken_ = false;
        lock.unlock();
        const auto now = std::chrono::duration_cast<microseconds>(steady_clock::now() - zero_);
        driven_->cycle(now.count());
        lock.lock();
        const auto hasWork = [this] { return woken_ || stopping_; };
        if (driven_->busy()) {
            next = std::max(next + cycleLength, steady_clock::now());
            work_.wait_until(lock, next, hasWork);
        } else {
            work_.wait(lock, hasWork);
            next = steady_clock::now();
        }
    }
}

}  // namespace mellow::io
