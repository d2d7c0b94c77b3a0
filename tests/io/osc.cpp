// OSC over real UDP sockets: numbers come in through a controller's port and leave through an instrument's.
#include <QElapsedTimer>
#include <QNetworkProxy>
#include <QUdpSocket>
#include <QtTest>
#include <chrono>
#include <future>
#include <random>

#include "io/clocks/silent_clock.h"
#include "io/ports/osc_link.h"
#include "io/ports/patchbay.h"
#include "support/build.h"

using namespace mellow;

namespace {

/// A message of OSC 1.0 with one float: address and types, each padded to four bytes, then the float.
QByteArray oscMessage(const QByteArray& address, float number) {
    const auto padded = [](QByteArray text) {
        text.append('\0');
        while (text.size() % 4 != 0) text.append('\0');
        return text;
    };
    QByteArray made = padded(address) + padded(",f");
    quint32 bits = 0;
    std::memcpy(&bits, &number, sizeof bits);
    for (int shift = 24; shift >= 0; shift -= 8) made.append(static_cast<char>(bits >> shift & 0xFF));
    return made;
}

/// Who asks for a name that nobody knows may wait longer than this; who does not ask, never.
constexpr qint64 asked = 3000;  // ms

/// A socket that asks no proxy, as those of an orchestra's stage do not.
class Socket : public QUdpSocket {
 public:
    Socket() { setProxy(QNetworkProxy::NoProxy); }
};

/// A free port of this machine, as the system gives one.
quint16 freePort() {
    Socket socket;
    if (!socket.bind(QHostAddress::LocalHost, 0)) qFatal("no UDP here");
    return socket.localPort();
}

/// The gesture tile's tilt, by OSC, opens the drone's gain, by OSC.
Ensemble tileAndDrone(quint16 in, quint16 out) {
    Instrument drone = test::instrument("drone");
    drone.output.port = "osc.udp://localhost:" + std::to_string(out);
    Parameter gain;
    gain.id = "gain";
    gain.message.kind = MessageKind::osc;
    gain.message.address = "/drone/gain";
    gain.display.low = 0;
    gain.display.high = 2;
    drone.parameters.push_back(gain);
    Source tilt = makeSource(SourceKind::osc);
    tilt.values[0] = std::string("/tile/tilt");
    tilt.controller = "tile";
    drone.chains = {test::chain("c", tilt, {}, {test::branch("gain", 0, 2)})};
    Ensemble ensemble = test::ensemble({drone});
    ensemble.controllers.push_back({"tile", "", "osc.udp://:" + std::to_string(in), {}, {}, {}, {}});
    return ensemble;
}

/// A player whose numbers come and go over the network.
struct Linked {
    io::Player player;
    io::Patchbay patchbay{player};
    io::OscLink link;

    explicit Linked(const Ensemble& ensemble) {
        patchbay.add(link);
        link.want(io::wishesOf(ensemble));
        player.play(ensemble);
    }
};

}  // namespace

class OscTest : public QObject {
    Q_OBJECT

 private slots:
    void aNumberComesInAndItsResultLeaves() {
        Socket listener;
        QVERIFY(listener.bind(QHostAddress::LocalHost, 0));
        const quint16 in = freePort();
        const Ensemble ensemble = tileAndDrone(in, listener.localPort());
        Linked linked(ensemble);
        io::Player& player = linked.player;
        io::OscLink& link = linked.link;
        QVERIFY(link.problems().empty());
        io::SilentClock clock;
        QVERIFY(static_cast<bool>(clock.start(linked.patchbay)));
        Socket hands;
        hands.writeDatagram(oscMessage("/tile/tilt", 0.25F), QHostAddress::LocalHost, in);
        QTRY_VERIFY(listener.hasPendingDatagrams());
        QByteArray received(static_cast<qsizetype>(listener.pendingDatagramSize()), '\0');
        listener.readDatagram(received.data(), received.size());
        QCOMPARE(received, oscMessage("/drone/gain", 0.5F));
        clock.stop();
        std::vector<std::pair<std::string, double>> seen;
        player.watchOsc([&](const io::OscHappening& happening) {
            seen.emplace_back(
                (happening.out ? "out " : "in ") + std::string(happening.message.address.data()),
                happening.message.number);
        });
        QCOMPARE(seen, (decltype(seen){{"in /tile/tilt", 0.25}, {"out /drone/gain", 0.5}}));
    }

    /// Who sends sleeps until there is something to send, and is woken to end.
    void whoSendsSleepsUntilThereIsSomething() {
        const Ensemble ensemble = tileAndDrone(9001, 9002);
        io::Player player;
        player.play(ensemble);
        using Taken = std::optional<std::string>;
        const auto await = [&player]() -> Taken {
            io::OscMessage message;
            return player.awaitOsc(message) ? Taken(message.address.data()) : std::nullopt;
        };
        auto waiting = std::async(std::launch::async, await);
        QVERIFY(waiting.wait_for(std::chrono::milliseconds(100)) == std::future_status::timeout);
        QVERIFY(player.receiveOsc(player.ports().of("osc.udp://:9001"), "/tile/tilt", 0.5));
        auto nowhere = [](const engine::Output&) {};
        player.cycle({}, 1000, engine::sinkTo(nowhere));
        QCOMPARE(waiting.get(), Taken("/drone/gain"));
        waiting = std::async(std::launch::async, await);
        player.endOsc();
        QCOMPARE(waiting.get(), Taken());
    }

    void whatIsNotANumberIsLeftAlone() {
        const quint16 in = freePort();
        const Ensemble ensemble = tileAndDrone(in, freePort());
        Linked linked(ensemble);
        io::OscLink& link = linked.link;
        Socket hands;
        hands.writeDatagram(QByteArray("/tile/tilt\0\0,s\0\0loud\0\0\0\0", 24), QHostAddress::LocalHost, in);
        hands.writeDatagram(QByteArray("nonsense"), QHostAddress::LocalHost, in);
        hands.writeDatagram(QByteArray(60000, 'x'), QHostAddress::LocalHost, in);
        QVERIFY(link.problems().empty());
    }

    void aPortThatIsTakenIsSaidPlainly() {
        Socket taken;
        QVERIFY(taken.bind(QHostAddress::AnyIPv4, 0, QAbstractSocket::DontShareAddress));
        io::Player player;
        io::Patchbay patchbay(player);
        io::OscLink link;
        patchbay.add(link);
        link.want(
            {{"osc.udp://:" + std::to_string(taken.localPort()), "osc.udp://:loud"}, {"osc.udp://nowhere"}});
        QCOMPARE(link.problems().size(), std::size_t{3});
        QVERIFY(link.problems()[0].sentence().find("OSC cannot be heard there") != std::string::npos);
        link.want({});
        QVERIFY(link.problems().empty());
    }

    /// One name that nobody knows keeps nobody else waiting, and ending waits for nobody either.
    void aHostThatNobodyKnowsStopsNobodyElse() {
        Socket listener;
        QVERIFY(listener.bind(QHostAddress::LocalHost, 0));
        const quint16 in = freePort();
        Ensemble ensemble = tileAndDrone(in, listener.localPort());
        Instrument lost = ensemble.instruments[0];
        lost.id = "lost";
        const std::string nowhere = "osc.udp://the-tin-observatory.invalid:9";
        lost.output.port = nowhere;
        ensemble.instruments.push_back(lost);
        io::Player player;
        io::Patchbay patchbay(player);
        {
            io::OscLink link;
            patchbay.add(link);
            QElapsedTimer begun;
            begun.start();
            link.want(io::wishesOf(ensemble));
            QVERIFY(begun.elapsed() < asked);
            player.play(ensemble);
            io::SilentClock clock;
            QVERIFY(static_cast<bool>(clock.start(patchbay)));
            Socket hands;
            constexpr int messages = 200;
            int heard = 0;
            for (int i = 0; i < messages; ++i) {
                const float value = static_cast<float>(i % 2 + 1) / 4;
                hands.writeDatagram(oscMessage("/tile/tilt", value), QHostAddress::LocalHost, in);
                QTRY_VERIFY(listener.hasPendingDatagrams());
                while (listener.hasPendingDatagrams()) {
                    ++heard;
                    listener.readDatagram(nullptr, 0);
                }
            }
            QCOMPARE(heard, messages);
            QTRY_VERIFY_WITH_TIMEOUT(!link.problems().empty(), 30000);
            QCOMPARE(link.problems()[0].where, nowhere);
            clock.stop();
            begun.restart();
            link.want({});
            QVERIFY(begun.elapsed() < asked);
        }
    }

    /// What a document listens on is heard from this machine alone, until a person opens it.
    void nothingIsHeardFromElsewhereUnasked() {
        const quint16 in = freePort();
        const std::string port = "osc.udp://:" + std::to_string(in);
        const Ensemble ensemble = tileAndDrone(in, freePort());
        Linked linked(ensemble);
        io::Player& player = linked.player;
        io::OscLink& link = linked.link;
        QCOMPARE(link.listening().size(), std::size_t{1});
        QCOMPARE(link.listening()[0].address, std::string("127.0.0.1"));
        // 127.0.0.2 is another address of this machine, as that of a network is.
        Socket hands;
        const QHostAddress elsewhere(QStringLiteral("127.0.0.2"));
        hands.writeDatagram(oscMessage("/tile/tilt", 0.25F), elsewhere, in);
        hands.writeDatagram(oscMessage("/tile/tilt", 0.5F), QHostAddress::LocalHost, in);
        QTRY_VERIFY(!link.listening()[0].lastFrom.empty());
        const auto heard = [&player] {
            auto ignore = [](const engine::Output&) {};
            static engine::Time now = 0;
            player.cycle({}, now += 1000, engine::sinkTo(ignore));
            std::vector<double> numbers;
            player.watchOsc([&](const io::OscHappening& happening) {
                if (!happening.out) numbers.push_back(happening.message.number);
            });
            return numbers;
        };
        QCOMPARE(heard(), std::vector<double>{0.5});
        link.openTo(port, "127.0.0.2");
        QCOMPARE(link.listening()[0].address, std::string("127.0.0.2"));
        hands.writeDatagram(oscMessage("/tile/tilt", 0.75F), elsewhere, in);
        std::vector<double> all;
        const auto collect = [&] {
            for (const double each : heard()) all.push_back(each);
            return all;
        };
        QTRY_COMPARE(collect(), std::vector<double>{0.75});
        link.openTo(port, "");
        QCOMPARE(link.listening()[0].address, std::string("127.0.0.1"));
    }

    /// A flood of nonsense leaves nothing behind it, and what is meant is heard after it.
    void aFloodLeavesNothingBehind() {
        const quint16 in = freePort();
        const Ensemble ensemble = tileAndDrone(in, freePort());
        Linked linked(ensemble);
        io::Player& player = linked.player;
        io::OscLink& link = linked.link;
        Socket hands;
        std::mt19937 random(22);
        constexpr int packets = 20000;
        for (int i = 0; i < packets; ++i) {
            QByteArray packet = i % 3 == 0   ? QByteArray("/desk/")
                                : i % 3 == 1 ? QByteArray("#bundle\0", 8)
                                             : QByteArray();
            const auto length = static_cast<int>(random() % 300);
            for (int k = 0; k < length; ++k) packet.append(static_cast<char>(random()));
            hands.writeDatagram(packet, QHostAddress::LocalHost, in);
        }
        const QByteArray meant = oscMessage("/tile/tilt", 0.625F);
        bool heard = false;
        const auto isHeard = [&] {
            hands.writeDatagram(meant, QHostAddress::LocalHost, in);
            auto ignore = [](const engine::Output&) {};
            static engine::Time now = 0;
            player.cycle({}, now += 1000, engine::sinkTo(ignore));
            player.watchOsc([&](const io::OscHappening& happening) {
                heard = heard || happening.message.number == 0.625;
            });
            return heard;
        };
        QTRY_VERIFY_WITH_TIMEOUT(isHeard(), 20000);
        QVERIFY(link.surfaces().told().empty());
    }

    void portsAreReadOffTheDocument() {
        const Ensemble ensemble = tileAndDrone(9001, 9002);
        const io::PortNames ports = io::wishesOf(ensemble);
        QCOMPARE(ports.inputs, (std::vector<std::string>{"hands", "osc.udp://:9001"}));
        QCOMPARE(ports.outputs, std::vector<std::string>{"osc.udp://localhost:9002"});
        Ensemble anywhere = ensemble;
        anywhere.controllers.clear();
        anywhere.instruments[0].chains[0].source.controller.clear();
        QCOMPARE(io::wishesOf(anywhere).inputs,
                 (std::vector<std::string>{"hands", std::string(io::usualOscPort)}));
    }
};

QTEST_GUILESS_MAIN(OscTest)
#include "osc.moc"
