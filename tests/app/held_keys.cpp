// What a widget hears of keys that X11 repeats, as its server tells of them.
#include "app/ground/held_keys.h"

#include <QWidget>
#include <QWindow>
#include <QtTest>

using namespace mellow::app;

namespace {

/// Writes down what becomes of its keys.
class Listener : public QWidget {
 public:
    QStringList heard;

 protected:
    void keyPressEvent(QKeyEvent* event) override { note("down", *event); }
    void keyReleaseEvent(QKeyEvent* event) override { note("up", *event); }

 private:
    void note(const char* what, const QKeyEvent& event) {
        heard << QStringLiteral("%1 %2 %3")
                     .arg(QLatin1String(what), QString(QChar(event.key())))
                     .arg(event.timestamp());
    }
};

struct Stage : QObject {
    HeldKeys keys;
    Listener listener;

    Stage() {
        qApp->installEventFilter(this);
        listener.resize(200, 100);
        listener.show();
        listener.activateWindow();
        if (!QTest::qWaitForWindowActive(&listener)) qFatal("the window is not active");
        listener.heard.clear();
    }
    bool eventFilter(QObject* receiver, QEvent* event) override { return keys.keeps(*receiver, *event); }
    /// True: the window would go on with it.
    bool send(QEvent::Type type, Qt::Key key, quint64 when, bool repeats = false) {
        QKeyEvent event(type, key, Qt::NoModifier, QString(), repeats);
        event.setTimestamp(when);
        event.ignore();
        QCoreApplication::sendEvent(listener.windowHandle(), &event);
        return !event.isAccepted();
    }
    void down(Qt::Key key, quint64 when) { send(QEvent::KeyPress, key, when); }
    void up(Qt::Key key, quint64 when) { send(QEvent::KeyRelease, key, when); }
};

}  // namespace

class HeldKeysTest : public QObject {
    Q_OBJECT

 private slots:
    void strikesAreHeardOneAfterAnother() {
        Stage stage;
        stage.down(Qt::Key_Z, 100);
        stage.up(Qt::Key_Z, 150);
        stage.down(Qt::Key_Z, 151);
        stage.up(Qt::Key_Z, 200);
        stage.up(Qt::Key_X, 200);
        const QStringList all{"down Z 100", "up Z 150", "down Z 151", "up Z 200", "up X 200"};
        QTRY_COMPARE(stage.listener.heard, all);
    }

    /// Up and down in the same millisecond, and nobody says that it is a repetition.
    void aKeyThatIsHeldIsStruckOnce() {
        Stage stage;
        stage.down(Qt::Key_Z, 100);
        for (quint64 when = 700; when < 1500; when += 40) {
            stage.up(Qt::Key_Z, when);
            // Nor is a shortcut found for it.
            QVERIFY(!stage.send(QEvent::ShortcutOverride, Qt::Key_Z, when));
            stage.down(Qt::Key_Z, when);
        }
        stage.up(Qt::Key_Z, 1510);
        const QStringList all{"down Z 100", "up Z 1510"};
        QTRY_COMPARE(stage.listener.heard, all);
    }

    /// While one is held another is struck.
    void anotherKeyIsNotTheSame() {
        Stage stage;
        stage.down(Qt::Key_Z, 100);
        stage.up(Qt::Key_Z, 700);
        stage.down(Qt::Key_X, 700);
        stage.up(Qt::Key_X, 800);
        const QStringList all{"down Z 100", "up Z 700", "down X 700", "up X 800"};
        QTRY_COMPARE(stage.listener.heard, all);
    }

    /// Who loses the keyboard is told first which key came up.
    void whoLosesTheKeyboardHasHeardAll() {
        Stage stage;
        stage.down(Qt::Key_Z, 100);
        stage.up(Qt::Key_Z, 150);
        QFocusEvent away(QEvent::FocusOut);
        QCoreApplication::sendEvent(stage.listener.windowHandle(), &away);
        const QStringList all{"down Z 100", "up Z 150"};
        QCOMPARE(stage.listener.heard, all);
    }

    /// What says itself that it repeats, and what knows no time, goes as it came.
    void othersGoAsTheyCame() {
        Stage stage;
        stage.send(QEvent::KeyRelease, Qt::Key_Z, 100, true);
        stage.up(Qt::Key_X, 0);
        const QStringList all{"up Z 100", "up X 0"};
        QCOMPARE(stage.listener.heard, all);
    }
};

QTEST_MAIN(HeldKeysTest)
#include "held_keys.moc"
