// What comes from outside: another start hands its files to the program that runs, and that takes them where
// they belong, without pushing in.
#include "app/frame/arrivals.h"

#include <QElapsedTimer>
#include <QLocalSocket>
#include <QMessageBox>
#include <QProcess>
#include <QSettings>

#include "app/acts/reuse/keep_dialog.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;

namespace {

QString demoFile() {
    return QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");
}
QString partFile() {
    return QStringLiteral(MELLOW_SOURCE_DIR "/data/library/nine-drawbar-organ.lever-part");
}

struct Stage {
    test::Window window;
    Arrivals arrivals{*window};
    int parts = 0;
    QString said;
    Arrivals::PartAnswer part = Arrivals::PartAnswer::cancel;

    Stage() {
        arrivals.onAskPart([this](QWidget*, const QString& what) {
            ++parts;
            said = what;
            return part;
        });
    }
};

/// Hands over on a thread of its own, as another program would: the one that runs has to answer meanwhile.
bool handedOver(const QString& place, const Request& request) {
    bool taken = false;
    std::unique_ptr<QThread> other(QThread::create([&] { taken = OnlyProgram(place).handOver(request); }));
    other->start();
    return QTest::qWaitFor([&] { return other->isFinished(); }, 10000) && taken;
}

}  // namespace

class ArrivalsTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    [[nodiscard]] QString place() const { return folder_.filePath(QStringLiteral("meeting")); }

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void aSecondStartHandsOver() {
        QVERIFY(!handedOver(place(), {{demoFile()}, false, false, {}}));  // nobody runs
        OnlyProgram first(place());
        first.beTheOne();
        std::vector<Request> asked;
        connect(&first, &OnlyProgram::asked, this, [&](const Request& each) { asked.push_back(each); });
        QVERIFY(handedOver(place(), {{demoFile(), partFile()}, false, true, QStringLiteral("token")}));
        QTRY_COMPARE(asked.size(), std::size_t{1});
        QCOMPARE(asked[0].paths, (QStringList{demoFile(), partFile()}));
        QVERIFY(asked[0].begin && !asked[0].demo);
        QCOMPARE(asked[0].token, QStringLiteral("token"));
    }

    /// What a killed program has left does not keep the next from being the one.
    void aDeadProgramIsInNobodysWay() {
        {
            QProcess dead;
            dead.start(QStringLiteral("python3"),
                       {QStringLiteral("-c"),
                        QStringLiteral("import socket,os,sys; s=socket.socket(socket.AF_UNIX); "
                                       "s.bind(sys.argv[1]); s.listen(); os._exit(0)"),
                        place()});
            QVERIFY(test::ends(dead, 10000));
        }
        QVERIFY(QFileInfo::exists(place()));
        QVERIFY(!handedOver(place(), {}));
        OnlyProgram next(place());
        next.beTheOne();
        QVERIFY(handedOver(place(), {}));
    }

    /// One that hangs is not waited for: a window of one's own is better than none.
    void aProgramThatHangsIsNotWaitedFor() {
        QLocalServer hung;
        QLocalServer::removeServer(place());
        QVERIFY(hung.listen(place()));
        QElapsedTimer timer;
        timer.start();
        QVERIFY(!OnlyProgram(place()).handOver({}));
        QVERIFY(timer.elapsed() < 20'000);
    }

    void nonsenseAtTheDoorIsNotAnswered() {
        OnlyProgram first(place());
        first.beTheOne();
        int asked = 0;
        connect(&first, &OnlyProgram::asked, this, [&] { ++asked; });
        for (const QByteArray& bytes :
             {QByteArray("hello\n"), QByteArray("[1,2]\n"), QByteArray(3 << 20, 'x')}) {
            QLocalSocket socket;
            socket.connectToServer(place());
            QVERIFY(socket.waitForConnected());
            socket.write(bytes);
            socket.flush();
            QTRY_COMPARE(socket.state(), QLocalSocket::UnconnectedState);
            QVERIFY(socket.readAll().isEmpty());
        }
        // Paths that are not whole are nobody's.
        QVERIFY(handedOver(place(), {{QStringLiteral("relative.lever")}, false, false, {}}));
        QTRY_COMPARE(asked, 1);
    }

    void anEnsembleIsOpened() {
        Stage stage;
        stage.window->newEnsemble();
        stage.arrivals.take({{demoFile()}, false, false, {}});
        QCOMPARE(stage.window->document().path(), demoFile());
    }

    /// A double click on what is open already shows the window, and reads nothing anew.
    void theSameDocumentIsOnlyShown() {
        Stage stage;
        const QString path = stage.window.folder.filePath(QStringLiteral("piece.lever"));
        QVERIFY(QFile::copy(demoFile(), path));
        QVERIFY(stage.window->openFile(path));
        stage.window->document().edit(QStringLiteral("name"), [](Ensemble& e) { e.title = "Mine"; });
        QSignalSpy replaced(&stage.window->document(), &Document::replaced);
        stage.arrivals.take({{path}, false, false, {}});
        QCOMPARE(replaced.count(), 0);
        QCOMPARE(stage.window.asked, 0);
        QCOMPARE(stage.window.ensemble().title, std::string("Mine"));
    }

    void unsavedWorkIsAskedAbout() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("name"), [](Ensemble& e) { e.title = "Mine"; });
        stage.window.answer = Files::Answer::cancel;
        stage.arrivals.take({{demoFile()}, false, false, {}});
        QCOMPARE(stage.window.asked, 1);
        stage.arrivals.take({{}, true, false, {}});
        stage.arrivals.take({{}, false, true, {}});
        QCOMPARE(stage.window.asked, 3);
        QCOMPARE(stage.window.ensemble().title, std::string("Mine"));
    }

    /// Whoever is asked something is not pushed aside; what came waits.
    void whileSomethingIsAskedItWaits() {
        Stage stage;
        stage.window->newEnsemble();
        QMessageBox question(QMessageBox::NoIcon, QStringLiteral("A question"), QStringLiteral("Which?"),
                             QMessageBox::Ok, &*stage.window);
        question.setWindowModality(Qt::ApplicationModal);
        question.show();
        stage.arrivals.take({{demoFile()}, false, false, {}});
        QTest::qWait(400);
        QVERIFY(stage.window->document().path().isEmpty());
        question.accept();
        QTRY_COMPARE(stage.window->document().path(), demoFile());
    }

    void aPartIsAskedAbout() {
        Stage stage;
        const std::size_t before = stage.window.ensemble().instruments.size();
        stage.arrivals.take({{partFile()}, false, false, {}});
        QCOMPARE(stage.parts, 1);
        QVERIFY2(stage.said.contains(QStringLiteral("drawbar")), qPrintable(stage.said));
        QCOMPARE(stage.window.ensemble().instruments.size(), before);
        stage.part = Arrivals::PartAnswer::put;
        stage.arrivals.take({{partFile()}, false, false, {}});
        QCOMPARE(stage.window.ensemble().instruments.size(), before + 1);
        stage.part = Arrivals::PartAnswer::keep;
        stage.arrivals.take({{partFile()}, false, false, {}});
        QCOMPARE(stage.window.ensemble().instruments.size(), before + 1);
        QTRY_VERIFY(QApplication::activeModalWidget() != nullptr ||
                    stage.window->findChild<QDialog*>() != nullptr);
        for (QDialog* dialog : stage.window->findChildren<QDialog*>()) dialog->reject();
    }

    /// The question itself, as a person answers it.
    void theQuestionAboutAPart() {
        test::Window window;
        const auto count = [&window] { return window->document().ensemble().instruments.size(); };
        const std::size_t before = count();
        Arrivals arrivals(*window);
        const auto answer = [&arrivals](const QString& button) {
            bool pressed = false;
            QTimer::singleShot(0, &arrivals, [&] {
                const auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
                if (box == nullptr) return;
                for (QAbstractButton* each : box->buttons()) {
                    if (each->text() != button) continue;
                    pressed = true;
                    QTest::mouseClick(each, Qt::LeftButton);
                }
                if (!pressed) QApplication::activeModalWidget()->close();
            });
            arrivals.take({{partFile()}, false, false, {}});
            return pressed;
        };
        QVERIFY(answer(QStringLiteral("Go back")));
        QCOMPARE(count(), before);
        QVERIFY(window->findChild<KeepDialog*>() == nullptr);
        QVERIFY(answer(QStringLiteral("Put it here")));
        QCOMPARE(count(), before + 1);
        window->document().undoStack().undo();
        QCOMPARE(count(), before);
        QVERIFY(answer(QStringLiteral("Keep it in the library")));
        auto* keep = window->findChild<KeepDialog*>();
        QVERIFY(keep != nullptr);
        keep->reject();
        QCOMPARE(count(), before);
        // Esc is *Go back*.
        QTimer::singleShot(0, &arrivals,
                           [] { QTest::keyClick(QApplication::activeModalWidget(), Qt::Key_Escape); });
        arrivals.take({{partFile()}, false, false, {}});
        QCOMPARE(count(), before);
    }

    void whatCannotBeReadIsSaid() {
        Stage stage;
        const QString broken = stage.window.folder.filePath(QStringLiteral("broken.lever-part"));
        QFile file(broken);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("{") == 1);
        file.close();
        stage.arrivals.take({{broken}, false, false, {}});
        QCOMPARE(stage.parts, 0);
        QVERIFY2(stage.window->noticeText().contains(QStringLiteral("broken.lever-part")),
                 qPrintable(stage.window->noticeText()));
        stage.arrivals.take(
            {{stage.window.folder.filePath(QStringLiteral("nowhere.lever"))}, false, false, {}});
        QVERIFY2(stage.window->noticeText().contains(QStringLiteral("nowhere.lever")),
                 qPrintable(stage.window->noticeText()));
    }

    /// The program itself, twice: the second is over at once, and has opened no window. Whatever is written
    /// is where the person's folders are (XDG base directories), and nothing is at home.
    void theProgramItself() {
        const QTemporaryDir folder;
        const auto at = [&folder](const char* name) { return folder.filePath(QLatin1String(name)); };
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("HOME"), at("home"));
        for (const char* each : {"CONFIG", "DATA", "CACHE", "STATE"})
            environment.insert(QStringLiteral("XDG_%1_HOME").arg(QLatin1String(each)), at(each));
        environment.insert(QStringLiteral("XDG_RUNTIME_DIR"), at("run"));
        for (const char* each : {"home", "run", "music"})
            QVERIFY(QDir(folder.path()).mkpath(QLatin1String(each)));
        QFile::setPermissions(at("run"), QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
        const QString piece = at("music/piece.lever");
        QVERIFY(QFile::copy(demoFile(), piece));
        QProcess first;
        first.setProcessEnvironment(environment);
        first.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever"), QStringList());
        const auto isThere = [&at] {
            return !QDir(at("run"))
                        .entryList({QStringLiteral("mellow-lever-*")}, QDir::System | QDir::Files)
                        .isEmpty();
        };
        QTRY_VERIFY_WITH_TIMEOUT(isThere(), 30000);
        QProcess second;
        second.setProcessEnvironment(environment);
        second.setWorkingDirectory(at("music"));
        second.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever"), {QStringLiteral("piece.lever")});
        QVERIFY(test::ends(second, 30000));
        QCOMPARE(second.exitCode(), 0);
        // The first has it, and remembers that.
        const auto isOpen = [&at, &piece] {
            const QSettings settings(at("CONFIG/mellow-lever/Mellow Lever.conf"), QSettings::IniFormat);
            return settings.value(QStringLiteral("recent")).toStringList().contains(piece);
        };
        QTRY_VERIFY_WITH_TIMEOUT(isOpen(), 30000);
        QCOMPARE(first.state(), QProcess::Running);
        first.terminate();
        QVERIFY(test::ends(first, 30000));
        QCOMPARE(first.exitCode(), 0);
        QCOMPARE(QDir(at("home")).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot),
                 QStringList());
    }
};

QTEST_MAIN(ArrivalsTest)
#include "arrivals.moc"
