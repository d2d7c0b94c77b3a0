// The practice rack, measured: each controller must audibly do what its name says.
#include "io/sound/practice_rack.h"

#include <QTemporaryDir>
#include <QtTest>
#include <cmath>

using namespace mellow;

namespace {

constexpr int rate = 44100;
constexpr int square = 80;
constexpr int sawtooth = 81;

using Sound = std::vector<float>;

struct Rack {
    std::unique_ptr<io::PracticeRack> rack;

    explicit Rack(int sound = sawtooth) {
        io::RackOptions options;
        options.soundCard = false;
        options.ownThread = false;
        auto opened = io::PracticeRack::open(options);
        if (!opened) qFatal("%s", opened.problem().sentence().c_str());
        rack = std::move(*opened);
        rack->setSound(0, sound);
    }
    void send(int status, int first, int second) { rack->push(midi::make(status, 0, first, second)); }
    Sound render(double seconds) {
        const int frames = static_cast<int>(seconds * rate);
        Sound left(static_cast<std::size_t>(frames)), right(static_cast<std::size_t>(frames));
        rack->render(left.data(), right.data(), frames);
        return left;
    }
};

double loudness(const Sound& sound) {
    double sum = 0;
    for (const float x : sound) sum += x * x;
    return std::sqrt(sum / static_cast<double>(sound.size()));
}

/// The size of what lies within 10 Hz of a frequency, by Goertzel's recurrence: a sound's two oscillators are
/// a little apart.
double partial(const Sound& sound, double hertz) {
    double sum = 0;
    for (double at = hertz - 10; at <= hertz + 10; at += 2) {
        const double turn = 2 * std::cos(2 * M_PI * at / rate);
        double one = 0;
        double two = 0;
        for (const float x : sound) two = std::exchange(one, x + turn * one - two);
        sum += one * one + two * two - turn * one * two;
    }
    return std::sqrt(sum);
}

/// How much of a note at 220 Hz is at one of its harmonics, against its first.
double share(const Sound& sound, int harmonic) {
    return partial(sound, 220.0 * harmonic) / partial(sound, 220);
}

/// Lengths of successive periods, in frames, from rising zero crossings of the sound made dull.
std::vector<double> periods(const Sound& sound) {
    std::vector<double> found;
    double half = 0;
    double dull = 0;
    double before = 0;
    double last = -1;
    for (std::size_t i = 0; i < sound.size(); ++i) {
        half += 0.01 * (sound[i] - half);
        dull += 0.01 * (half - dull);
        if (before < 0 && dull >= 0) {
            const double at = static_cast<double>(i) - dull / (dull - before);
            if (last >= 0) found.push_back(at - last);
            last = at;
        }
        before = dull;
    }
    return found;
}

double spread(const std::vector<double>& values) {
    double mean = 0;
    for (const double v : values) mean += v / static_cast<double>(values.size());
    double sum = 0;
    for (const double v : values) sum += (v - mean) * (v - mean);
    return std::sqrt(sum / static_cast<double>(values.size())) / mean;
}

/// How often the pitch swings up through its middle.
int swings(const std::vector<double>& lengths) {
    double mean = 0;
    for (const double v : lengths) mean += v / static_cast<double>(lengths.size());
    double eased = 0;
    bool above = false;
    int count = 0;
    for (const double v : lengths) {
        eased += 0.3 * ((v - mean) - eased);
        if (!above && eased > mean * 0.002) ++count;
        above = eased > mean * 0.002 || (above && eased > -mean * 0.002);
    }
    return count;
}

Sound noteWith(const std::vector<std::pair<int, int>>& controls, double skip = 0.3, double seconds = 0.5,
               int sound = sawtooth) {
    Rack rack(sound);
    for (const auto& [control, value] : controls) rack.send(0xB0, control, value);
    rack.send(0x90, 57, 100);
    (void)rack.render(skip);
    return rack.render(seconds);
}

}  // namespace

class PracticeRackTest : public QObject {
    Q_OBJECT

 private slots:
    void expressionMakesItLouder() {
        QVERIFY(loudness(noteWith({{11, 127}})) > 4 * loudness(noteWith({{11, 40}})));
    }
    void toneMakesItBrighter() {
        // Two octaves above a cutoff of 523 Hz, a slope of 12 dB an octave leaves a sixteenth.
        const double low = share(noteWith({{74, 60}}), 10);
        const double high = share(noteWith({{74, 127}}), 10);
        QVERIFY2(high > 8 * low, qPrintable(QStringLiteral("%1 %2").arg(low).arg(high)));
    }
    void resonanceLiftsWhatLiesAtTheCutoff() {
        // A cutoff near 1100 Hz, the fifth harmonic of the note.
        const auto lift = [](int resonance) { return share(noteWith({{74, 74}, {71, resonance}}), 5); };
        QVERIFY2(lift(110) > 3 * lift(0), qPrintable(QStringLiteral("%1 %2").arg(lift(0)).arg(lift(110))));
    }
    void attackMakesItComeLater() {
        const double quick = loudness(noteWith({{73, 0}}, 0, 0.15));
        const double slow = loudness(noteWith({{73, 127}}, 0, 0.15));
        QVERIFY2(quick > 2 * slow, qPrintable(QStringLiteral("%1 %2").arg(quick).arg(slow)));
    }
    void releaseMakesItGoLater() {
        const auto after = [](int value) {
            Rack rack;
            rack.send(0xB0, 72, value);
            rack.send(0x90, 57, 100);
            (void)rack.render(0.4);
            rack.send(0x80, 57, 64);
            (void)rack.render(0.3);
            return loudness(rack.render(0.2));
        };
        QVERIFY(after(110) > 4 * after(0));
    }
    void vibratoDepthMovesThePitch() {
        const double still = spread(periods(noteWith({{77, 0}}, 1.0, 1.0, square)));
        const double moving = spread(periods(noteWith({{77, 127}}, 1.0, 1.0, square)));
        QVERIFY2(moving > 3 * still && moving > 0.01,
                 qPrintable(QStringLiteral("%1 %2").arg(still).arg(moving)));
    }
    void vibratoRateMovesItFaster() {
        const int slow = swings(periods(noteWith({{77, 127}, {76, 0}}, 1.0, 2.0, square)));
        const int quick = swings(periods(noteWith({{77, 127}, {76, 127}}, 1.0, 2.0, square)));
        QVERIFY2(slow >= 3 && slow <= 5, qPrintable(QString::number(slow)));
        QVERIFY2(quick >= 14 && quick <= 18, qPrintable(QString::number(quick)));
    }
    void dynamicsMakeItLouderAndBrighter() {
        const Sound soft = noteWith({{20, 30}});
        const Sound strong = noteWith({{20, 127}});
        QVERIFY(loudness(strong) > 2 * loudness(soft));
        QVERIFY(share(strong, 24) > 1.5 * share(soft, 24));
    }
    void bendMovesThePitch() {
        Rack rack;
        rack.send(0x90, 57, 100);
        (void)rack.render(0.5);
        const auto level = periods(rack.render(0.3));
        rack.rack->push(midi::makeBend(0, 16383));
        (void)rack.render(0.2);
        const auto bent = periods(rack.render(0.3));
        QVERIFY(bent[bent.size() / 2] < 0.92 * level[level.size() / 2]);
    }
    void allSoundOffEndsEverySound() {
        Rack rack;
        rack.send(0x90, 57, 100);
        rack.send(0xB0, 120, 0);
        (void)rack.render(0.2);
        QVERIFY(loudness(rack.render(0.3)) < 1e-3);
    }

    void aControlMeansTheSameWhateverSounds() {
        // These two bring a filter and a vibrato of their own.
        for (const int sound : {sawtooth, square}) {
            const double ratio =
                share(noteWith({{74, 60}}, 0.3, 0.5, sound), 9) / share(noteWith({}, 0.3, 0.5, sound), 9);
            QVERIFY2(ratio > 0.03 && ratio < 0.2, qPrintable(QString::number(ratio)));
        }
    }

    void itReportsWhatItReceived() {
        Rack rack;
        QCOMPARE(rack.rack->receivedControl(0, 11), -1);
        rack.send(0xB0, 11, 99);
        rack.rack->push(midi::makeBend(0, 9000));
        rack.rack->push(midi::make(0xD0, 0, 55));
        rack.send(0x90, 60, 1);
        rack.send(0x90, 64, 1);
        rack.send(0x80, 60, 0);
        QCOMPARE(rack.rack->receivedControl(0, 11), 99);
        QCOMPARE(rack.rack->receivedBend(0), 9000);
        QCOMPARE(rack.rack->receivedPressure(0), 55);
        QCOMPARE(rack.rack->sounding(0), 1);
        rack.send(0xB0, 123, 0);
        QCOMPARE(rack.rack->sounding(0), 0);
        QCOMPARE(rack.rack->receivedControl(1, 11), -1);
    }

    void withoutACardItIsSilentAndSaysSo() {
        io::RackOptions options;
        options.soundCard = false;
        const auto rack = io::PracticeRack::open(options);
        QVERIFY(static_cast<bool>(rack));
        QVERIFY(!(*rack)->audible());
        QCOMPARE((*rack)->status(), std::string("Practice rack: silent, started without sound"));
    }

    void aMissingSoundfontIsNamed() {
        io::RackOptions options;
        options.soundfont = "/nowhere/gone.sf2";
        const auto rack = io::PracticeRack::open(options);
        QVERIFY(!rack);
        const std::string sentence = rack.problem().sentence();
        QVERIFY(sentence.find("/nowhere/gone.sf2 is missing") != std::string::npos);
        QVERIFY(sentence.find("timgm6mb-soundfont") != std::string::npos);
    }

    void aFileThatIsNoSoundfontIsNamed() {
        QTemporaryDir folder;
        QFile file(folder.filePath(QStringLiteral("text.sf2")));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("no soundfont");
        file.close();
        io::RackOptions options;
        options.soundfont = file.fileName().toStdString();
        const auto rack = io::PracticeRack::open(options);
        QVERIFY(!rack);
        QVERIFY(rack.problem().what.find("is no soundfont") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(PracticeRackTest)
#include "practice_rack.moc"
