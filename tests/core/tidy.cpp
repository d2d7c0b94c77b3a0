// Tidying keeps its promises: what lies outside the selection stays as it is, to the byte; smoothing stays
// between what was played; thinning stays within its error, in the fewest points that can.
#include <rapidcheck.h>

#include <QtTest>
#include <cmath>

#include "core/takes/take_file.h"
#include "core/takes/tidy.h"
#include "support/random_take.h"

using namespace mellow;

namespace {

/// What a step function is at a time, worked out without the program's help.
std::optional<double> standsAt(const std::vector<LanePoint>& points, std::optional<double> before,
                               std::int64_t time) {
    std::optional<double> stands = before;
    for (const LanePoint& point : points) {
        if (point.time <= time) stands = point.value;
    }
    return stands;
}

/// Every event that is not of the lane between the two times, as text.
std::vector<std::string> outside(const Take& take, const Subject& subject, std::int64_t from,
                                 std::int64_t to) {
    std::vector<std::string> lines;
    for (const TakeEvent& event : take.events) {
        const midi::Bytes body = take.bodyOf(event);
        if (subjectOf(event.port, body) == subject && event.time >= from && event.time <= to) continue;
        std::string line = std::to_string(event.time);
        line += " " + std::to_string(event.port) + " " + midi::toHex(body);
        lines.push_back(line);
    }
    return lines;
}

struct Scene {
    Take take;
    TakeLanes lanes;
    const TakeLane* lane = nullptr;
    std::int64_t from = 0;
    std::int64_t to = 0;
    LaneStretch stretch;
};

Scene randomScene() {
    Scene scene;
    scene.take = test::randomTake(*rc::gen::arbitrary<std::uint64_t>());
    scene.lanes = lanesOf(scene.take, {});
    const auto which = *rc::gen::inRange<std::size_t>(0, scene.lanes.lanes.size());
    scene.lane = &scene.lanes.lanes[which];
    // Sizes of the generator are small numbers, and times are not.
    const auto share = [] { return *rc::gen::inRange(0, 1001) / 1000.0; };
    scene.from = static_cast<std::int64_t>(static_cast<double>(scene.take.length) * share() / 2);
    scene.to =
        scene.from + static_cast<std::int64_t>(static_cast<double>(scene.take.length - scene.from) * share());
    scene.stretch = stretchOf(scene.take, *scene.lane, scene.from, scene.to);
    return scene;
}

/// The busiest lane of a random take, nearly all of it, so that there is something to be tidied.
Scene busyScene() {
    Scene scene = randomScene();
    scene.from = *rc::gen::inRange(0, 50) * (scene.take.length / 1000);
    scene.to = scene.take.length;
    scene.stretch.points.clear();
    for (const TakeLane& lane : scene.lanes.lanes) {
        LaneStretch stretch = stretchOf(scene.take, lane, scene.from, scene.to);
        if (stretch.points.size() <= scene.stretch.points.size()) continue;
        scene.lane = &lane;
        scene.stretch = std::move(stretch);
    }
    return scene;
}

/// A swell with jitters on CC 1.
Take swell() {
    Take take;
    take.ports = {"keys"};
    for (int i = 0; i <= 200; ++i) {
        const int value = static_cast<int>(60 + 50 * std::sin(i * 0.03)) + (i % 3 == 1   ? 3
                                                                            : i % 3 == 2 ? -3
                                                                                         : 0);
        take.add(i * 10'000, 0, midi::make(midi::controlChange, 0, 1, value).bytes());
    }
    return take;
}

}  // namespace

class TidyTest : public QObject {
    Q_OBJECT

 private slots:
    void outsideNothingChanges() {
        QVERIFY(rc::check("outside the selection nothing changes", [] {
            const Scene scene = randomScene();
            const auto before = outside(scene.take, scene.lane->subject, scene.from, scene.to);
            const double highest = scene.lane->highest;
            std::vector<LaneEdit> edits{
                smoothed(scene.stretch, *rc::gen::inRange(0, 500) * std::int64_t{1000}),
                thinned(scene.stretch, *rc::gen::inRange(0, 20)),
                clipped(scene.stretch, highest * 0.2, highest * 0.7),
                removed(scene.stretch),
                drawn(scene.stretch, {{scene.from, 0}, {scene.to, highest}}, Easing::easedBoth),
            };
            Scaling scaling;
            scaling.factor = 0.5;
            edits.push_back(scaled(scene.take, scene.stretch, scaling).front());
            for (const LaneEdit& edit : edits) {
                const Take after = withEdits(scene.take, {edit});
                RC_ASSERT(outside(after, scene.lane->subject, scene.from, scene.to) == before);
                RC_ASSERT(std::is_sorted(after.events.begin(), after.events.end(),
                                         [](const auto& a, const auto& b) { return a.time < b.time; }));
                // Behind the selection the lane stands where it stood.
                const TakeLanes lanes = lanesOf(after, {});
                for (const TakeLane& lane : lanes.lanes) {
                    if (lane.subject != scene.lane->subject) continue;
                    if (scene.stretch.after())
                        RC_ASSERT(lane.valueAt(after, scene.to) == scene.lane->valueAt(scene.take, scene.to));
                }
            }
        }));
    }

    void anEditThatChangesNothingGivesTheSameBytes() {
        QVERIFY(rc::check("points put back", [] {
            const Scene scene = randomScene();
            const LaneEdit same{scene.lane->subject, false,    scene.lane->highest,
                                scene.from,          scene.to, scene.stretch.points};
            RC_ASSERT(*printTake(withEdits(scene.take, {same})) == *printTake(scene.take));
        }));
    }

    void smoothingStaysBetween() {
        QVERIFY(rc::check("smooth", [] {
            const Scene scene = busyScene();
            const auto& points = scene.stretch.points;
            RC_PRE(points.size() >= 3);
            const std::int64_t width = *rc::gen::inRange(1, 1000) * std::int64_t{1000};
            const LaneEdit edit = smoothed(scene.stretch, width);
            RC_ASSERT(edit.points.front() == points.front());
            RC_ASSERT(edit.points.back() == points.back());
            for (const LanePoint& point : edit.points) {
                double least = 1e9;
                double most = -1e9;
                for (std::size_t i = 0; i < points.size(); ++i) {
                    const std::int64_t until =
                        i + 1 < points.size() ? points[i + 1].time : points[i].time + 1;
                    if (until < point.time - width / 2 || points[i].time > point.time + width / 2) continue;
                    least = std::min(least, points[i].value);
                    most = std::max(most, points[i].value);
                }
                RC_ASSERT(point.value >= least - 1e-4 && point.value <= most + 1e-4);
            }
        }));
    }

    /// At the end of a selection each value counts for as long as it stands in there, and what lies behind
    /// counts for nothing: held from 0.3 s to 0.4 s, the value at 0.3 s is three quarters of what stands in
    /// its window.
    void smoothingEndsWhereTheSelectionDoes() {
        Take take;
        const std::uint16_t keys = take.portNumber("keys");
        for (const auto& [time, value] : {std::pair{0, 0},
                                          {100'000, 0},
                                          {200'000, 0},
                                          {300'000, 120},
                                          {350'000, 120},
                                          {500'000, 0},
                                          {600'000, 0}})
            take.add(time, keys, midi::make(midi::controlChange, 0, 1, value).bytes());
        take.length = 700'000;
        const TakeLanes lanes = lanesOf(take, {});
        const LaneStretch narrow = stretchOf(take, lanes.lanes[0], 0, 400'000);
        const LaneStretch wide = stretchOf(take, lanes.lanes[0], 0, 700'000);
        const auto at = [](const LaneEdit& edit, std::int64_t time) {
            for (const LanePoint& point : edit.points) {
                if (point.time == time) return point.value;
            }
            return -1.0;
        };
        QCOMPARE(at(smoothed(narrow, 200'000), 350'000), 120.0);
        QVERIFY(at(smoothed(wide, 400'000), 350'000) < 120.0);
        QVERIFY(at(smoothed(narrow, 200'000), 200'000) < 60.0);
    }

    void smoothingTakesJittersAway() {
        const Take take = swell();
        const TakeLanes lanes = lanesOf(take, {});
        const LaneStretch stretch = stretchOf(take, lanes.lanes[0], 0, 2'010'000);
        const auto turns = [](const std::vector<LanePoint>& points) {
            int count = 0;
            for (std::size_t i = 2; i < points.size(); ++i) {
                const double before = points[i - 1].value - points[i - 2].value;
                const double after = points[i].value - points[i - 1].value;
                if (before * after < 0) ++count;
            }
            return count;
        };
        QVERIFY(turns(stretch.points) > 100);
        const LaneEdit edit = smoothed(stretch, 200'000);
        QVERIFY2(turns(edit.points) <= 3, qPrintable(QString::number(turns(edit.points))));
        for (const LanePoint& point : edit.points) {
            const double played = 60 + 50 * std::sin(static_cast<double>(point.time) / 10'000 * 0.03);
            QVERIFY(std::abs(point.value - played) <= 5);
        }
    }

    void thinningStaysWithinItsError() {
        QVERIFY(rc::check("thin", [] {
            const Scene scene = busyScene();
            RC_PRE(!scene.stretch.points.empty());
            const double error = *rc::gen::inRange(0, 40);
            const LaneEdit edit = thinned(scene.stretch, error);
            RC_ASSERT(edit.points.size() <= scene.stretch.points.size());
            for (const LanePoint& played : scene.stretch.points) {
                // Of several values at one time the last stands.
                const auto was = standsAt(scene.stretch.points, scene.stretch.before, played.time);
                const auto is = standsAt(edit.points, scene.stretch.before, played.time);
                RC_ASSERT(is.has_value());
                RC_ASSERT(std::abs(*is - *was) <= error + 1e-6);
            }
            RC_ASSERT(standsAt(edit.points, scene.stretch.before, scene.to) == scene.stretch.after());
        }));
    }

    /// The fewest, by trying every way to cut the points into runs.
    void thinningLeavesTheFewest() {
        QVERIFY(rc::check("fewest", [] {
            Take take;
            take.ports = {"keys"};
            const int count = *rc::gen::inRange(1, 14);
            for (int i = 0; i < count; ++i) {
                const int value = *rc::gen::inRange(0, 12);
                take.add(i * 1000, 0, midi::make(midi::controlChange, 0, 1, value).bytes());
            }
            const std::int64_t from = *rc::gen::inRange(0, 2) * std::int64_t{1000};
            RC_PRE(from < count * 1000);
            const TakeLanes lanes = lanesOf(take, {});
            const LaneStretch stretch = stretchOf(take, lanes.lanes[0], from, 1'000'000);
            const int error = *rc::gen::inRange(0, 4);
            const auto& points = stretch.points;
            std::size_t fewest = points.size();
            for (unsigned cuts = 0; cuts < 1U << points.size(); ++cuts) {
                // Bit i: a point is said at i. Before the first the old value stands.
                bool fits = true;
                std::size_t said = 0;
                std::size_t i = 0;
                std::optional<int> stands;
                if (stretch.before) stands = static_cast<int>(*stretch.before);
                while (fits && i < points.size()) {
                    const bool says = (cuts >> i & 1) != 0;
                    if (says) {
                        std::size_t end = i + 1;
                        while (end < points.size() && (cuts >> end & 1) == 0) ++end;
                        bool some = false;
                        for (int value = 0; value < 16 && !some; ++value) {
                            bool all = end < points.size() || value == static_cast<int>(points.back().value);
                            for (std::size_t p = i; p < end; ++p)
                                all = all && std::abs(points[p].value - value) <= error;
                            some = all;
                        }
                        fits = some;
                        ++said;
                        i = end;
                    } else {
                        fits = stands && std::abs(points[i].value - *stands) <= error &&
                               (i + 1 < points.size() || *stands == static_cast<int>(points.back().value));
                        ++i;
                    }
                }
                if (fits) fewest = std::min(fewest, said);
            }
            RC_ASSERT(thinned(stretch, error).points.size() == fewest);
        }));
    }

    void aLineGoesWhereItIsDrawn() {
        const Take take = swell();
        const TakeLanes lanes = lanesOf(take, {});
        const LaneStretch stretch = stretchOf(take, lanes.lanes[0], 500'000, 1'500'000);
        const Take after =
            withEdits(take, {drawn(stretch, {{500'000, 20}, {1'500'000, 100}}, Easing::straight)});
        const TakeLanes made = lanesOf(after, {});
        QCOMPARE(made.lanes[0].valueAt(after, 500'000), std::optional<double>(20));
        QCOMPARE(made.lanes[0].valueAt(after, 1'000'000), std::optional<double>(60));
        QVERIFY(*made.lanes[0].valueAt(after, 1'499'000) >= 99);
        QCOMPARE(made.lanes[0].valueAt(after, 1'500'000), lanes.lanes[0].valueAt(take, 1'500'000));
    }

    void halvesOfAPairAreOneLane() {
        Take take;
        take.ports = {"keys"};
        for (int i = 0; i < 4; ++i) {
            const int value = 1000 * i;
            take.add(i * 1000, 0, midi::make(midi::controlChange, 0, 1, value >> 7).bytes());
            take.add(i * 1000, 0, midi::make(midi::controlChange, 0, 33, value & 127).bytes());
        }
        const TakeLanes lanes = lanesOf(take, {{"any", 1}});
        QCOMPARE(lanes.lanes.size(), std::size_t{1});
        QCOMPARE(lanes.lanes[0].values, (std::vector<float>{0, 1000, 2000, 3000}));
        const LaneStretch stretch = stretchOf(take, lanes.lanes[0], 1000, 3000);
        const Take after = withEdits(take, {clipped(stretch, 0, 1500)});
        const TakeLanes made = lanesOf(after, {{"any", 1}});
        QCOMPARE(made.lanes[0].values, (std::vector<float>{0, 1000, 1500, 3000}));
    }

    void movedFarAwayItLeavesWhatLiesBetween() {
        const Take take = swell();
        const TakeLanes lanes = lanesOf(take, {});
        const LaneStretch stretch = stretchOf(take, lanes.lanes[0], 100'000, 200'000);
        Scaling later;
        later.later = 1'000'000;
        const Take after = withEdits(take, scaled(take, stretch, later));
        const TakeLanes made = lanesOf(after, {});
        for (std::int64_t time = 200'000; time < 1'100'000; time += 10'000)
            QCOMPARE(made.lanes[0].valueAt(after, time), lanes.lanes[0].valueAt(take, time));
        for (std::int64_t time = 100'000; time < 200'000; time += 10'000)
            QCOMPARE(made.lanes[0].valueAt(after, time + 1'000'000), lanes.lanes[0].valueAt(take, time));
    }

    void copiedAndPastedElsewhere() {
        const Take take = swell();
        Take target;
        target.ports = {"pedals"};
        target.add(0, 0, midi::makeBend(0, 8192).bytes());
        target.length = 5'000'000;
        const TakeLanes lanes = lanesOf(take, {});
        const TakeLanes onto = lanesOf(target, {});
        const auto positions = copied(stretchOf(take, lanes.lanes[0], 100'000, 300'000));
        QCOMPARE(positions.size(), std::size_t{20});
        const LaneStretch place = stretchOf(target, onto.lanes[0], 2'000'000, 2'200'000);
        const Take after = withEdits(target, {pasted(place, positions, 200'000)});
        const TakeLanes made = lanesOf(after, {});
        const double played = *lanes.lanes[0].valueAt(take, 150'000) / 127;
        QVERIFY(std::abs(*made.lanes[0].valueAt(after, 2'050'000) / 16383 - played) < 0.001);
        QCOMPARE(made.lanes[0].valueAt(after, 2'200'000), std::optional<double>(8192));
    }

    void notes() {
        Take take;
        take.ports = {"keys"};
        take.add(0, 0, midi::make(midi::noteOn, 0, 60, 100).bytes());
        take.add(500'000, 0, midi::make(midi::controlChange, 0, 1, 5).bytes());
        take.add(1'000'000, 0, midi::make(midi::noteOff, 0, 60, 64).bytes());
        const TakeLanes lanes = lanesOf(take, {});
        QCOMPARE(lanes.notes.size(), std::size_t{1});
        QCOMPARE(lanes.notes[0].ends, std::int64_t{1'000'000});
        NoteMove move;
        move.later = 250'000;
        move.higher = 2;
        move.longer = -500'000;
        move.louder = 50;
        const Take after = withNotes(take, lanes, {0}, move);
        const TakeLanes made = lanesOf(after, {});
        QCOMPARE(made.notes[0].begins, std::int64_t{250'000});
        QCOMPARE(made.notes[0].ends, std::int64_t{750'000});
        QCOMPARE(int{made.notes[0].key}, 62);
        QCOMPARE(int{made.notes[0].velocity}, 127);
        QCOMPARE(withoutNotes(take, lanes, {0}).events.size(), std::size_t{1});
    }
};

QTEST_APPLESS_MAIN(TidyTest)
#include "tidy.moc"
