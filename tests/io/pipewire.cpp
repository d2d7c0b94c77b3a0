// PipeWire in JACK's place, for real: this program starts PipeWire and its session manager in a folder of
// their own, and runs itself once more with PipeWire's library instead of JACK's. Skipped where it is not
// installed.
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QtTest>

#include "io/session/session.h"
#include "io/sound/level_meter.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/jack.h"
#include "support/pipewire.h"
#include "support/rack_sound.h"

using namespace mellow;
using test::Peer;

namespace {

bool isInside() {
    return qEnvironmentVariableIsSet("MELLOW_INSIDE_PIPEWIRE");
}

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "North keys";
    one.output.port = "North rack";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

bool answers() {
    jack_client_t* probe = jack_client_open("probe", JackNoStartServer, nullptr);
    if (probe != nullptr) jack_client_close(probe);
    return probe != nullptr;
}

constexpr int patience = 20'000;  ///< ms; how soon it is there is measured in bench/jack.cpp

}  // namespace

class PipeWireTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() {
        if (isInside()) return;
        for (const char* program : {"pipewire", "wireplumber", "dbus-daemon", "pw-jack"}) {
            if (QStandardPaths::findExecutable(QLatin1String(program)).isEmpty()) QFAIL(program);
        }
    }

    /// Outside: the same program again, over PipeWire.
    void playsOverPipeWire() {
        if (isInside()) return;
        const QTemporaryDir runtime;
        QProcess inner;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("XDG_RUNTIME_DIR"), runtime.path());
        environment.insert(QStringLiteral("MELLOW_INSIDE_PIPEWIRE"), QStringLiteral("1"));
        inner.setProcessEnvironment(environment);
        inner.setProcessChannelMode(QProcess::MergedChannels);
        inner.start(QStringLiteral("pw-jack"), {QCoreApplication::applicationFilePath()});
        QVERIFY(test::ends(inner, 120'000));
        const QByteArray said = inner.readAll();
        QVERIFY2(inner.exitStatus() == QProcess::NormalExit && inner.exitCode() == 0, said.constData());
        for (const char* test :
             {"insideEventsGoThroughAndComeBackAfterARestart", "insideTheRackIsHeardAndPortsAreNamed"})
            QVERIFY2(said.contains("PASS   : PipeWireTest::" + QByteArray(test)), said.constData());
    }

    void insideEventsGoThroughAndComeBackAfterARestart() {
        if (!isInside()) return;
        io::Session::Options options;
        options.alsa = false;
        options.soundCard = false;
        io::Session session(options);
        session.play(northRack());
        // Nothing runs yet, and that is no reason not to play.
        session.start();
        QVERIFY(session.status().front().find("JACK:") == std::string::npos);
        auto server = std::make_unique<test::PipeWireServer>();
        const auto playsThrough = [&] {
            QVERIFY(QTest::qWaitFor([] { return answers(); }, 20'000));
            QVERIFY(QTest::qWaitFor(
                [&] {
                    session.tend();
                    return session.status().front().find("JACK:") != std::string::npos;
                },
                patience));
            Peer keys("keys", "");
            Peer rack("rack", "");
            const auto connected = [&] {
                session.tend();
                return keys.connect(keys.port("out"), "Mellow Lever:North keys") &&
                       rack.connect("Mellow Lever:North rack", rack.port("in"));
            };
            QVERIFY(QTest::qWaitFor(connected, patience));
            keys.awaitWayTo(rack);
            const std::size_t before = rack.received().size();
            keys.send({{5, {0xB0, 1, 64}}, {60, {0x90, 60, 100}}, {61, {0x80, 60, 64}}});
            QVERIFY(QTest::qWaitFor([&] { return rack.received().size() >= before + 3; }, patience));
            const auto received = rack.received();
            const auto sent = keys.sent();
            QCOMPARE(received[before].bytes, (std::vector<std::uint8_t>{0xB0, 11, 64}));
            for (std::size_t i = 0; i < 3; ++i) {
                // In the period in which it came, at its own frame.
                QCOMPARE(received[before + i].frame, sent[sent.size() - 3 + i].frame);
            }
        };
        playsThrough();
        server->end();
        QVERIFY(QTest::qWaitFor(
            [&] {
                session.tend();
                return session.status().front().find("JACK:") == std::string::npos;
            },
            patience));
        server = std::make_unique<test::PipeWireServer>();
        playsThrough();
        session.finish();
    }

    /// The practice rack is heard through PipeWire itself, under a name that says whose it is, as soon as
    /// there is somewhere for sound to go, and again when that or the server was gone; its ports in the graph
    /// are called as in Gear.
    void insideTheRackIsHeardAndPortsAreNamed() {
        if (!isInside()) return;
        auto server = std::make_unique<test::PipeWireServer>();
        QVERIFY(QTest::qWaitFor([] { return answers(); }, patience));
        io::Session::Options options;
        options.alsa = false;
        options.sound = "pipewire";
        Ensemble ensemble = northRack();
        ensemble.instruments[0].name = "Storm glass";
        Instrument heard = ensemble.instruments[0];
        heard.id = "heard";
        heard.output.port = io::practiceRackPort;
        heard.output.channel = 1;
        ensemble.instruments.push_back(heard);
        io::Session session(options);
        session.play(ensemble);
        session.start();
        session.openRack();
        const auto heardThrough = [&session] { return test::heardThrough(session); };
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string(), patience);
        QCOMPARE(session.rack()->status(),
                 std::string("Practice rack: silent, PipeWire has nowhere for sound to go yet"));
        QVERIFY(test::makePlaceForSound());
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string("pipewire"), patience);
        QVERIFY(test::takePlaceForSoundAway());
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string(), patience);
        QVERIFY(test::makePlaceForSound());
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string("pipewire"), patience);
        const auto graph = [] {
            QProcess dump;
            dump.start(QStringLiteral("pw-dump"), QStringList());
            return test::ends(dump, 10'000) ? dump.readAllStandardOutput() : QByteArray();
        };
        QTRY_VERIFY_WITH_TIMEOUT(graph().contains("\"node.name\": \"Mellow Lever rack\""), patience);
        // Frames are asked for, and have what is struck.
        const auto meter = std::make_shared<io::LevelMeter>();
        session.cabling().rack().rack()->frames().add(meter);
        float loudest = 0;
        const auto isHeard = [&] {
            session.tend();
            session.hands().sendTo("North keys", midi::make(midi::noteOn, 0, 60, 100));
            loudest = std::max(loudest, meter->take()[0]);
            return loudest > 0.01F;
        };
        QTRY_VERIFY_WITH_TIMEOUT(isHeard(), patience);
        session.cabling().rack().rack()->frames().remove(*meter);
        QTRY_VERIFY_WITH_TIMEOUT((session.tend(), graph().contains("\"value\": \"Storm glass\"")), patience);
        server->end();
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string(), patience);
        server = std::make_unique<test::PipeWireServer>();
        QVERIFY(QTest::qWaitFor([] { return answers(); }, patience));
        QVERIFY(test::makePlaceForSound());
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string("pipewire"), patience);
        session.hearRackThrough("none");
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string(), patience);
        QTRY_VERIFY_WITH_TIMEOUT(!graph().contains("\"node.name\": \"Mellow Lever rack\""), patience);
    }
};

QTEST_GUILESS_MAIN(PipeWireTest)
#include "pipewire.moc"
