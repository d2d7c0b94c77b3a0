// Callbacks find the client through a link of their own, which outlives it: a server that does not answer
// may still call long after its client was given up.
#include "io/ports/jack_client.h"

#include <jack/transport.h>

#include <algorithm>
#include <cmath>
#include <thread>
#include <utility>

#include "io/ports/jack_library.h"
#include "io/ports/jack_teller.h"

namespace mellow::io {

namespace {

void beQuiet(const char*) {}

std::int64_t steadyNow() {
    return std::chrono::duration_cast<std::chrono::nanoseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
}

/// How long a server that is well takes to answer, at most.
constexpr std::chrono::milliseconds aMoment(300);

}  // namespace

template<class Act>
void JackClient::callThrough(void* link, Act&& act) {
    auto& through = *static_cast<Link*>(link);
    through.calls.fetch_add(1);
    if (JackClient* const self = through.client.load()) act(*self);
    through.calls.fetch_sub(1);
}

/// From now on no client calls anybody here.
void JackClient::endCalls() {
    link_->client.store(nullptr);
    while (link_->calls.load() > 0) std::this_thread::sleep_for(std::chrono::milliseconds(1));
}

void JackClient::leave(JackKind& kind) {
    stop();
    std::erase(kinds_, &kind);
}

void JackClient::beginOpening() {
    jack_set_error_function(beQuiet);
    jack_set_info_function(beQuiet);
    opening_ = std::make_shared<Opening>();
    std::thread([opening = opening_, server = server_, name = wishedName_] {
        const auto options = static_cast<jack_options_t>(server.empty() ? JackNoStartServer
                                                                        : JackNoStartServer | JackServerName);
        jack_status_t status{};
        awaitLeavingJack();
        jack_client_t* client = jack_client_open(name.c_str(), options, &status, server.c_str());
        const std::lock_guard lock(opening->mutex);
        if (opening->unwanted && client != nullptr) jack_client_close(client);
        opening->client = opening->unwanted ? nullptr : client;
        opening->done = true;
        opening->finished.notify_all();
    }).detach();
}

/// Takes the client that was opened, begins to open one, or waits for one that is being opened.
bool JackClient::open(std::chrono::milliseconds patience) {
    if (opening_ == nullptr) beginOpening();
    {
        std::unique_lock lock(opening_->mutex);
        if (!opening_->finished.wait_for(lock, patience, [this] { return opening_->done; })) return false;
        client_ = std::exchange(opening_->client, nullptr);
    }
    opening_.reset();
    if (client_ == nullptr) return false;
    link_ = std::make_shared<Link>();
    link_->client.store(this);
    cycles_.store(0, std::memory_order_release);
    alive_.store(true, std::memory_order_release);
    jack_on_shutdown(
        client_,
        [](void* link) {
            callThrough(link, [](JackClient& self) {
                self.alive_.store(false, std::memory_order_release);
                for (JackKind* kind : self.kinds_) kind->serverLeft();
            });
        },
        link_.get());
    return true;
}

bool JackClient::hasCalledWithin(std::int64_t nanoseconds) const {
    if (cycles_.load(std::memory_order_acquire) == 0) return true;
    return steadyNow() - lastCycle_.load(std::memory_order_acquire) < nanoseconds;
}

bool JackClient::alive() const {
    constexpr std::int64_t longest = 1'000'000'000;
    return alive_.load(std::memory_order_acquire) && hasCalledWithin(longest);
}

bool JackClient::answers() const {
    constexpr std::int64_t longest = 250'000'000;
    return client_ != nullptr && alive_.load(std::memory_order_acquire) && hasCalledWithin(longest);
}

bool JackClient::isWaiting() const {
    if (opening_ == nullptr || std::chrono::steady_clock::now() - opening_->begun < aMoment) return false;
    const std::lock_guard lock(opening_->mutex);
    return !opening_->done;
}

Outcome JackClient::start(Driven& driven) {
    if (client_ != nullptr && !alive()) stop();
    const auto patience = std::exchange(waitsForServer_, false) ? aMoment : std::chrono::milliseconds(0);
    if (client_ == nullptr && !open(patience)) {
        if (isWaiting()) return Problem{"JACK", "the server does not answer", "restart JACK"};
        return Problem{"JACK", "no server is running", "start JACK or PipeWire to have MIDI ports"};
    }
    driven_ = &driven;
    frame_ = 0;
    rate_ = static_cast<int>(jack_get_sample_rate(client_));
    microsecondsPerFrame_ = 1e6 / rate_;
    offset_ = std::max<engine::Time>(driven.now() + 1, 0);
    listen();
    introduce(client_, server_);
    hasBegun_ = true;
    for (JackKind* kind : kinds_) kind->begin();
    isActive_ = true;
    if (jack_activate(client_) != 0) {
        stop();
        return Problem{"JACK", "the server refused to let Mellow Lever play", "restart JACK"};
    }
    for (JackKind* kind : kinds_) kind->begun();
    return Done{};
}

void JackClient::listen() {
    jack_set_process_callback(
        client_,
        [](jack_nframes_t frames, void* link) {
            callThrough(link, [frames](JackClient& self) { self.process(frames); });
            return 0;
        },
        link_.get());
    jack_set_port_registration_callback(
        client_,
        [](jack_port_id_t, int registered, void* link) {
            callThrough(link, [registered](JackClient& self) {
                for (JackKind* kind : self.kinds_) kind->graphChanged(registered == 0);
            });
        },
        link_.get());
    jack_set_port_connect_callback(
        client_,
        [](jack_port_id_t, jack_port_id_t, int, void* link) {
            callThrough(link, [](JackClient& self) {
                for (JackKind* kind : self.kinds_) kind->graphChanged(false);
            });
        },
        link_.get());
    jack_set_xrun_callback(
        client_,
        [](void* link) {
            callThrough(link, [](JackClient& self) {
                for (JackKind* kind : self.kinds_) kind->periodMissed();
            });
            return 0;
        },
        link_.get());
}

void JackClient::giveUpOpening() {
    if (opening_ == nullptr) return;
    {
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
}

void JackClient::stop() {
    giveUpOpening();
    if (client_ == nullptr) return;
    close();
    client_ = nullptr;
    isActive_ = false;
    alive_.store(false, std::memory_order_release);
    if (!std::exchange(hasBegun_, false)) return;
    for (JackKind* kind : kinds_) kind->end();
}

/// A server that answers is taken leave of; of one that does not the client is closed aside, and nobody's
/// callbacks are called by it any more.
void JackClient::close() {
    const bool deactivates = alive_.load(std::memory_order_acquire);
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
}

std::string JackClient::name() const {
    return client_ == nullptr ? std::string() : jack_get_client_name(client_);
}

std::vector<std::string> JackClient::others(const char* type, unsigned long flags) const {
    std::vector<std::string> names;
    if (client_ == nullptr || !alive()) return names;
    const std::string own = name() + ":";
    const char** ports = jack_get_ports(client_, nullptr, type, flags);
    for (std::size_t i = 0; ports != nullptr && ports[i] != nullptr; ++i) {
        if (!std::string_view(ports[i]).starts_with(own)) names.emplace_back(ports[i]);
    }
    jack_free(ports);
    return names;
}

std::string JackClient::status() const {
    if (!alive_.load(std::memory_order_acquire)) return "JACK has stopped";
    if (!answers()) return "JACK does not answer";
    std::string line = "JACK: ";
    for (const JackKind* kind : kinds_) {
        if (const std::string count = kind->count(); !count.empty()) line += count + ", ";
    }
    return line + std::to_string(rate_) + " Hz, " + std::to_string(jack_get_buffer_size(client_)) + " frames";
}

Clock::Word JackClient::word() const {
    if (!alive_.load(std::memory_order_acquire)) return {"JACK has stopped", Word::Health::ill};
    if (!answers()) return {"JACK does not answer", Word::Health::ill};
    return {"JACK " + std::to_string(jack_get_buffer_size(client_)), Word::Health::well};
}

engine::Time JackClient::timeAt(std::uint64_t frame) const {
    return offset_ +
           static_cast<engine::Time>(std::floor(static_cast<double>(frame) * microsecondsPerFrame_));
}

jack_nframes_t JackClient::frameOf(engine::Time time) const {
    const auto since = static_cast<double>(time - offset_);
    const auto frame = std::llround(since / microsecondsPerFrame_) - static_cast<std::int64_t>(frame_);
    return static_cast<jack_nframes_t>(std::clamp<std::int64_t>(frame, 0, frames_ - 1));
}

TransportNow JackClient::transportNow() const {
    jack_position_t position{};
    TransportNow now;
    now.rolling = jack_transport_query(client_, &position) == JackTransportRolling;
    now.bpm = (position.valid & JackPositionBBT) != 0 ? position.beats_per_minute : 0.0;
    now.position =
        static_cast<engine::Time>(std::floor(static_cast<double>(position.frame) * microsecondsPerFrame_));
    now.at = timeAt(frame_);
    return now;
}

void JackClient::process(jack_nframes_t frames) {
    frames_ = frames;
    for (JackKind* kind : kinds_) kind->periodBegins(frames);
    driven_->transport(transportNow());
    // Up to the end of the last frame, since a time inside it belongs to it.
    driven_->cycle(timeAt(frame_ + frames) - 1);
    for (JackKind* kind : kinds_) kind->periodEnds();
    frame_ += frames;
    lastCycle_.store(steadyNow(), std::memory_order_release);
    cycles_.fetch_add(1, std::memory_order_acq_rel);
}

bool JackClient::lead(Lead what, engine::Time position) {
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
