// A window with the demo, settings of its own in a folder that goes away, and no questions asked: answers and
// paths are given beforehand. Widgets are found by type and object name, and must be visible.
#include "support/window.h"

#include <QApplication>
#include <QLineEdit>
#include <QMenuBar>

#include "app/ground/theme.h"
#include "app/widgets/step_picker.h"
#include "core/store/ensemble_json.h"
#include "support/stage.h"

namespace mellow::test {

namespace {

/// One folder of settings a test program, so that a person's own are neither read nor written.
void useOwnSettings() {
    static const QTemporaryDir settings;
    QSettings::setDefaultFormat(QSettings::IniFormat);
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, settings.path());
    QApplication::setOrganizationName(QStringLiteral("mellow-lever-tests"));
}

QAction* findAction(const QList<QAction*>& actions, const QString& text) {
    for (QAction* action : actions) {
        if (QString(action->text()).remove(QLatin1Char('&')) == text) return action;
        if (action->menu() == nullptr) continue;
        if (QAction* inner = findAction(action->menu()->actions(), text)) return inner;
    }
    return nullptr;
}

}  // namespace

app::Live::Options alone() {
    app::Live::Options options;
    options.jack = false;
    options.alsa = false;
    options.soundCard = false;
    return options;
}

app::Live::Options overJack() {
    app::Live::Options options = alone();
    options.jack = true;
    return options;
}

Window::Window(QSize size, double fontScale, bool linen, const app::Live::Options& options) {
    useOwnSettings();
    app::applyTheme(*qApp, linen ? app::linenTheme() : app::duskTheme(), fontScale);
    window_ = std::make_unique<app::MainWindow>(options);
    window_->files().onAsk([this](QWidget*) {
        ++asked;
        return answer;
    });
    window_->files().onAskPath([this](QWidget*, const QString&) { return savePath; });
    window_->resize(size);
    window_->openDemo();
    window_->show();
    window_->activateWindow();
    if (!QTest::qWaitForWindowActive(window_.get())) qFatal("the window does not become active");
}

const Instrument& Window::instrument(const std::string& id) {
    const Instrument* found = findById(ensemble().instruments, id);
    if (found == nullptr) qFatal("no instrument %s", id.c_str());
    return *found;
}

const Chain& Window::chain(const std::string& owner, const std::string& id) {
    const Chain* found = findById(instrument(owner).chains, id);
    if (found == nullptr) qFatal("no chain %s", id.c_str());
    return *found;
}

void Window::select(const std::string& owner, const std::string& chain, app::Part part, int index,
                    int inner) {
    window_->selection().set({owner, chain, part, index, inner});
    QCoreApplication::processEvents();
}

void Window::click(const char* button) {
    QTest::mouseClick(find<QPushButton>(button), Qt::LeftButton);
    QCoreApplication::processEvents();
}

void Window::pickStep(const char* button, const QString& name) {
    click(button);
    auto* picker = window_->findChild<app::StepPicker*>();
    if (picker == nullptr) qFatal("no choice of steps is open");
    auto* words = picker->findChild<QLineEdit*>(QStringLiteral("stepWords"));
    QTest::keyClicks(words, name);
    QTest::keyClick(words, Qt::Key_Return);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    QCoreApplication::processEvents();
}

void Window::addTarget() {
    click("addTarget");
    auto* words = window_->findChild<QLineEdit*>(QStringLiteral("finderWords"));
    if (words == nullptr) qFatal("no choice of targets is open");
    QTest::keyClick(words, Qt::Key_Return);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    QCoreApplication::processEvents();
}

QAction* Window::action(const QString& text) {
    // An entry of a menu, and not a menu of that name.
    QAction* found = nullptr;
    for (QAction* menu : window_->menus().actions()) {
        if (found == nullptr && menu->menu() != nullptr) found = findAction(menu->menu()->actions(), text);
    }
    if (found == nullptr) qFatal("no menu entry %s", qPrintable(text));
    return found;
}

void Window::menu(const QString& text) {
    action(text)->trigger();
    QCoreApplication::processEvents();
}

void Window::editsOnce(const std::function<void()>& edit) {
    QUndoStack& stack = window_->document().undoStack();
    const int steps = stack.index();
    const Ensemble before = ensemble();
    edit();
    const Ensemble after = ensemble();
    QVERIFY2(before != after, "nothing was edited");
    QCOMPARE(stack.index(), steps + 1);
    stack.undo();
    QVERIFY(ensemble() == before);
    stack.redo();
    QVERIFY(ensemble() == after);
}

void Stage::goesBackAndForth() {
    QUndoStack& stack = window->document().undoStack();
    const std::string now = store::printEnsemble(ensemble());
    const int steps = stack.index();
    while (stack.canUndo()) stack.undo();
    const std::string first = store::printEnsemble(ensemble());
    while (stack.canRedo()) stack.redo();
    QCOMPARE(stack.index(), steps);
    QVERIFY(store::printEnsemble(ensemble()) == now);
    while (stack.canUndo()) stack.undo();
    QVERIFY(store::printEnsemble(ensemble()) == first);
    while (stack.canRedo()) stack.redo();
}

QString findingsText(Window& window) {
    QStringList lines;
    for (const QLabel* line : window->findChildren<QLabel*>(QStringLiteral("finding"))) {
        if (line->isVisible()) lines << line->text();
    }
    return lines.join(QLatin1Char('\n'));
}

void drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers) {
    const auto send = [&](QEvent::Type type, const QPointF& at, Qt::MouseButtons held) {
        QMouseEvent event(type, at, widget->mapToGlobal(at), Qt::LeftButton, held, modifiers);
        QCoreApplication::sendEvent(widget, &event);
        QCoreApplication::processEvents();
    };
    constexpr int steps = 8;
    send(QEvent::MouseButtonPress, from, Qt::LeftButton);
    for (int i = 1; i <= steps; ++i) send(QEvent::MouseMove, from + (to - from) * i / steps, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, to, Qt::NoButton);
}

void type(QWidget* field, const QString& text) {
    field->setFocus();
    if (auto* line = qobject_cast<QLineEdit*>(field)) line->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
    QCoreApplication::processEvents();
}

}  // namespace mellow::test
