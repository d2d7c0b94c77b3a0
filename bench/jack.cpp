// What playing over JACK costs, on a real server with the dummy driver that this program starts: the way
// through Mellow Lever against that through a forwarder that copies each event and does nothing else, a dense
// minute, and how long it takes until chains sound again when a server comes back. Prints one figure a line,
// "name value". usage: bench-jack FOLDER-OF-PROGRAMS FOLDER SECONDS
#include <unistd.h>

#include <QCoreApplication>
#include <QProcess>
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <fstream>
#include <thread>

#include "core/files/files.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "support/jack.h"

using namespace mellow;

namespace {

const std::string serverName = "mellow-lever-bench";

/// Wheels 20 to 35 each lead through a bend to a control of an instrument.
Ensemble rig() {
    Instrument one;
    one.id = "one";
    one.input.port = "north keys";
    one.output.port = "north rack";
    one.output.channel = 1;
    for (int i = 0; i < 16; ++i) {
        Parameter parameter;
        parameter.id = "p" + std::to_string(i);
        parameter.message.kind = MessageKind::cc;
        parameter.message.number = 70 + i;
        one.parameters.push_back(parameter);
        Chain chain;
        chain.id = "c" + std::to_string(i);
        chain.source = makeSource(SourceKind::cc);
        chain.source.number = 20 + i;
        Branch branch;
        branch.target = parameter.id;
        branch.low = 0.0;
        branch.high = 127.0;
        chain.branches.push_back(branch);
        one.chains.push_back(chain);
    }
    Ensemble ensemble;
    ensemble.title = "Bench";
    ensemble.instruments.push_back(one);
    return ensemble;
}

/// A client that copies what comes in to its output, at its frame.
class Forwarder {
 public:
    Forwarder() {
        client_ =
            jack_client_open("forwarder", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                             nullptr, serverName.c_str());
        if (client_ == nullptr) qFatal("no client for the forwarder");
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
        out_ = jack_port_register(client_, "out", JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) {
                auto& own = *static_cast<Forwarder*>(self);
                void* in = jack_port_get_buffer(own.in_, frames);
                void* out = jack_port_get_buffer(own.out_, frames);
                jack_midi_clear_buffer(out);
                for (std::uint32_t i = 0; i < jack_midi_get_event_count(in); ++i) {
                    jack_midi_event_t event;
                    jack_midi_event_get(&event, in, i);
                    jack_midi_event_write(out, event.time, event.buffer, event.size);
                }
                return 0;
            },
            this);
        jack_activate(client_);
    }
    ~Forwarder() { jack_client_close(client_); }

 private:
    jack_client_t* client_;
    jack_port_t* in_;
    jack_port_t* out_;
};

/// What came out, against what went in: frames of delay, the least and the most, and how many were lost or
/// out of order.
struct Way {
    std::int64_t least = 0;
    std::int64_t most = 0;
    std::size_t lost = 0;
};

Way compare(const std::vector<test::Stamped>& sent, std::vector<test::Stamped> received) {
    Way way;
    // Whoever is connected again is silenced first.
    if (!sent.empty()) std::erase_if(received, [&](const auto& each) { return each.frame < sent[0].frame; });
    way.lost = sent.size() > received.size() ? sent.size() - received.size() : 0;
    for (std::size_t i = 0; i < std::min(sent.size(), received.size()); ++i) {
        if (sent[i].bytes[2] != received[i].bytes[2]) ++way.lost;
        const auto frames = static_cast<std::int64_t>(received[i].frame - sent[i].frame);
        way.least = i == 0 ? frames : std::min(way.least, frames);
        way.most = i == 0 ? frames : std::max(way.most, frames);
    }
    return way;
}

void awaitPort(test::Peer& peer, const std::string& port) {
    if (!QTest::qWaitFor([&] { return peer.exists(port); }, 20000)) qFatal("no port %s", port.c_str());
}

Way through(const std::string& in, const std::string& out) {
    test::Peer sender("sender", serverName);
    test::Peer receiver("receiver", serverName);
    awaitPort(sender, in);
    sender.connect(sender.port("out"), in);
    sender.connect(out, receiver.port("in"));
    sender.awaitWayTo(receiver);
    for (std::uint8_t i = 0; i < 200; ++i) {
        const auto value = static_cast<std::uint8_t>(i % 2 * 64 + i % 60);
        sender.send({{static_cast<jack_nframes_t>(i * 37 % test::period), {0xB0, 20, value}}});
        const std::size_t wanted = i + 1U;
        if (!QTest::qWaitFor([&] { return receiver.received().size() >= wanted; }, 2000)) break;
    }
    return compare(sender.sent(), receiver.received());
}

double processorSeconds(qint64 process) {
    std::ifstream file("/proc/" + std::to_string(process) + "/stat");
    std::string word;
    double ticks = 0;
    for (int field = 1; field <= 15 && file >> word; ++field) {
        if (field == 14 || field == 15) ticks += std::stod(word);
    }
    return ticks / static_cast<double>(sysconf(_SC_CLK_TCK));
}

/// The driver begins a period when the last one is done, so a second of the server is a second of the wall.
void denseMinute(qint64 process, int seconds) {
    test::Peer sender("dense", serverName);
    test::Peer receiver("kept", serverName);
    sender.connect(sender.port("out"), "Mellow Lever:north keys");
    sender.connect("Mellow Lever:north rack", receiver.port("in"));
    sender.awaitWayTo(receiver);
    constexpr int eventsASecond = 10'000;
    sender.stream(eventsASecond, static_cast<std::size_t>(eventsASecond) * static_cast<std::size_t>(seconds));
    const double before = processorSeconds(process);
    const auto start = std::chrono::steady_clock::now();
    if (!QTest::qWaitFor([&] { return sender.streamed(); }, seconds * 2000))
        qFatal("the stream does not end");
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
    const double share = 100 * (processorSeconds(process) - before) / took.count();
    QTest::qWait(500);
    const Way way = compare(sender.sent(), receiver.received());
    std::printf("dense-events %zu\ndense-lost %zu\ndense-share %.1f\ndense-frames %lld\n",
                sender.sent().size(), way.lost, share, static_cast<long long>(way.most));
}

/// From the moment at which the server answers again to the first message that has gone through.
void comeBack(std::unique_ptr<test::JackServer>& server) {
    server->kill();
    server.reset();
    server = std::make_unique<test::JackServer>(serverName);
    const auto answers = std::chrono::steady_clock::now();
    test::Peer sender("sender", serverName);
    test::Peer receiver("receiver", serverName);
    awaitPort(sender, "Mellow Lever:north keys");
    awaitPort(sender, "Mellow Lever:north rack");
    sender.connect(sender.port("out"), "Mellow Lever:north keys");
    sender.connect("Mellow Lever:north rack", receiver.port("in"));
    sender.awaitWayTo(receiver);
    const std::chrono::duration<double, std::milli> took = std::chrono::steady_clock::now() - answers;
    std::printf("back-ms %.0f\n", took.count());
}

void print(const char* name, const Way& way) {
    std::printf("%s-frames %lld\n%s-jitter %lld\n%s-lost %zu\n", name, static_cast<long long>(way.most), name,
                static_cast<long long>(way.most - way.least), name, way.lost);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 4) return 2;
    const QCoreApplication application(argc, argv);
    const std::string programs = argv[1];
    const std::string document = std::string(argv[2]) + "/jack.lever";
    if (!files::writeFile(document, store::printEnsemble(rig()))) return 1;
    auto server = std::make_unique<test::JackServer>(serverName);
    {
        const Forwarder forwarder;
        print("forwarder", through("forwarder:in", "forwarder:out"));
    }
    QProcess lever;
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("JACK_DEFAULT_SERVER"), QString::fromStdString(serverName));
    lever.setProcessEnvironment(environment);
    lever.setStandardOutputFile(QProcess::nullDevice());
    lever.start(QString::fromStdString(programs + "/mellow-lever-cli"),
                {QStringLiteral("run"), QString::fromStdString(document)});
    print("lever", through("Mellow Lever:north keys", "Mellow Lever:north rack"));
    denseMinute(lever.processId(), std::atoi(argv[3]));
    comeBack(server);
    lever.terminate();
    lever.waitForFinished(5000);
    std::fflush(stdout);
    return 0;
}
