// The engine: plays a plan.
//
// It is given messages one by one, in order of time, and a clock to follow; it hands every message that
// results to a Sink at once, in the order in which the signal rules (sections 3 to 7) say they are sent. Live
// playing, files and the command line all use it, which is why they agree to the byte.
//
// process(), advance() and adopt() take no lock, allocate nothing, throw nothing and call nothing of the
// system. All memory comes with the Program. A Program is never freed here: adopt() hands the old one back.
#pragma once

#include <cstdint>
#include <optional>

#include "core/engine/note_memory.h"
#include "core/engine/plan.h"
#include "core/midi/message.h"

namespace mellow::engine {

using Time = std::int64_t;  ///< microseconds from the start

/// The grid on which timed steps move.
inline constexpr Time gridStep = 1000;

struct Event {
    Time time = 0;  ///< never below that of the event before
    PortId port = everyPort;
    midi::Bytes bytes;  ///< one whole message
};

inline constexpr std::int32_t noChain = -1;

struct Output {
    Time time = 0;
    PortId port = everyPort;
    std::uint32_t instrument = 0;  ///< interned; see Plan::instruments
    std::int32_t chain =
        noChain;               ///< the chain that sent it (place in Plan::chains), or noChain when it passed
    std::int32_t branch = -1;  ///< place in Plan::branches
    midi::Bytes bytes;         ///< valid during the call only
};

/// Where results go. A function and what it is called with, so that calling it costs no allocation.
struct Sink {
    void (*send)(void* self, const Output& output) = nullptr;
    void* self = nullptr;

    void operator()(const Output& output) const { send(self, output); }
};

/// A Sink that calls something callable, which must outlive it.
template<class Callable>
Sink sinkTo(Callable& callable) {
    return {[](void* self, const Output& output) { (*static_cast<Callable*>(self))(output); }, &callable};
}

/// What a chain is taken through: when, whether the clock moves it, and what happened at the instrument.
struct Moment {
    Time time = 0;
    bool tick = false;
    Cue cue = Cue::none;
};

/// Which sustain pedals are down, by input port and channel. Ports beyond the first 256 share.
class Pedals {
 public:
    /// Takes a value of CC 64; true when the pedal goes from below 64 to 64 or above with it.
    bool treads(PortId port, std::size_t channel, int value) {
        std::uint16_t& down = down_[port % down_.size()];
        const auto bit = static_cast<std::uint16_t>(1U << channel);
        const bool was = (down & bit) != 0;
        const bool is = value >= 64;
        down = static_cast<std::uint16_t>(is ? down | bit : down & ~bit);
        return is && !was;
    }

 private:
    std::array<std::uint16_t, 256> down_{};
};

class Engine {
 public:
    /// program: not owned.
    explicit Engine(Program* program) : program_(program) {}

    /// Plays the given program from now on and returns the one played so far. What steps remember, what was
    /// sent, and held notes carry over. A chain that was edited while its source had spoken runs once, so
    /// that an edit is heard without touching the control again.
    Program* adopt(Program* next, const Sink& sink);

    /// Runs the clock up to and including `until`.
    void advance(Time until, const Sink& sink) {
        if (until <= now_) return;
        if (movingChains_ > 0) runClock(until, sink);
        now_ = until;
    }

    /// Runs the clock up to the event, then the event.
    void process(const Event& event, const Sink& sink);

    /// Ends everything: a note-off for each remembered note, then CC 64 = 0, 123 and 120 on every channel
    /// used; forgets what was sent.
    void silenceAll(const Sink& sink);

    /// Forgets what was sent to a port, because something else listens there now.
    void portConnected(PortId port);

    /// True while the clock alone would still change something.
    [[nodiscard]] bool moving() const { return movingChains_ > 0; }
    [[nodiscard]] Time now() const { return now_; }
    [[nodiscard]] const Program& program() const { return *program_; }
    [[nodiscard]] const NoteMemory& notes() const { return notes_; }

 private:
    using Part = PlanInstrument;

    const Plan& plan() const { return program_->plan; }
    State& state() { return program_->state; }

    void runClock(Time until, const Sink& sink);
    void channelMessage(const Event& event, const Sink& sink);
    void systemMessage(const Event& event, const Sink& sink);
    void noteOn(const Event& event, const Sink& sink);
    void keyPressure(const Event& event, const Sink& sink);
    void beginNote(const Event& event, const Part& part, const Sink& sink);
    void endNote(const Event& event, const Sink& sink);
    void followNote(const Event& event, const Part& part, const Sink& sink);
    template<bool cues>
    void controlMessage(const Event& event, std::size_t key, int raw, Cue cue, const Sink& sink);
    void sustain(const Event& event, const Sink& sink);
    void passUnmatched(const Event& event, const Sink& sink);

    struct Matched {
        bool any = false;
        bool keep = false;
    };
    template<bool cues>
    Matched runListeners(std::span<const Listener>& listeners, PortId port, int raw, Cue cue,
                         const Sink& sink);
    bool runCued(const Listener& listener, PortId port, int raw, Cue cue, const Sink& sink);

    void noteSpoken(std::uint32_t chain, int raw);
    void runFromSource(std::uint32_t chain, int raw, const Sink& sink);
    void runEvaluated(std::uint32_t chain, std::optional<int> raw, Cue cue, const Sink& sink);
    void goOn(std::uint32_t chain, std::optional<double> position, Moment moment, const Sink& sink);
    void runBranches(std::uint32_t chain, std::optional<double> position, Moment moment, const Sink& sink);
    void updateMoving(std::uint32_t chain);
    void sendTabulated(const PlanChain& chain, std::uint32_t index, int raw, const Sink& sink);
    void sendPayload(std::uint32_t chain, std::uint32_t branch, Payload payload, const Sink& sink);
    void sendCarefully(std::uint32_t chain, int raw, const Sink& sink);
    void sendEvaluated(std::uint32_t chain, std::uint32_t branch, Payload payload, const Sink& sink);
    void pass(const Event& event, std::uint32_t part, const Sink& sink);
    void rememberSent(const Lane& lane, std::uint32_t laneIndex, midi::Bytes message);
    void forgetLane(std::uint32_t lane);
    void carryChain(const Program& old, std::uint32_t chain);

    Program* program_;
    NoteMemory notes_;
    Pedals pedals_;
    Time now_ = -1;
    std::uint32_t movingChains_ = 0;
};

}  // namespace mellow::engine
