// Messages of all input ports are gathered with their frames, and what leaves is written into its port's
// buffer at its frame as it comes. A port with more connections than before has been connected anew, and what
// was sent there is forgotten. Buffers are there only inside the callback, so a cycle that another clock
// drives finds nothing here.
#include "io/ports/jack_ports.h"

#include <jack/midiport.h>

#include <algorithm>
#include <chrono>
#include <set>
#include <utility>

#include "io/ports/jack_waiting.h"
#include "io/ports/osc_link.h"

namespace mellow::io {

namespace {

/// What bridges from cables put into events need not be whole messages: a long SysEx comes in pieces, and
/// some leave running status as it was.
constexpr std::size_t longestSysex = std::size_t{1} << 16;

bool contains(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

void JackPorts::begin() {
    lists_.hand(std::make_unique<PortList>());
    rewired_.store(true, std::memory_order_release);
    wiring_.lost();
    adjust(wanted_);
}

void JackPorts::end() {
    if (!lists_.empty()) leavePorts();
    lists_.clear();
    signs_.forget();
}

/// What others do with ports is only noted in JACK's callbacks, from which the graph must not be changed.
void JackPorts::graphChanged(bool someoneLeft) {
    if (someoneLeft) someoneLeft_.store(true, std::memory_order_release);
    rewired_.store(true, std::memory_order_release);
    tellChange();
}

void JackPorts::periodBegins(jack_nframes_t frames) {
    playing_ = lists_.take();
    frames_ = frames;
    if (playing_ == nullptr) return;
    for (const Port& port : playing_->outputs) {
        if (void* buffer = jack_port_get_buffer(port.port, frames)) jack_midi_clear_buffer(buffer);
    }
}

/// Keys that are down when the server goes will not be heard coming up.
void JackPorts::leavePorts() {
    for (const Port& port : lists_.newest().inputs) player_->letGo(port.id);
    for (const Port& port : lists_.newest().outputs) {
        if (port.ends->known && !contains(reached_, port.name)) reached_.push_back(port.name);
    }
}

std::vector<Wire> JackPorts::connectedNow() const {
    std::vector<Wire> wires;
    const auto add = [&](const std::vector<Port>& ports, bool input) {
        for (const Port& port : ports) {
            const char** others = jack_port_get_all_connections(client_.client(), port.port);
            for (std::size_t i = 0; others != nullptr && others[i] != nullptr; ++i)
                wires.push_back({port.name, others[i], input});
            jack_free(others);
        }
    };
    add(lists_.newest().inputs, true);
    add(lists_.newest().outputs, false);
    return wires;
}

/// Of this program's end.
std::string JackPorts::fullNameOf(const Wire& wire) const {
    const PortList& ports = lists_.newest();
    const auto& side = wire.input ? ports.inputs : ports.outputs;
    const auto found =
        std::find_if(side.begin(), side.end(), [&wire](const Port& port) { return port.name == wire.ours; });
    return client_.name() + ":" + (found == side.end() ? wire.ours : found->label);
}

void JackPorts::connectAgain(const std::vector<Wire>& wires) {
    for (const Wire& wire : wires) {
        const std::string ours = fullNameOf(wire);
        jack_connect(client_.client(), (wire.input ? wire.theirs : ours).c_str(),
                     (wire.input ? ours : wire.theirs).c_str());
    }
}

PortNames JackPorts::others() const {
    // What sends is an output of its program, and comes in here.
    return {client_.others(JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput),
            client_.others(JACK_DEFAULT_MIDI_TYPE, JackPortIsInput)};
}

void JackPorts::connect(const Wire& wire) {
    if (client_.answers()) connectAgain({wire});
}

void JackPorts::disconnect(const Wire& wire) {
    if (!client_.answers()) {
        wiring_.forget(wire);
        return;
    }
    const std::string ours = fullNameOf(wire);
    jack_disconnect(client_.client(), (wire.input ? wire.theirs : ours).c_str(),
                    (wire.input ? ours : wire.theirs).c_str());
    wiring_.forget(wire);
}

void JackPorts::tend() {
    if (!client_.answers() || lists_.empty()) return;
    if (std::exchange(adjustsLater_, false)) adjust(wanted_);
    if (std::exchange(signsLater_, false)) sign();
    if (lists_.all().size() > 1 && isDoneWithOldLists()) removeOldLists();
    if (!rewired_.exchange(false, std::memory_order_acq_rel)) return;
    const bool someoneLeft = someoneLeft_.exchange(false, std::memory_order_acq_rel);
    const auto exists = [this](const std::string& port) {
        return jack_port_by_name(client_.client(), port.c_str()) != nullptr;
    };
    connectAgain(wiring_.follow(connectedNow(), exists, someoneLeft));
}

std::string JackPorts::count() const {
    if (lists_.empty()) return {};
    const PortList& ports = lists_.newest();
    return std::to_string(ports.inputs.size()) + " in, " + std::to_string(ports.outputs.size()) + " out";
}

void JackPorts::want(const PortNames& names) {
    const auto isElsewhere = [](const std::string& name) {
        return isOscPort(name) || name == practiceRackPort;
    };
    PortNames own = names;
    std::erase_if(own.inputs, isElsewhere);
    std::erase_if(own.outputs, isElsewhere);
    if (own == wanted_) return;
    wanted_ = std::move(own);
    if (client_.answers() && !lists_.empty()) {
        adjust(wanted_);
    } else {
        adjustsLater_ = true;
    }
}

std::vector<PortState> JackPorts::present() const {
    std::vector<PortState> states;
    if (lists_.empty() || !client_.alive()) return states;
    const auto add = [&states](const std::vector<Port>& ports, bool input) {
        for (const Port& port : ports)
            states.push_back({port.name, input, jack_port_connected(port.port) > 0, "JACK"});
    };
    add(lists_.newest().inputs, true);
    add(lists_.newest().outputs, false);
    return states;
}

JackPorts::Port JackPorts::made(const std::string& name, unsigned long flags) {
    const bool isOutput = (flags & JackPortIsOutput) != 0;
    Port port;
    port.label = name;
    const auto registered = [&] {
        return jack_port_register(client_.client(), port.label.c_str(), JACK_DEFAULT_MIDI_TYPE, flags, 0);
    };
    port.port = registered();
    if (port.port == nullptr) {
        port.label += isOutput ? " (out)" : " (in)";
        port.port = registered();
    }
    port.id = player_->ports().of(name);
    port.name = name;
    if (isOutput) {
        port.ends->known = contains(reached_, name);
    } else {
        port.reader = std::make_shared<midi::StreamReader>(longestSysex);
        port.reader->makeRoom();
    }
    return port;
}

std::vector<JackPorts::Port> JackPorts::adjusted(const std::vector<Port>& present,
                                                 const std::vector<std::string>& names, unsigned long flags) {
    std::vector<Port> ports;
    for (const std::string& name : names) {
        const auto kept =
            std::find_if(present.begin(), present.end(), [&](const Port& port) { return port.name == name; });
        Port port = kept != present.end() ? *kept : made(name, flags);
        if (port.port != nullptr) ports.push_back(std::move(port));
    }
    return ports;
}

void JackPorts::adjust(const PortNames& names) {
    const PortList& before = lists_.newest();
    auto list = std::make_unique<PortList>();
    list->inputs = adjusted(before.inputs, names.inputs, JackPortIsInput);
    list->outputs = adjusted(before.outputs, names.outputs, JackPortIsOutput);
    lists_.hand(std::move(list));
    // A period or two, as a rule; where it takes longer, tend() does the rest.
    constexpr std::chrono::milliseconds aPeriodOrTwo(40);
    awaitCallback(client_, aPeriodOrTwo, [this] { return isDoneWithOldLists(); });
    if (isDoneWithOldLists()) removeOldLists();
    sign();
    tellChange();
}

/// Ports that the newest list does not have are given back.
void JackPorts::removeOldLists() {
    std::set<jack_port_t*> goes;
    for (const auto& list : lists_.all()) {
        const bool stays = list == lists_.all().back();
        for (const std::vector<Port>* ports : {&list->inputs, &list->outputs}) {
            for (const Port& port : *ports) {
                if (stays) {
                    goes.erase(port.port);
                } else {
                    goes.insert(port.port);
                }
            }
        }
    }
    for (jack_port_t* port : goes) {
        signs_.forget(port);
        jack_port_unregister(client_.client(), port);
    }
    lists_.keepNewest();
}

void JackPorts::entitle(std::vector<PortTitle> titles) {
    if (titles == titles_) return;
    titles_ = std::move(titles);
    sign();
}

/// A server that does not answer is told when it does.
void JackPorts::sign() {
    signsLater_ = !client_.answers();
    if (signsLater_ || lists_.empty()) return;
    const auto say = [this](const std::vector<Port>& ports, bool input) {
        for (std::size_t place = 0; place < titles_.size(); ++place) {
            const PortTitle& title = titles_[place];
            const auto found = std::find_if(ports.begin(), ports.end(),
                                            [&title](const Port& port) { return port.name == title.port; });
            if (title.input == input && found != ports.end())
                signs_.say(client_.client(), found->port, title.title, static_cast<int>(place));
        }
    };
    say(lists_.newest().inputs, true);
    say(lists_.newest().outputs, false);
}

void JackPorts::gather(Arrivals& arrivals) {
    if (playing_ == nullptr) return;
    noticeConnections(*playing_, arrivals);
    for (const Port& port : playing_->inputs) {
        void* buffer = jack_port_get_buffer(port.port, frames_);
        if (buffer == nullptr) continue;
        const std::uint32_t count = jack_midi_get_event_count(buffer);
        for (std::uint32_t i = 0; i < count; ++i) {
            jack_midi_event_t event;
            if (jack_midi_event_get(&event, buffer, i) != 0) continue;
            const engine::Time time = client_.timeOf(event.time);
            port.reader->read({event.buffer, event.size}, [&](midi::Bytes message) {
                arrivals.addCopy({time, port.id, message});
            });
        }
    }
}

/// Whoever has just been connected to an output has heard nothing of what was sent there before; who has left
/// an input will not let go of what is held there.
void JackPorts::noticeConnections(const PortList& ports, Arrivals& arrivals) {
    using engine::Engine;
    for (const Port& port : ports.outputs) {
        Port::Ends& ends = *port.ends;
        const int now = jack_port_connected(port.port);
        const int before = std::exchange(ends.count, now);
        if (now <= before) continue;
        const bool again = before == 0 && std::exchange(ends.known, true);
        arrivals.connected(port.id, again ? Engine::Again::yes : Engine::Again::no);
    }
    for (const Port& port : ports.inputs) {
        const int now = jack_port_connected(port.port);
        if (now < std::exchange(port.ends->count, now)) arrivals.left(port.id);
    }
}

bool JackPorts::send(const engine::Output& output) {
    if (playing_ == nullptr) return false;
    for (const Port& port : playing_->outputs) {
        if (port.id != output.port) continue;
        const jack_nframes_t frame = client_.frameOf(output.time);
        void* buffer = jack_port_get_buffer(port.port, frames_);
        if (buffer != nullptr) jack_midi_event_write(buffer, frame, output.bytes.data(), output.bytes.size());
        return true;
    }
    return false;
}

}  // namespace mellow::io
