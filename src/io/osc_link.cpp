// A server of liblo for each port that is listened on, each with its own thread; what they hear goes into the
// player's ring under one lock, since that ring has one end. One more thread waits until the player has
// something to send, and sends it. Opening and closing happen on the editing side.
#include "io/osc_link.h"

#include <algorithm>

namespace mellow::io {

namespace {

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

bool isNetworkPort(const std::string& text) {
    return !text.empty() && text.size() <= 5 && text.find_first_not_of("0123456789") == std::string::npos &&
           std::stoi(text) > 0 && std::stoi(text) <= 65535;
}

std::optional<double> firstNumber(const char* types, lo_arg** arguments, int count) {
    if (count < 1) return std::nullopt;
    switch (types[0]) {
        case LO_FLOAT:
            return arguments[0]->f;
        case LO_DOUBLE:
            return arguments[0]->d;
        case LO_INT32:
            return arguments[0]->i;
        case LO_INT64:
            return static_cast<double>(arguments[0]->h);
        case LO_TRUE:
            return 1;
        case LO_FALSE:
            return 0;
        default:
            return std::nullopt;
    }
}

}  // namespace

bool isOscPort(std::string_view name) {
    return name.starts_with(oscScheme);
}

OscLink::Server::~Server() {
    if (thread == nullptr) return;
    lo_server_thread_stop(thread);
    lo_server_thread_free(thread);
}

OscLink::~OscLink() {
    OscLink::want({});
}

/// Whoever speaks of the desk is a surface from then on, be it only to say hello to "/desk".
void OscLink::noteSurface(lo_message message, std::string_view path, std::optional<double> number) {
    lo_address from = lo_message_get_source(message);
    if (from == nullptr || lo_address_get_hostname(from) == nullptr) return;
    const std::string host = lo_address_get_hostname(from);
    const std::string port = lo_address_get_port(from);
    const std::string name = host + ":" + port;
    const std::lock_guard lock(surfacing_);
    auto found = std::find_if(surfaces_.begin(), surfaces_.end(),
                              [&name](const auto& surface) { return surface->name == name; });
    if (found == surfaces_.end()) {
        if (surfaces_.size() == mostSurfaces) return;
        auto surface = std::make_unique<Surface>();
        surface->name = name;
        surface->address = lo_address_new_with_proto(LO_UDP, host.c_str(), port.c_str());
        if (surface->address == nullptr) return;
        surfaces_.push_back(std::move(surface));
        found = surfaces_.end() - 1;
        ++greetings_;
        tellChange();
    } else if (path == deskAddress) {
        // It has forgotten what it was told, and where it stood.
        (*found)->shown.clear();
        ++greetings_;
        tellChange();
    }
    constexpr std::size_t mostAddresses = 4096;
    if (number && (*found)->shown.size() < mostAddresses)
        (*found)->shown[std::string(path)] = {static_cast<float>(*number), std::chrono::steady_clock::now()};
}

std::vector<std::string> OscLink::surfaceNames() {
    const std::lock_guard lock(surfacing_);
    std::vector<std::string> names;
    for (const auto& surface : surfaces_) names.push_back(surface->name);
    return names;
}

template<class Add>
void OscLink::tell(const Surface& surface, const std::string& address, Add&& add) {
    lo_message made = lo_message_new();
    add(made);
    lo_send_message(surface.address, address.c_str(), made);
    lo_message_free(made);
}

bool OscLink::tellSurfaces(const std::string& address, double value) {
    const auto now = std::chrono::steady_clock::now();
    const auto stands = static_cast<float>(value);
    bool all = true;
    const std::lock_guard lock(surfacing_);
    for (const auto& surface : surfaces_) {
        const auto shown = surface->shown.find(address);
        const bool isKnown = shown != surface->shown.end();
        if (isKnown && shown->second.value == stands) continue;
        if (isKnown && now - shown->second.finger < fingersLeave) {
            all = false;
            continue;
        }
        tell(*surface, address, [stands](lo_message made) { lo_message_add_float(made, stands); });
        if (isKnown) shown->second.value = stands;
    }
    return all;
}

void OscLink::tellSurfaces(const std::string& address, const std::string& text) {
    const std::lock_guard lock(surfacing_);
    for (const auto& surface : surfaces_)
        tell(*surface, address, [&text](lo_message made) { lo_message_add_string(made, text.c_str()); });
}

int OscLink::heard(const char* path, const char* types, lo_arg** arguments, int count, lo_message message,
                   void* server) {
    const auto& from = *static_cast<Server*>(server);
    const std::string_view address(path);
    const bool isDesk = address == deskAddress || elementAddress(address);
    const auto number = firstNumber(types, arguments, count);
    if (isDesk) from.link->noteSurface(message, address, number);
    if (!number) return 0;
    const std::lock_guard lock(from.link->pushing_);
    from.link->player_->receiveOsc(from.port, path, *number);
    return 0;
}

std::vector<PortState> OscLink::present() const {
    std::vector<PortState> states;
    for (const auto& server : servers_) states.push_back({server->name, true, true, "OSC"});
    for (const std::string& name : ports_.outputs) states.push_back({name, false, true, "OSC"});
    return states;
}

void OscLink::want(const PortNames& names) {
    const PortNames ports{onlyOsc(names.inputs), onlyOsc(names.outputs)};
    if (ports == ports_) return;
    ports_ = ports;
    problems_.clear();
    std::erase_if(servers_, [&](const auto& server) {
        return std::find(ports.inputs.begin(), ports.inputs.end(), server->name) == ports.inputs.end();
    });
    for (const std::string& name : ports.inputs) {
        const auto isOpen = [&](const auto& server) { return server->name == name; };
        if (std::any_of(servers_.begin(), servers_.end(), isOpen)) continue;
        const std::string number = parted(name).second;
        auto server = std::make_unique<Server>();
        server->link = this;
        server->name = name;
        server->port = player_->portId(name);
        const auto silent = [](int, const char*, const char*) {};
        if (isNetworkPort(number))
            server->thread = lo_server_thread_new_with_proto(number.c_str(), LO_UDP, silent);
        if (server->thread == nullptr) {
            problems_.push_back({name, "OSC cannot be heard there",
                                 "choose a port number from 1024 to 65535 that no other program uses"});
            continue;
        }
        lo_server_thread_add_method(server->thread, nullptr, nullptr, heard, server.get());
        lo_server_thread_start(server->thread);
        servers_.push_back(std::move(server));
    }
    const bool wanted = !ports.outputs.empty();
    if (!wanted && sending_.exchange(false)) {
        player_->endOsc();
        sender_.join();
    }
    {
        const std::lock_guard lock(addressing_);
        for (auto& [port, address] : addresses_) lo_address_free(address);
        addresses_.clear();
        for (const std::string& name : ports.outputs) {
            const auto [host, number] = parted(name);
            lo_address address = nullptr;
            if (isNetworkPort(number))
                address = lo_address_new_with_proto(LO_UDP, host.empty() ? "localhost" : host.c_str(),
                                                    number.c_str());
            if (address == nullptr) {
                problems_.push_back({name, "OSC cannot be sent there", "write osc.udp://HOST:PORT"});
            } else {
                addresses_[player_->portId(name)] = address;
            }
        }
    }
    if (wanted && !sending_.exchange(true)) sender_ = std::thread([this] { sendAll(); });
    tellChange();
}

/// The sending thread: what the playing side left in the ring goes to the network.
void OscLink::sendAll() {
    while (sending_) {
        OscMessage message;
        if (!player_->awaitOsc(message)) continue;
        const std::lock_guard lock(addressing_);
        const auto address = addresses_.find(message.port);
        if (address == addresses_.end()) continue;
        lo_message made = lo_message_new();
        lo_message_add_float(made, static_cast<float>(message.number));
        lo_send_message(address->second, message.address.data(), made);
        lo_message_free(made);
    }
}

}  // namespace mellow::io
