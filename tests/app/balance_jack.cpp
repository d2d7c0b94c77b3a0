// Balance in the real window with a real server: what another program plays is measured as it sounds.
#include <QComboBox>
#include <cmath>

#include "app/pages/balance/balance_page.h"
#include "support/build.h"
#include "support/jack_synth.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::Window;

namespace {

constexpr int longest = 60000;  // ms

}  // namespace

class BalanceThroughJackTest : public QObject {
    Q_OBJECT

 private slots:
    /// What plays elsewhere is measured through JACK: chosen by its name, its level seen before, as loud as
    /// it is.
    void heardThroughJack() {
        test::JackServer server("mellow-lever-window-test");
        qputenv("JACK_DEFAULT_SERVER", QByteArray::fromStdString(server.name()));
        Window window(test::overJack());
        window->newEnsemble();
        window->document().edit(QStringLiteral("One"), [](Ensemble& e) {
            Instrument one = test::instrument("one");
            one.output.port = "North rack";
            one.chains.push_back(
                test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
            e.instruments.push_back(one);
        });
        auto synth = std::make_unique<test::JackSynth>(server.name(), test::JackSynth::Nature{});
        QTRY_VERIFY_WITH_TIMEOUT(synth->canHear("North rack"), 20000);
        window->selection().go(BalancePlace{"one"});
        Balancing& balancing = window.pageOf<BalancePage>().balancing();
        QTRY_VERIFY(!balancing.worker().isBusy());
        QVERIFY(balancing.trouble().contains(QStringLiteral("practice rack")));
        auto* heard = window.find<QComboBox>("balanceHeard");
        heard->showPopup();
        const int both = heard->findText(QStringLiteral("known-synth, both"));
        QVERIFY(both > 0);
        heard->hidePopup();
        emit heard->activated(both);
        QVERIFY2(balancing.inputs().from().has_value(), qPrintable(balancing.trouble()));
        QVERIFY(window.find<LevelBar>("balanceLevel")->isVisible());
        // It is heard by everybody, so nothing plays before a person says so.
        QVERIFY(!balancing.worker().isBusy());
        balancing.setPositions(4);
        window.click("balanceMeasure");
        QVERIFY(balancing.worker().isBusy());
        QTRY_VERIFY_WITH_TIMEOUT(!balancing.worker().isBusy(), longest);
        QVERIFY2(balancing.curve().has_value(), qPrintable(balancing.trouble()));
        const double full = *balancing.curve()->keys[0].points.back().heard.loudness;
        QVERIFY2(std::abs(full + 8) < 0.2, qPrintable(QString::number(full)));
        QCOMPARE(balancing.curve()->heardFrom, std::string("known-synth:left"));
        window.click("balanceKeep");
        QCOMPARE(window.ensemble().measurements.size(), std::size_t{1});
        // Stopped while it plays, all is as it was.
        window.click("balanceMeasure");
        QTRY_VERIFY(window->live().readings().takePosition() >= 0);
        window.click("balanceMeasure");
        QTRY_COMPARE(window->live().readings().takePosition(), std::int64_t{-1});
        // Back on the rack the curve that was kept can be chosen again.
        const auto lastOffered = [heard] {
            heard->showPopup();
            heard->hidePopup();
            return heard->itemText(heard->count() - 1);
        };
        QVERIFY(lastOffered().startsWith(QStringLiteral("Kept:")));
        // One of before an edit is called so, until the edit is taken back.
        window->document().edit(QStringLiteral("Edit"), [](Ensemble& e) {
            e.instruments.front().chains.front().branches.front().high = 90.0;
        });
        QVERIFY2(lastOffered().endsWith(QStringLiteral(", edited since")), qPrintable(lastOffered()));
        window->document().undoStack().undo();
        QVERIFY2(!lastOffered().contains(QStringLiteral("edited since")), qPrintable(lastOffered()));
        heard->showPopup();
        const int kept = heard->count() - 1;
        heard->hidePopup();
        emit heard->activated(kept);
        QCOMPARE(*balancing.curve()->keys[0].points.back().heard.loudness, std::round(full * 100) / 100);
        synth.reset();
    }
};

QTEST_MAIN(BalanceThroughJackTest)
#include "balance_jack.moc"
