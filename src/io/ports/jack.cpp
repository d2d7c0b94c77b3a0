// Messages of all input ports are gathered with their frames, everything is played up to the end of the
// period, and what leaves is written into its port's buffer at its frame as it comes. A port with more
// connections than before has been connected anew, and what was sent there is forgotten. Buffers are there
// only inside the callback, so a cycle that another clock drives finds nothing here.
#include "io/ports/jack.h"

#include <jack/midiport.h>
#include <jack/transport.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <set>
#include <thread>
#include <utility>

#include "io/ports/jack_library.h"
#include "io/ports/osc_link.h"

namespace mellow::io {

namespace {

/// What bridges from cables put into events need not be whole messages: a long SysEx comes in pieces, and
/// some leave running status as it was.
constexpr std::size_t longestSysex = std::size_t{1} << 16;

void beQuiet(const char*) {}

bool contains(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

template<class Act>
void Jack::callThrough(void* link, Act&& act) {
    auto& through = *static_cast<Link*>(link);
    through.calls.fetch_add(1);
    if (Jack* const self = through.jack.load()) act(*self);
    through.calls.fetch_sub(1);
}

/// From now on no client calls anybody here.
void Jack::endCalls() {
    link_->jack.store(nullptr);
    while (link_->calls.load() > 0) std::this_thread::sleep_for(std::chrono::milliseconds(1));
}

/// Takes the client that was opened, begins to open one, or waits for one that is being opened.
bool Jack::open(std::chrono::milliseconds patience) {
    if (opening_ == nullptr) {
        jack_set_error_function(beQuiet);
        jack_set_info_function(beQuiet);
        opening_ = std::make_shared<Opening>();
        std::thread([opening = opening_, server = server_] {
            const auto options = static_cast<jack_options_t>(
                server.empty() ? JackNoStartServer : JackNoStartServer | JackServerName);
            jack_status_t status{};
            awaitLeavingJack();
            jack_client_t* client = jack_client_open("Mellow Lever", options, &status, server.c_str());
            const std::lock_guard lock(opening->mutex);
            if (opening->unwanted && client != nullptr) jack_client_close(client);
            opening->client = opening->unwanted ? nullptr : client;
            opening->done = true;
            opening->finished.notify_all();
        }).detach();
    }
    {
        std::unique_lock lock(opening_->mutex);
        if (!opening_->finished.wait_for(lock, patience, [this] { return opening_->done; })) return false;
        client_ = std::exchange(opening_->client, nullptr);
    }
    opening_.reset();
    if (client_ == nullptr) return false;
    link_ = std::make_shared<Link>();
    link_->jack.store(this);
    cycles_.store(0, std::memory_order_release);
    alive_.store(true, std::memory_order_release);
    jack_on_shutdown(
        client_,
        [](void* link) {
            callThrough(link, [](Jack& self) {
                self.alive_.store(false, std::memory_order_release);
                self.tellChange();
            });
        },
        link_.get());
    return true;
}

namespace {

std::int64_t steadyNow() {
    return std::chrono::duration_cast<std::chrono::nanoseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
}

}  // namespace

bool Jack::alive() const {
    constexpr std::int64_t longest = 1'000'000'000;  // ns
    if (!alive_.load(std::memory_order_acquire)) return false;
    if (cycles_.load(std::memory_order_acquire) == 0) return true;
    return steadyNow() - lastCycle_.load(std::memory_order_acquire) < longest;
}

/// A server that has not called for longer than any period lasts is not asked for anything, since whoever
/// asks would wait for it.
bool Jack::answers() const {
    constexpr std::int64_t longest = 250'000'000;  // ns
    if (client_ == nullptr || !alive_.load(std::memory_order_acquire)) return false;
    if (cycles_.load(std::memory_order_acquire) == 0) return true;
    return steadyNow() - lastCycle_.load(std::memory_order_acquire) < longest;
}

namespace {

/// How long a server that is well takes to answer, at most.
constexpr std::chrono::milliseconds aMoment(300);

}  // namespace

bool Jack::isWaiting() const {
    if (opening_ == nullptr || std::chrono::steady_clock::now() - opening_->begun < aMoment) return false;
    const std::lock_guard lock(opening_->mutex);
    return !opening_->done;
}

Outcome Jack::start(Driven& driven) {
    if (client_ != nullptr && !alive()) stop();
    const auto patience = std::exchange(waitsForServer_, false) ? aMoment : std::chrono::milliseconds(0);
    if (client_ == nullptr && !open(patience)) {
        if (isWaiting()) return Problem{"JACK", "the server does not answer", "restart JACK"};
        return Problem{"JACK", "no server is running", "start JACK or PipeWire to have MIDI ports"};
    }
    driven_ = &driven;
    frame_ = 0;
    microsecondsPerFrame_ = 1e6 / jack_get_sample_rate(client_);
    offset_ = std::max<engine::Time>(driven.now() + 1, 0);
    lists_.push_back(std::make_unique<PortList>());
    current_.store(lists_.back().get(), std::memory_order_release);
    jack_set_process_callback(
        client_,
        [](jack_nframes_t frames, void* link) {
            callThrough(link, [frames](Jack& self) { self.process(frames); });
            return 0;
        },
        link_.get());
    listenToTheGraph();
    wiring_.lost();
    adjust(wanted_);
    isActive_ = true;
    if (jack_activate(client_) != 0) {
        stop();
        return Problem{"JACK", "the server refused to let Mellow Lever play", "restart JACK"};
    }
    tend();
    return Done{};
}

/// What others do with ports is only noted in JACK's callbacks, from which the graph must not be changed.
void Jack::listenToTheGraph() {
    jack_set_port_registration_callback(
        client_,
        [](jack_port_id_t, int registered, void* link) {
            callThrough(link, [registered](Jack& self) {
                if (registered == 0) self.someoneLeft_.store(true, std::memory_order_release);
                self.rewired_.store(true, std::memory_order_release);
                self.tellChange();
            });
        },
        link_.get());
    jack_set_port_connect_callback(
        client_,
        [](jack_port_id_t, jack_port_id_t, int, void* link) {
            callThrough(link, [](Jack& self) {
                self.rewired_.store(true, std::memory_order_release);
                self.tellChange();
            });
        },
        link_.get());
    rewired_.store(true, std::memory_order_release);
}

/// A server that answers is taken leave of; of one that does not the client is closed aside, and nobody's
/// callbacks are called by it any more.
void Jack::stop() {
    if (opening_ != nullptr) {
        const std::lock_guard lock(opening_->mutex);
        opening_->unwanted = true;
        if (opening_->client != nullptr) {
            beginToLeaveJack();
            std::thread([client = std::exchange(opening_->client, nullptr)] {
                jack_client_close(client);
                haveLeftJack();
            }).detach();
        }
    }
    opening_.reset();
    if (client_ == nullptr) return;
    const bool deactivates = alive_.load(std::memory_order_acquire);
    if (!lists_.empty()) leavePorts();
    const bool waits = answers();
    if (!waits) endCalls();
    struct Closing {
        std::mutex mutex;
        std::condition_variable finished;
        bool done = false;
    };
    auto closing = std::make_shared<Closing>();
    beginToLeaveJack();
    std::thread([closing, client = client_, link = link_, deactivates] {
        if (deactivates) jack_deactivate(client);
        jack_client_close(client);
        haveLeftJack();
        const std::lock_guard lock(closing->mutex);
        closing->done = true;
        closing->finished.notify_all();
    }).detach();
    if (waits) {
        constexpr std::chrono::milliseconds longest(1000);
        std::unique_lock lock(closing->mutex);
        closing->finished.wait_for(lock, longest, [&] { return closing->done; });
    }
    endCalls();
    client_ = nullptr;
    isActive_ = false;
    alive_.store(false, std::memory_order_release);
    current_.store(nullptr, std::memory_order_release);
    lists_.clear();
}

/// Keys that are down when the server goes will not be heard coming up.
void Jack::leavePorts() {
    for (const Port& port : lists_.back()->inputs) player_->letGo(port.id);
    for (const Port& port : lists_.back()->outputs) {
        if (port.ends->known && !contains(reached_, port.name)) reached_.push_back(port.name);
    }
}

std::vector<Wire> Jack::connectedNow() const {
    std::vector<Wire> wires;
    const auto add = [&](const std::vector<Port>& ports, bool input) {
        for (const Port& port : ports) {
            const char** others = jack_port_get_all_connections(client_, port.port);
            for (std::size_t i = 0; others != nullptr && others[i] != nullptr; ++i)
                wires.push_back({port.name, others[i], input});
            jack_free(others);
        }
    };
    add(lists_.back()->inputs, true);
    add(lists_.back()->outputs, false);
    return wires;
}

/// Of this program's end.
std::string Jack::fullNameOf(const Wire& wire) const {
    const PortList& ports = *lists_.back();
    const auto& side = wire.input ? ports.inputs : ports.outputs;
    const auto found =
        std::find_if(side.begin(), side.end(), [&wire](const Port& port) { return port.name == wire.ours; });
    return clientName() + ":" + (found == side.end() ? wire.ours : found->label);
}

void Jack::connectAgain(const std::vector<Wire>& wires) {
    for (const Wire& wire : wires) {
        const std::string ours = fullNameOf(wire);
        jack_connect(client_, (wire.input ? wire.theirs : ours).c_str(),
                     (wire.input ? ours : wire.theirs).c_str());
    }
}

PortNames Jack::others() const {
    PortNames names;
    if (client_ == nullptr || !alive()) return names;
    const std::string own = clientName() + ":";
    const auto add = [&](std::vector<std::string>& into, unsigned long flags) {
        const char** ports = jack_get_ports(client_, nullptr, JACK_DEFAULT_MIDI_TYPE, flags);
        for (std::size_t i = 0; ports != nullptr && ports[i] != nullptr; ++i) {
            if (!std::string_view(ports[i]).starts_with(own)) into.emplace_back(ports[i]);
        }
        jack_free(ports);
    };
    // What sends is an output of its program, and comes in here.
    add(names.inputs, JackPortIsOutput);
    add(names.outputs, JackPortIsInput);
    return names;
}

void Jack::connect(const Wire& wire) {
    if (answers()) connectAgain({wire});
}

void Jack::disconnect(const Wire& wire) {
    if (!answers()) {
        wiring_.forget(wire);
        return;
    }
    const std::string ours = fullNameOf(wire);
    jack_disconnect(client_, (wire.input ? wire.theirs : ours).c_str(),
                    (wire.input ? ours : wire.theirs).c_str());
    wiring_.forget(wire);
}

void Jack::tend() {
    if (!answers() || lists_.empty()) return;
    if (std::exchange(adjustsLater_, false)) adjust(wanted_);
    if (lists_.size() > 1 && leftOldLists()) removeOldLists();
    if (!rewired_.exchange(false, std::memory_order_acq_rel)) return;
    const bool someoneLeft = someoneLeft_.exchange(false, std::memory_order_acq_rel);
    const auto exists = [this](const std::string& port) {
        return jack_port_by_name(client_, port.c_str()) != nullptr;
    };
    connectAgain(wiring_.follow(connectedNow(), exists, someoneLeft));
}

std::string Jack::clientName() const {
    return client_ == nullptr ? std::string() : jack_get_client_name(client_);
}

std::string Jack::status() const {
    if (!alive_.load(std::memory_order_acquire)) return "JACK has stopped";
    if (!answers()) return "JACK does not answer";
    const PortList& ports = *lists_.back();
    return "JACK: " + std::to_string(ports.inputs.size()) + " in, " + std::to_string(ports.outputs.size()) +
           " out, " + std::to_string(jack_get_sample_rate(client_)) + " Hz, " +
           std::to_string(jack_get_buffer_size(client_)) + " frames";
}

Clock::Word Jack::word() const {
    if (!alive_.load(std::memory_order_acquire)) return {"JACK has stopped", Word::Health::ill};
    if (!answers()) return {"JACK does not answer", Word::Health::ill};
    return {"JACK " + std::to_string(jack_get_buffer_size(client_)), Word::Health::well};
}

void Jack::want(const PortNames& names) {
    const auto isElsewhere = [](const std::string& name) {
        return isOscPort(name) || name == practiceRackPort;
    };
    PortNames own = names;
    std::erase_if(own.inputs, isElsewhere);
    std::erase_if(own.outputs, isElsewhere);
    if (own == wanted_) return;
    wanted_ = std::move(own);
    if (answers() && !lists_.empty()) {
        adjust(wanted_);
    } else {
        adjustsLater_ = true;
    }
}

std::vector<PortState> Jack::present() const {
    std::vector<PortState> states;
    if (client_ == nullptr || !alive()) return states;
    const auto add = [&states](const std::vector<Port>& ports, bool input) {
        for (const Port& port : ports)
            states.push_back({port.name, input, jack_port_connected(port.port) > 0, "JACK"});
    };
    add(lists_.back()->inputs, true);
    add(lists_.back()->outputs, false);
    return states;
}

std::vector<Jack::Port> Jack::adjusted(const std::vector<Port>& present,
                                       const std::vector<std::string>& names, unsigned long flags) {
    std::vector<Port> ports;
    for (const std::string& name : names) {
        const auto kept =
            std::find_if(present.begin(), present.end(), [&](const Port& port) { return port.name == name; });
        if (kept != present.end()) {
            ports.push_back(*kept);
            continue;
        }
        Port port;
        port.label = name;
        jack_port_t* made = jack_port_register(client_, name.c_str(), JACK_DEFAULT_MIDI_TYPE, flags, 0);
        if (made == nullptr) {
            port.label += (flags & JackPortIsOutput) != 0 ? " (out)" : " (in)";
            made = jack_port_register(client_, port.label.c_str(), JACK_DEFAULT_MIDI_TYPE, flags, 0);
        }
        if (made == nullptr) continue;
        port.port = made;
        port.id = player_->portId(name);
        port.name = name;
        if ((flags & JackPortIsOutput) != 0) {
            port.ends->known = contains(reached_, name);
        } else {
            port.reader = std::make_shared<midi::StreamReader>(longestSysex);
            port.reader->makeRoom();
        }
        ports.push_back(std::move(port));
    }
    return ports;
}

void Jack::adjust(const PortNames& names) {
    const PortList& before = *lists_.back();
    auto list = std::make_unique<PortList>();
    list->inputs = adjusted(before.inputs, names.inputs, JackPortIsInput);
    list->outputs = adjusted(before.outputs, names.outputs, JackPortIsOutput);
    lists_.push_back(std::move(list));
    current_.store(lists_.back().get(), std::memory_order_release);
    listedAt_ = cycles_.load(std::memory_order_acquire);
    // A period or two, as a rule; where it takes longer, tend() does the rest.
    constexpr std::chrono::milliseconds aPeriodOrTwo(40);
    const auto limit = std::chrono::steady_clock::now() + aPeriodOrTwo;
    while (!leftOldLists() && alive() && std::chrono::steady_clock::now() < limit)
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    if (leftOldLists()) removeOldLists();
    tellChange();
}

/// The callback has begun anew since the newest list came, or does not run at all yet.
bool Jack::leftOldLists() const {
    return !isActive_ || cycles_.load(std::memory_order_acquire) >= listedAt_ + 2;
}

/// Ports that the newest list does not have are given back.
void Jack::removeOldLists() {
    std::set<jack_port_t*> goes;
    for (const auto& list : lists_) {
        const bool stays = list == lists_.back();
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
    for (jack_port_t* port : goes) jack_port_unregister(client_, port);
    lists_.erase(lists_.begin(), lists_.end() - 1);
}

engine::Time Jack::timeOf(std::uint64_t frame) const {
    return offset_ +
           static_cast<engine::Time>(std::floor(static_cast<double>(frame) * microsecondsPerFrame_));
}

void Jack::gather(Arrivals& arrivals) {
    if (playing_ == nullptr) return;
    noticeConnections(*playing_, arrivals);
    for (const Port& port : playing_->inputs) {
        void* buffer = jack_port_get_buffer(port.port, frames_);
        if (buffer == nullptr) continue;
        const std::uint32_t count = jack_midi_get_event_count(buffer);
        for (std::uint32_t i = 0; i < count; ++i) {
            jack_midi_event_t event;
            if (jack_midi_event_get(&event, buffer, i) != 0) continue;
            const midi::Bytes bytes{event.buffer, event.size};
            const engine::Time time = timeOf(frame_ + event.time);
            port.reader->read(bytes, [&](midi::Bytes message) {
                arrivals.addCopy({time, port.id, message});
            });
        }
    }
}

/// Whoever has just been connected to an output has heard nothing of what was sent there before; who has left
/// an input will not let go of what is held there.
void Jack::noticeConnections(const PortList& ports, Arrivals& arrivals) {
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

bool Jack::send(const engine::Output& output) {
    if (playing_ == nullptr) return false;
    for (const Port& port : playing_->outputs) {
        if (port.id != output.port) continue;
        const auto since = static_cast<double>(output.time - offset_);
        const auto frame = std::llround(since / microsecondsPerFrame_) - static_cast<std::int64_t>(frame_);
        const auto place = static_cast<jack_nframes_t>(std::clamp<std::int64_t>(frame, 0, frames_ - 1));
        void* buffer = jack_port_get_buffer(port.port, frames_);
        if (buffer != nullptr) jack_midi_event_write(buffer, place, output.bytes.data(), output.bytes.size());
        return true;
    }
    return false;
}

int Jack::process(jack_nframes_t frames) {
    const PortList* ports = current_.load(std::memory_order_acquire);
    if (ports == nullptr) return 0;
    for (const Port& port : ports->outputs) {
        if (void* buffer = jack_port_get_buffer(port.port, frames)) jack_midi_clear_buffer(buffer);
    }
    playing_ = ports;
    frames_ = frames;
    jack_position_t position{};
    const bool rolling = jack_transport_query(client_, &position) == JackTransportRolling;
    TransportNow now;
    now.bpm = (position.valid & JackPositionBBT) != 0 ? position.beats_per_minute : 0.0;
    now.rolling = rolling;
    now.position =
        static_cast<engine::Time>(std::floor(static_cast<double>(position.frame) * microsecondsPerFrame_));
    now.at = timeOf(frame_);
    driven_->transport(now);
    // Up to the end of the last frame, since a time inside it belongs to it.
    driven_->cycle(timeOf(frame_ + frames) - 1);
    playing_ = nullptr;
    frame_ += frames;
    lastCycle_.store(steadyNow(), std::memory_order_release);
    cycles_.fetch_add(1, std::memory_order_acq_rel);
    return 0;
}

bool Jack::lead(Lead what, engine::Time position) {
    if (!answers()) return false;
    switch (what) {
        case Lead::start:
            jack_transport_start(client_);
            break;
        case Lead::stop:
            jack_transport_stop(client_);
            break;
        case Lead::locate:
            jack_transport_locate(client_, static_cast<jack_nframes_t>(std::llround(
                                               static_cast<double>(std::max<engine::Time>(position, 0)) /
                                               microsecondsPerFrame_)));
            break;
    }
    return true;
}

}  // namespace mellow::io
