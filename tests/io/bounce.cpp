// A take into a sound file, from its middle: what came before is not heard, and what stood then stands.
#include "io/bounce/bounce.h"

#include <QTemporaryDir>
#include <QtTest>
#include <cmath>

#include "io/balance/sound_reading.h"
#include "io/playing/happenings.h"
#include "support/build.h"

using namespace mellow;

namespace {

constexpr std::int64_t second = 1'000'000;

Ensemble onTheRack() {
    Instrument one = test::instrument("one");
    one.output.port = io::practiceRackPort;
    one.output.channel = 1;
    return test::ensemble({one});
}

/// Ten short notes in the first two seconds, then nothing, then a long one from eight seconds to ten.
Take notes() {
    Take take;
    take.ports = {"keys"};
    const auto add = [&take](std::int64_t time, const midi::Short& message) {
        take.add(time, 0, message.bytes());
    };
    constexpr int count = 10;
    for (int i = 0; i < count; ++i) {
        add(i * second / 5, midi::make(midi::noteOn, 0, 60 + i, 110));
        add(i * second / 5 + second / 10, midi::make(midi::noteOff, 0, 60 + i, 64));
    }
    add(8 * second, midi::make(midi::noteOn, 0, 48, 110));
    add(10 * second, midi::make(midi::noteOff, 0, 48, 64));
    take.length = 12 * second;
    return take;
}

}  // namespace

class BounceTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    /// The loudest sample between two moments of a bounce, in seconds from its beginning.
    double loudest(const Take& take, std::int64_t from, double begins, double ends) {
        const std::filesystem::path path = folder_.filePath(QStringLiteral("out.wav")).toStdString();
        io::BounceOptions options;
        options.from = from;
        const auto made = io::bounce(onTheRack(), take, path, options, {});
        if (!made) qFatal("%s", made.problem().sentence().c_str());
        const auto sound = io::readSound(path);
        if (!sound) qFatal("%s", sound.problem().sentence().c_str());
        const auto at = [&sound](double seconds) {
            return static_cast<std::size_t>(seconds * sound->rate) *
                   static_cast<std::size_t>(sound->channels);
        };
        double most = 0;
        for (std::size_t i = at(begins); i < std::min(at(ends), sound->samples.size()); ++i)
            most = std::max(most, static_cast<double>(std::abs(sound->samples[i])));
        return most;
    }

    static constexpr double silence = 1e-3;
    static constexpr double heard = 1e-2;

 private slots:
    void fromTheBeginning() {
        QVERIFY(loudest(notes(), 0, 0, 2) > heard);
        QVERIFY(loudest(notes(), 0, 8.05, 9.9) > heard);
    }

    /// Notes that were over before are not all heard at once at the beginning.
    void whatIsOverIsNotHeard() {
        QVERIFY2(loudest(notes(), 6 * second, 0, 1.9) < silence,
                 qPrintable(QString::number(loudest(notes(), 6 * second, 0, 1.9))));
        QVERIFY(loudest(notes(), 6 * second, 2.05, 3.9) > heard);
    }

    /// A key that is down is struck, and let go of when it was.
    void whatIsDownIsHeard() {
        QVERIFY(loudest(notes(), 9 * second, 0, 0.9) > heard);
        QVERIFY(loudest(notes(), 9 * second, 2.5, 3) < heard);
        QVERIFY(loudest(notes(), 11 * second, 0, 1) < silence);
    }

    /// Controls stand where they stood.
    void controlsStandWhereTheyStood() {
        Take quiet = notes();
        Take later;
        later.ports = quiet.ports;
        later.add(second, 0, midi::make(midi::controlChange, 0, 7, 0).bytes());
        for (std::size_t i = 0; i < quiet.events.size(); ++i) {
            if (quiet.events[i].time > second) later.addFrom(quiet, quiet.events[i], quiet.events[i].time, 0);
        }
        later.length = quiet.length;
        QVERIFY(loudest(later, 9 * second, 0, 0.9) < silence);
    }
};

QTEST_GUILESS_MAIN(BounceTest)
#include "bounce.moc"
