// The living page: practice keys, the computer keyboard and recorded hands move what the page shows and what
// the rack receives.
#include <QComboBox>

#include "app/frame/just_now.h"
#include "app/ground/theme.h"
#include "app/takes/transport.h"
#include "support/window.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;
using test::drag;
using test::Window;
using test::Witness;

namespace {

PracticeControl* control(Window& window, const char* name) {
    return window->practiceKeys().control(QLatin1String(name));
}

/// Presses on a control at a share of its height and holds.
void press(PracticeControl* control, double share) {
    QTest::mousePress(control, Qt::LeftButton, {},
                      QPoint(control->width() / 2, static_cast<int>((control->height() - 22) * (1 - share))));
}
void letGo(QWidget* widget) {
    QTest::mouseRelease(widget, Qt::LeftButton);
}

}  // namespace

class PlayingTest : public QObject {
    Q_OBJECT

 private slots:
    void theWheelMovesEveryTargetOfItsChain() {
        Window window;
        Witness witness(window);
        press(control(window, "Wheel"), 1.0);
        QTRY_VERIFY(witness.came(0xB0, 1, 127));
        QTRY_VERIFY(witness.sent("glass", 0xB0, 11, 127));
        QVERIFY(witness.sent("glass", 0xB0, 21, 10));
        QVERIFY(witness.sent("glass", 0xB0, 91, 57));
        letGo(control(window, "Wheel"));
        const auto& rails = window.page().lever().targetRails();
        QTRY_COMPARE(rails[0]->content().valueText, QStringLiteral("127"));
        QCOMPARE(rails[1]->content().valueText, QStringLiteral("10"));
        QVERIFY(rails[2]->content().valueText.endsWith(QStringLiteral("kHz")));
        QCOMPARE(window.page().lever().sourceRail().content().valueText, QStringLiteral("127"));
        QCOMPARE(window.find<MovingText>("figures")->text(), QStringLiteral("1.00 → 1.00"));
    }

    void controlsThatSpringDoSoAndTheOthersStay_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("rest");
        QTest::newRow("bend") << "Bend" << 8192;
        QTest::newRow("pressure") << "Pressure" << 0;
        QTest::newRow("breath") << "Breath" << 0;
        QTest::newRow("left") << "Left" << 0;
        QTest::newRow("middle") << "Middle" << 0;
        QTest::newRow("sustain") << "Sustain" << 0;
        QTest::newRow("wheel") << "Wheel" << -1;
        QTest::newRow("swell") << "Swell" << -1;
    }
    void controlsThatSpringDoSoAndTheOthersStay() {
        QFETCH(QString, name);
        QFETCH(int, rest);
        Window window;
        PracticeControl* moved = window->practiceKeys().control(name);
        QVERIFY(moved != nullptr);
        const int start = moved->value();
        press(moved, 0.75);
        const int held = moved->value();
        QVERIFY(held != start);
        letGo(moved);
        QCOMPARE(moved->value(), rest < 0 ? held : rest);
    }

    void pedalsAndPressureSendWhatTheyAre() {
        Window window;
        Witness witness(window);
        const std::vector<std::tuple<const char*, int, int>> all{{"Breath", 0xB0, 2},
                                                                 {"Left", 0xB0, 67},
                                                                 {"Middle", 0xB0, 66},
                                                                 {"Sustain", 0xB0, 64},
                                                                 {"Swell", 0xB0, 11}};
        for (const auto& [name, status, number] : all) {
            press(control(window, name), 1.0);
            QTRY_VERIFY2(witness.came(status, number, 127), name);
            letGo(control(window, name));
        }
        press(control(window, "Pressure"), 1.0);
        QTRY_VERIFY(witness.came(0xD0, 127));
        letGo(control(window, "Pressure"));
        QTRY_VERIFY(witness.came(0xD0, 0));
        press(control(window, "Bend"), 1.0);
        QTRY_VERIFY(witness.came(0xE0, 127, 127));
        letGo(control(window, "Bend"));
        QTRY_VERIFY(witness.came(0xE0, 0, 64));
    }

    void keysAreLouderTowardsTheFront() {
        Window window;
        Witness witness(window);
        Keyboard& keyboard = window->practiceKeys().keyboard();
        const QRectF key = keyboard.keyRect(60);
        QTest::mousePress(&keyboard, Qt::LeftButton, {},
                          QPointF(key.center().x(), key.bottom() - 3).toPoint());
        QTRY_VERIFY(witness.came(0x90, 60));
        QVERIFY(keyboard.isDown(60));
        QTest::mouseRelease(&keyboard, Qt::LeftButton);
        QTRY_VERIFY(witness.came(0x80, 60));
        QVERIFY(!keyboard.isDown(60));
        QTest::mouseClick(&keyboard, Qt::LeftButton, {},
                          QPointF(key.left() + 3, key.top() + key.height() * 0.65).toPoint());
        QTRY_COMPARE(std::count_if(witness.in.begin(), witness.in.end(),
                                   [](const auto& each) { return each.message.data[0] == 0x90; }),
                     2);
        QVERIFY(witness.in.front().message.data[2] > 115);
        QVERIFY(witness.in[2].message.data[2] < 100);
        QVERIFY(witness.sent("glass", 0x90, 60));
    }

    void slidingOverKeysPlaysOneAfterTheOther() {
        Window window;
        Witness witness(window);
        Keyboard& keyboard = window->practiceKeys().keyboard();
        // The keyboard is as long as those in hand want it.
        QTRY_VERIFY(!keyboard.meaning().switches.empty());
        const auto low = [&](int key) {
            const QRectF rect = keyboard.keyRect(key);
            return QPointF(rect.center().x(), rect.bottom() - 5);
        };
        drag(&keyboard, low(60), low(67));
        QTRY_VERIFY(witness.came(0x80, 67));
        for (const int key : {60, 62, 64, 65, 67}) {
            QVERIFY(witness.came(0x90, key));
            QVERIFY(witness.came(0x80, key));
        }
    }

    void theComputerKeyboardPlaysAndMovesByOctaves() {
        Window window;
        Witness witness(window);
        Keyboard& keyboard = window->practiceKeys().keyboard();
        window.page().chains().setFocus();
        QTest::keyPress(&window.page().chains(), Qt::Key_Z);
        QTRY_VERIFY(witness.came(0x90, 48, 90));
        QTest::keyRelease(&window.page().chains(), Qt::Key_Z);
        QTRY_VERIFY(witness.came(0x80, 48));
        keyboard.setFocus();
        QTest::keyClick(&keyboard, Qt::Key_PageUp);
        QTest::keyPress(&keyboard, Qt::Key_Z);
        QTRY_VERIFY(witness.came(0x90, 60, 90));
        // The octave changes while the key is down: the same note ends.
        QTest::keyClick(&keyboard, Qt::Key_PageUp);
        QTest::keyRelease(&keyboard, Qt::Key_Z);
        QTRY_VERIFY(witness.came(0x80, 60));
    }

    void lettersAreTextWhereTextIsTyped() {
        Window window;
        window.select("glass", {}, Part::instrument);
        Witness witness(window);
        auto* name = window.details().findChild<QLineEdit*>();
        name->setFocus();
        name->clear();
        QTest::keyClicks(name, QStringLiteral("zxq"));
        QCOMPARE(name->text(), QStringLiteral("zxq"));
        QTest::keyClick(name, Qt::Key_Return);
        QCOMPARE(window.instrument("glass").name, std::string("zxq"));
        QVERIFY(witness.in.empty());
    }

    void silenceAllEndsWhatSounds() {
        Window window;
        Witness witness(window);
        window->live().hands().send(midi::make(0x90, 0, 64, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 64));
        window.click("silence");
        QTRY_VERIFY(witness.sent("glass", 0x80, 64));
        QTRY_VERIFY(witness.sent("glass", 0xB0, 120, 0));
        witness.out.clear();
        window->live().hands().send(midi::make(0x90, 0, 65, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 65));
        QTest::keyClick(&*window, Qt::Key_Escape);
        QTRY_VERIFY(witness.sent("glass", 0x80, 65));
    }

    void theDemosHandsBringThePageToLife() {
        Window window;
        Witness witness(window);
        const QModelIndex glass = window->ensembleList().model()->index(0, 0);
        QSignalSpy rows(window.page().chains().model(), &QAbstractItemModel::dataChanged);
        window.click("play");
        QCOMPARE(window.find<app::Transport>("transport")->actText(), QStringLiteral("Stop"));
        const auto stands = [&glass] {
            const auto levels = glass.data(InstrumentModel::levels).value<QList<float>>();
            return std::any_of(levels.begin(), levels.end(), [](float level) { return level > 0; });
        };
        QTRY_VERIFY_WITH_TIMEOUT(stands(), 8000);
        QTRY_VERIFY_WITH_TIMEOUT(window->live().outRate() > 0 && window->live().inRate() > 0, 8000);
        QTRY_VERIFY_WITH_TIMEOUT(rows.size() > 5, 8000);
        QTRY_VERIFY_WITH_TIMEOUT(window.page().lever().targetRails()[0]->content().hasValue, 8000);
        QTRY_VERIFY_WITH_TIMEOUT(
            window->live().rack() != nullptr && window->live().rack()->receivedControl(0, 11) >= 0, 8000);
        window.click("play");
        QTRY_COMPARE(window.find<app::Transport>("transport")->actText(), QStringLiteral("Play"));
        QTRY_COMPARE(window->live().readings().takePosition(), std::int64_t{-1});
        QTRY_COMPARE(window->live().rack()->sounding(0), 0);
    }

    void whatTheRackReceivedIsShownInRealUnits() {
        Window window;
        window.select("glass", {}, Part::instrument);
        QTRY_VERIFY_WITH_TIMEOUT(window->live().rack() != nullptr, 8000);
        auto* model = window.find<QListView>("parameters")->model();
        const auto shown = [&](int row) {
            return model->index(row, 0).data(ParameterModel::received).toString();
        };
        QCOMPARE(shown(1), QStringLiteral("–"));
        window->live().hands().send(midi::make(0xB0, 0, 1, 127));
        QTRY_COMPARE(shown(0), QStringLiteral("127"));
        QVERIFY(shown(1).endsWith(QStringLiteral(" kHz")));
        QVERIFY(shown(2).endsWith(QStringLiteral(" %")));
    }

    void justNowListsTheNewestFirstAndOneLineAControl() {
        Window window;
        auto* log = window->findChild<JustNow*>();
        QCOMPARE(log->model()->rowCount(), 0);
        window->live().hands().send(midi::make(0xB0, 0, 1, 64));
        window->live().hands().send(midi::make(0xB0, 0, 1, 65));
        QTRY_VERIFY(log->model()->rowCount() > 3);
        int wheel = 0;
        for (int row = 0; row < log->model()->rowCount(); ++row) {
            const QModelIndex at = log->model()->index(row, 0);
            if (at.data().toString() != QStringLiteral("Mod wheel") || at.data(JustNowModel::out).toBool())
                continue;
            ++wheel;
            QCOMPARE(at.data(JustNowModel::number).toString(), QStringLiteral("65"));
        }
        QCOMPARE(wheel, 1);
    }

    /// However much else moves before it is read, and however slow the machine.
    void justNowCrowdsOutNobody() {
        Window window;
        const auto* model = window->findChild<JustNow*>()->model();
        window->live().hands().send(midi::make(0xB0, 0, 70, 33));
        window->live().hands().send(midi::make(0x90, 0, 60, 90));
        window->live().hands().send(midi::make(0xA0, 0, 60, 17));
        for (int moved = 0; moved < 400; ++moved)
            window->live().hands().send(midi::make(0xB0, 0, 1, moved % 128));
        const auto numberOf = [&](const QString& name) {
            for (int row = 0; row < model->rowCount(); ++row) {
                const QModelIndex at = model->index(row, 0);
                if (at.data().toString() == name && !at.data(JustNowModel::out).toBool())
                    return at.data(JustNowModel::number).toString();
            }
            return QString();
        };
        QTRY_COMPARE(numberOf(QStringLiteral("CC 70")), QStringLiteral("33"));
        // A key and the pressure on it are two.
        QCOMPARE(numberOf(QStringLiteral("C4")), QStringLiteral("90"));
        QCOMPARE(numberOf(QStringLiteral("Pressure on C4")), QStringLiteral("17"));
        QTRY_COMPARE(numberOf(QStringLiteral("Mod wheel")), QString::number(399 % 128));
        window->live().hands().send(midi::make(0x80, 0, 60, 0));
    }

    void justNowForgetsWhatAClosedDocumentSent() {
        Window window;
        const auto* model = window->findChild<JustNow*>()->model();
        press(control(window, "Wheel"), 0.5);
        letGo(control(window, "Wheel"));
        QTRY_VERIFY(model->rowCount() > 0);
        press(control(window, "Wheel"), 0.9);
        window->newEnsemble();
        QCOMPARE(model->rowCount(), 0);
        letGo(control(window, "Wheel"));
        // What comes into the new one is shown again; of the demo's instruments nothing is.
        double share = 0.2;
        const auto play = [&] {
            press(control(window, "Wheel"), share = share > 0.8 ? 0.2 : share + 0.05);
            letGo(control(window, "Wheel"));
            return model->rowCount() > 0;
        };
        QTRY_VERIFY(play());
        for (int row = 0; row < model->rowCount(); ++row)
            QVERIFY(!model->index(row, 0).data(JustNowModel::out).toBool());
    }

    void theTempoIsTapped() {
        Window window;
        const double before = window.ensemble().tempo.bpm;
        QTest::keyClick(&*window, Qt::Key_F6);
        QCOMPARE(window.ensemble().tempo.bpm, before);
        QElapsedTimer beats;
        beats.start();
        for (int i = 0; i < 3; ++i) {
            QTest::qWait(200);
            QTest::keyClick(&*window, Qt::Key_F6);
        }
        // Beats of a fifth of a second and what a busy machine adds.
        const double played = 3 * 60'000.0 / static_cast<double>(beats.elapsed());
        const double tapped = window.ensemble().tempo.bpm;
        QVERIFY2(std::abs(tapped / played - 1) < 0.1, qPrintable(QString::number(tapped)));
        QTRY_VERIFY(window->findChild<QPushButton*>(QStringLiteral("tempo"))
                        ->text()
                        .startsWith(QString::number(tapped, 'f', 1)));
        // All taps are one step.
        window->document().undoStack().undo();
        QCOMPARE(window.ensemble().tempo.bpm, before);
    }

    void theHeaderTellsWhoseTempoItIs() {
        Window window;
        const auto shown = [&] { return window->findChild<QPushButton*>(QStringLiteral("tempo"))->text(); };
        window->document().edit(QStringLiteral("Tempo"), [](Ensemble& e) { e.tempo.bpm = 90; });
        QTRY_COMPARE(shown(), QStringLiteral("90.0 bpm"));
        window->document().edit(QStringLiteral("Tempo"), [](Ensemble& e) { e.tempo.follow = Follow::clock; });
        QTRY_COMPARE(shown(), QStringLiteral("90.0 bpm · waits for clock"));
        midi::Short beat;
        beat.size = 1;
        beat.data[0] = 0xF8;
        for (int i = 0; i < 3; ++i) {
            window->live().hands().sendTo("keys", beat);
            QTest::qWait(20);
        }
        QTRY_VERIFY(shown().endsWith(QStringLiteral("bpm · clock")));
    }

    /// One transport for the whole window: the take in hand, wherever one is.
    void theTransportPlaysTheTakeInHandOnEveryPage() {
        Window window;
        auto* transport = window.find<app::Transport>("transport");
        QCOMPARE(transport->nameText(), QStringLiteral("Barometer falls"));
        for (std::size_t page = 0; page < 4; ++page) {
            window->showPage(page);
            QTest::keyClick(QApplication::focusWidget() != nullptr ? QApplication::focusWidget() : &*window,
                            Qt::Key_Space);
            QTRY_VERIFY(window->live().readings().takePosition() >= 0);
            QCOMPARE(transport->actText(), QStringLiteral("Stop"));
            QTRY_VERIFY(transport->timeText() != QStringLiteral("0:00.0"));
            window.click("play");
            QTRY_VERIFY(window->live().readings().takePosition() < 0);
        }
        window->takes().choice.choose("wet-stones");
        QCOMPARE(transport->nameText(), QStringLiteral("Wet stones"));
        QCOMPARE(window->selection().address().index(), app::Address(app::GearPlace{}).index());
        // What is recorded is said there too, and ended there.
        window->takes().recording.begin();
        QCOMPARE(transport->actText(), QStringLiteral("End recording"));
        QCOMPARE(transport->nameText(), QStringLiteral("Recording"));
        window.click("play");
        QTRY_VERIFY(!window->takes().recording.isOn());
        QTRY_VERIFY(window->noticeText().contains(QStringLiteral("Nothing was played")));
        // It is of use for the moment only.
        window->showPage(0);
        QVERIFY(window->noticeText().isEmpty());
        window->newEnsemble();
        QCOMPARE(transport->nameText(), QStringLiteral("No take yet"));
        window->togglePlay();
        QVERIFY(window->noticeText().contains(QStringLiteral("There is no take yet")));
    }

    void justNowShowsWhatLeavesByOsc() {
        Window window;
        window->document().edit(QStringLiteral("OSC"), [](Ensemble& e) {
            Instrument& first = e.instruments[0];
            first.output.port = "osc.udp://localhost:9";
            Parameter& tone = *findById(first.parameters, "tone");
            tone.message.kind = MessageKind::osc;
            tone.message.address = "/harmonium/tone";
        });
        window->live().hands().send(midi::make(0xB0, 0, 1, 127));
        const auto* model = window->findChild<JustNow*>()->model();
        const auto shown = [&] {
            for (int row = 0; row < model->rowCount(); ++row) {
                const QModelIndex at = model->index(row, 0);
                if (at.data(Qt::AccessibleTextRole).toString().contains(QStringLiteral("Tone")) &&
                    at.data(JustNowModel::detail).toString() == QStringLiteral("Glass harmonium"))
                    return at.data(JustNowModel::number).toString();
            }
            return QString();
        };
        QTRY_COMPARE(shown(), QStringLiteral("6.2 kHz"));
    }

    void aMissingSoundfontIsSaidAndTheRestWorks() {
        Live::Options options = test::alone();
        options.soundfont = "/nowhere/gone.sf2";
        Window window(options);
        QTRY_VERIFY_WITH_TIMEOUT(
            window->noticeText().contains(QStringLiteral("/nowhere/gone.sf2 is missing")), 8000);
        window->live().hands().send(midi::make(0xB0, 0, 1, 127));
        QTRY_COMPARE(window.page().lever().targetRails()[0]->content().valueText, QStringLiteral("127"));
    }
};

QTEST_MAIN(PlayingTest)
#include "playing.moc"
