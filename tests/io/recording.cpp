// Recording over a real JACK server: what a script plays is in the take, each event at its frame; replayed,
// it goes out as the same bytes at the same frames; and another program reads the same from its file.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/files/files.h"
#include "core/takes/take_folder.h"
#include "io/session/session.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/jack.h"

using namespace mellow;

namespace {

/// An instrument that passes everything from one port to another.
Ensemble through() {
    Instrument one = test::instrument();
    one.input.port = "hands";
    one.output.port = "rack";
    return test::ensemble({one});
}

std::vector<std::string> hexOf(const std::vector<test::Stamped>& messages) {
    std::vector<std::string> lines;
    for (const test::Stamped& message : messages) lines.push_back(midi::toHex(message.bytes));
    return lines;
}

/// Frames between each message and the first.
std::vector<std::int64_t> distances(const std::vector<test::Stamped>& messages) {
    std::vector<std::int64_t> frames;
    for (const test::Stamped& message : messages)
        frames.push_back(static_cast<std::int64_t>(message.frame) -
                         static_cast<std::int64_t>(messages.front().frame));
    return frames;
}

std::vector<std::int64_t> framesOf(const Take& take) {
    std::vector<std::int64_t> frames;
    for (const TakeEvent& event : take.events)
        frames.push_back(
            std::llround(static_cast<double>(event.time - take.events.front().time) * 48000 / 1e6));
    return frames;
}

/// A session on a server, with hands that play into it and hear what it sends.
struct Studio {
    explicit Studio(const test::JackServer& server)
        : session(options(server)), peer("script", server.name()) {
        session.play(through());
        session.recorder().start();
        session.start();
        const bool there = QTest::qWaitFor(
            [&] {
                session.tend();
                return peer.exists("Mellow Lever:hands") && peer.exists("Mellow Lever:rack");
            },
            20000);
        if (!there) qFatal("the ports do not come");
        peer.connect(peer.port("out"), "Mellow Lever:hands");
        peer.connect("Mellow Lever:rack", peer.port("in"));
        peer.awaitWayTo(peer);
        // The last of the probes has gone through when a while passes in which nothing comes.
        const bool still = QTest::qWaitFor(
            [&] {
                (void)session.recorder().begin({});
                QTest::qWait(30);
                return session.recorder().end().empty();
            },
            20000);
        if (!still) qFatal("probes do not end");
    }
    static io::Session::Options options(const test::JackServer& server) {
        io::Session::Options options;
        options.server = server.name();
        options.alsa = false;
        options.soundCard = false;
        return options;
    }
    io::Session session;
    test::Peer peer;
};

}  // namespace

class RecordingTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { server_ = std::make_unique<test::JackServer>("mellow-recording"); }
    void cleanupTestCase() { server_.reset(); }

    void tenThousandASecondEachAtItsFrameAndBack() {
        Studio studio(*server_);
        QVERIFY(static_cast<bool>(studio.session.recorder().begin({})));
        constexpr std::size_t count = 20000;
        studio.peer.stream(10000, count);
        QTRY_VERIFY_WITH_TIMEOUT(studio.peer.streamed(), 30000);
        const auto sent = studio.peer.sent();
        QTRY_COMPARE_WITH_TIMEOUT(studio.session.recorder().progress().second, count, 30000);
        const Recording recording = studio.session.recorder().end();
        QCOMPARE(recording.lost, std::uint64_t{0});
        const Take take = takeOf(recording);
        QCOMPARE(take.events.size(), count);
        for (std::size_t i = 0; i < count; ++i)
            QCOMPARE(midi::toHex(take.bodyOf(take.events[i])), midi::toHex(sent[i].bytes));
        QCOMPARE(framesOf(take), distances(sent));

        // Through its file and out again.
        const auto bytes = printTake(take);
        QVERIFY(bytes);
        const auto reading = readTake(*bytes, {});
        QVERIFY(reading);
        QCOMPARE(framesOf(reading->take), distances(sent));
        const std::size_t before = studio.peer.received().size();
        studio.session.startTake(std::make_shared<const Take>(reading->take));
        QTRY_VERIFY_WITH_TIMEOUT(studio.peer.received().size() >= before + count, 30000);
        auto replayed = studio.peer.received();
        replayed.erase(replayed.begin(), replayed.begin() + static_cast<std::ptrdiff_t>(before));
        QCOMPARE(hexOf(replayed), hexOf(sent));
        QCOMPARE(distances(replayed), distances(sent));
    }

    /// midicsv prints a MIDI file as text.
    void anotherProgramReadsTheSame() {
        Take take;
        take.tempos.push_back({0, 96});
        for (int i = 0; i < 50; ++i) {
            take.add(i * 20833, take.portNumber("hands"), midi::make(midi::controlChange, 0, 1, i).bytes());
            take.add(i * 20833 + 7, take.portNumber("pedals"), midi::make(midi::noteOn, 2, 60, 100).bytes());
            take.add(i * 20833 + 9000, take.portNumber("pedals"),
                     midi::make(midi::noteOff, 2, 60, 64).bytes());
        }
        QTemporaryDir folder;
        KeptTake kept;
        kept.name = "Script";
        const auto stored = storeTake(folder.path().toStdString(), kept, take);
        QVERIFY(stored);
        QProcess other;
        other.start(QStringLiteral("midicsv"), {folder.filePath(QString::fromStdString(stored->file))});
        QVERIFY2(test::ends(other, 30000), "midicsv is not installed");
        QCOMPARE(other.exitCode(), 0);
        std::vector<std::string> wheel;
        std::vector<std::string> notes;
        QStringList names;
        for (const QByteArray& line : other.readAllStandardOutput().split('\n')) {
            const QStringList words = QString::fromUtf8(line).split(QStringLiteral(", "));
            if (words.size() < 4) continue;
            // A tick is 25 µs at 96 beats a minute.
            const std::string tick = words[1].toStdString();
            if (words[2] == QLatin1String("Title_t")) names << words[3];
            if (words[2] == QLatin1String("Control_c")) wheel.push_back(tick + " " + words[5].toStdString());
            if (words[2].startsWith(QLatin1String("Note")))
                notes.push_back(tick + " " + words[2].toStdString());
        }
        QCOMPARE(names, (QStringList{QStringLiteral("\"hands\""), QStringLiteral("\"pedals\"")}));
        QCOMPARE(wheel.size(), std::size_t{50});
        QCOMPARE(notes.size(), std::size_t{100});
        for (std::size_t i = 0; i < 50; ++i) {
            const auto tick = std::llround(static_cast<double>(i) * 20833 / 25);
            QCOMPARE(wheel[i], std::to_string(tick) + " " + std::to_string(i));
        }
        QCOMPARE(notes[1], std::string("360 Note_off_c"));
    }

    void whatWasJustPlayedIsKept() {
        Studio studio(*server_);
        studio.peer.send({{5, {0xB0, 1, 10}}, {60, {0x90, 60, 100}}});
        const auto played = [&studio] {
            Take take = takeOf(studio.session.recorder().justPlayed());
            std::erase_if(take.events, [](const TakeEvent& each) { return each.message.data[0] == 0xC0; });
            return take;
        };
        QTRY_VERIFY_WITH_TIMEOUT(played().events.size() == 2, 10000);
        const Take take = played();
        QCOMPARE(take.ports, std::vector<std::string>{"hands"});
        QCOMPARE(framesOf(take), (std::vector<std::int64_t>{0, 55}));
        QVERIFY(!studio.session.recorder().isRecording());
    }

    void theDeskIsOnATrackOfItsOwn() {
        Studio studio(*server_);
        QVERIFY(static_cast<bool>(studio.session.recorder().begin({})));
        studio.session.hands().moveDesk("/swell", 0.25);
        studio.session.hands().send(midi::make(midi::controlChange, 0, 11, 99));
        QTRY_COMPARE_WITH_TIMEOUT(studio.session.recorder().progress().second, std::size_t{2}, 10000);
        const Take take = takeOf(studio.session.recorder().end());
        QCOMPARE(take.ports.size(), std::size_t{2});
        QVERIFY(std::find(take.ports.begin(), take.ports.end(), "desk") != take.ports.end());
        QVERIFY(std::find(take.ports.begin(), take.ports.end(), "practice-keys") != take.ports.end());
    }

    /// A take that plays is not recorded, and hands over it are, at its times.
    void overATakeThatPlays() {
        Studio studio(*server_);
        auto under = std::make_shared<Take>();
        for (int i = 0; i < 100; ++i)
            under->add(i * 10'000, under->portNumber("hands"),
                       midi::make(midi::controlChange, 0, 1, i).bytes());
        io::TakeRun run;
        run.overdubTo = 1'000'000;
        QVERIFY(static_cast<bool>(studio.session.recorder().begin({})));
        studio.session.startTake(under, run);
        QTRY_VERIFY_WITH_TIMEOUT(studio.session.readings().takePosition() > 200'000, 10000);
        studio.peer.send({{0, {0xB0, 1, 127}}});
        QTRY_COMPARE_WITH_TIMEOUT(studio.session.readings().takePosition(), std::int64_t{-1}, 10000);
        const Recording recording = studio.session.recorder().end();
        QCOMPARE(recording.heard.events.size(), std::size_t{1});
        const Take made = overdubbed(*under, recording, 0, 1'000'000);
        QVERIFY(made.events.size() < 90);
        QCOMPARE(int{made.events.back().message.data[2]}, 127);
        // Once touched, the old hand was silent: nothing but the touch went out from there on.
        const auto heard = studio.peer.received();
        QCOMPARE(midi::toHex(heard.back().bytes), std::string("B0 01 7F"));
    }

    /// Goes round and round, and what is held at the seam is let go.
    void goesRound() {
        Studio studio(*server_);
        auto take = std::make_shared<Take>();
        take->add(0, take->portNumber("hands"), midi::make(midi::noteOn, 0, 60, 100).bytes());
        take->add(100'000, 0, midi::make(midi::controlChange, 0, 1, 5).bytes());
        take->add(900'000, 0, midi::make(midi::noteOff, 0, 60, 64).bytes());
        take->length = 1'000'000;
        io::TakeRun run;
        run.loopFrom = 50'000;
        run.loopTo = 250'000;
        studio.session.startTake(take, run);
        QTRY_VERIFY_WITH_TIMEOUT(hexOf(studio.peer.received()).size() >= 8, 10000);
        studio.session.stopTake();
        QTRY_COMPARE_WITH_TIMEOUT(studio.session.readings().takePosition(), std::int64_t{-1}, 10000);
        const auto heard = hexOf(studio.peer.received());
        QCOMPARE((std::vector<std::string>(heard.begin(), heard.begin() + 4)),
                 (std::vector<std::string>{"90 3C 64", "B0 01 05", "80 3C 40", "90 3C 64"}));
        int sounding = 0;
        for (const std::string& line : heard)
            sounding += line.starts_with("90") ? 1 : line.starts_with("80") ? -1 : 0;
        QTRY_COMPARE(
            [&] {
                sounding = 0;
                for (const std::string& line : hexOf(studio.peer.received()))
                    sounding += line.starts_with("90") ? 1 : line.starts_with("80") ? -1 : 0;
                return sounding;
            }(),
            0);
    }

    void theTransportSaysWhereItIs() {
        Studio studio(*server_);
        QVERIFY(studio.session.leadTransport(io::JackClient::Lead::locate, 2'000'000));
        QTRY_COMPARE_WITH_TIMEOUT(studio.session.readings().transport().position, engine::Time{2'000'000},
                                  10000);
        QVERIFY(!studio.session.readings().transport().rolling);
        QVERIFY(studio.session.leadTransport(io::JackClient::Lead::start));
        QTRY_VERIFY_WITH_TIMEOUT(studio.session.readings().transport().position > 2'100'000, 10000);
        QVERIFY(studio.session.readings().transport().rolling);
        QVERIFY(studio.session.leadTransport(io::JackClient::Lead::stop));
        QTRY_VERIFY_WITH_TIMEOUT(!studio.session.readings().transport().rolling, 10000);
    }

 private:
    std::unique_ptr<test::JackServer> server_;
};

QTEST_GUILESS_MAIN(RecordingTest)
#include "recording.moc"
