// A window that a session manager leads: it opens the session's file, saves when it is told, says whether
// there is something to save, hides instead of closing, and lets nothing take the file's place.
#include "app/frame/managed.h"

#include <QElapsedTimer>
#include <QFileDialog>
#include <QLineEdit>
#include <QProcess>
#include <thread>

#include "app/widgets/notice_bar.h"
#include "core/files/files.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/manager.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;

namespace {

/// A manager that has taken a window in, and had it open a file.
struct Led {
    test::Manager manager;
    QTemporaryDir folder;
    std::unique_ptr<Managed> managed;
    test::Window window;
    QString path = folder.filePath(QStringLiteral("session/lever.nXYZ"));

    Led() { begin(); }
    ~Led() { managed.reset(); }
    void begin() {
        qputenv("NSM_URL", manager.url().c_str());
        std::thread answers([this] {
            while (manager.count("/nsm/server/announce") == 0)
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            manager.welcome();
            manager.open(path.toStdString(), "Barometer falls", "Mellow Lever.nXYZ");
        });
        QString trouble;
        managed = Managed::begin(trouble);
        answers.join();
        qunsetenv("NSM_URL");
        if (managed == nullptr) qFatal("%s", qPrintable(trouble));
    }
    void lead() { managed->lead(*window); }
    [[nodiscard]] QString file() const { return path + QStringLiteral(".lever"); }
    void edit() {
        window->document().edit(QStringLiteral("add"),
                                [](Ensemble& e) { e.instruments.push_back(test::instrument()); });
    }
};

Files::Answer neverAsked(QWidget*) {
    qFatal("a person was asked");
}

}  // namespace

class ManagedTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void beginsTheSessionsFile() {
        Led led;
        QCOMPARE(led.managed->clientId(), std::string("Mellow Lever.nXYZ"));
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        QVERIFY(QFileInfo::exists(led.file()));
        QCOMPARE(led.window->document().path(), led.file());
        QCOMPARE(led.window.ensemble().title, std::string("Barometer falls"));
        QTRY_COMPARE(led.manager.count("/nsm/client/gui_is_shown"), std::size_t{1});
        QTRY_COMPARE(led.manager.count("/nsm/client/is_clean"), std::size_t{1});
    }

    void opensWhatIsThereAlready() {
        Led led;
        QVERIFY(QDir().mkpath(QFileInfo(led.file()).path()));
        QVERIFY(
            QFile::copy(QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever"), led.file()));
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        QCOMPARE(led.window.ensemble().instruments.size(), std::size_t{6});
    }

    void savesAndSaysWhetherThereIsSomethingToSave() {
        Led led;
        led.window->files().onAsk(neverAsked);
        led.lead();
        led.edit();
        QTRY_COMPARE(led.manager.count("/nsm/client/is_dirty"), std::size_t{1});
        led.edit();
        led.manager.forget();
        led.manager.call("/nsm/client/save");
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/save"));
        QTRY_COMPARE(led.manager.count("/nsm/client/is_clean"), std::size_t{1});
        QCOMPARE(led.manager.count("/nsm/client/is_dirty"), std::size_t{0});
        const auto read = Document::read(led.file());
        QVERIFY(read && read->instruments.size() == led.window.ensemble().instruments.size());
        led.window->document().undoStack().undo();
        QTRY_COMPARE(led.manager.count("/nsm/client/is_dirty"), std::size_t{1});
    }

    /// Something else changed the file: nobody is there to be asked, and what it held is kept.
    void savesOverWhatSomethingElseWrote() {
        Led led;
        led.window->files().onAskChanged([](QWidget*) -> Files::Changed { qFatal("a person was asked"); });
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        led.edit();
        QFile file(led.file());
        QVERIFY(file.open(QIODevice::Append) && file.write("\n\n") == 2);
        file.close();
        led.manager.call("/nsm/client/save");
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/save"));
        QVERIFY(Document::read(led.file())->instruments.size() == 1);
    }

    void saysWhyItCannotOpen() {
        Led led;
        QVERIFY(QDir().mkpath(QFileInfo(led.file()).path()));
        QFile file(led.file());
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("{ no ensemble") > 0);
        file.close();
        led.lead();
        QTRY_VERIFY(led.manager.answered("/error", "/nsm/client/open"));
        const auto words = led.manager.heard("/error").front().words;
        QCOMPARE(words[1], std::string("-9"));
        QVERIFY2(words[2].find("lever.nXYZ.lever") != std::string::npos, words[2].c_str());
        // And the file is as it was.
        QVERIFY(file.open(QIODevice::ReadOnly));
        QCOMPARE(file.readAll(), QByteArray("{ no ensemble"));
    }

    void saysThatItCannotMakeTheFile() {
        Led led;
        QFile inTheWay(QFileInfo(led.file()).path());
        QVERIFY(inTheWay.open(QIODevice::WriteOnly));
        led.lead();
        QTRY_VERIFY(led.manager.answered("/error", "/nsm/client/open"));
        QCOMPARE(led.manager.heard("/error").front().words[1], std::string("-10"));
    }

    void hidesInsteadOfClosing() {
        Led led;
        led.window->files().onAsk(neverAsked);
        led.lead();
        led.edit();
        led.window->close();
        QVERIFY(!led.window->isVisible());
        QTRY_COMPARE(led.manager.count("/nsm/client/gui_is_hidden"), std::size_t{1});
        led.manager.forget();
        led.manager.call("/nsm/client/show_optional_gui");
        QTRY_VERIFY(led.window->isVisible());
        QTRY_COMPARE(led.manager.count("/nsm/client/gui_is_shown"), std::size_t{1});
        led.manager.call("/nsm/client/hide_optional_gui");
        QTRY_VERIFY(!led.window->isVisible());
        QTRY_COMPARE(led.manager.count("/nsm/client/gui_is_hidden"), std::size_t{1});
    }

    /// Then nobody could show it again.
    void closesWhenTheManagerIsGone() {
        Led led;
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        led.edit();
        led.window.answer = Files::Answer::cancel;
        led.window->show();
        led.manager.end();
        QTRY_VERIFY((led.window->close(), led.window.asked > 0));
        QVERIFY(led.window->isVisible());
    }

    void nothingTakesTheFilesPlace() {
        Led led;
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        for (const char* text :
             {"New ensemble", "New from a template…", "Open…", "Open the demo", "Save as…"})
            QVERIFY2(!led.window.action(QString::fromUtf8(text))->isEnabled(), text);
        QVERIFY(led.window.action(QStringLiteral("Take in an ensemble…"))->isVisible());
        const QString demo = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");
        QVERIFY(!led.window->openFile(demo));
        QVERIFY2(led.window->noticeText().contains(QStringLiteral("Barometer falls")),
                 qPrintable(led.window->noticeText()));
        led.window->newEnsemble();
        QCOMPARE(led.window->document().path(), led.file());
        // The same document may be read again.
        QVERIFY(led.window->openFile(led.file()));
    }

    /// With its takes, which lie beside it.
    void takesInAnotherEnsemble() {
        Led led;
        led.lead();
        QTRY_VERIFY(led.manager.answered("/reply", "/nsm/client/open"));
        const QString demo = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");
        const auto choose = [&led](const QString& path) {
            QTimer::singleShot(0, led.managed.get(), [path] {
                auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
                if (dialog == nullptr) return;
                if (path.isEmpty()) return dialog->reject();
                dialog->setDirectory(QFileInfo(path).path());
                test::type(dialog->findChild<QLineEdit*>(), QFileInfo(path).fileName());
            });
            led.window.menu(QStringLiteral("Take in an ensemble…"));
        };
        choose({});
        QVERIFY(led.window.ensemble().instruments.empty());
        choose(demo);
        QCOMPARE(led.window->document().path(), led.file());
        QCOMPARE(Document::read(led.file())->instruments.size(), std::size_t{6});
        const QDir beside(led.path + QStringLiteral(".takes"));
        QCOMPARE(beside.entryList({QStringLiteral("*.mid")}).size(), 2);
        QVERIFY(!led.window->document().isModified());
    }

    void saysThatNobodyAnswers() {
        QString trouble;
        {
            const test::Manager silent;
            qputenv("NSM_URL", silent.url().c_str());
            QVERIFY(Managed::begin(trouble) == nullptr);
        }
        QVERIFY2(trouble.contains(QStringLiteral("does not answer")), qPrintable(trouble));
        // One that says yes and nothing more is called by its name.
        {
            test::Manager manager;
            qputenv("NSM_URL", QByteArray::fromStdString(manager.url()));
            QTimer answers;
            connect(&answers, &QTimer::timeout, this, [&manager] {
                if (manager.count("/nsm/server/announce") > 0) manager.welcome();
            });
            answers.start(50);
            QVERIFY(Managed::begin(trouble) == nullptr);
        }
        QVERIFY2(trouble.contains(QStringLiteral("“The test's manager” took this program in")),
                 qPrintable(trouble));
        // One that is gone is not even waited for.
        QElapsedTimer timer;
        timer.start();
        QVERIFY(Managed::begin(trouble) == nullptr);
        QVERIFY2(trouble.contains(QStringLiteral("not there any more")), qPrintable(trouble));
        QVERIFY(timer.elapsed() < 3000);  // as long as one is waited for that is there
        qputenv("NSM_URL", "nonsense");
        QVERIFY(Managed::begin(trouble) == nullptr);
        QVERIFY2(trouble.contains(QStringLiteral("NSM_URL")), qPrintable(trouble));
        qunsetenv("NSM_URL");
        trouble.clear();
        QVERIFY(Managed::begin(trouble) == nullptr && trouble.isEmpty());
    }

    /// The program itself: announced, opened, ended by the manager's signal, and nothing lost.
    void theProgramItself() {
        test::Manager manager;
        const QTemporaryDir folder;
        QProcess program;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("NSM_URL"), QString::fromStdString(manager.url()));
        environment.insert(QStringLiteral("HOME"), folder.path());
        environment.remove(QStringLiteral("XDG_CONFIG_HOME"));
        program.setProcessEnvironment(environment);
        program.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever"), {QStringLiteral("--no-sound")});
        QTRY_COMPARE_WITH_TIMEOUT(manager.count("/nsm/server/announce"), std::size_t{1}, 20000);
        QCOMPARE(manager.heard("/nsm/server/announce").front().words[2], std::string("mellow-lever"));
        manager.welcome();
        manager.open(folder.filePath(QStringLiteral("piece")).toStdString(), "Wet stones", "Mellow Lever.n1");
        QTRY_VERIFY_WITH_TIMEOUT(manager.answered("/reply", "/nsm/client/open"), 20000);
        QVERIFY(QFileInfo::exists(folder.filePath(QStringLiteral("piece.lever"))));
        manager.call("/nsm/client/save");
        QTRY_VERIFY_WITH_TIMEOUT(manager.answered("/reply", "/nsm/client/save"), 20000);
        program.terminate();
        QVERIFY(test::ends(program, 20000));
        QCOMPARE(program.exitStatus(), QProcess::NormalExit);
        QCOMPARE(program.exitCode(), 0);
    }
};

QTEST_MAIN(ManagedTest)
#include "managed.moc"
