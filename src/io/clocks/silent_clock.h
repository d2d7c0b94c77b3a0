// The silent clock: plays without any MIDI system.
//
// A thread wakes every three milliseconds while something moves by itself or a take plays, and sleeps until
// there is work otherwise, so that a program at rest costs nothing. It drives whatever ports there are.
#pragma once

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <thread>

#include "io/clocks/clock.h"

namespace mellow::io {

class SilentClock : public Clock {
 public:
    ~SilentClock() override { SilentClock::stop(); }

    Outcome start(Driven& driven) override;
    void stop() override;
    [[nodiscard]] bool alive() const override { return true; }
    [[nodiscard]] std::string status() const override { return "No MIDI ports: JACK is not running"; }
    [[nodiscard]] Word word() const override { return {"no ports", Word::Health::none}; }

 private:
    void run();
    void wake();

    Driven* driven_ = nullptr;
    std::thread thread_;
    std::mutex mutex_;
    std::condition_variable work_;
    bool woken_ = false;
    bool stopping_ = false;
    std::chrono::steady_clock::time_point zero_;  ///< when the engine's time was 0
};

}  // namespace mellow::io
