// Reaches that are set by playing: a key is held, the control is moved, and where it is let go counts.
#include <QApplication>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalSpy>

#include "app/widgets/few_lines.h"
#include "core/model/law.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::numberAt;
using test::Window;

namespace {

struct Stage {
    Window window;
    std::map<int, int> sent;  ///< by control, to the glass

    Stage() {
        window->openDemo();
        QObject::connect(&window->live(), &Live::happened, &*window, [this](const io::Happening& happening) {
            const midi::Bytes bytes = happening.message.bytes();
            const bool isGlass = happening.out && midi::channelOf(bytes) == 0;
            if (isGlass && midi::kindOf(bytes) == midi::controlChange) sent[bytes[1]] = bytes[2];
        });
        QSignalSpy heard(&window->live(), &Live::happened);
        const bool plays = QTest::qWaitFor([&] { return move(0), heard.count() > 0; });
        if (!plays) qFatal("the demo is not played");
        window.select("glass", "swell", Part::branch, 2);
    }
    void move(int value) { window->live().hands().send(midi::make(midi::controlChange, 0, 1, value)); }
    const Branch& tone() { return window.chain("glass", "swell").branches[2]; }
    int toneControl() {
        return findById(window.instrument("glass").parameters, tone().target)->message.number;
    }
    double toneAt(int value) {
        const Parameter& parameter = *findById(window.instrument("glass").parameters, tone().target);
        return std::get<double>(levelAt(rangeOf(parameter), value / 127.0));
    }
    QString says() {
        const auto* goal = window->findChild<app::FewLines*>(QStringLiteral("reachGoal"));
        return goal->isVisible() ? goal->text() : QString();
    }
    QWidget& focus() {
        window->setFocus();
        return *window->focusWidget();
    }
};

}  // namespace

class ReachTest : public QObject {
    Q_OBJECT

 private slots:
    void anEndIsWhereTheControlIsLetGo_data() {
        QTest::addColumn<Qt::Key>("key");
        QTest::addColumn<bool>("high");
        QTest::newRow("low") << Qt::Key_Comma << false;
        QTest::newRow("high") << Qt::Key_Period << true;
    }
    void anEndIsWhereTheControlIsLetGo() {
        QFETCH(Qt::Key, key);
        QFETCH(bool, high);
        Stage stage;
        const Branch before = stage.tone();
        QTest::keyPress(&stage.focus(), key);
        QVERIFY(stage.says().contains(QStringLiteral("end of Tone")));
        // While the key is held the whole travel plays the whole range, unbent.
        for (const int value : {20, 100, 64}) {
            stage.move(value);
            QTRY_COMPARE(stage.sent[stage.toneControl()], value);
        }
        QTRY_VERIFY(!stage.says().contains(QStringLiteral("move the control")));
        QVERIFY(stage.tone() == before);
        stage.window.editsOnce([&] { QTest::keyRelease(&stage.focus(), key); });
        QCOMPARE(numberAt(high ? stage.tone().high : stage.tone().low), stage.toneAt(64));
        QVERIFY(high ? stage.tone().low == before.low : stage.tone().high == before.high);
        QVERIFY(stage.says().isEmpty());
        // And the chain plays as it is written again.
        stage.sent.clear();
        stage.move(8);
        QTRY_VERIFY(stage.sent.contains(stage.toneControl()));
        stage.window->document().undoStack().undo();
        QVERIFY(stage.tone() == before);
    }

    void withoutAMovementNothingChanges() {
        Stage stage;
        const Ensemble before = stage.window.ensemble();
        QTest::keyPress(&stage.focus(), Qt::Key_Comma);
        QCoreApplication::processEvents();
        QTest::keyRelease(&stage.focus(), Qt::Key_Comma);
        QVERIFY(stage.window.ensemble() == before);
        // Esc calls it off, and no note is ended by it that was not.
        QTest::keyPress(&stage.focus(), Qt::Key_Comma);
        stage.move(90);
        QTRY_COMPARE(stage.sent[stage.toneControl()], 90);
        QTest::keyClick(&*stage.window, Qt::Key_Escape);
        QVERIFY(stage.says().isEmpty());
        QTest::keyRelease(&stage.focus(), Qt::Key_Comma);
        QVERIFY(stage.window.ensemble() == before);
    }

    /// The key may come up in a field that has the focus by then, or in another window.
    void aKeyThatIsHeldNeverStays() {
        Stage stage;
        const Ensemble before = stage.window.ensemble();
        QTest::keyPress(&stage.focus(), Qt::Key_Comma);
        QVERIFY(stage.window->reach().isOn());
        QLineEdit field(&*stage.window);
        field.show();
        field.setFocus();
        QTest::keyRelease(&field, Qt::Key_Comma);
        QVERIFY(!stage.window->reach().isOn());
        QTest::keyPress(&stage.focus(), Qt::Key_Comma);
        QVERIFY(stage.window->reach().isOn());
        QEvent left(QEvent::WindowDeactivate);
        QApplication::sendEvent(&*stage.window, &left);
        QVERIFY(!stage.window->reach().isOn());
        QVERIFY(stage.window.ensemble() == before);
    }

    void aSourceIsCalibratedToTheTravelItHas() {
        Stage stage;
        stage.window.select("glass", "half-light");
        const int pedal = 67;
        QTest::keyPress(&stage.focus(), Qt::Key_Semicolon);
        QVERIFY(stage.says().startsWith(QStringLiteral("Calibrating")));
        const std::pair<int, const char*> moves[] = {
            {30, "24 % to 24 %"}, {20, "16 % to 24 %"}, {90, "16 % to 71 %"}, {60, "16 % to 71 %"}};
        for (const auto& [value, travel] : moves) {
            stage.window->live().hands().send(midi::make(midi::controlChange, 0, pedal, value));
            QTRY_VERIFY2(stage.says().contains(QLatin1String(travel)), qPrintable(stage.says()));
        }
        stage.window.editsOnce([&] { QTest::keyRelease(&stage.focus(), Qt::Key_Semicolon); });
        const Step& first = stage.window.chain("glass", "half-light").steps.front();
        QCOMPARE(first.kind->name, std::string_view("window"));
        QCOMPARE(std::round(numberOf(first, 0) * 127), 20.0);
        QCOMPARE(std::round(numberOf(first, 1) * 127), 90.0);
    }

    void whereASpringRestsBecomesTheMiddle() {
        Stage stage;
        stage.move(70);
        QTRY_VERIFY(stage.window->live().reading("glass", "swell").spoken);
        QTRY_COMPARE(stage.window->live().reading("glass", "swell").raw, 70);
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("The control rests here")); });
        const auto& steps = stage.window.chain("glass", "swell").steps;
        QCOMPARE(steps.front().kind->name, std::string_view("restAt"));
        QVERIFY(std::abs(settledPosition(std::span(steps).first(1), 70 / 127.0) - 0.5) < 0.002);
    }

    /// The same by a button that is held.
    void theButtonIsHeld() {
        Stage stage;
        QPushButton* low = nullptr;
        for (QPushButton* each : stage.window.details().findChildren<QPushButton*>(QStringLiteral("held"))) {
            if (each->text().startsWith(QStringLiteral("Low"))) low = each;
        }
        QVERIFY(low != nullptr);
        QTest::mousePress(low, Qt::LeftButton);
        stage.move(33);
        QTRY_COMPARE(stage.sent[stage.toneControl()], 33);
        QTest::mouseRelease(low, Qt::LeftButton);
        QTRY_COMPARE(numberAt(stage.tone().low), stage.toneAt(33));
    }
};

QTEST_MAIN(ReachTest)
#include "reach.moc"
