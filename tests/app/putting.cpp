// Targets put to rest and to drawn values from the window, and the list of everything that checks found.
#include "app/live/putting.h"

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QSpinBox>

#include "app/acts/draw_dialog.h"
#include "app/frame/checks_dialog.h"
#include "app/frame/just_now.h"
#include "core/checks/check.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "support/build.h"
#include "support/random_ensemble.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;

namespace {

/// What leaves, by instrument and control change.
class Sent : public QObject {
 public:
    explicit Sent(Stage& stage) {
        connect(&stage.window->live(), &Live::happened, this, [this, &stage](const io::Happening& happening) {
            const auto bytes = happening.message.bytes();
            if (happening.out && midi::kindOf(bytes) == midi::controlChange)
                last[{std::string(stage.window->live().readings().instrumentId(happening.instrument)),
                      bytes[1]}] = bytes[2];
        });
    }
    std::map<std::pair<std::string, int>, int> last;
};

const Parameter& parameterOf(Stage& stage, const std::string& instrument, const std::string& id) {
    return *findById(stage.window.instrument(instrument).parameters, id);
}

int troubles(const Ensemble& ensemble) {
    int count = 0;
    for (const Finding& finding : check(ensemble)) count += finding.severity == Severity::trouble ? 1 : 0;
    return count;
}

}  // namespace

class PuttingTest : public QObject {
    Q_OBJECT

 private slots:
    /// Expression that a chain left at 0 is no silent instrument: led elsewhere, its target rests, and after
    /// undo it stands where it stood.
    void whatAnEditLeavesBehindGoesToRest() {
        Stage stage(false);
        Sent sent(stage);
        const auto expression = [&] { return sent.last.at({"glass", 11}); };
        stage.move(1, 0, "practice-keys");
        QTRY_VERIFY((sent.last.count({"glass", 11}) > 0));
        const int stood = expression();
        QVERIFY(stood != 127);
        stage.window->document().edit(QStringLiteral("Elsewhere"), [](Ensemble& e) {
            erase_if(e.instruments[0].chains[0].branches,
                     [](const Branch& branch) { return branch.target == "expression"; });
        });
        QTRY_COMPARE(expression(), 127);
        stage.window->document().undoStack().undo();
        QTRY_COMPARE(expression(), stood);
        // The same where the whole chain goes, which nobody has moved since it is back.
        stage.window->document().edit(QStringLiteral("Remove"), [](Ensemble& e) {
            e.instruments[0].chains.erase(e.instruments[0].chains.begin());
        });
        QTRY_COMPARE(expression(), 127);
        stage.window->document().undoStack().undo();
        QTRY_COMPARE(expression(), stood);
        // A chain that is switched off still leads where it leads.
        stage.window->document().edit(QStringLiteral("Off"),
                                      [](Ensemble& e) { e.instruments[0].chains[0].on = false; });
        stage.window->document().edit(QStringLiteral("Title"), [](Ensemble& e) { e.title = "Other"; });
        QTRY_VERIFY(stage.window->live().ports().present().size() > 0);
        QCOMPARE(expression(), stood);
        // Put to rest knows of what was left, whatever has moved it since.
        stage.window->document().edit(QStringLiteral("Remove"), [](Ensemble& e) {
            e.instruments[0].chains.erase(e.instruments[0].chains.begin());
        });
        QTRY_COMPARE(expression(), 127);
        stage.send({0xB0, 11, 40}, "practice-keys");
        QTRY_COMPARE(expression(), 40);
        stage.window.select("glass", "", app::Part::instrument);
        QVERIFY(stage.window->putting().rest(whoseOf(stage.window->selection().now(), DrawScope::selected)) >
                0);
        QTRY_COMPARE(expression(), 127);
    }

    /// A control that has to meet the value says where it is, and where it takes over.
    void whoWaitsToMeetSaysWhereAndHowFar() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.window->document().edit(QStringLiteral("Meet"), [](Ensemble& e) {
            e.instruments[0].chains[0].handover = Handover::meet;
        });
        const auto* quiet = stage.window.find<FewLines>("quiet");
        const Rail& rail = stage.window.page().lever().sourceRail();
        // Of what nobody knows nobody waits.
        stage.send({0xB0, 1, 100}, "practice-keys");
        QTRY_COMPARE(rail.content().valueText, QStringLiteral("100"));
        QVERIFY(quiet->text().isEmpty());
        stage.send({0xB3, 1, 20}, "practice-keys");
        QTRY_VERIFY2(quiet->text().contains(QStringLiteral("it is at 20, and takes over at 100")),
                     qPrintable(quiet->text()));
        QCOMPARE(rail.content().valueText, QStringLiteral("100"));
        QVERIFY(std::abs(rail.content().goal - 20 / 127.0) < 0.01);
        stage.send({0xB3, 1, 110}, "practice-keys");
        QTRY_COMPARE(rail.content().valueText, QStringLiteral("110"));
        QTRY_VERIFY(quiet->text().isEmpty());
    }

    void whatIsSelectedGoesToRestAndBack() {
        Stage stage(false);
        Sent sent(stage);
        stage.window.select("glass", "swell", app::Part::branch, 0);
        stage.move(1, 100, "practice-keys");
        QTRY_VERIFY((sent.last.count({"glass", 11}) > 0));
        QVERIFY(stage.hearAll());
        const int played = sent.last[{"glass", 11}];
        const Parameter& expression = parameterOf(stage, "glass", "expression");
        const int rest = static_cast<int>(std::lround(restPosition(expression) * 127));
        QVERIFY(played != rest);
        const bool modified = stage.window->document().isModified();
        stage.key(Qt::Key_F7);
        QTRY_COMPARE((sent.last[{"glass", 11}]), rest);
        // The lever shows it, though no hand has moved.
        QCOMPARE(stage.window->live().reading("glass", "swell").values.at(0), restPosition(expression));
        QCOMPARE(stage.window->document().isModified(), modified);
        stage.key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE((sent.last[{"glass", 11}]), played);
        stage.key(Qt::Key_Y, Qt::ControlModifier);
        QTRY_COMPARE((sent.last[{"glass", 11}]), rest);
        // The hand takes over again, and is shown.
        stage.move(1, 60, "practice-keys");
        QTRY_VERIFY((sent.last[{"glass", 11}] != rest));
        QTRY_VERIFY(stage.window->live().reading("glass", "swell").values.at(0) != restPosition(expression));
    }
    void valuesAreDrawnInsideTheirReachAndRepeatBySeed() {
        Stage stage(false);
        Sent sent(stage);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_F9);
        auto* dialog = stage.window->findChild<DrawDialog*>();
        QVERIFY(dialog != nullptr);
        dialog->findChild<QComboBox*>(QStringLiteral("drawScope"))->setCurrentIndex(0);
        stage.press("draw");
        QTRY_VERIFY(sent.last.size() >= 3);
        QVERIFY(stage.shown("drawSaid").startsWith(QStringLiteral("4 targets sent")));
        const auto first = sent.last;
        const int expression = first.at({"glass", 11});
        QVERIFY(expression >= 30 && expression <= 127);
        stage.press("drawAnother");
        QTRY_VERIFY(sent.last != first);
        dialog->findChild<QSpinBox*>(QStringLiteral("drawSeed"))->setValue(1);
        stage.press("draw");
        QTRY_VERIFY(sent.last == first);
        // What is locked is not sent.
        auto* locks = dialog->findChild<QListWidget*>(QStringLiteral("drawLocks"));
        QCOMPARE(locks->count(), 4);
        stage.window.editsOnce([&] {
            locks->item(0)->setCheckState(Qt::Checked);
            QTRY_VERIFY(parameterOf(stage, "glass", "expression").locked);
        });
        sent.last.clear();
        stage.press("drawAnother");
        QTRY_VERIFY(!sent.last.empty());
        QVERIFY(stage.shown("drawSaid").startsWith(QStringLiteral("3 targets sent")));
        QVERIFY((sent.last.count({"glass", 11}) == 0));
        // Everybody's.
        dialog->findChild<QComboBox*>(QStringLiteral("drawScope"))->setCurrentIndex(2);
        stage.press("drawRest");
        QTRY_VERIFY(std::any_of(sent.last.begin(), sent.last.end(),
                                [](const auto& each) { return each.first.first == "drone"; }));
    }

    void everyTroubleIsListedAndCured() {
        Stage stage(false);
        QVERIFY(!stage.window->findChild<QPushButton*>(QStringLiteral("allTroubles"))->isVisible());
        stage.window->document().edit(QStringLiteral("Break"), [](Ensemble& e) {
            e.instruments[0].chains[0].branches[0].target = "gone";
            e.instruments[1].chains[0].source = makeSource(SourceKind::cc14);
            e.instruments[1].chains[0].source.number = 40;
        });
        auto* badge = stage.window->findChild<QPushButton*>(QStringLiteral("allTroubles"));
        QTRY_VERIFY(badge->isVisible());
        QCOMPARE(badge->text(), QStringLiteral("%1 troubles").arg(troubles(stage.ensemble())));
        badge->click();
        auto* dialog = stage.window->findChild<ChecksDialog*>();
        QVERIFY(dialog != nullptr);
        for (int left = troubles(stage.ensemble()); left > 0; left = troubles(stage.ensemble())) {
            auto* cure = dialog->findChild<QPushButton*>(QStringLiteral("mend"));
            QVERIFY(cure != nullptr);
            stage.window.editsOnce([&] { cure->click(); });
            QTRY_VERIFY(troubles(stage.ensemble()) < left);
            const auto listed = [&] {
                return dialog->findChild<QLabel*>(QStringLiteral("checksCount"))->text();
            };
            QTRY_VERIFY(left == 1 || listed().startsWith(QString::number(troubles(stage.ensemble()))));
            Stage::settle();
        }
        QTRY_VERIFY(!badge->isVisible());
        stage.goesBackAndForth();
    }
    /// Whatever is wrong, each cure is one step, and takes its own finding away.
    void everyCureCures() {
        Stage stage(false);
        std::set<std::string> cured;
        for (std::uint32_t seed = 1; seed <= 40; ++seed) {
            test::RandomWorld world(seed);
            stage.window->document().replace(world.ensemble(), {});
            for (const Finding& finding : check(stage.ensemble())) {
                for (const Mend& mend : finding.mends) {
                    const Ensemble before = stage.ensemble();
                    const int steps = stage.window->document().undoStack().index();
                    stage.window->document().mend(mend);
                    QVERIFY2(stage.ensemble() != before, mend.name.c_str());
                    QCOMPARE(stage.window->document().undoStack().index(), steps + 1);
                    const auto still = check(stage.ensemble());
                    const bool gone = std::none_of(still.begin(), still.end(), [&](const Finding& other) {
                        return other.problem.sentence() == finding.problem.sentence() &&
                               other.place == finding.place;
                    });
                    QVERIFY2(gone, (mend.name + ": " + finding.problem.sentence()).c_str());
                    cured.insert(mend.name);
                    stage.window->document().undoStack().undo();
                    QVERIFY(stage.ensemble() == before);
                }
            }
        }
        QVERIFY2(cured.size() >= 4, std::to_string(cured.size()).c_str());
    }
    void aFindingIsShownWhereItIs() {
        Stage stage(false);
        stage.window->document().edit(QStringLiteral("Break"), [](Ensemble& e) {
            e.instruments[2].chains[0].branches[0].target = "gone";
        });
        stage.key(Qt::Key_4, Qt::ControlModifier);
        stage.key(Qt::Key_F4);
        auto* dialog = stage.window->findChild<ChecksDialog*>();
        QVERIFY(dialog->findChild<QLabel*>(QStringLiteral("checksCount"))->text().startsWith("1 trouble"));
        dialog->findChild<QPushButton*>(QStringLiteral("showFinding"))->click();
        QVERIFY(stage.window.page().isVisible());
        QCOMPARE(stage.window->selection().now().instrument, stage.ensemble().instruments[2].id);
    }

    // Just now.

    void whatPassedIsToldFromWhatWasMade() {
        Stage stage(false);
        JustNowModel& model = *stage.window->findChild<JustNow*>()->model();
        const auto has = [&](const QString& words) {
            for (const QString& line : model.text().split(QLatin1Char('\n'))) {
                if (hasWordsOf(line, words)) return true;
            }
            return false;
        };
        stage.move(1, 100, "practice-keys");
        QTRY_VERIFY(has(QStringLiteral("made Expression Glass harmonium")));
        stage.send({0x90, 60, 90}, "practice-keys");
        QTRY_VERIFY(has(QStringLiteral("in C4")));
        QTRY_VERIFY(has(QStringLiteral("passed C4 Glass harmonium")));
        // Filtered.
        auto* filter = stage.window->findChild<QLineEdit*>(QStringLiteral("justNowFilter"));
        filter->setText(QStringLiteral("made glass"));
        QVERIFY(!has(QStringLiteral("passed")) && has(QStringLiteral("made Expression")));
        QSignalSpy heard(&stage.window->live(), &app::Live::happened);
        stage.send({0x90, 62, 90}, "practice-keys");
        stage.move(1, 50, "practice-keys");
        QTRY_VERIFY(heard.count() > 10);
        QVERIFY(!has(QStringLiteral("D4")));
        filter->clear();
        // Held still, and copied.
        auto* pause = stage.window->findChild<QPushButton*>(QStringLiteral("justNowPause"));
        pause->click();
        heard.clear();
        stage.send({0x90, 64, 90}, "practice-keys");
        QTRY_VERIFY(heard.count() > 0);
        QVERIFY(!has(QStringLiteral("E4")));
        stage.window->findChild<QPushButton*>(QStringLiteral("justNowCopy"))->click();
        QCOMPARE(QGuiApplication::clipboard()->text(), model.text());
        pause->click();
        stage.send({0x90, 65, 90}, "practice-keys");
        QTRY_VERIFY(has(QStringLiteral("F4")));
    }

 private:
    static bool hasWordsOf(const QString& line, const QString& words) {
        for (const QString& word : words.split(QLatin1Char(' '))) {
            if (!line.contains(word)) return false;
        }
        return true;
    }
};

QTEST_MAIN(PuttingTest)
#include "putting.moc"
