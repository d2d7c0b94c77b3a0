// OSC over UDP: numbers that come to addresses, and numbers that leave for them.
//
// A port named "osc.udp://HOST:PORT" is a place on the network instead of a MIDI port. As an instrument's
// output it is where that instrument's OSC parameters are sent, one float each; as a controller's port,
// "osc.udp://:9000", it is where this program listens. Between the network's threads and the playing side
// stand the player's rings, so playing never waits for a socket.
//
// A document may come from anywhere, so it opens nothing to the network: what it listens on is heard from
// this machine alone, until a person opens that port to a network (openTo). Whoever sends faster than hands
// can is heard as fast as they could, and the rest is dropped by the system.
#pragma once

#include <atomic>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "core/result.h"
#include "io/ports/ports.h"
#include "io/ports/surfaces.h"
#include "io/ports/udp.h"

namespace mellow::io {

inline constexpr std::string_view oscScheme = "osc.udp://";
/// Where OSC sources are heard that no controller brings in.
inline constexpr std::string_view usualOscPort = "osc.udp://:7707";
/// Only this machine, and all of its networks.
inline constexpr std::string_view thisMachine = "127.0.0.1";
inline constexpr std::string_view allNetworks = "0.0.0.0";

/// True of a port's name that stands for a place on the network.
bool isOscPort(std::string_view name);

class OscLink : public Ports {
 public:
    OscLink() = default;
    ~OscLink() override;
    OscLink(const OscLink&) = delete;
    OscLink& operator=(const OscLink&) = delete;

    /// Opens and closes what is needed. Editing side.
    void want(const PortNames& names) override;
    /// On which address of this machine a port listens; of those not named, on thisMachine. Editing side.
    void openTo(const std::string& name, const std::string& address);
    [[nodiscard]] std::vector<PortState> present() const override;
    [[nodiscard]] std::vector<Problem> problems() const override;
    [[nodiscard]] bool active() const { return !servers_.empty() || sending_; }

    /// What is listened to, and who sent there last ("HOST:PORT"; empty: nobody).
    struct Listening {
        std::string name;
        std::string address;
        std::string lastFrom;
    };
    [[nodiscard]] std::vector<Listening> listening() const;

    /// Whoever has moved an element of the desk, and is told where the elements stand. Any thread.
    [[nodiscard]] Surfaces& surfaces() { return surfaces_; }

 private:
    struct Server {
        OscLink* link = nullptr;
        engine::PortId port = 0;
        std::string name;
        std::string address;
        std::shared_ptr<UdpSocket> socket = std::make_shared<UdpSocket>();
        mutable std::mutex naming;
        std::string lastFrom;
        std::atomic<bool> stopping{false};
        std::thread thread;
        ~Server();
        void listen();
    };

    void openServers();
    template<class Which>
    void closeServers(Which&& which);
    void hear(Server& server, const UdpSocket::Packet& packet, std::span<char> bytes);
    void sendAll();

    PortNames ports_;
    std::vector<Problem> problems_;
    std::map<std::string, std::string> openTo_;
    std::mutex pushing_;  ///< several servers share the player's ring
    struct Place {
        std::string name;  ///< of the port
        std::string host;
        int port = 0;
    };
    std::map<engine::PortId, Place> places_;
    mutable std::mutex addressing_;
    HostNames hosts_;
    std::atomic<bool> sending_{false};
    Surfaces surfaces_{[this] { tellChange(); }};
    std::vector<std::unique_ptr<Server>> servers_;
    std::thread sender_;
};

}  // namespace mellow::io
