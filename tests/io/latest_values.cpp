// Values that wait for a block of sound: whoever plays what is handed over stands, at each note and at each
// block, where whoever played everything stands; and plays no more of a control than its last value.
#include "io/sound/latest_values.h"

#include <rapidcheck.h>
#include <QtTest>
#include <map>
#include <vector>

using namespace mellow;

namespace {

/// What a synthesizer keeps of what it was sent. The high half of a pair puts the low one back, as many do.
struct Channel {
    std::map<std::size_t, int> values;
    std::vector<std::pair<midi::Short, std::map<std::size_t, int>>> acts;  ///< and where all stood then

    void play(const midi::Short& message) {
        const midi::Bytes bytes = message.bytes();
        const std::size_t key = midi::keyOf(bytes);
        const bool isControl = key < midi::controlCount;
        const bool isAct = !isControl && key != midi::bendKey && key != midi::pressureKey;
        // Of pedals, banks and registers each message is an act of its own.
        const bool isPedal = key >= 64 && key <= 69;
        if (isPedal) acts.emplace_back(message, std::map<std::size_t, int>{});
        const bool isSaidEach = isControl && (key == 0 || key == 32 || key == 6 || key == 38 || key >= 96);
        if (isAct || (isSaidEach && !(key > 101 && key < 120))) acts.emplace_back(message, values);
        if (isAct) return;
        if (key < 32) values[key + 32] = 0;
        values[key] = key == midi::bendKey ? midi::bendOf(bytes) : bytes[bytes.size() - 1];
    }
    bool operator==(const Channel&) const = default;
};

using Synth = std::map<int, Channel>;

rc::Gen<midi::Short> anyMessage() {
    return rc::gen::exec([] {
        const int channel = *rc::gen::inRange(0, 3);
        const int first = *rc::gen::weightedOneOf<int>({{5, rc::gen::element(1, 33, 11, 43)},
                                                        {2, rc::gen::element(64, 6, 98, 101, 0)},
                                                        {1, rc::gen::inRange(0, 128)}});
        const int second = *rc::gen::inRange(0, 128);
        switch (*rc::gen::inRange(0, 10)) {
            case 0:
                return midi::make(midi::noteOn, channel, first, second);
            case 1:
                return midi::make(midi::noteOff, channel, first, second);
            case 2:
                return midi::make(midi::programChange, channel, first);
            case 3:
                return midi::make(midi::channelPressure, channel, first);
            case 4:
                return midi::makeBend(channel, first * 128 + second);
            case 5:
                return midi::make(midi::keyPressure, channel, first, second);
            default:
                return midi::make(midi::controlChange, channel, first, second);
        }
    });
}

}  // namespace

class LatestValuesTest : public QObject {
    Q_OBJECT

 private slots:
    void standsAsIfAllWerePlayed() {
        QVERIFY(rc::check("the same at each act and each block", [] {
            Synth whole;
            Synth spared;
            io::LatestValues latest;
            const auto into = [](Synth& synth) {
                return [&synth](const midi::Short& message) {
                    synth[midi::channelOf(message.bytes())].play(message);
                };
            };
            const auto blocks = *rc::gen::container<std::vector<std::vector<midi::Short>>>(
                rc::gen::container<std::vector<midi::Short>>(anyMessage()));
            for (const auto& block : blocks) {
                for (const midi::Short& message : block) {
                    into(whole)(message);
                    latest.take(message, into(spared));
                }
                latest.handOver(into(spared));
                RC_ASSERT(whole == spared);
            }
        }));
    }

    void ofAControlThatMovesTheLastIsPlayed() {
        io::LatestValues latest;
        std::vector<midi::Short> played;
        const auto play = [&played](const midi::Short& message) { played.push_back(message); };
        for (int value = 0; value < 128; ++value) {
            latest.take(midi::make(midi::controlChange, 0, 1, value), play);
            latest.take(midi::makeBend(3, value * 128), play);
        }
        QVERIFY(played.empty());
        latest.handOver(play);
        QCOMPARE(played,
                 (std::vector{midi::make(midi::controlChange, 0, 1, 127), midi::makeBend(3, 127 * 128)}));
        latest.handOver(play);
        QCOMPARE(played.size(), std::size_t{2});
        // A pedal that goes down and up between two blocks has let go.
        played.clear();
        latest.take(midi::make(midi::controlChange, 0, midi::sustain, 127), play);
        latest.take(midi::make(midi::controlChange, 0, midi::sustain, 0), play);
        QCOMPARE(played.size(), std::size_t{2});
        // It waits for no value, and none is sent for it; a note is.
        latest.take(midi::make(midi::controlChange, 0, 1, 64), play);
        latest.take(midi::make(midi::controlChange, 0, midi::sustain, 127), play);
        QCOMPARE(played.size(), std::size_t{3});
        latest.take(midi::make(midi::noteOn, 0, 60, 90), play);
        QCOMPARE(played.size(), std::size_t{5});
        QCOMPARE(played[3], midi::make(midi::controlChange, 0, 1, 64));
    }

    /// However much comes between two blocks, nothing of it is lost.
    void moreThanFinds() {
        io::LatestValues latest;
        std::map<int, int> stands;
        const auto play = [&stands](const midi::Short& message) {
            stands[message.data[1]] = message.data[2];
        };
        for (int i = 0; i < 10'000; ++i)
            latest.take(midi::make(midi::controlChange, 0, 70 + i % 7, i % 128), play);
        latest.handOver(play);
        for (int i = 10'000 - 7; i < 10'000; ++i) QCOMPARE(stands.at(70 + i % 7), i % 128);
    }
};

QTEST_GUILESS_MAIN(LatestValuesTest)
#include "latest_values.moc"
