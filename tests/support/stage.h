// A window that is played, and hands that play it; every act of theirs is counted.
#pragma once

#include <QLabel>
#include <QSignalSpy>

#include "app/widgets/few_lines.h"
#include "support/window.h"

namespace mellow::test {

struct Stage {
    Window window;
    int acts = 0;  ///< clicks, keys, what was typed, and controls that were moved

    explicit Stage(bool empty = true, double fonts = 1.0) : window({1280, 800}, fonts) {
        if (empty) {
            window->newEnsemble();
        } else {
            window->openDemo();
        }
        // What comes while a document is being closed is heard by nobody.
        QSignalSpy heard(&window->live(), &app::Live::happened);
        const bool plays = QTest::qWaitFor([&] { return send({0x80, 0, 64}), heard.count() > 0; });
        if (!plays) qFatal("the ensemble is not played");
    }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        ++acts;
        window->activateWindow();
        if (!QTest::qWaitForWindowActive(&*window)) qFatal("the window is not active");
        QTest::keyClick(&*window, key, modifiers);
        QCoreApplication::processEvents();
    }
    void click(const char* button) {
        ++acts;
        settle();
        window.click(button);
    }
    void send(const std::vector<std::uint8_t>& bytes, const char* port = "hands") {
        window->live().hands().sendTo(port, midi::shortOf(bytes));
    }
    /// Waits until everything that was sent so far has been played and shown; false: not in time (ms).
    bool hearAll(int within = 10'000) {
        constexpr std::uint8_t mark = 119;  // a control that nothing here listens to
        QSignalSpy heard(&window->live(), &app::Live::cameIn);
        send({0xBF, mark, 1});
        const auto isHeard = [&] {
            return std::any_of(heard.begin(), heard.end(), [](const QList<QVariant>& each) {
                return each[0].value<io::Happening>().message.data[1] == mark;
            });
        };
        return QTest::qWaitFor(isHeard, within);
    }
    void move(int number, int to = 100, const char* port = "hands") {
        ++acts;
        for (int value = 0; value <= to; value += 5)
            send({0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)}, port);
    }
    /// Types into the finder that is open, and takes the first that is found.
    void take(const QString& typed) {
        auto* words = finderWords();
        if (!typed.isEmpty()) {
            ++acts;
            QTest::keyClicks(words, typed);
        }
        ++acts;
        QTest::keyClick(words, Qt::Key_Return);
        settle();
    }
    QLineEdit* finderWords() {
        for (QLineEdit* words : window->findChildren<QLineEdit*>(QStringLiteral("finderWords"))) {
            if (words->isVisible()) return words;
        }
        qFatal("no finder is open");
    }
    /// Presses a button of a dialog that is open.
    void press(const char* button) {
        ++acts;
        auto* found = window->findChild<QPushButton*>(QLatin1String(button));
        if (found == nullptr || !found->isVisible()) qFatal("no dialog with %s is open", button);
        found->click();
        settle();
    }
    /// What was closed is gone.
    static void settle() {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QCoreApplication::processEvents();
    }
    app::Learn& learn() { return window->learn(); }
    QString shown(const char* name) {
        if (const auto* lines = window->findChild<app::FewLines*>(QLatin1String(name))) return lines->text();
        return window->findChild<QLabel*>(QLatin1String(name))->text();
    }
    bool isShown(const char* name) { return window->findChild<QWidget*>(QLatin1String(name))->isVisible(); }
    const Ensemble& ensemble() { return window.ensemble(); }
    /// Undone to the start and redone to the end, the document is the same to the byte.
    void goesBackAndForth();
};

}  // namespace mellow::test
