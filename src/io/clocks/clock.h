// A clock says what time it is and drives what plays: it calls cycle() again and again, with the time up to
// which everything is to be played.
//
// JACK is a clock and has ports too (jack.h); the silent clock (silent_clock.h) drives whatever ports there
// are when nothing better does; the loopback (loopback.h) lets time pass when a test says so. One clock runs
// at a time; which one is the session's choice.
#pragma once

#include <functional>
#include <string>

#include "core/engine/playing/engine.h"
#include "core/result.h"

namespace mellow::io {

/// What the clock's system says at the beginning of a cycle.
struct TransportNow {
    double bpm = 0;  ///< quarter notes a minute; 0: it says nothing
    bool rolling = false;
    engine::Time position = -1;  ///< microseconds into the piece; −1: it has no transport
    engine::Time at = -1;        ///< the engine's time at which that is
};

/// What a clock drives.
class Driven {
 public:
    virtual ~Driven() = default;

    /// Plays everything up to and including a time. Playing side: takes no lock, allocates nothing.
    virtual void cycle(engine::Time until) = 0;
    /// True while the next cycle would do something without a command. Playing side.
    [[nodiscard]] virtual bool busy() const = 0;
    [[nodiscard]] virtual engine::Time now() const = 0;
    /// What the clock's system says. Playing side, before a cycle.
    virtual void transport(const TransportNow& now) { (void)now; }
    /// wake: called on the editing side after each command, so that a clock that sleeps wakes up; empty: no
    /// more.
    virtual void onWork(std::function<void()> wake) = 0;
};

class Clock {
 public:
    virtual ~Clock() = default;

    /// Whether start() would succeed now. May take hold of what it needs.
    [[nodiscard]] virtual bool available() { return true; }
    /// Begins to call driven.cycle(), on one thread. Error: why it cannot.
    virtual Outcome start(Driven& driven) = 0;
    /// Returns when the last cycle has run.
    virtual void stop() = 0;
    /// False once it has ended by itself, as when the JACK server is gone.
    [[nodiscard]] virtual bool alive() const = 0;
    /// One line for people: what it is and how it is.
    [[nodiscard]] virtual std::string status() const = 0;
    /// The same in a word or two, and whether it is as one wants it.
    struct Word {
        std::string text;
        enum class Health { none, well, ill } health = Health::none;
    };
    [[nodiscard]] virtual Word word() const = 0;
};

}  // namespace mellow::io
