// MIDI ports of a JACK client.
//
// Every input port is read and every output port written inside the period in which a message comes, at its
// frame, so that nothing is delayed by a period.
//
// Ports are made and removed on the editing side while the callback runs: it works on an immutable list that
// is handed over, and a port is unregistered only after the callback has been seen to use the new list.
#pragma once

#include <atomic>
#include <memory>
#include <string>
#include <vector>

#include "core/midi/stream_reader.h"
#include "io/playing/handed_over.h"
#include "io/ports/jack_client.h"
#include "io/ports/jack_signs.h"
#include "io/ports/port_title.h"
#include "io/ports/ports.h"
#include "io/ports/wiring.h"

namespace mellow::io {

class JackPorts : public Ports, private JackKind {
 public:
    explicit JackPorts(JackClient& client) : client_(client) { client_.join(*this); }
    ~JackPorts() override { client_.leave(*this); }
    JackPorts(const JackPorts&) = delete;
    JackPorts& operator=(const JackPorts&) = delete;

    void want(const PortNames& names) override;
    /// How people call the ports, in the order in which they stand.
    void entitle(std::vector<PortTitle> titles);
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

    void begin() override;
    void begun() override { tend(); }
    void end() override;
    [[nodiscard]] std::string count() const override;
    void graphChanged(bool someoneLeft) override;
    void serverLeft() override { tellChange(); }
    void periodBegins(jack_nframes_t frames) override;
    void periodEnds() override { playing_ = nullptr; }

    static void noticeConnections(const PortList& ports, Arrivals& arrivals);
    [[nodiscard]] std::vector<Wire> connectedNow() const;
    [[nodiscard]] std::string fullNameOf(const Wire& wire) const;
    void connectAgain(const std::vector<Wire>& wires);
    void leavePorts();
    void adjust(const PortNames& names);
    std::vector<Port> adjusted(const std::vector<Port>& present, const std::vector<std::string>& names,
                               unsigned long flags);
    Port made(const std::string& name, unsigned long flags);
    [[nodiscard]] bool isDoneWithOldLists() const { return !client_.isActive() || lists_.isTaken(); }
    void removeOldLists();
    void sign();

    JackClient& client_;
    bool adjustsLater_ = false;  ///< ports were wished for while the server did not answer
    bool signsLater_ = false;    ///< they were entitled then
    PortNames wanted_;
    HandedOver<PortList> lists_;
    std::atomic<bool> rewired_{false};      ///< some connection or port of the graph changed
    std::atomic<bool> someoneLeft_{false};  ///< another's port went away
    Wiring wiring_;
    std::vector<PortTitle> titles_;
    JackSigns signs_;
    std::vector<std::string> reached_;  ///< outputs that somebody has listened at, under any server

    // Playing side.
    const PortList* playing_ = nullptr;  ///< of the cycle under way, which are JACK's only then
    jack_nframes_t frames_ = 0;          ///< of the period
};

}  // namespace mellow::io
