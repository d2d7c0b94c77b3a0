// A socket for each port that is listened on, each with its own thread; what they hear goes into the player's
// ring under one lock, since that ring has one end. One more thread waits until the player has something to
// send, and sends it. Opening and closing happen on the editing side, and threads are gone before what they
// use is.
#include "io/ports/osc_link.h"

#include <algorithm>
#include <array>
#include <chrono>

#include "io/ports/osc_packet.h"

namespace mellow::io {

namespace {

constexpr std::size_t largestPacket = 65536;

std::vector<std::string> onlyOsc(std::vector<std::string> names) {
    std::erase_if(names, [](const std::string& name) { return !isOscPort(name); });
    return names;
}

/// "osc.udp://HOST:PORT" in its two parts; the host may be empty.
std::pair<std::string, std::string> parted(const std::string& name) {
    const std::string place =
        name.substr(oscScheme.size(), name.find('/', oscScheme.size()) - oscScheme.size());
    const std::size_t colon = place.rfind(':');
    if (colon == std::string::npos) return {place, {}};
    return {place.substr(0, colon), place.substr(colon + 1)};
}

/// A port's number; 0: it is none.
int networkPort(const std::string& text) {
    const bool digits =
        !text.empty() && text.size() <= 5 && text.find_first_not_of("0123456789") == std::string::npos;
    const int number = digits ? std::stoi(text) : 0;
    return number <= 65535 ? number : 0;
}

/// How much may be heard: more than ten fingers send, and then no more than so many in a second.
class Allowance {
 public:
    bool spend() {
        constexpr double most = 2000;
        constexpr double aSecond = 12000;
        const auto now = std::chrono::steady_clock::now();
        left_ = std::min(most, left_ + aSecond * std::chrono::duration<double>(now - since_).count());
        since_ = now;
        if (left_ < 1) return false;
        left_ -= 1;
        return true;
    }

 private:
    std::chrono::steady_clock::time_point since_ = std::chrono::steady_clock::now();
    double left_ = 2000;
};

}  // namespace

bool isOscPort(std::string_view name) {
    return name.starts_with(oscScheme);
}

OscLink::Server::~Server() {
    stopping = true;
    socket->wake();
    if (thread.joinable()) thread.join();
}

void OscLink::Server::listen() {
    std::vector<char> bytes(largestPacket);
    Allowance allowance;
    while (socket->await() && !stopping) {
        while (const auto packet = socket->receive(bytes)) {
            if (stopping) return;
            if (allowance.spend()) {
                link->hear(*this, *packet, std::span(bytes).first(packet->size));
                continue;
            }
            // The system keeps what its room holds, and drops the rest.
            constexpr std::chrono::milliseconds breath(20);
            std::this_thread::sleep_for(breath);
            break;
        }
    }
}

OscLink::~OscLink() {
    OscLink::want({});
}

void OscLink::hear(Server& server, const UdpSocket::Packet& packet, std::span<char> bytes) {
    {
        const std::lock_guard lock(server.naming);
        server.lastFrom = placeText(packet.from);
    }
    const std::size_t size = bytes.size();
    readOsc(bytes, [&](std::string_view address, std::optional<double> number) {
        const bool isDesk = address == deskAddress || elementAddress(address);
        if (isDesk) surfaces_.hear(server.socket, packet.from, size, address, number);
        if (!number) return;
        const std::lock_guard lock(pushing_);
        player_->receiveOsc(server.port, address, *number);
    });
}

std::vector<PortState> OscLink::present() const {
    std::vector<PortState> states;
    for (const auto& server : servers_) states.push_back({server->name, true, true, "OSC"});
    for (const std::string& name : ports_.outputs) states.push_back({name, false, true, "OSC"});
    return states;
}

std::vector<OscLink::Listening> OscLink::listening() const {
    std::vector<Listening> all;
    for (const auto& server : servers_) {
        const std::lock_guard lock(server->naming);
        all.push_back({server->name, server->address, server->lastFrom});
    }
    return all;
}

std::vector<Problem> OscLink::problems() const {
    std::vector<Problem> all = problems_;
    const std::vector<std::string> unknown = hosts_.unknown();
    const std::lock_guard lock(addressing_);
    for (const auto& [port, place] : places_) {
        if (std::find(unknown.begin(), unknown.end(), place.host) != unknown.end())
            all.push_back({place.name, "no host of this name is known, so nothing is sent there",
                           "correct the name; it is looked for again and again"});
    }
    return all;
}

void OscLink::openTo(const std::string& name, const std::string& address) {
    const std::string before = openTo_.contains(name) ? openTo_[name] : std::string(thisMachine);
    openTo_[name] = address.empty() ? std::string(thisMachine) : address;
    if (before == openTo_[name]) return;
    closeServers([&](const Server& server) { return server.name == name; });
    openServers();
    tellChange();
}

/// Their threads are gone before it is forgotten who came in there.
template<class Which>
void OscLink::closeServers(Which&& which) {
    std::vector<std::shared_ptr<const UdpSocket>> closed;
    std::erase_if(servers_, [&](const auto& server) {
        if (!which(*server)) return false;
        closed.push_back(server->socket);
        return true;
    });
    for (const auto& socket : closed) surfaces_.forget(socket.get());
}

void OscLink::openServers() {
    std::erase_if(problems_, [this](const Problem& problem) {
        return std::find(ports_.inputs.begin(), ports_.inputs.end(), problem.where) != ports_.inputs.end();
    });
    for (const std::string& name : ports_.inputs) {
        const auto isOpen = [&](const auto& server) { return server->name == name; };
        if (std::any_of(servers_.begin(), servers_.end(), isOpen)) continue;
        auto server = std::make_unique<Server>();
        server->link = this;
        server->name = name;
        const auto chosen = openTo_.find(name);
        server->address = chosen == openTo_.end() ? std::string(thisMachine) : chosen->second;
        server->port = player_->ports().of(name);
        const int number = networkPort(parted(name).second);
        const bool bound = number > 0 && server->socket->bind(server->address, number);
        if (!bound) {
            problems_.push_back({name, "OSC cannot be heard there",
                                 "choose a port number from 1024 to 65535 that no other program uses"});
            continue;
        }
        server->thread = std::thread([listening = server.get()] { listening->listen(); });
        servers_.push_back(std::move(server));
    }
}

void OscLink::want(const PortNames& names) {
    const PortNames ports{onlyOsc(names.inputs), onlyOsc(names.outputs)};
    if (ports == ports_) return;
    ports_ = ports;
    problems_.clear();
    closeServers([&](const Server& server) {
        return std::find(ports.inputs.begin(), ports.inputs.end(), server.name) == ports.inputs.end();
    });
    openServers();
    const bool wanted = !ports.outputs.empty();
    if (!wanted && sending_.exchange(false)) {
        player_->endOsc();
        sender_.join();
    }
    {
        const std::lock_guard lock(addressing_);
        places_.clear();
        for (const std::string& name : ports.outputs) {
            const auto [host, number] = parted(name);
            const int port = networkPort(number);
            if (port == 0) {
                problems_.push_back({name, "OSC cannot be sent there", "write osc.udp://HOST:PORT"});
            } else {
                const std::string where =
                    host.empty() || host == "localhost" ? std::string(thisMachine) : host;
                places_[player_->ports().of(name)] = {name, where, port};
                (void)hosts_.find(where, port);
            }
        }
    }
    if (wanted && !sending_.exchange(true)) sender_ = std::thread([this] { sendAll(); });
    tellChange();
}

/// The sending thread: what the playing side left in the ring goes to the network, if it is known where that
/// is.
void OscLink::sendAll() {
    UdpSocket socket;
    if (!socket.bind(std::string(allNetworks), 0)) return;
    while (sending_) {
        OscMessage message;
        if (!player_->awaitOsc(message)) continue;
        std::optional<sockaddr_in> to;
        {
            const std::lock_guard lock(addressing_);
            const auto place = places_.find(message.port);
            if (place != places_.end()) to = hosts_.find(place->second.host, place->second.port);
        }
        if (to)
            socket.send(*to, OscPacket(message.address.data(), static_cast<float>(message.number)).bytes());
    }
}

}  // namespace mellow::io
