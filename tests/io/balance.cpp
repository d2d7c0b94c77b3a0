// Measuring for real: on the practice rack, against a meter that is not ours, from sound files of every kind,
// and through JACK, where a synthesizer with a known law answers as it should, late, too loud, not at all, or
// not to the end.
#include <sndfile.h>

#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>

#include "core/balance/levelling.h"
#include "io/balance/jack_measuring.h"
#include "io/balance/rack_measuring.h"
#include "io/balance/sound_reading.h"
#include "io/bounce/bounce.h"
#include "io/session/session.h"
#include "support/build.h"
#include "support/jack_synth.h"
#include "support/known_synth.h"
#include "support/process.h"

using namespace mellow;
using namespace mellow::balance;
using test::JackSynth;

namespace {

double attenuation(int value) {
    return test::KnownSynth::attenuation(value);
}

SweepPlan glassPlan(int positions) {
    SweepPlan plan;
    plan.instrument = "glass";
    plan.motion = motionOf(test::ccSource(1));
    plan.positions = positions;
    return plan;
}

Ensemble swellingOut() {
    Instrument one = test::instrument();
    one.output.port = "North rack";
    one.parameters.push_back(test::ccParameter("volume", 7));
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

/// A session that plays on a server, into a synthesizer.
struct Playing {
    test::JackServer server{"mellow-recording"};
    io::Session session;
    Ensemble ensemble = swellingOut();
    std::unique_ptr<JackSynth> synth;

    explicit Playing(const JackSynth::Nature& nature) : session(optionsOf(server)) {
        session.play(ensemble);
        session.start();
        synth = std::make_unique<JackSynth>(server.name(), nature);
        synth->hear(session.cabling().jack().name() + ":North rack");
    }
    static io::Session::Options optionsOf(const test::JackServer& server) {
        io::Session::Options options;
        options.alsa = false;
        options.soundCard = false;
        options.server = server.name();
        return options;
    }
    io::MeasuringStage stage() {
        return {session.cabling().inputs(),
                [this](const Ensemble* played) { session.play(played != nullptr ? *played : ensemble); },
                [this](std::shared_ptr<const Take> take) { session.startTake(std::move(take)); },
                [this] { session.stopTake(); }, [this] { return session.readings().takePosition(); }};
    }
    SweepPlan plan(int positions) const {
        SweepPlan plan;
        plan.instrument = "one";
        plan.motion = motionOf(test::ccSource(1));
        plan.positions = positions;
        return plan;
    }
    Result<io::RecordedSweep> record(int positions, const io::HeardFrom& from = JackSynth::outputs()) {
        auto measuring = io::JackMeasuring::begin(stage(), ensemble, plan(positions), from);
        if (!measuring) return measuring.problem();
        std::optional<Result<io::RecordedSweep>> made;
        const bool over = QTest::qWaitFor(
            [&] {
                session.tend();
                made = (*measuring)->tend();
                return made.has_value();
            },
            60000);
        if (!over) qFatal("measuring did not end");
        return std::move(*made);
    }
};

void writeSound(const QString& path, const Sound& sound, int format) {
    SF_INFO info{};
    info.samplerate = sound.rate;
    info.channels = sound.channels;
    info.format = format;
    SNDFILE* file = sf_open(path.toLocal8Bit().constData(), SFM_WRITE, &info);
    QVERIFY2(file != nullptr, sf_strerror(nullptr));
    QCOMPARE(sf_writef_float(file, sound.samples.data(), sound.frames()), sound.frames());
    sf_close(file);
}

/// What ffmpeg's meter says of a file: integrated loudness and true peak.
std::pair<double, double> independently(const QString& path) {
    QProcess process;
    process.start(QStringLiteral("ffmpeg"),
                  {QStringLiteral("-nostats"), QStringLiteral("-i"), path, QStringLiteral("-filter_complex"),
                   QStringLiteral("ebur128=peak=true"), QStringLiteral("-f"), QStringLiteral("null"),
                   QStringLiteral("-")});
    if (!process.waitForFinished(60000)) qFatal("ffmpeg does not run: ./mellow test installs it");
    const QString said = QString::fromUtf8(process.readAllStandardError());
    const QString summary = said.mid(said.lastIndexOf(QStringLiteral("Summary:")));
    const auto number = [&](const QString& words) {
        const auto match =
            QRegularExpression(words + QStringLiteral(R"(:\s+(-?[\d.]+|-inf))")).match(summary);
        return match.captured(1).toDouble();
    };
    return {number(QStringLiteral("I")), number(QStringLiteral("Peak"))};
}

}  // namespace

class BalanceIoTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

 private slots:
    void cleanup() { QVERIFY(folder_.isValid()); }

    /// The same meter as everybody's: what the rack plays is as loud as another meter says.
    void asAnotherMeterSays() {
        const Ensemble demo = test::demo();
        for (const char* id : {"glass", "flute", "whistles", "hurdy"}) {
            Take take;
            const std::uint16_t port = take.portNumber("hands");
            take.add(0, port, test::bytes("90 3C 5A"));
            take.add(6'000'000, port, test::bytes("80 3C 40"));
            take.length = 6'000'000;
            io::BounceOptions options;
            options.instruments = {id};
            const QString path = folder_.filePath(QLatin1String(id) + QStringLiteral(".wav"));
            QVERIFY(io::bounce(demo, take, path.toStdString(), options, {}));
            const auto sound = io::readSound(path.toStdString());
            QVERIFY(sound);
            const Loudness ours = loudnessOf(*sound, 0, sound->frames());
            const auto [lufs, peak] = independently(path);
            QVERIFY2(
                std::abs(*ours.integrated - lufs) <= 0.1,
                qPrintable(
                    QStringLiteral("%1: %2, not %3").arg(QLatin1String(id)).arg(*ours.integrated).arg(lufs)));
            QVERIFY2(
                std::abs(ours.peak - peak) <= 0.3,
                qPrintable(QStringLiteral("%1: %2, not %3").arg(QLatin1String(id)).arg(ours.peak).arg(peak)));
        }
    }

    /// However many cores there are, what is measured is the same; a person can stop it.
    void theRackIsMeasured() {
        const Ensemble demo = test::demo();
        io::MeasureOptions one;
        one.threads = 1;
        io::MeasureOptions four;
        four.threads = 4;
        double last = 0;
        bool rises = true;
        const auto curve = io::measureOnRack(demo, glassPlan(40), one, [&](double done) {
            rises = rises && done >= last;
            last = done;
            return true;
        });
        QVERIFY(curve);
        QVERIFY(rises);
        QCOMPARE(last, 1.0);
        auto again = io::measureOnRack(demo, glassPlan(40), four);
        QVERIFY(again);
        QCOMPARE(again->keys.size(), std::size_t{1});
        QVERIFY(again->keys == curve->keys);
        QCOMPARE(again->moved, std::string("cc 1"));
        QCOMPARE(again->heardFrom, std::string("Practice rack"));
        QVERIFY(readoutOf(meanOf(*again)).range > 15);
        const auto stopped = io::measureOnRack(demo, glassPlan(40), one, [](double) { return false; });
        QVERIFY(!stopped);
        QCOMPARE(stopped.problem().what, io::measuringStopped().what);
        Ensemble elsewhere = demo;
        elsewhere.instruments[0].output.port = "Elsewhere";
        QVERIFY(!io::measureOnRack(elsewhere, glassPlan(4)));
        io::MeasureOptions mute;
        mute.soundfont = "/nowhere.sf2";
        QVERIFY(!io::measureOnRack(demo, glassPlan(4), mute));
    }

    /// Every instrument of the demo whose sound stands is levelled along what moves it, within half a LU.
    void theDemoIsLevelled_data() {
        QTest::addColumn<QString>("instrument");
        QTest::addColumn<QString>("source");
        QTest::newRow("glass") << QStringLiteral("glass") << QStringLiteral("cc 1");
        QTest::newRow("flute") << QStringLiteral("flute") << QStringLiteral("cc 2");
        QTest::newRow("whistles") << QStringLiteral("whistles") << QStringLiteral("cc 1");
        QTest::newRow("hurdy") << QStringLiteral("hurdy") << QStringLiteral("cc 11");
        QTest::newRow("drone") << QStringLiteral("drone") << QStringLiteral("cc 1");
    }
    void theDemoIsLevelled() {
        QFETCH(QString, instrument);
        QFETCH(QString, source);
        const Ensemble demo = test::demo();
        const Instrument* played = findById(demo.instruments, instrument.toStdString());
        LevelWish wish;
        wish.plan.instrument = played->id;
        wish.plan.motion = *parseMotion(demo, *played, source.toStdString());
        wish.plan.positions = 32;
        wish.plan.keys = usualKeys(*played, wish.plan.motion);
        wish.plan.settle = 600'000;
        wish.parameter = findById(played->parameters, "volume") != nullptr ? "volume" : "cc 7";
        const Measure measure = [](const Ensemble& ensemble, const SweepPlan& plan, const std::string&) {
            return io::measureOnRack(ensemble, plan);
        };
        const auto levelled = level(demo, wish, measure);
        QVERIFY2(levelled,
                 qPrintable(levelled ? QString() : QString::fromStdString(levelled.problem().sentence())));
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        QVERIFY(levelled->offBefore > levelled->off);
    }

    void soundFilesOfEveryKind_data() {
        QTest::addColumn<int>("format");
        QTest::addColumn<int>("rate");
        QTest::addColumn<int>("channels");
        QTest::newRow("WAV, 24 bits") << (SF_FORMAT_WAV | SF_FORMAT_PCM_24) << 48000 << 2;
        QTest::newRow("WAV, float, 96 kHz") << (SF_FORMAT_WAV | SF_FORMAT_FLOAT) << 96000 << 2;
        QTest::newRow("WAV, 8 bits, mono, 22,050") << (SF_FORMAT_WAV | SF_FORMAT_PCM_U8) << 22050 << 1;
        QTest::newRow("FLAC") << (SF_FORMAT_FLAC | SF_FORMAT_PCM_16) << 44100 << 2;
        QTest::newRow("AIFF") << (SF_FORMAT_AIFF | SF_FORMAT_PCM_16) << 44100 << 1;
        QTest::newRow("Ogg") << (SF_FORMAT_OGG | SF_FORMAT_VORBIS) << 48000 << 2;
    }
    void soundFilesOfEveryKind() {
        QFETCH(int, format);
        QFETCH(int, rate);
        QFETCH(int, channels);
        const Ensemble e = swellingOut();
        SweepPlan plan;
        plan.instrument = "one";
        plan.motion = motionOf(test::ccSource(1));
        plan.positions = 5;
        plan.click = true;
        const auto sweep = sweepOf(e, plan);
        test::KnownSynth synth;
        synth.rate = rate;
        synth.channels = channels;
        synth.level = [](const auto& heard) { return -8 + attenuation(heard.controls[11]); };
        const QString path = folder_.filePath(QStringLiteral("sweep.sound"));
        writeSound(path, synth.play(*sweep), format);
        const auto sound = io::readSound(path.toStdString());
        QVERIFY2(sound, qPrintable(sound ? QString() : QString::fromStdString(sound.problem().sentence())));
        QCOMPARE(sound->rate, rate);
        QCOMPARE(sound->channels, channels);
        const auto curve = measureRecorded(*sound, knownOf(e, plan, *sweep), {});
        QVERIFY2(curve, qPrintable(curve ? QString() : QString::fromStdString(curve.problem().sentence())));
        const double full = *curve->keys[0].points.back().heard.loudness;
        QVERIFY2(std::abs(full - (channels == 2 ? -8 : -11.01)) < 0.15, qPrintable(QString::number(full)));
    }

    void whatIsNoSoundIsSaid() {
        const auto refused = [](const QString& path, const QString& words) {
            const auto sound = io::readSound(path.toStdString());
            return !sound && QString::fromStdString(sound.problem().sentence()).contains(words);
        };
        QVERIFY(refused(folder_.filePath(QStringLiteral("none.wav")), QStringLiteral("No such file")));
        QVERIFY(refused(folder_.path(), QStringLiteral("folder")));
        QVERIFY(refused(QStringLiteral("/dev/zero"), QStringLiteral("no file")));
        QFile text(folder_.filePath(QStringLiteral("text.wav")));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.write("no sound at all");
        text.close();
        QVERIFY(refused(text.fileName(), QStringLiteral("no sound file")));
        Sound six;
        six.channels = 6;
        six.samples.resize(600);
        writeSound(folder_.filePath(QStringLiteral("six.wav")), six, SF_FORMAT_WAV | SF_FORMAT_PCM_16);
        QVERIFY(refused(folder_.filePath(QStringLiteral("six.wav")), QStringLiteral("6 channels")));
        writeSound(folder_.filePath(QStringLiteral("empty.wav")), Sound{}, SF_FORMAT_WAV | SF_FORMAT_PCM_16);
        QVERIFY(refused(folder_.filePath(QStringLiteral("empty.wav")), QStringLiteral("no sound in it")));
    }

    /// Through JACK the curve is the one that the synthesizer has, however late it answers.
    void throughJack_data() {
        QTest::addColumn<int>("late");
        QTest::newRow("at once") << 0;
        QTest::newRow("late") << 40123;
    }
    void throughJack() {
        QFETCH(int, late);
        JackSynth::Nature nature;
        nature.late = late;
        Playing playing(nature);
        const auto recorded = playing.record(6);
        QVERIFY2(recorded,
                 qPrintable(recorded ? QString() : QString::fromStdString(recorded.problem().sentence())));
        const auto curve = measureRecorded(recorded->sound, recorded->known, {});
        QVERIFY2(curve, qPrintable(curve ? QString() : QString::fromStdString(curve.problem().sentence())));
        const auto& points = curve->keys[0].points;
        QCOMPARE(points.size(), std::size_t{6});
        for (std::size_t i = 1; i < points.size(); ++i) {
            const double level = -8 + attenuation(static_cast<int>(std::lround(points[i].position * 127)));
            QVERIFY2(std::abs(*points[i].heard.loudness - level) <= 0.2,
                     qPrintable(QStringLiteral("%1: %2, not %3")
                                    .arg(points[i].position)
                                    .arg(*points[i].heard.loudness)
                                    .arg(level)));
        }
        // What was played before is played again.
        QTRY_COMPARE(playing.session.readings().takePosition(), std::int64_t{-1});
    }

    /// Silence is said, what clips is said, and what stops half-way is too quiet from there on.
    void synthesizersThatFail() {
        {
            JackSynth::Nature nature;
            nature.silent = true;
            Playing playing(nature);
            const auto recorded = playing.record(2);
            QVERIFY(recorded);
            const auto curve = measureRecorded(recorded->sound, recorded->known, {});
            QVERIFY(!curve);
            QVERIFY(curve.problem().what.find("silent") != std::string::npos);
        }
        {
            JackSynth::Nature nature;
            nature.loudest = 3;
            nature.until = 4;
            Playing playing(nature);
            const auto recorded = playing.record(4);
            QVERIFY(recorded);
            const auto curve = measureRecorded(recorded->sound, recorded->known, {});
            QVERIFY(curve);
            QVERIFY(!curve->keys[0].points.back().heard.loudness);
            const QString doubts = QString::fromStdString(text(doubtsAbout(*curve)));
            QVERIFY2(doubts.contains(QStringLiteral("too quiet")), qPrintable(doubts));
        }
    }

    void whatIsNotThereIsSaid() {
        Playing playing({});
        const auto none = playing.record(2, {"nobody:out", ""});
        QVERIFY(!none);
        QVERIFY(none.problem().where == "nobody:out");
        auto measuring = io::JackMeasuring::begin(playing.stage(), playing.ensemble, playing.plan(4),
                                                  JackSynth::outputs());
        QVERIFY(measuring);
        // Left before it is over, it leaves nothing behind.
        measuring->reset();
        QTRY_COMPARE(playing.session.readings().takePosition(), std::int64_t{-1});
    }

    /// A server that stops is noticed.
    void aServerThatStops() {
        Playing playing({});
        auto measuring = io::JackMeasuring::begin(playing.stage(), playing.ensemble, playing.plan(8),
                                                  JackSynth::outputs());
        QVERIFY(measuring);
        QVERIFY(QTest::qWaitFor([&] { return (*measuring)->done() > 0.05; }, 10000));
        playing.server.freeze();
        std::optional<Result<io::RecordedSweep>> made;
        QVERIFY(QTest::qWaitFor(
            [&] {
                made = (*measuring)->tend();
                return made.has_value();
            },
            20000));
        QVERIFY(!*made);
        QVERIFY(made->problem().what.find("nothing comes in") != std::string::npos);
        playing.server.thaw();
    }

 private:
    static std::string text(const std::vector<std::string>& lines) {
        std::string all;
        for (const std::string& each : lines) all += each + "\n";
        return all;
    }
};

QTEST_GUILESS_MAIN(BalanceIoTest)
#include "balance.moc"
