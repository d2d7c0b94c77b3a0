// Comparing ensembles: nothing is said of equal ones, every edit is found and said in words, and taking over
// what is said makes one the other.
#include <QtTest>

#include "core/compare/compare.h"
#include "core/model/edit.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using compare::Difference;

namespace {

QStringList said(const Ensemble& before, const Ensemble& after) {
    QStringList all;
    for (const Difference& each : compare::differences(before, after))
        all << QString::fromStdString(each.group + ": " + each.words);
    return all;
}

Ensemble takenAll(Ensemble before, const Ensemble& after) {
    for (const Difference& each : compare::differences(before, after)) each.take(before);
    return before;
}

}  // namespace

class CompareTest : public QObject {
    Q_OBJECT

 private slots:
    void nothingIsSaidOfEqualOnes() {
        const Ensemble ensemble = test::demo();
        QCOMPARE(said(ensemble, ensemble), QStringList());
        for (std::uint32_t seed = 1; seed <= 40; ++seed) {
            const Ensemble random = test::RandomWorld(seed).ensemble();
            QCOMPARE(said(random, random), QStringList());
        }
    }

    void inWords_data() {
        QTest::addColumn<int>("which");
        QTest::addColumn<QStringList>("words");
        const auto row = [](const char* name, int which, const QStringList& words) {
            QTest::newRow(name) << which << words;
        };
        const QString glass = "Glass harmonium: ";
        row("a step", 0, {glass + "Swell: Bend 0.35 → 0.5"});
        row("a reach", 1, {glass + "Swell: Tone 400 Hz–6.2 kHz → 500 Hz–6.2 kHz"});
        row("a name", 2, {glass + "Swell: is called “Dusk”"});
        row("off", 3, {glass + "Swell: switched off"});
        row("a branch", 4, {glass + "Swell: Bowing noise is gone"});
        row("a chain", 5, {glass + "Swell is gone"});
        row("order", 6, {glass + "another order"});
        row("steps", 7, {glass + "Swell: Window 6.3 %–94.5 %, Bend +0.35 → Window 6.3 %–94.5 %"});
        row("a port", 8, {glass + "output port “practice-rack” → “hall”"});
        row("an instrument", 9, {"Ensemble: Frame drums is gone"});
        row("another id", 10, {glass + "Swell is called Swell"});
        row("moved", 11, {"Bass flute: Swell has come from Glass harmonium"});
        row("tempo", 12, {"Ensemble: tempo beats a minute 120 → 90"});
        row("a control", 13, {"Controllers: Two-wheel keys: Mod wheel: message CC 1 → CC 3"});
        row("keys", 14, {glass + "input keys 36–96 → 12–100"});
    }
    void inWords() {
        QFETCH(int, which);
        QFETCH(QStringList, words);
        const Ensemble before = test::demo();
        Ensemble after = before;
        Instrument& glass = *findById(after.instruments, "glass");
        Chain& swell = *findById(glass.chains, "swell");
        switch (which) {
            case 0:
                swell.steps[1].values[0] = 0.5;
                break;
            case 1:
                swell.branches[2].low = 500.0;
                break;
            case 2:
                swell.name = "Dusk";
                break;
            case 3:
                swell.on = false;
                break;
            case 4:
                swell.branches.erase(swell.branches.begin() + 1);
                break;
            case 5:
                glass.chains.erase(glass.chains.begin());
                break;
            case 6:
                std::swap(glass.chains[0], glass.chains[1]);
                break;
            case 7:
                swell.steps.pop_back();
                break;
            case 8:
                glass.output.port = "hall";
                break;
            case 9:
                erase_if(after.instruments, [](const Instrument& each) { return each.id == "drums"; });
                break;
            case 10:
                swell.id = "dusk";
                break;
            case 11:
                findById(after.instruments, "flute")->chains.push_back(swell);
                glass.chains.erase(glass.chains.begin());
                break;
            case 12:
                after.tempo.bpm = 90;
                break;
            case 13:
                after.controllers[0].controls[0].message.number = 3;
                break;
            default:
                glass.input.lowKey = 12;
                glass.input.highKey = 100;
        }
        QCOMPARE(said(before, after), words);
        QVERIFY(takenAll(before, after) == after);
        QVERIFY(takenAll(after, before) == before);
    }

    /// Another chain in the place of one is no renamed one.
    void goneAndComeAreTold() {
        const Ensemble before = test::demo();
        Ensemble after = before;
        Chain& swell = findById(after.instruments, "glass")->chains[0];
        swell.id = "dusk";
        swell.name = "Dusk";
        swell.steps.pop_back();
        QCOMPARE(said(before, after),
                 (QStringList{"Glass harmonium: Swell is gone", "Glass harmonium: Dusk is new"}));
        QVERIFY(takenAll(before, after) == after);
    }

    /// Each taken over alone is that one and no other.
    void takenAlone() {
        const Ensemble before = test::demo();
        Ensemble after = before;
        Instrument& glass = *findById(after.instruments, "glass");
        glass.chains[0].steps[1].values[0] = 0.5;
        glass.chains[0].branches[2].low = 500.0;
        glass.chains[1].name = "Dusk";
        const auto all = compare::differences(before, after);
        QCOMPARE(all.size(), std::size_t{3});
        for (std::size_t i = 0; i < all.size(); ++i) {
            Ensemble taken = before;
            all[i].take(taken);
            const auto left = compare::differences(taken, after);
            QCOMPARE(left.size(), std::size_t{2});
            QVERIFY(std::none_of(left.begin(), left.end(),
                                 [&](const Difference& each) { return each.words == all[i].words; }));
        }
    }

    void everyEditIsFound_data() {
        QTest::addColumn<int>("seed");
        for (int seed = 1; seed <= 120; ++seed) QTest::addRow("random %d", seed) << seed;
    }
    void everyEditIsFound() {
        QFETCH(int, seed);
        test::RandomWorld world(static_cast<std::uint32_t>(seed));
        Ensemble before = world.ensemble();
        for (int i = 0; i < 20; ++i) {
            Ensemble after = before;
            for (int edits = i % 4; edits >= 0; --edits) world.edit(after);
            const QStringList words = said(before, after);
            QCOMPARE(words.isEmpty(), before == after);
            QVERIFY2(takenAll(before, after) == after, qPrintable(words.join('\n')));
            QVERIFY2(takenAll(after, before) == before, qPrintable(words.join('\n')));
            before = after;
        }
    }
    void anyTwo_data() { everyEditIsFound_data(); }
    void anyTwo() {
        QFETCH(int, seed);
        const Ensemble one = test::RandomWorld(static_cast<std::uint32_t>(seed)).ensemble();
        const Ensemble other = test::RandomWorld(static_cast<std::uint32_t>(seed) + 1000).ensemble();
        const Ensemble taken = takenAll(one, other);
        QVERIFY2(taken == other, qPrintable(said(taken, other).join('\n')));
        QVERIFY(takenAll(test::demo(), other) == other);
        QVERIFY(takenAll(other, test::demo()) == test::demo());
    }

    void inOneLine() {
        const Ensemble before = test::demo();
        Ensemble after = before;
        after.title = "Dusk";
        after.tempo.bpm = 90;
        Instrument& glass = *findById(after.instruments, "glass");
        glass.chains[0].on = false;
        glass.name = "Glass";
        QCOMPARE(
            compare::inShort(compare::differences(before, after)),
            std::string("title “The Tin Observatory” → “Dusk” · Glass: is called “Glass” · Glass: Swell: "
                        "switched off · 1 more"));
    }
};

QTEST_APPLESS_MAIN(CompareTest)
#include "compare.moc"
