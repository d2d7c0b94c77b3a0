// Something that nobody foresaw goes wrong in the middle of an act: the window stays, says so, and plays on.
#include "app/frame/application.h"

#include <QSignalSpy>

#include "support/build.h"
#include "support/window.h"

using namespace mellow;

namespace {

/// Throws whatever is thrown into it.
class Faulty : public QObject {
 public:
    bool throwsNothingKnown = false;
    bool event(QEvent* event) override {
        if (event->type() != QEvent::User) return QObject::event(event);
        if (throwsNothingKnown) throw 22;
        throw std::bad_alloc();
    }
};

}  // namespace

class ApplicationTest : public QObject {
    Q_OBJECT

 private slots:
    void anActThatFailsIsGivenUp() {
        auto& application = *qobject_cast<app::Application*>(QCoreApplication::instance());
        test::Window window;
        connect(&application, &app::Application::gaveUp, &window->live(), &app::Live::troubled);
        const QSignalSpy gaveUp(&application, &app::Application::gaveUp);
        Faulty faulty;
        QCoreApplication::postEvent(&faulty, new QEvent(QEvent::User));
        QTRY_COMPARE(gaveUp.count(), 1);
        QVERIFY(window->noticeText().contains(QStringLiteral("went wrong")));
        faulty.throwsNothingKnown = true;
        QCoreApplication::postEvent(&faulty, new QEvent(QEvent::User));
        QTRY_COMPARE(gaveUp.count(), 2);
        const std::string title = "Still here";
        window->document().edit(QStringLiteral("Rename"), [&title](Ensemble& e) { e.title = title; });
        QCOMPARE(window.ensemble().title, title);
        window->document().undoStack().undo();
        QVERIFY(window.ensemble().title != title);
    }
};

int main(int argc, char** argv) {
    app::Application application(argc, argv);
    ApplicationTest test;
    return QTest::qExec(&test, argc, argv);
}
#include "application.moc"
