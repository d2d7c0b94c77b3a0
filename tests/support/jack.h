// A JACK server with the dummy driver, started by the test, and clients on it that send and receive.
#pragma once

#include <jack/jack.h>
#include <jack/metadata.h>
#include <jack/midiport.h>
#include <jack/uuid.h>
#include <sys/prctl.h>

#include <QProcess>
#include <QtTest/QtTest>
#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>
#include <cmath>
#include <csignal>
#include <map>
#include <mutex>
#include <string>
#include <vector>

#include "support/ends.h"

namespace mellow::test {

constexpr int period = 128;  ///< frames

/// How often a server of a name was killed by this test.
inline int& kills(const std::string& server) {
    static std::map<std::string, int> all;
    return all[server];
}

struct Stamped {
    std::uint64_t frame = 0;  ///< of the server
    std::vector<std::uint8_t> bytes;
    bool operator==(const Stamped&) const = default;
};

/// A client with one output that sends what it is told at an offset in the next period, and one input that
/// keeps what arrives. Program changes are its probes: they are counted and not kept. A mutex is fine here:
/// it is a test's client, and it is never held for long.
class Peer {
 public:
    Peer(const char* name, const std::string& server) : server_(server) {
        client_ = jack_client_open(name, static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                                   nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client on the test's JACK server");
        out_ = jack_port_register(client_, "out", JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput, 0);
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) { return static_cast<Peer*>(self)->process(frames); },
            this);
        jack_activate(client_);
    }
    /// JACK's library forgets clients of a server that is gone as soon as another is looked for in the same
    /// process, and then must not be asked to close them.
    ~Peer() {
        if (kills(server_) == killsBefore_) jack_client_close(client_);
    }

    void send(std::vector<std::pair<jack_nframes_t, std::vector<std::uint8_t>>> messages) {
        const std::lock_guard lock(mutex_);
        toSend_ = std::move(messages);
    }
    /// Sends so many control changes, evenly, as fast as is said; each is another than the one before.
    void stream(int eventsASecond, std::size_t count) {
        const std::lock_guard lock(mutex_);
        sent_.reserve(sent_.size() + count);
        eventsASecond_ = eventsASecond;
        streaming_ = count;
        streamFrom_ = 0;
        streamedSoFar_ = 0;
    }
    bool streamed() {
        const std::lock_guard lock(mutex_);
        return streaming_ == streamedSoFar_;
    }
    std::vector<Stamped> sent() {
        const std::lock_guard lock(mutex_);
        return sent_;
    }
    std::vector<Stamped> received() {
        const std::lock_guard lock(mutex_);
        return received_;
    }
    bool connect(const std::string& from, const std::string& to) {
        const int done = jack_connect(client_, from.c_str(), to.c_str());
        return done == 0 || done == EEXIST;
    }
    bool disconnect(const std::string& from, const std::string& to) {
        return jack_disconnect(client_, from.c_str(), to.c_str()) == 0;
    }
    bool isConnected(const std::string& from, const std::string& to) {
        return jack_port_connected_to(jack_port_by_name(client_, from.c_str()), to.c_str()) != 0;
    }
    [[nodiscard]] std::string port(const char* name) const {
        return std::string(jack_get_client_name(client_)) + ":" + name;
    }
    /// Sends probes until one arrives at another peer. JACK takes a new connection into account some periods
    /// after it was made, and until then what is sent is lost.
    void awaitWayTo(Peer& other) {
        const int before = other.probes_;
        const bool arrived = QTest::qWaitFor(
            [&] {
                send({{0, {probe, 1}}});
                return other.probes_ > before;
            },
            30000);
        if (!arrived) qFatal("a connection does not carry anything");
    }
    /// What JACK's metadata says of a port or a client; empty where it says nothing.
    jack_uuid_t uuid(const std::string& port) {
        return jack_port_uuid(jack_port_by_name(client_, port.c_str()));
    }
    jack_uuid_t clientUuid(const std::string& client) {
        char* const words = jack_get_uuid_for_client_name(client_, client.c_str());
        jack_uuid_t uuid = 0;
        if (words != nullptr) jack_uuid_parse(words, &uuid);
        jack_free(words);
        return uuid;
    }
    std::string property(jack_uuid_t subject, const char* key) {
        char* value = nullptr;
        char* type = nullptr;
        if (jack_get_property(subject, key, &value, &type) != 0) return {};
        std::string text = value;
        jack_free(value);
        jack_free(type);
        return text;
    }
    bool exists(const std::string& name) { return jack_port_by_name(client_, name.c_str()) != nullptr; }

 private:
    int process(jack_nframes_t frames) {
        const std::lock_guard lock(mutex_);
        const std::uint64_t start = jack_last_frame_time(client_);
        void* out = jack_port_get_buffer(out_, frames);
        jack_midi_clear_buffer(out);
        for (const auto& [at, bytes] : std::exchange(toSend_, {})) {
            jack_midi_event_write(out, at, bytes.data(), bytes.size());
            if (bytes[0] != probe) sent_.push_back({start + at, bytes});
        }
        streamInto(out, frames, start);
        void* in = jack_port_get_buffer(in_, frames);
        for (std::uint32_t i = 0; i < jack_midi_get_event_count(in); ++i) {
            jack_midi_event_t event;
            jack_midi_event_get(&event, in, i);
            if (event.buffer[0] == probe) {
                ++probes_;
                continue;
            }
            received_.push_back({start + event.time, {event.buffer, event.buffer + event.size}});
        }
        return 0;
    }

    void streamInto(void* out, jack_nframes_t frames, std::uint64_t start) {
        const std::uint64_t rate = jack_get_sample_rate(client_);
        while (streamedSoFar_ < streaming_) {
            const std::uint64_t at = streamedSoFar_ * rate / static_cast<std::uint64_t>(eventsASecond_);
            if (at >= streamFrom_ + frames) break;
            // Sixteen controls in turn, so that each value of one differs from its last.
            const auto control = static_cast<std::uint8_t>(20 + streamedSoFar_ % 16);
            const auto value = static_cast<std::uint8_t>(streamedSoFar_ / 16 % 128);
            const std::array<std::uint8_t, 3> bytes{0xB0, control, value};
            jack_midi_event_write(out, static_cast<jack_nframes_t>(at - streamFrom_), bytes.data(), 3);
            sent_.push_back({start + at - streamFrom_, {bytes.begin(), bytes.end()}});
            ++streamedSoFar_;
        }
        streamFrom_ += streamedSoFar_ < streaming_ ? frames : 0;
    }

    static constexpr std::uint8_t probe = 0xC0;

    std::mutex mutex_;
    std::atomic<int> probes_{0};
    std::string server_;
    int killsBefore_ = kills(server_);
    jack_client_t* client_;
    jack_port_t* out_;
    jack_port_t* in_;
    std::vector<std::pair<jack_nframes_t, std::vector<std::uint8_t>>> toSend_;
    std::vector<Stamped> sent_, received_;
    int eventsASecond_ = 1;
    std::size_t streaming_ = 0;
    std::size_t streamedSoFar_ = 0;
    std::uint64_t streamFrom_ = 0;  ///< frames since the stream began
};

/// A client with one audio input that keeps how loud it was at most.
class Ear {
 public:
    explicit Ear(const std::string& server) {
        client_ = jack_client_open("ear", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                                   nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client on the test's JACK server");
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_AUDIO_TYPE, JackPortIsInput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) {
                auto* ear = static_cast<Ear*>(self);
                const auto* samples = static_cast<const float*>(jack_port_get_buffer(ear->in_, frames));
                float loudest = ear->loudest_;
                for (jack_nframes_t i = 0; i < frames; ++i) loudest = std::max(loudest, std::abs(samples[i]));
                ear->loudest_ = loudest;
                return 0;
            },
            this);
        jack_activate(client_);
    }
    ~Ear() { jack_client_close(client_); }
    [[nodiscard]] std::string port() const { return jack_port_name(in_); }
    [[nodiscard]] float loudest() const { return loudest_; }

 private:
    jack_client_t* client_;
    jack_port_t* in_;
    std::atomic<float> loudest_{0};
};

/// The server. It has a name of its own, dies with the test, and waits for clients that the machine is slow
/// to run (-S), so that no period is left out.
class JackServer {
 public:
    /// Fixed for all runs of a test program: JACK keeps a place for each name, and has eight, even of servers
    /// that died.
    explicit JackServer(std::string name) : name_(std::move(name)) {
        jack_set_error_function([](const char*) {});
        jack_set_info_function([](const char*) {});
        process_.setChildProcessModifier([] { ::prctl(PR_SET_PDEATHSIG, SIGKILL); });
        process_.setStandardOutputFile(QProcess::nullDevice());
        process_.setStandardErrorFile(QProcess::nullDevice());
        const QString arguments = QStringLiteral("-n %1 -r -S -t 20000 -d dummy -r 48000 -p %2");
        process_.start(QStringLiteral("jackd"),
                       arguments.arg(QString::fromStdString(name_)).arg(period).split(QLatin1Char(' ')));
        if (!process_.waitForStarted()) qFatal("jackd is not installed");
        if (!QTest::qWaitFor([this] { return answers(); }, 30000)) qFatal("the JACK server does not answer");
        if (process_.state() != QProcess::Running) qFatal("another server has the test's name");
    }
    ~JackServer() {
        process_.terminate();
        if (!ends(process_, 5000)) kill();
    }

    [[nodiscard]] const std::string& name() const { return name_; }
    /// Stops it where it stands, as a machine that hangs would: it is there, and answers nothing.
    void freeze() { ::kill(static_cast<pid_t>(process_.processId()), SIGSTOP); }
    void thaw() { ::kill(static_cast<pid_t>(process_.processId()), SIGCONT); }
    /// Ends it as a crash would. Returns when it is gone.
    void kill() {
        ++kills(name_);
        process_.kill();
        ends(process_, 30000);
    }

 private:
    [[nodiscard]] bool answers() const {
        jack_client_t* probe = jack_client_open(
            "probe", static_cast<jack_options_t>(JackNoStartServer | JackServerName), nullptr, name_.c_str());
        if (probe != nullptr) jack_client_close(probe);
        return probe != nullptr;
    }

    std::string name_;
    QProcess process_;
};

}  // namespace mellow::test
