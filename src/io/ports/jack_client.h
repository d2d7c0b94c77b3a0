// A client of JACK: a clock, and the place where ports of JACK of every kind come together.
//
// Its process callback has every kind of port begin the period (their buffers are there only inside the
// callback), has everything played up to the period's end, and has them end it. The engine's time is JACK's
// frame count since the start, in microseconds; what the engine's clock causes leaves at the frame on which
// its millisecond falls.
//
// A server that is stopped or wedged answers never, so whatever may wait for one is done aside, or not asked
// for at all.
#pragma once

#include <jack/jack.h>

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "io/clocks/clock.h"

namespace mellow::io {

/// Ports of one kind that a client has: MIDI (jack_ports.h), audio (jack_inputs.h).
class JackKind {
 public:
    virtual ~JackKind() = default;

    // Editing side.

    /// A client is there, and calls nobody yet.
    virtual void begin() = 0;
    /// It calls from now on.
    virtual void begun() {}
    /// The client goes; its server may be gone already.
    virtual void end() = 0;
    /// How many there are, for people.
    [[nodiscard]] virtual std::string count() const { return {}; }

    // Any thread: the graph must not be changed from here.

    /// Some connection or port of the graph changed. someoneLeft: another's port went away.
    virtual void graphChanged(bool someoneLeft) { (void)someoneLeft; }
    /// The server is gone.
    virtual void serverLeft() {}
    /// Some period was not kept: what came in its time is missing.
    virtual void periodMissed() {}

    // Playing side.

    virtual void periodBegins(jack_nframes_t frames) = 0;
    virtual void periodEnds() = 0;
};

class JackClient : public Clock {
 public:
    static constexpr const char* usualName = "Mellow Lever";
    /// server: the JACK server's name, or empty for the default one. A server is never started.
    /// name: by which the graph shows the client; a server adds to it where another has it.
    explicit JackClient(std::string server = {}, std::string name = usualName)
        : server_(std::move(server)), wishedName_(std::move(name)) {}
    ~JackClient() override { JackClient::stop(); }

    /// Whether a server has answered. Asking begins to open a client, aside; it is not waited for.
    [[nodiscard]] bool available() override {
        return client_ != nullptr || open(std::chrono::milliseconds(0));
    }
    /// Waits a moment for a server, the first time. Error: none is running, or it does not answer.
    Outcome start(Driven& driven) override;
    void stop() override;
    /// A server was asked, and what came of it has not been looked at: available() does.
    [[nodiscard]] bool isAsking() const { return opening_ != nullptr; }
    /// A server is there, and has said nothing for longer than one that is well takes.
    [[nodiscard]] bool isWaiting() const;
    /// False, too, where the server has called for nothing in a second.
    [[nodiscard]] bool alive() const override;
    [[nodiscard]] std::string status() const override;
    [[nodiscard]] Word word() const override;
    /// Starts, stops or moves the transport, to a position in microseconds. False when no server runs.
    enum class Lead { start, stop, locate };
    bool lead(Lead what, engine::Time position = 0);

    /// Ports join before the clock starts. Who leaves stops it.
    void join(JackKind& kind) { kinds_.push_back(&kind); }
    void leave(JackKind& kind);

    // For its ports; those that ask the server only where it answers.

    /// A server that has not called for longer than any period lasts is not asked for anything, since whoever
    /// asks would wait for it.
    [[nodiscard]] bool answers() const;
    /// The server calls, or may do so.
    [[nodiscard]] bool isActive() const { return isActive_; }
    [[nodiscard]] jack_client_t* client() const { return client_; }
    /// The client's name in the JACK graph, once started.
    [[nodiscard]] std::string name() const;
    /// Full names of others' ports of a type.
    [[nodiscard]] std::vector<std::string> others(const char* type, unsigned long flags) const;
    /// Frames a second.
    [[nodiscard]] int rate() const { return rate_; }

    // For its ports, inside a period.

    /// The engine's time at a frame of the period.
    [[nodiscard]] engine::Time timeOf(jack_nframes_t frame) const { return timeAt(frame_ + frame); }
    /// The frame of the period that is nearest to a time.
    [[nodiscard]] jack_nframes_t frameOf(engine::Time time) const;
    /// Of the period's first frame, since the start.
    [[nodiscard]] std::uint64_t frame() const { return frame_; }

 private:
    /// A client that is being opened, by a thread that nobody waits for.
    struct Opening {
        std::chrono::steady_clock::time_point begun = std::chrono::steady_clock::now();
        std::mutex mutex;
        std::condition_variable finished;
        bool done = false;
        bool unwanted = false;  ///< whoever asked is gone: the thread closes what it gets
        jack_client_t* client = nullptr;
    };
    /// Whose callbacks a client calls; nobody's, once it is given up. Who gives it up waits until none is
    /// under way, which takes as long as our own code does, whatever the server is at.
    struct Link {
        std::atomic<JackClient*> client{nullptr};
        std::atomic<int> calls{0};  ///< under way
    };
    template<class Act>
    static void callThrough(void* link, Act&& act);

    bool open(std::chrono::milliseconds patience);
    void beginOpening();
    void process(jack_nframes_t frames);
    void endCalls();
    void listen();
    void giveUpOpening();
    void close();
    [[nodiscard]] TransportNow transportNow() const;
    [[nodiscard]] engine::Time timeAt(std::uint64_t frame) const;
    [[nodiscard]] bool hasCalledWithin(std::int64_t nanoseconds) const;

    std::string server_;
    std::string wishedName_;
    std::vector<JackKind*> kinds_;
    Driven* driven_ = nullptr;
    jack_client_t* client_ = nullptr;
    std::shared_ptr<Opening> opening_;
    std::shared_ptr<Link> link_;
    bool isActive_ = false;                   ///< the server may call
    bool hasBegun_ = false;                   ///< the ports know of the client
    bool waitsForServer_ = true;              ///< nobody has been kept waiting yet
    std::atomic<std::int64_t> lastCycle_{0};  ///< when the server called last, steady nanoseconds
    std::atomic<std::uint64_t> cycles_{0};
    std::atomic<bool> alive_{false};
    int rate_ = 0;

    // Playing side.
    std::uint64_t frame_ = 0;  ///< of the present period's start, since start()
    jack_nframes_t frames_ = 0;
    double microsecondsPerFrame_ = 0;
    engine::Time offset_ = 0;  ///< the engine's time at frame 0
};

}  // namespace mellow::io
