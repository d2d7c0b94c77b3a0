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
#include "core/reuse/parts.h"
#include "core/store/part_json.h"
#include "io/balance/jack_measuring.h"
#include "io/balance/rack_measuring.h"
#include "io/balance/sound_reading.h"
#include "io/bounce/bounce.h"
#include "io/session/session.h"
#include "io/sound/practice_sound.h"
#include "support/build.h"
#include "support/jack_rack.h"
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

/// A session that plays on a server, into a synthesizer, or into the practice rack as one.
struct Playing {
    test::JackServer server{"mellow-recording"};
    io::Session session;
    Ensemble ensemble;
    std::unique_ptr<JackSynth> synth;
    std::unique_ptr<test::JackRack> rack;

    explicit Playing(const JackSynth::Nature& nature) : Playing(swellingOut()) {
        synth = std::make_unique<JackSynth>(server.name(), nature);
        synth->hear(session.cabling().jack().name() + ":North rack");
    }
    explicit Playing(const Ensemble& played) : session(optionsOf(server)), ensemble(played) {
        session.play(ensemble);
        session.start();
    }
    void onTheRack() {
        rack = std::make_unique<test::JackRack>(server.name(), ensemble);
        rack->hear(session.cabling().jack().name() + ":North rack");
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
        return record(ensemble, plan(positions), from);
    }
    Result<io::RecordedSweep> record(const Ensemble& played, const SweepPlan& sweep,
                                     const io::HeardFrom& from) {
        auto measuring = io::JackMeasuring::begin(stage(), played, sweep, from);
        if (!measuring) return measuring.problem();
        std::optional<Result<io::RecordedSweep>> made;
        const bool over = QTest::qWaitFor(
            [&] {
                session.tend();
                if (meanwhile) meanwhile((*measuring)->done());
                made = (*measuring)->tend();
                return made.has_value();
            },
            120000);
        if (!over) qFatal("measuring did not end");
        return std::move(*made);
    }
    /// Measures as levelling wants it.
    Measure measuring(const io::HeardFrom& from) {
        return [this, from](const Ensemble& played, const SweepPlan& sweep, const std::string&) {
            const auto recorded = record(played, sweep, from);
            if (!recorded) return Result<Curve>(recorded.problem());
            return measureRecorded(recorded->sound, recorded->known, {});
        };
    }
    std::function<void(double done)> meanwhile;
};

Result<Curve> onRack(const Ensemble& ensemble, const SweepPlan& plan, const std::string& = {}) {
    return io::measureOnRack(ensemble, plan);
}

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
    if (!test::ends(process, 60000)) qFatal("ffmpeg does not run: ./mellow test installs it");
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
        const auto levelled = level(demo, wish, onRack);
        QVERIFY2(levelled,
                 qPrintable(levelled ? QString() : QString::fromStdString(levelled.problem().sentence())));
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        QVERIFY(levelled->offBefore > levelled->off);
        QVERIFY2(levelled->points <= 12, qPrintable(QString::number(levelled->points)));
    }

    /// And every one that stands among those of the library, by each chain that makes it louder.
    void theLibraryIsLevelled_data() {
        QTest::addColumn<QString>("part");
        QTest::addColumn<QString>("source");
        QTest::newRow("strings, dynamics")
            << QStringLiteral("orchestral-strings") << QStringLiteral("dynamics");
        QTest::newRow("strings, expression")
            << QStringLiteral("orchestral-strings") << QStringLiteral("expression");
        QTest::newRow("organ, swell") << QStringLiteral("nine-drawbar-organ") << QStringLiteral("swell");
        QTest::newRow("general MIDI, swell") << QStringLiteral("general-midi") << QStringLiteral("swell");
    }
    void theLibraryIsLevelled() {
        QFETCH(QString, part);
        QFETCH(QString, source);
        const auto read = store::parsePart(
            test::sourceFile(QStringLiteral("data/library/%1.lever-part").arg(part)).toStdString());
        QVERIFY(read);
        Ensemble e;
        const std::string id = reuse::putInstruments(e, *read).front();
        Instrument& played = *findById(e.instruments, id);
        // General MIDI is whatever one chooses; strings stand as long as they are held.
        constexpr int strings = 48;
        if (io::practiceSound(played) == 0)
            played.extras.emplace_back("practiceSound", std::to_string(strings));
        LevelWish wish;
        wish.plan.instrument = id;
        wish.plan.motion = *parseMotion(e, played, source.toStdString());
        wish.plan.positions = 32;
        wish.plan.keys = usualKeys(played, wish.plan.motion);
        wish.plan.settle = 600'000;
        wish.parameter = findById(played.parameters, "volume") != nullptr ? "volume" : "cc 7";
        const auto levelled = level(e, wish, onRack);
        QVERIFY2(levelled,
                 qPrintable(levelled ? QString() : QString::fromStdString(levelled.problem().sentence())));
        QVERIFY(levelled->reached > 8);
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        QVERIFY2(levelled->points <= 12, qPrintable(QString::number(levelled->points)));
    }

    /// What was levelled is level for a meter that is not ours.
    void levelledAsAnotherMeterSays() {
        const Ensemble demo = test::demo();
        LevelWish wish;
        wish.plan = glassPlan(8);
        wish.plan.settle = 600'000;
        wish.plan.hold = 1'000'000;
        wish.parameter = "cc 7";
        wish.lawPositions = 33;
        const auto levelled = level(demo, wish, onRack);
        QVERIFY(levelled && levelled->noRoom.empty());
        QVERIFY(levelled->offBefore > 3);
        const auto sweep = sweepOf(levelled->ensemble, wish.plan);
        const QString whole = folder_.filePath(QStringLiteral("whole.wav"));
        QVERIFY(io::bounce(sweep->ensemble, sweep->take, whole.toStdString(), {}, {}));
        const auto sound = io::readSound(whole.toStdString());
        for (std::size_t i = 0; i < sweep->segments.size(); ++i) {
            const Segment& segment = sweep->segments[i];
            Sound held;
            held.rate = sound->rate;
            held.channels = sound->channels;
            const auto at = [&](std::int64_t time) {
                return sound->samples.begin() + sound->frameAt(time) * sound->channels;
            };
            held.samples.assign(at(segment.from), at(segment.to));
            const QString path = folder_.filePath(QStringLiteral("held.wav"));
            writeSound(path, held, SF_FORMAT_WAV | SF_FORMAT_PCM_24);
            const auto [lufs, peak] = independently(path);
            QVERIFY2(std::abs(lufs - levelled->goal[i].second) <= 0.6,
                     qPrintable(QStringLiteral("%1: %2, not %3")
                                    .arg(segment.position)
                                    .arg(lufs)
                                    .arg(levelled->goal[i].second)));
            QVERIFY(peak <= wish.ceiling + 0.3);
        }
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

    /// The practice rack in a loop through JACK is as loud at every position as it is unheard.
    void theRackThroughJack() {
        Ensemble demo = test::demo();
        const SweepPlan plan = [] {
            SweepPlan made = glassPlan(9);
            made.settle = 600'000;
            made.hold = 1'000'000;
            return made;
        }();
        const auto direct = onRack(demo, plan);
        QVERIFY(direct);
        for (Instrument& each : demo.instruments) each.output.port = "North rack";
        Playing playing(demo);
        playing.onTheRack();
        const auto curve = playing.measuring(test::JackRack::outputs())(demo, plan, "");
        QVERIFY2(curve, qPrintable(curve ? QString() : QString::fromStdString(curve.problem().sentence())));
        const auto& looped = curve->keys[0].points;
        const auto& unheard = direct->keys[0].points;
        QCOMPARE(looped.size(), unheard.size());
        double worst = 0;
        for (std::size_t i = 0; i < looped.size(); ++i) {
            QCOMPARE(looped[i].position, unheard[i].position);
            QVERIFY(looped[i].heard.loudness && unheard[i].heard.loudness);
            worst = std::max(worst, std::abs(*looped[i].heard.loudness - *unheard[i].heard.loudness));
        }
        qInfo("the loop is off by %.2f LU at worst", worst);
        QVERIFY2(worst <= 0.2, qPrintable(QString::number(worst)));
    }

    /// What plays elsewhere is levelled as the rack is: each measurement is played in its own time.
    void levelledThroughJack() {
        Playing playing(JackSynth::Nature{});
        LevelWish wish;
        wish.plan = playing.plan(4);
        wish.parameter = "volume";
        wish.lawPositions = 12;
        wish.goal = *parseGoal("line:0.5/-40,1/-16");
        const auto levelled = level(playing.ensemble, wish, playing.measuring(JackSynth::outputs()));
        QVERIFY2(levelled,
                 qPrintable(levelled ? QString() : QString::fromStdString(levelled.problem().sentence())));
        QVERIFY(levelled->reached >= 3);
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        QVERIFY(levelled->offBefore > 3);
    }

    /// Where a period is missed that is told, and what lies behind is measured where it is.
    void periodsAreMissed() {
        Playing playing(JackSynth::Nature{});
        bool held = false;
        playing.meanwhile = [&](double done) {
            if (held || done < 0.5) return;
            held = true;
            playing.server.freeze();
            QTest::qWait(400);
            playing.server.thaw();
        };
        const auto recorded = playing.record(8);
        QVERIFY2(recorded,
                 qPrintable(recorded ? QString() : QString::fromStdString(recorded.problem().sentence())));
        QVERIFY(held);
        QVERIFY2(recorded->missing >= test::period, qPrintable(QString::number(recorded->missing)));
        auto curve = measureRecorded(recorded->sound, recorded->known, {});
        QVERIFY2(curve, qPrintable(curve ? QString() : QString::fromStdString(curve.problem().sentence())));
        curve->missing = recorded->missing;
        QVERIFY(QString::fromStdString(text(doubtsAbout(*curve))).contains(QStringLiteral("never came")));
        int wrong = 0;
        const auto& points = curve->keys[0].points;
        for (std::size_t i = 1; i < points.size(); ++i) {
            const double level = -8 + attenuation(static_cast<int>(std::lround(points[i].position * 127)));
            if (level > -60 && std::abs(points[i].heard.loudness.value_or(-200) - level) > 0.2) ++wrong;
        }
        QVERIFY2(wrong <= 1, qPrintable(QString::number(wrong)));
        QVERIFY(std::abs(*points.back().heard.loudness + 8) <= 0.2);
    }

    /// Whoever is busy elsewhere while the sweep ends does not take that for a hand that stopped it.
    void nobodyLooksWhileItEnds() {
        Playing playing(JackSynth::Nature{});
        SweepPlan plan = playing.plan(2);
        plan.click = true;
        const auto sweep = balance::sweepOf(playing.ensemble, plan);
        QVERIFY(sweep);
        bool busy = false;
        playing.meanwhile = [&](double) {
            constexpr std::int64_t before = 900'000;  // µs
            if (busy || playing.session.readings().takePosition() < sweep->take.length - before) return;
            busy = true;
            QTest::qSleep(1500);
            QVERIFY(playing.session.readings().takePosition() < 0);
        };
        const auto recorded = playing.record(2);
        QVERIFY2(recorded,
                 qPrintable(recorded ? QString() : QString::fromStdString(recorded.problem().sentence())));
        QVERIFY(busy);
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
            nature.loudest = 9;
            nature.clips = true;
            Playing playing(nature);
            const auto recorded = playing.record(3);
            QVERIFY(recorded);
            const auto curve = measureRecorded(recorded->sound, recorded->known, {});
            QVERIFY(curve);
            const QString doubts = QString::fromStdString(text(doubtsAbout(*curve)));
            QVERIFY2(doubts.contains(QStringLiteral("may clip")), qPrintable(doubts));
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
        Playing playing(JackSynth::Nature{});
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

    /// So is somebody who stops what is played, or plays something else.
    void somebodyElsePlays() {
        Playing playing(JackSynth::Nature{});
        for (const bool another : {false, true}) {
            bool done = false;
            playing.meanwhile = [&](double share) {
                if (done || share < 0.2) return;
                done = true;
                if (!another) return playing.session.stopTake();
                auto take = std::make_shared<Take>();
                take->length = 60'000'000;
                playing.session.startTake(take);
            };
            const auto recorded = playing.record(6);
            QVERIFY(!recorded);
            QVERIFY2(recorded.problem().what.find("was stopped") != std::string::npos,
                     recorded.problem().what.c_str());
            QCOMPARE(playing.session.readings().takePosition() >= 0, another);
        }
    }

    /// A server that stops is noticed.
    void aServerThatStops() {
        Playing playing(JackSynth::Nature{});
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
