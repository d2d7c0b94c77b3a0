// Messages of all input ports are gathered into one list by frame, the player is run up to the end of the
// period, and what it sends is written into its port's buffer at its frame as it comes. A port with more
// connections than before has been connected anew, and what was sent there is forgotten.
#include "io/jack_backend.h"

#include <jack/midiport.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <thread>

namespace mellow::io {

namespace {

constexpr std::size_t mostIncoming = 8192;

void beQuiet(const char*) {}

}  // namespace

Outcome JackBackend::start(Player& player) {
    jack_set_error_function(beQuiet);
    jack_set_info_function(beQuiet);
    const auto options =
        static_cast<jack_options_t>(server_.empty() ? JackNoStartServer : JackNoStartServer | JackServerName);
    jack_status_t status{};
    client_ = jack_client_open("Mellow Lever", options, &status, server_.c_str());
    if (client_ == nullptr)
        return Problem{"JACK", "no server is running", "start JACK or PipeWire to have MIDI ports"};
    player_ = &player;
    frame_ = 0;
    microsecondsPerFrame_ = 1e6 / jack_get_sample_rate(client_);
    offset_ = std::max<engine::Time>(player.now() + 1, 0);
    incoming_.reserve(mostIncoming);
    lists_.push_back(std::make_unique<PortList>());
    current_.store(lists_.back().get(), std::memory_order_release);
    alive_.store(true, std::memory_order_release);
    jack_set_process_callback(
        client_,
        [](jack_nframes_t frames, void* self) { return static_cast<JackBackend*>(self)->process(frames); },
        this);
    jack_on_shutdown(
        client_,
        [](void* self) { static_cast<JackBackend*>(self)->alive_.store(false, std::memory_order_release); },
        this);
    adjust(wanted_);
    if (jack_activate(client_) != 0) {
        stop();
        return Problem{"JACK", "the server refused to let Mellow Lever play", "restart JACK"};
    }
    return Done{};
}

void JackBackend::stop() {
    if (client_ == nullptr) return;
    if (alive()) jack_deactivate(client_);
    jack_client_close(client_);
    client_ = nullptr;
    alive_.store(false, std::memory_order_release);
    current_.store(nullptr, std::memory_order_release);
    lists_.clear();
}

std::string JackBackend::clientName() const {
    return client_ == nullptr ? std::string() : jack_get_client_name(client_);
}

std::string JackBackend::status() const {
    if (!alive()) return "JACK has stopped";
    const PortList& ports = *lists_.back();
    return "JACK: " + std::to_string(ports.inputs.size()) + " in, " + std::to_string(ports.outputs.size()) +
           " out, " + std::to_string(jack_get_sample_rate(client_)) + " Hz, " +
           std::to_string(jack_get_buffer_size(client_)) + " frames";
}

void JackBackend::wantPorts(const PortNames& names) {
    if (names == wanted_) return;
    wanted_ = names;
    if (client_ != nullptr && alive()) adjust(names);
}

std::vector<JackBackend::Port> JackBackend::adjusted(const std::vector<Port>& present,
                                                     const std::vector<std::string>& names,
                                                     unsigned long flags) {
    std::vector<Port> ports;
    for (const std::string& name : names) {
        const auto kept =
            std::find_if(present.begin(), present.end(), [&](const Port& port) { return port.name == name; });
        if (kept != present.end()) {
            ports.push_back(*kept);
            continue;
        }
        jack_port_t* made = jack_port_register(client_, name.c_str(), JACK_DEFAULT_MIDI_TYPE, flags, 0);
        if (made == nullptr) continue;
        Port port;
        port.port = made;
        port.id = player_->portId(name);
        port.name = name;
        ports.push_back(std::move(port));
    }
    return ports;
}

void JackBackend::adjust(const PortNames& names) {
    const PortList& before = *lists_.back();
    auto list = std::make_unique<PortList>();
    list->inputs = adjusted(before.inputs, names.inputs, JackPortIsInput);
    list->outputs = adjusted(before.outputs, names.outputs, JackPortIsOutput);
    current_.store(list.get(), std::memory_order_release);
    waitForCycle();
    const auto removeOld = [this](const std::vector<Port>& old, const std::vector<Port>& now) {
        for (const Port& port : old) {
            const bool kept = std::any_of(now.begin(), now.end(),
                                          [&](const Port& other) { return other.port == port.port; });
            if (!kept) jack_port_unregister(client_, port.port);
        }
    };
    removeOld(before.inputs, list->inputs);
    removeOld(before.outputs, list->outputs);
    lists_.clear();
    lists_.push_back(std::move(list));
}

/// Until the callback has run once more, or does not run (not active yet, or a stalled server).
void JackBackend::waitForCycle() const {
    const std::uint64_t seen = cycles_.load(std::memory_order_acquire);
    if (seen == 0) return;
    const auto limit = std::chrono::steady_clock::now() + std::chrono::milliseconds(500);
    while (cycles_.load(std::memory_order_acquire) < seen + 2 && alive() &&
           std::chrono::steady_clock::now() < limit) {
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
}

engine::Time JackBackend::timeOf(std::uint64_t frame) const {
    return offset_ +
           static_cast<engine::Time>(std::floor(static_cast<double>(frame) * microsecondsPerFrame_));
}

void JackBackend::gather(const PortList& ports, jack_nframes_t frames) {
    incoming_.clear();
    for (const Port& port : ports.inputs) {
        void* buffer = jack_port_get_buffer(port.port, frames);
        if (buffer == nullptr) continue;
        const std::uint32_t count = jack_midi_get_event_count(buffer);
        for (std::uint32_t i = 0; i < count && incoming_.size() < mostIncoming; ++i) {
            jack_midi_event_t event;
            if (jack_midi_event_get(&event, buffer, i) != 0) continue;
            const midi::Bytes bytes{event.buffer, event.size};
            if (midi::isWhole(bytes)) incoming_.push_back({timeOf(frame_ + event.time), port.id, bytes});
        }
    }
    // An insertion sort keeps the order of ports at one frame, and allocates nothing.
    for (std::size_t i = 1; i < incoming_.size(); ++i) {
        for (std::size_t j = i; j > 0 && incoming_[j].time < incoming_[j - 1].time; --j)
            std::swap(incoming_[j], incoming_[j - 1]);
    }
}

/// Whoever has just been connected to an output has heard nothing of what was sent there before.
void JackBackend::noticeConnections(const PortList& ports) {
    for (const Port& port : ports.outputs) {
        const int now = jack_port_connected(port.port);
        if (now > port.connections->exchange(now, std::memory_order_relaxed)) player_->heardAnew(port.id);
    }
}

int JackBackend::process(jack_nframes_t frames) {
    const PortList* ports = current_.load(std::memory_order_acquire);
    if (ports == nullptr) return 0;
    for (const Port& port : ports->outputs) {
        if (void* buffer = jack_port_get_buffer(port.port, frames)) jack_midi_clear_buffer(buffer);
    }
    noticeConnections(*ports);
    gather(*ports, frames);
    auto send = [&](const engine::Output& output) {
        for (const Port& port : ports->outputs) {
            if (port.id != output.port) continue;
            const auto since = static_cast<double>(output.time - offset_);
            const auto frame = static_cast<std::int64_t>(std::ceil(since / microsecondsPerFrame_ - 1e-6)) -
                               static_cast<std::int64_t>(frame_);
            const auto place = static_cast<jack_nframes_t>(std::clamp<std::int64_t>(frame, 0, frames - 1));
            void* buffer = jack_port_get_buffer(port.port, frames);
            if (buffer != nullptr)
                jack_midi_event_write(buffer, place, output.bytes.data(), output.bytes.size());
        }
    };
    player_->cycle(incoming_, timeOf(frame_ + frames - 1), engine::sinkTo(send));
    frame_ += frames;
    cycles_.fetch_add(1, std::memory_order_acq_rel);
    return 0;
}

}  // namespace mellow::io
