// Ports of the ALSA sequencer, by RtMidi: devices and programs whose names the document knows.
//
// A wish is fulfilled here where a port of that name is there, without the numbers that the system gives anew
// each time it is plugged in, or one that a person has said it leads to on this machine; what is not there is
// looked for again and again. Messages come in on RtMidi's
// threads and wait in rings for the next cycle; what leaves waits in a ring for a thread that may block.
//
// RtMidi speaks to JACK as well, which is how this is tested where there is no sequencer.
#pragma once

#include <RtMidi.h>

#include <atomic>
#include <memory>
#include <mutex>
#include <semaphore>
#include <thread>

#include "core/midi/stream_reader.h"
#include "io/playing/handed_over.h"
#include "io/playing/tap.h"
#include "io/ports/ports.h"
#include "io/ports/wiring.h"

namespace mellow::io {

class RtMidiPorts : public Ports {
 public:
    explicit RtMidiPorts(RtMidi::Api api = RtMidi::LINUX_ALSA);
    ~RtMidiPorts() override;

    void want(const PortNames& names) override;
    [[nodiscard]] std::vector<PortState> present() const override;
    [[nodiscard]] std::vector<Problem> problems() const override;
    [[nodiscard]] std::string status() const override;
    [[nodiscard]] PortNames others() const override { return others_; }
    void tend() override;
    void gather(Arrivals& arrivals) override;
    bool send(const engine::Output& output) override;

    /// Has a name of the document lead to a port that is called otherwise here, or to its namesake again.
    void lead(const Wire& wire);
    void leadNoMore(const Wire& wire);
    /// What leads elsewhere than to its namesake.
    [[nodiscard]] std::vector<Wire> leads() const { return leads_; }

    /// How many messages found no room on their way, since the start.
    [[nodiscard]] std::uint64_t lost() const { return lost_.load(std::memory_order_relaxed); }

 private:
    struct Input {
        std::string name;    ///< in the document
        std::string theirs;  ///< of the port that it is
        engine::PortId id = 0;
        RtMidiPorts* owner = nullptr;
        midi::StreamReader reader;  ///< what comes need not be whole messages
        Tap ring{std::size_t{1} << 16};
        std::unique_ptr<RtMidiIn> port;  ///< ends before the ring does
    };
    struct Output {
        std::string name;
        std::string theirs;
        engine::PortId id = 0;
        std::unique_ptr<RtMidiOut> port;
    };
    /// What the playing side works on; replaced as a whole.
    struct List {
        std::vector<std::shared_ptr<Input>> inputs;
        std::vector<engine::PortId> outputs;
        std::vector<engine::PortId> anew;   ///< outputs that have just come
        std::vector<engine::PortId> again;  ///< those of them that were there before
    };

    bool open();
    void look();
    void openInputs();
    void openOutputs();
    void close(RtMidiOut& port) const;
    void awaitJack() const;
    void closeGone();
    [[nodiscard]] const std::string& ledTo(const std::string& name, bool input) const;
    void publish(std::vector<engine::PortId> anew, std::vector<engine::PortId> again);
    void sendAll();

    RtMidi::Api api_;
    std::unique_ptr<RtMidiIn> inLooker_;  ///< which only lists what is there
    std::unique_ptr<RtMidiOut> outLooker_;
    std::optional<Problem> problem_;
    PortNames wanted_;
    std::vector<Wire> leads_;
    PortNames others_;
    std::vector<std::shared_ptr<Input>> inputs_;
    std::vector<std::string> known_;  ///< outputs that have been there
    HandedOver<List> lists_;

    std::mutex outputsLock_;  ///< never taken on the playing side
    std::vector<Output> outputs_;
    Tap leaving_;
    std::counting_semaphore<> leaves_{0};
    std::atomic<bool> stopping_{false};
    std::atomic<std::uint64_t> lost_{0};
    std::thread sender_;
};

/// A port's name without what the system numbers anew: "Client:Port 20:0" is "Client:Port".
std::string steadyName(const std::string& name);

}  // namespace mellow::io
