// JACK ports, for real: a server with the dummy driver is started, a sender and a receiver are connected to
// Mellow Lever's ports, and bytes and frames are compared.
#include "io/jack_backend.h"

#include <jack/midiport.h>
#include <sys/prctl.h>

#include <csignal>

#include <QProcess>
#include <QtTest>
#include <mutex>

#include "support/build.h"

using namespace mellow;

namespace {

constexpr int period = 128;  ///< frames

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
    Peer(const char* name, const std::string& server) {
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
    ~Peer() { jack_client_close(client_); }

    void send(std::vector<std::pair<jack_nframes_t, std::vector<std::uint8_t>>> messages) {
        const std::lock_guard lock(mutex_);
        toSend_ = std::move(messages);
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
        return jack_connect(client_, from.c_str(), to.c_str()) == 0;
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

    static constexpr std::uint8_t probe = 0xC0;

    std::mutex mutex_;
    std::atomic<int> probes_{0};
    jack_client_t* client_;
    jack_port_t* out_;
    jack_port_t* in_;
    std::vector<std::pair<jack_nframes_t, std::vector<std::uint8_t>>> toSend_;
    std::vector<Stamped> sent_, received_;
};

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "North keys";
    one.output.port = "North rack";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {},
                                     {test::branch("expression", 0, 127), test::branch("tone", 127, 0)}));
    return test::ensemble({one});
}

/// A player on the server, and a sender and a receiver connected to its ports.
struct Stage {
    io::Player player;
    io::JackBackend backend;
    std::string us;
    Peer sender, receiver;

    Stage(const Ensemble& ensemble, const std::string& server)
        : backend(server), sender("sender", server), receiver("receiver", server) {
        player.play(ensemble);
        backend.wantPorts(io::portsOf(ensemble));
        if (!backend.start(player)) qFatal("Mellow Lever does not start on the test's server");
        us = backend.clientName();
        if (!sender.connect(sender.port("out"), us + ":North keys")) qFatal("no port for the sender");
        if (!sender.connect(us + ":North rack", receiver.port("in"))) qFatal("no port for the receiver");
        sender.awaitWayTo(receiver);
    }
};

}  // namespace

class JackTest : public QObject {
    Q_OBJECT

    QProcess server_;
    std::string name_;

 private slots:
    void initTestCase() {
        jack_set_error_function([](const char*) {});
        jack_set_info_function([](const char*) {});
        // One name for all runs: JACK keeps a place for each name, and has eight, even of servers that died.
        name_ = "mellow-lever-test";
        // A test that is cut off takes its server with it.
        server_.setChildProcessModifier([] { ::prctl(PR_SET_PDEATHSIG, SIGKILL); });
        server_.setStandardOutputFile(QProcess::nullDevice());
        server_.setStandardErrorFile(QProcess::nullDevice());
        // Synchronous (-S): a client that the machine is slow to run is waited for, so no period is left out.
        server_.start(
            QStringLiteral("jackd"),
            {QStringLiteral("-n"), QString::fromStdString(name_), QStringLiteral("-r"), QStringLiteral("-S"),
             QStringLiteral("-t"), QStringLiteral("20000"), QStringLiteral("-d"), QStringLiteral("dummy"),
             QStringLiteral("-r"), QStringLiteral("48000"), QStringLiteral("-p"), QString::number(period)});
        QVERIFY2(server_.waitForStarted(), "jackd is not installed");
        QTRY_VERIFY_WITH_TIMEOUT(serverAnswers(), 30000);
        QVERIFY2(server_.state() == QProcess::Running, "another server has the test's name");
    }

    void cleanupTestCase() {
        server_.terminate();
        if (!server_.waitForFinished(5000)) server_.kill();
        server_.waitForFinished(5000);
    }

    void aMessageLeavesAtTheFrameAtWhichItCame() {
        Stage stage(northRack(), name_);
        stage.sender.send({{5, {0xB0, 1, 64}}, {77, {0x90, 60, 100}}, {127, {0xB0, 1, 127}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{5});
        const auto sent = stage.sender.sent();
        const std::vector<Stamped> wanted{{sent[0].frame, {0xB0, 11, 64}},
                                          {sent[0].frame, {0xB0, 74, 63}},
                                          {sent[1].frame, {0x90, 60, 100}},
                                          {sent[2].frame, {0xB0, 11, 127}},
                                          {sent[2].frame, {0xB0, 74, 0}}};
        QVERIFY(stage.receiver.received() == wanted);
        QVERIFY(stage.backend.status().find("48000 Hz") != std::string::npos);
    }

    void sysexPassesWholeWhenTheInstrumentTakesIt() {
        Ensemble ensemble = northRack();
        ensemble.instruments[0].pass.sysex = true;
        Stage stage(ensemble, name_);
        const std::vector<std::uint8_t> sysex{0xF0, 0x7D, 1, 2, 3, 4, 5, 6, 7, 0xF7};
        stage.sender.send({{9, sysex}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1});
        QVERIFY(stage.receiver.received() == stage.sender.sent());
    }

    void aSmoothedValueGoesOnByTheClock() {
        Ensemble ensemble = northRack();
        Chain& chain = ensemble.instruments[0].chains[0];
        chain.branches.pop_back();
        chain.steps = {test::step("smooth", {10, 10})};
        chain.steps[0].values[2] = 1;
        Stage stage(ensemble, name_);
        stage.sender.send({{0, {0xB0, 1, 0}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1});
        stage.sender.send({{0, {0xB0, 1, 127}}});
        // Behind the first value, ten steps of a tenth, a millisecond (48 frames) apart.
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1 + 10});
        const auto received = stage.receiver.received();
        QCOMPARE(received.back().bytes, (std::vector<std::uint8_t>{0xB0, 11, 127}));
        std::vector<engine::Time> times;
        stage.player.watch([&times](const io::Happening& happening) {
            const bool expression = happening.message.data[0] == 0xB0 && happening.message.data[1] == 11;
            if (happening.out && expression) times.push_back(happening.time);
        });
        QCOMPARE(times.size(), received.size());
        for (std::size_t i = 2; i < times.size(); ++i) QCOMPARE(times[i] - times[i - 1], engine::gridStep);
        for (std::size_t i = 2; i < received.size(); ++i) {
            const auto apart = static_cast<int>(received[i].frame - received[i - 1].frame);
            QVERIFY2(apart >= 47 && apart <= 49, qPrintable(QString::number(apart)));
        }
    }

    void portsComeAndGoWithTheDocument() {
        io::Player player;
        player.play(northRack());
        io::JackBackend backend(name_);
        backend.wantPorts(io::portsOf(northRack()));
        QVERIFY(static_cast<bool>(backend.start(player)));
        Peer peer("peer", name_);
        const std::string us = backend.clientName();
        QTRY_VERIFY(peer.exists(us + ":North rack"));
        Ensemble moved = northRack();
        moved.instruments[0].output.port = "South rack";
        player.play(moved);
        backend.wantPorts(io::portsOf(moved));
        QTRY_VERIFY(peer.exists(us + ":South rack"));
        QVERIFY(!peer.exists(us + ":North rack"));
        QVERIFY(peer.exists(us + ":hands"));
        QVERIFY(peer.connect(peer.port("out"), us + ":North keys"));
        QVERIFY(peer.connect(us + ":South rack", peer.port("in")));
        peer.awaitWayTo(peer);
        peer.send({{3, {0xB0, 1, 10}}});
        QTRY_VERIFY(!peer.received().empty());
        QCOMPARE(peer.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 10}));
    }

    void whoIsConnectedLateHearsTheNextValueAgain() {
        Stage stage(northRack(), name_);
        Peer late("late", name_);
        stage.sender.send({{0, {0xB0, 1, 64}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{2});
        stage.sender.send({{0, {0xB0, 1, 64}}, {1, {0x90, 60, 1}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{3});
        QVERIFY(stage.sender.connect(stage.us + ":North rack", late.port("in")));
        stage.sender.awaitWayTo(late);
        stage.sender.send({{0, {0xB0, 1, 64}}});
        QTRY_COMPARE(late.received().size(), std::size_t{2});
        QCOMPARE(late.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 64}));
    }

    void withoutAServerItSaysSo() {
        io::Player player;
        io::JackBackend backend("mellow-no-such-server");
        const auto started = backend.start(player);
        QVERIFY(!started);
        QVERIFY(started.problem().sentence().find("no server is running") != std::string::npos);
    }

    void aServerThatDiesIsNoticed() {
        io::Player player;
        player.play(northRack());
        io::JackBackend backend(name_);
        backend.wantPorts(io::portsOf(northRack()));
        QVERIFY(static_cast<bool>(backend.start(player)));
        QVERIFY(backend.alive());
        server_.kill();
        QVERIFY(server_.waitForFinished(30000));
        QTRY_VERIFY_WITH_TIMEOUT(!backend.alive(), 10000);
        QCOMPARE(backend.status(), std::string("JACK has stopped"));
    }

 private:
    [[nodiscard]] bool serverAnswers() const {
        jack_client_t* probe = jack_client_open(
            "probe", static_cast<jack_options_t>(JackNoStartServer | JackServerName), nullptr, name_.c_str());
        if (probe != nullptr) jack_client_close(probe);
        return probe != nullptr;
    }
};

QTEST_GUILESS_MAIN(JackTest)
#include "jack.moc"
