// JACK: real MIDI ports, without an added period.
//
// A clock and ports at once: a native client whose process callback reads every input port, has everything
// played, and writes every output port, so that a message leaves in the period in which it came, at the frame
// at which it came. The engine's time is JACK's frame count since the start, in microseconds; what the
// engine's clock causes leaves at the frame on which its millisecond falls.
//
// Ports are made and removed on the editing side while the callback runs: it works on an immutable list that
// is swapped, and a port is unregistered only after the callback has been seen to use the new list.
#pragma once

#include <jack/jack.h>

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <vector>

#include "core/midi/stream_reader.h"
#include "io/clocks/clock.h"
#include "io/ports/ports.h"
#include "io/ports/wiring.h"

namespace mellow::io {

class Jack : public Clock, public Ports {
 public:
    /// server: the JACK server's name, or empty for the default one. A server is never started.
    explicit Jack(std::string server = {}) : server_(std::move(server)) {}
    ~Jack() override { Jack::stop(); }

    /// Whether a server has answered. Asking begins to open a client, aside, since a server that is stopped
    /// or wedged answers never; it is not waited for.
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

    void want(const PortNames& names) override;
    [[nodiscard]] std::vector<PortState> present() const override;
    [[nodiscard]] PortNames others() const override;
    void tend() override;
    /// Connects, or takes a connection away, as a person wishes.
    void connect(const Wire& wire);
    void disconnect(const Wire& wire);
    void gather(Arrivals& arrivals) override;
    bool send(const engine::Output& output) override;

    /// Connections that are kept: those that are there, and those whose other end is gone for now.
    [[nodiscard]] std::vector<Wire> wires() const { return wiring_.wires(); }
    void rememberWires(const std::vector<Wire>& wires) { wiring_.remember(wires); }

    /// The client's name in the JACK graph, once started.
    [[nodiscard]] std::string clientName() const;

 private:
    struct Port {
        jack_port_t* port = nullptr;
        engine::PortId id = 0;
        std::string name;   ///< in the document
        std::string label;  ///< in the graph, where it has to be another than the other way's
        /// How many connections it had at the last cycle, and whether it had any before.
        struct Ends {
            int count = 0;
            bool known = false;
        };
        std::shared_ptr<Ends> ends = std::make_shared<Ends>();
        std::shared_ptr<midi::StreamReader> reader = {};  ///< of an input
    };
    struct PortList {
        std::vector<Port> inputs;
        std::vector<Port> outputs;
    };

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
        std::atomic<Jack*> jack{nullptr};
        std::atomic<int> calls{0};  ///< under way
    };
    template<class Act>
    static void callThrough(void* link, Act&& act);

    bool open(std::chrono::milliseconds patience);
    [[nodiscard]] bool answers() const;
    int process(jack_nframes_t frames);
    static void noticeConnections(const PortList& ports, Arrivals& arrivals);
    [[nodiscard]] std::vector<Wire> connectedNow() const;
    [[nodiscard]] std::string fullNameOf(const Wire& wire) const;
    void connectAgain(const std::vector<Wire>& wires);
    void leavePorts();
    void endCalls();
    void listenToTheGraph();
    void adjust(const PortNames& names);
    [[nodiscard]] engine::Time timeOf(std::uint64_t frame) const;
    std::vector<Port> adjusted(const std::vector<Port>& present, const std::vector<std::string>& names,
                               unsigned long flags);
    [[nodiscard]] bool leftOldLists() const;
    void removeOldLists();

    std::string server_;
    Driven* driven_ = nullptr;
    jack_client_t* client_ = nullptr;
    std::shared_ptr<Opening> opening_;
    std::shared_ptr<Link> link_;
    bool isActive_ = false;                   ///< the server may call
    bool waitsForServer_ = true;              ///< nobody has been kept waiting yet
    bool adjustsLater_ = false;               ///< ports were wished for while the server did not answer
    std::atomic<std::int64_t> lastCycle_{0};  ///< when the server called last, steady nanoseconds
    PortNames wanted_;
    std::vector<std::unique_ptr<PortList>> lists_;  ///< the last is the newest
    std::uint64_t listedAt_ = 0;                    ///< the cycle after which the newest came
    std::atomic<const PortList*> current_{nullptr};
    std::atomic<std::uint64_t> cycles_{0};
    std::atomic<bool> alive_{false};
    std::atomic<bool> rewired_{false};      ///< some connection or port of the graph changed
    std::atomic<bool> someoneLeft_{false};  ///< another's port went away
    Wiring wiring_;
    std::vector<std::string> reached_;  ///< outputs that somebody has listened at, under any server

    // Playing side.
    std::uint64_t frame_ = 0;  ///< of the present period's start, since start()
    double microsecondsPerFrame_ = 0;
    engine::Time offset_ = 0;            ///< the engine's time at frame 0
    const PortList* playing_ = nullptr;  ///< of the cycle under way, which are JACK's only then
    jack_nframes_t frames_ = 0;          ///< of the period
};

}  // namespace mellow::io
