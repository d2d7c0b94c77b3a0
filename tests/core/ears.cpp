// Ears by themselves: what a raw value means, where steps of data entry lead, when a control has caught up
// with a value (signal rules, sections 1 and 5).
#include "core/engine/program/ear.h"

#include <rapidcheck.h>
#include <QtTest>
#include <array>

#include "core/engine/playing/handing_over.h"
#include "core/model/law.h"

using namespace mellow;
using namespace mellow::engine;

namespace {

Ear fine(int max = midi::max14) {
    Ear ear;
    ear.max = max;
    return ear;
}

midi::PairReading reading(int value, bool isFine) {
    return {{}, value, isFine, value};
}

}  // namespace

class EarsTest : public QObject {
    Q_OBJECT

 private slots:
    void aReadingOfOneByteLiesBehindThoseOfTwo() {
        QCOMPARE(rawOf(fine(), reading(16383, true)), 16383);
        QCOMPARE(rawOf(fine(), reading(0, false)), 16384);
        QCOMPARE(rawOf(fine(), reading(127, false)), 16511);
        QCOMPARE(placeOf(fine(), 16383), 1.0);
        QCOMPARE(placeOf(fine(), 16511), 1.0);
        QCOMPARE(placeOf(fine(), 16384 + 64), 64.0 / 127.0);
    }

    /// What is read of a pair that goes through all of it, by one who rests at the low end and one who rests
    /// in the middle.
    void readingsOfAPair() {
        midi::PairReading last;
        const auto take = [&last](const midi::PairReading& reading) { last = reading; };
        const auto is = [&last](bool isFine, int value, int fromMiddle) {
            return last.fine == isFine && last.value == value && last.fromMiddle == fromMiddle;
        };
        midi::Pairs pairs;
        const midi::PairAddress nrpn{1, 0, midi::PairKind::nrpn, 5};
        pairs.step(nrpn, 1, take);
        QVERIFY(is(true, 1, 8193));
        pairs.step(nrpn, -1, take);
        pairs.step(nrpn, -1, take);
        QVERIFY(is(true, 0, 8191));
        // A low byte joins the high byte of what the steps came to.
        pairs.low(nrpn, 5, take);
        QVERIFY(is(true, 5, (63 << 7) + 5));
        pairs.high(nrpn, 3, 0, take);
        pairs.step(nrpn, 1, take);
        QVERIFY(is(true, (3 << 7) + 1, (3 << 7) + 1));
        // On another channel the register has a value of its own.
        pairs.step({1, 1, midi::PairKind::nrpn, 5}, 1, take);
        QVERIFY(is(true, 1, 8193));
        for (int high = 10; high < 14; ++high) pairs.high(nrpn, high, 0, take);
        QVERIFY(is(false, 13, 13));
        pairs.step(nrpn, 1, take);
        QVERIFY(is(false, 14, 14));
        pairs.low(nrpn, 1, take);
        QVERIFY(is(true, (14 << 7) + 1, (14 << 7) + 1));
    }

    /// RPN 0: the high byte counts semitones, the low byte cents, of which there are a hundred.
    void pitchRangeIsCountedInCents() {
        int value = 0;
        const auto take = [&value](const midi::PairReading& reading) { value = reading.value; };
        midi::Pairs pairs;
        const midi::PairAddress range{1, 0, midi::PairKind::rpn, 0};
        pairs.high(range, 2, 0, take);
        pairs.low(range, 50, take);
        QCOMPARE(value, 250);
        pairs.low(range, 127, take);
        QCOMPARE(value, 299);
        pairs.step(range, 1, take);
        QCOMPARE(value, 300);
        pairs.low(range, 1, take);
        QCOMPARE(value, 301);
        for (int i = 0; i < pitchRangeMax; ++i) pairs.step(range, 1, take);
        QCOMPARE(value, pitchRangeMax);
    }

    void aControlThatStandsAtTheValueHasCaughtIt() {
        HandState hand;
        QCOMPARE(handOver(Handover::meet, hand, 0.5, 0.5), std::optional(0.5));
        QVERIFY(hand.caught);
    }

    void aControlMeetsAValueByPassingIt() {
        HandState hand;
        QCOMPARE(handOver(Handover::meet, hand, 0.5, 0.2), std::optional<double>());
        QCOMPARE(handOver(Handover::meet, hand, 0.5, 0.4), std::optional<double>());
        QCOMPARE(handOver(Handover::meet, hand, 0.5, 0.6), std::optional(0.6));
        QCOMPARE(handOver(Handover::meet, hand, 0.6, 0.1), std::optional(0.1));
    }

    /// Towards the end of travel on the side to which the control moves, in proportion.
    void aValueGlidesTowardsItsControl() {
        HandState hand;
        QCOMPARE(handOver(Handover::glide, hand, 0.8, 0.2), std::optional<double>());
        const auto moved = handOver(Handover::glide, hand, 0.8, 0.6);
        QVERIFY(moved.has_value());
        QCOMPARE(*moved, 0.8 + 0.2 * 0.4 / 0.8);
        QCOMPARE(handOver(Handover::glide, hand, *moved, 0.6), std::optional<double>());
    }

    /// Whichever way a control goes, a value that glides goes the same way, never out of its range, and both
    /// are at the end together.
    void aGlideNeverTurnsRound() {
        QVERIFY(rc::check("glide", [] {
            HandState hand;
            const auto unit = rc::gen::map(rc::gen::inRange(0, 10001), [](int n) { return n / 10000.0; });
            double value = *unit;
            handOver(Handover::glide, hand, value, *unit);
            for (int i = 0; i < 20; ++i) {
                const double place = *unit;
                const double before = hand.place;
                const auto moved = handOver(Handover::glide, hand, value, place);
                if (!moved) continue;
                RC_ASSERT(*moved >= 0 && *moved <= 1);
                RC_ASSERT(hand.caught || (place - before) * (*moved - value) >= 0);
                if (place == 0 || place == 1) RC_ASSERT(std::abs(*moved - place) < 1e-9);
                value = *moved;
            }
        }));
    }

    void controlsAreToldApartAndTheFirstIsForgotten() {
        std::array<HandState, 2> hands;
        std::uint32_t next = 0;
        HandState& first = handOf(hands, next, 3, 0);
        first.known = true;
        HandState& second = handOf(hands, next, 3, 1);
        second.known = true;
        QVERIFY(&first != &second);
        QVERIFY(&handOf(hands, next, 3, 0) == &first);
        HandState& third = handOf(hands, next, 4, 0);
        QVERIFY(&third == &first);
        QVERIFY(!third.known);
    }
};

QTEST_APPLESS_MAIN(EarsTest)
#include "ears.moc"
