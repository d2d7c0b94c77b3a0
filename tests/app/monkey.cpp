// Hands that do anything: clicks, wheel turns, keys, drags and typing, everywhere, in any order. Nothing
// falls over; undo leads back to the first byte; nobody sounds in the end; who types in a field does not
// play; and the wheel over a field that was not clicked changes nothing.
//
// Acts are drawn from a seed and done by a timer, so that what opens a loop of its own (a menu, a dialog, a
// drag) is acted upon like all else. MELLOW_ACTS says how many, MELLOW_SEED which; with MELLOW_TEXTS texts
// that are cut off count too, wherever panels were dragged.
#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QFileDialog>
#include <QMenu>
#include <QScrollBar>
#include <QSlider>
#include <QSplitter>
#include <QTimer>
#include <map>
#include <random>

#include "app/ground/theme.h"
#include "core/store/ensemble_json.h"
#include "support/random_ensemble.h"
#include "support/stage.h"
#include "support/texts.h"

using namespace mellow;
using test::Stage;

namespace {

bool types(const QWidget* widget) {
    return qobject_cast<const QLineEdit*>(widget) != nullptr ||
           qobject_cast<const QAbstractSpinBox*>(widget) != nullptr;
}

bool isTurned(const QWidget* widget) {
    return qobject_cast<const QComboBox*>(widget) != nullptr ||
           qobject_cast<const QAbstractSpinBox*>(widget) != nullptr ||
           (qobject_cast<const QSlider*>(widget) != nullptr);
}

/// Notes that sound, by who plays them, channel and key.
class Ringing : public QObject {
 public:
    explicit Ringing(Stage& stage) {
        connect(&stage.window->live(), &app::Live::happened, this, [this](const io::Happening& happening) {
            const auto bytes = happening.message.bytes();
            if (bytes.size() < 3) return;
            const bool on = midi::isNoteOn(bytes);
            const bool off =
                !on && (midi::kindOf(bytes) == midi::noteOn || midi::kindOf(bytes) == midi::noteOff);
            if (!happening.out) {
                played += on && !happening.played ? 1 : 0;
                return;
            }
            const std::array<int, 4> place{static_cast<int>(happening.port), bytes[0] & 0x0F, bytes[1], 0};
            if (on) sounds[place] = true;
            if (off) sounds[place] = false;
            // All sound off, or all notes off.
            if (midi::kindOf(bytes) == midi::controlChange && (bytes[1] == 120 || bytes[1] == 123)) {
                for (auto& [each, is] : sounds) {
                    if (each[0] == place[0] && each[1] == place[1]) is = false;
                }
            }
        });
    }
    [[nodiscard]] int ringing() const {
        return static_cast<int>(
            std::count_if(sounds.begin(), sounds.end(), [](const auto& each) { return each.second; }));
    }
    std::map<std::array<int, 4>, bool> sounds;
    int played = 0;  ///< note-ons that came in and were none of a take
};

class Monkey : public QObject {
 public:
    Monkey(Stage& stage, std::uint32_t seed, int acts, double fonts)
        : stage_(stage), random_(seed), left_(acts), fonts_(fonts), ringing_(stage) {
        remember();
        connect(&stage.window->document(), &app::Document::changed, this, [this](const Change& change) {
            ++edits;
            // Another document; what is brought back into it can be undone already.
            if (change.everything) remember();
        });
    }

    void run() {
        QEventLoop loop;
        done_ = [&loop] { loop.quit(); };
        next();
        loop.exec();
        closeAll();
    }

    QStringList problems;
    // So that one sees that something was done at all.
    int edits = 0;
    int wheels = 0;    ///< over fields that were not clicked
    int inFields = 0;  ///< what was typed into them
    int opened = 0;    ///< acts on menus, dialogs and panels
    [[nodiscard]] int played() const { return ringing_.played; }
    [[nodiscard]] const Ringing& ringing() const { return ringing_; }
    [[nodiscard]] std::string first() const { return first_; }
    void remember() { first_ = store::printEnsemble(stage_.ensemble()); }

 private:
    int draw(int below) {
        return below <= 0 ? 0 : static_cast<int>(random_() % static_cast<unsigned>(below));
    }

    void next() {
        QTimer::singleShot(0, this, [this] {
            if (looks_) return QTimer::singleShot(5, this, [this] { next(); });
            if (left_-- <= 0) {
                if (!std::exchange(over_, true)) wrapUp();
                return;
            }
            // What opens a loop of its own is acted upon like all else.
            next();
            ++depth_;
            act();
            --depth_;
        });
    }

    /// Loops of menus and dialogs end before the outer one does.
    void wrapUp() {
        const bool open =
            QApplication::activePopupWidget() != nullptr || QApplication::activeModalWidget() != nullptr;
        if (!open) return done_();
        closeAll();
        QTimer::singleShot(0, this, [this] { wrapUp(); });
    }

    void closeAll() {
        while (QWidget* popup = QApplication::activePopupWidget()) {
            popup->close();
            if (popup == QApplication::activePopupWidget()) break;
        }
        for (QWidget* top : QApplication::topLevelWidgets()) {
            if (auto* dialog = qobject_cast<QDialog*>(top); dialog != nullptr && dialog->isVisible())
                dialog->reject();
        }
        Stage::settle();
    }

    QWidget* scene() {
        if (QWidget* popup = QApplication::activePopupWidget()) return popup;
        if (QWidget* modal = QApplication::activeModalWidget()) return modal;
        std::vector<QWidget*> tops;
        for (QWidget* top : QApplication::topLevelWidgets()) {
            if (qobject_cast<QDialog*>(top) != nullptr && top->isVisible()) tops.push_back(top);
        }
        if (tops.empty() || draw(4) != 0) return &*stage_.window;
        return tops[static_cast<std::size_t>(draw(static_cast<int>(tops.size())))];
    }

    QWidget* victim(QWidget* scene) {
        std::vector<QWidget*> all;
        for (QWidget* each : scene->findChildren<QWidget*>()) {
            const bool there =
                each->isVisible() && each->isEnabled() && each->width() > 2 && each->window() == scene;
            if (there) all.push_back(each);
        }
        return all.empty() ? scene : all[static_cast<std::size_t>(draw(static_cast<int>(all.size())))];
    }

    void act() {
        if (!stage_.window->isVisible()) stage_.window->show();
        for (QWidget* top : QApplication::topLevelWidgets()) {
            // No file of anybody's.
            if (auto* files = qobject_cast<QFileDialog*>(top); files != nullptr && files->isVisible())
                return files->reject();
        }
        if (left_ % 50 == 0) return look();
        QWidget* where = scene();
        opened += where != &*stage_.window ? 1 : 0;
        // What is open is not for ever.
        if (where != &*stage_.window && draw(4) == 0) {
            where->close();
            return;
        }
        if (auto* menu = qobject_cast<QMenu*>(where)) return choose(*menu);
        const QPointer<QWidget> widget = victim(where);
        const QPoint at(draw(widget->width()), draw(widget->height()));
        switch (draw(12)) {
            case 0:
            case 1:
            case 2:
            case 3:
                return QTest::mouseClick(widget, Qt::LeftButton, modifiers(), at);
            case 4:
                return QTest::mouseDClick(widget, Qt::LeftButton, {}, at);
            case 5:
                return drag(widget, at);
            case 6:
                return wheel(widget, at);
            case 7:
                return wheelOverField(where);
            case 8:
                return typeLetters();
            case 9:
                return shortcut();
            case 10:
                return key();
            default:
                if (draw(4) == 0) stage_.window->showPage(static_cast<std::size_t>(draw(4)));
                return;
        }
    }

    /// Whatever the hands have made of the window, it can be read; and then it gets another size.
    void look() {
        if (QApplication::activePopupWidget() == nullptr && QApplication::activeModalWidget() == nullptr &&
            depth_ == 1) {
            // A layout settles in the event loop, in which nothing is done meanwhile.
            looks_ = true;
            (void)QTest::qWaitFor([this] { return test::faults(*stage_.window).isEmpty(); }, 8000);
            looks_ = false;
            for (const QString& fault : test::faults(*stage_.window)) {
                const auto known = [&fault](const QString& each) { return each.startsWith(fault); };
                if (std::none_of(problems.begin(), problems.end(), known)) problems << fault + where();
            }
        }
        static const std::array sizes{QSize(1100, 700), QSize(1280, 800), QSize(1920, 1080)};
        if (!stage_.window->isFullScreen()) stage_.window->resize(sizes[static_cast<std::size_t>(draw(3))]);
        if (draw(3) == 0 && QApplication::activePopupWidget() == nullptr &&
            QApplication::activeModalWidget() == nullptr)
            app::applyTheme(*qApp, draw(2) == 0 ? app::linenTheme() : app::duskTheme(), fonts_);
    }

    /// How the window is just now, to see it again.
    QString where() {
        QStringList columns;
        for (const int width : stage_.window->findChild<QSplitter*>()->sizes())
            columns << QString::number(width);
        return QStringLiteral("\n    at %1×%2, columns %3, %4 acts left")
            .arg(stage_.window->width())
            .arg(stage_.window->height())
            .arg(columns.join(QLatin1Char(' ')))
            .arg(left_);
    }

    Qt::KeyboardModifiers modifiers() {
        return draw(6) == 0 ? Qt::ControlModifier : draw(8) == 0 ? Qt::ShiftModifier : Qt::NoModifier;
    }

    void choose(QMenu& menu) {
        const auto actions = menu.actions();
        QAction* action = actions.isEmpty() ? nullptr : actions[draw(static_cast<int>(actions.size()))];
        const bool leaves = action == nullptr || action->text().contains(QStringLiteral("Quit")) ||
                            action->shortcut() == QKeySequence::Save;
        if (leaves || draw(3) == 0) {
            menu.close();
            return;
        }
        QTest::mouseClick(&menu, Qt::LeftButton, {}, menu.actionGeometry(action).center());
    }

    static void drag(QWidget* widget, const QPoint& from) {
        const QPointer<QWidget> dragged = widget;
        const QPoint to(widget->width() - from.x(), widget->height() - from.y());
        QTest::mousePress(widget, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 3 && dragged; ++step) {
            QMouseEvent move(QEvent::MouseMove, from + (to - from) * step / 3,
                             dragged->mapToGlobal(from + (to - from) * step / 3), Qt::NoButton,
                             Qt::LeftButton, {});
            QCoreApplication::sendEvent(dragged, &move);
        }
        if (dragged) QTest::mouseRelease(dragged, Qt::LeftButton, {}, to);
    }

    void wheel(QWidget* widget, const QPoint& at) {
        const bool mayChange = !isTurned(widget) || widget->hasFocus() || widget->window() != &*stage_.window;
        const std::string before = mayChange ? std::string() : store::printEnsemble(stage_.ensemble());
        QWheelEvent turn(at, widget->mapToGlobal(at), {}, QPoint(0, draw(2) == 0 ? 120 : -120), Qt::NoButton,
                         {}, Qt::NoScrollPhase, false);
        const QPointer<QWidget> turned = widget;
        wheels += mayChange ? 0 : 1;
        QCoreApplication::sendEvent(widget, &turn);
        if (!mayChange && store::printEnsemble(stage_.ensemble()) != before)
            problems
                << QStringLiteral("the wheel changed %1").arg(turned ? test::labelOf(turned) : QString());
    }

    void wheelOverField(QWidget* where) {
        std::vector<QWidget*> fields;
        for (QWidget* each : where->findChildren<QWidget*>()) {
            if (isTurned(each) && each->isVisible() && each->window() == where) fields.push_back(each);
        }
        if (fields.empty()) return;
        QWidget* field = fields[static_cast<std::size_t>(draw(static_cast<int>(fields.size())))];
        wheel(field, field->rect().center());
    }

    void typeLetters() {
        QWidget* has = QApplication::focusWidget();
        if (has == nullptr) has = &*stage_.window;
        const bool field = types(has);
        inFields += field ? 1 : 0;
        // What was played before is heard before.
        if (field) awaitTheHeard();
        if (QApplication::focusWidget() != has && field) return;
        const int before = ringing_.played;
        static const QString letters = QStringLiteral("asdfghjkl12,.x");
        const QPointer<QWidget> typed = has;
        for (int i = 0; i < 3 && typed; ++i)
            QTest::keyClick(typed, letters[draw(static_cast<int>(letters.size()))].toLatin1());
        QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents);
        if (field && typed && QApplication::focusWidget() == typed && ringing_.played != before)
            problems << QStringLiteral("typing in %1 played").arg(test::labelOf(typed));
    }

    void awaitTheHeard() {
        looks_ = true;
        (void)stage_.hearAll(2000);
        looks_ = false;
    }

    void shortcut() {
        std::vector<QAction*> all;
        for (QAction* action : stage_.window->findChildren<QAction*>()) {
            const bool leaves = action->text().contains(QStringLiteral("Quit")) ||
                                action->shortcut() == QKeySequence::Save || action->menu() != nullptr;
            if (action->isVisible() && action->isEnabled() && !leaves && !action->text().isEmpty())
                all.push_back(action);
        }
        if (!all.empty() && QApplication::activeModalWidget() == nullptr)
            all[static_cast<std::size_t>(draw(static_cast<int>(all.size())))]->trigger();
    }

    void key() {
        static constexpr std::array keys{Qt::Key_Escape, Qt::Key_Tab,  Qt::Key_Return, Qt::Key_Space,
                                         Qt::Key_Delete, Qt::Key_Up,   Qt::Key_Down,   Qt::Key_Left,
                                         Qt::Key_Right,  Qt::Key_Home, Qt::Key_PageUp, Qt::Key_F5,
                                         Qt::Key_Escape};
        QWidget* has = QApplication::focusWidget();
        QTest::keyClick(has != nullptr ? has : &*stage_.window,
                        keys[static_cast<std::size_t>(draw(keys.size()))], modifiers());
    }

    Stage& stage_;
    std::mt19937 random_;
    int left_;
    double fonts_;  ///< their scale, which a window keeps
    Ringing ringing_;
    std::string first_;
    std::function<void()> done_;
    bool over_ = false;
    bool looks_ = false;  ///< and nothing is done
    int depth_ = 0;       ///< acts that have opened loops of their own, one inside the other
};

int number(const char* name, int otherwise) {
    return qEnvironmentVariableIsSet(name) ? qEnvironmentVariableIntValue(name) : otherwise;
}

}  // namespace

class MonkeyTest : public QObject {
    Q_OBJECT

 private slots:
    void anythingGoes_data() {
        QTest::addColumn<int>("world");
        QTest::addColumn<double>("fonts");
        QTest::newRow("the demo") << 0 << 1.0;
        QTest::newRow("a random document") << 1 << 1.25;
        QTest::newRow("another") << 2 << 0.9;
    }
    void anythingGoes() {
        QFETCH(int, world);
        QFETCH(double, fonts);
        Stage stage(world == 0, fonts);
        if (world == 0) {
            stage.window->openDemo();
        } else {
            stage.window->document().replace(test::RandomWorld(static_cast<std::uint32_t>(world)).ensemble(),
                                             {});
        }
        stage.window.answer = app::MainWindow::Answer::discard;
        stage.window.savePath = stage.window.folder.filePath(QStringLiteral("monkey.lever"));
        const auto seed = static_cast<std::uint32_t>(number("MELLOW_SEED", 1) * 3 + world);
        Monkey monkey(stage, seed, number("MELLOW_ACTS", 1500), fonts);
        monkey.run();
        QVERIFY2(monkey.problems.isEmpty(), qPrintable(monkey.problems.join(QLatin1Char('\n'))));
        const QString did =
            QStringLiteral("%1 edits, %2 wheels over fields, %3 typed, %4 on what was opened, %5 notes")
                .arg(monkey.edits)
                .arg(monkey.wheels)
                .arg(monkey.inFields)
                .arg(monkey.opened)
                .arg(monkey.played());
        qInfo("%s", qPrintable(did));
        QVERIFY2(monkey.edits > 20 && monkey.opened > 20, qPrintable(did));
        stage.window->takes().recording.endNow();
        stage.window->takes().playing.stop();
        stage.window->live().hands().silenceAll();
        QTRY_COMPARE(monkey.ringing().ringing(), 0);
        while (stage.window->document().undoStack().canUndo()) stage.window->document().undoStack().undo();
        QCOMPARE(QString::fromStdString(store::printEnsemble(stage.ensemble())),
                 QString::fromStdString(monkey.first()));
    }
};

QTEST_MAIN(MonkeyTest)
#include "monkey.moc"
