// Documents in and out of the window: nothing is lost, and what goes wrong is said in a sentence.
#include <sys/stat.h>
#include <unistd.h>
#include <QDragEnterEvent>
#include <QMimeData>

#include "app/document/versions_dialog.h"
#include "app/pages/takes/takes_page.h"
#include "app/takes/transport.h"
#include "core/store/ensemble_json.h"
#include "support/full_disk.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::Window;

namespace {

QString write(const Window& window, const char* name, const QByteArray& bytes) {
    const QString path = window.folder.filePath(QLatin1String(name));
    QFile file(path);
    if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size())
        qFatal("cannot write %s", name);
    return path;
}

QByteArray read(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

void rename(Window& window, const char* title) {
    window->document().edit(QStringLiteral("Rename"), [title](Ensemble& e) { e.title = title; });
}

void drop(Window& window, const QString& path) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path)});
    QDragEnterEvent enter({10, 10}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(&*window, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event(QPointF(10, 10), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(&*window, &event);
}

}  // namespace

class FilesTest : public QObject {
    Q_OBJECT

 private slots:
    void saveAsWritesWhatOpenReads() {
        Window window;
        rename(window, "Storm glass");
        QVERIFY(window->windowTitle().startsWith(QStringLiteral("Storm glass *")));
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        window.menu(QStringLiteral("Save as…"));
        QVERIFY(!window->document().isModified());
        QCOMPARE(window->windowTitle(), QStringLiteral("Storm glass – Mellow Lever"));
        const Ensemble saved = window.ensemble();
        window.menu(QStringLiteral("New ensemble"));
        QCOMPARE(window.asked, 0);
        QVERIFY(window.ensemble().instruments.empty());
        QVERIFY(window->openFile(window.savePath));
        QVERIFY(window.ensemble() == saved);
        // Save, without a question, to the same place.
        rename(window, "Storm glass two");
        window.savePath.clear();
        window.menu(QStringLiteral("Save"));
        QVERIFY(read(window.folder.filePath(QStringLiteral("storm.lever"))).contains("Storm glass two"));
        QCOMPARE(QDir(window.folder.path()).entryList(QDir::Files).size(), 1);
    }

    void unsavedWorkIsAskedAbout() {
        Window window;
        rename(window, "Changed");
        window.answer = MainWindow::Answer::cancel;
        window.menu(QStringLiteral("New ensemble"));
        QCOMPARE(window.asked, 1);
        QCOMPARE(window.ensemble().title, std::string("Changed"));
        QVERIFY(!window->close());
        QVERIFY(window->isVisible());
        window.answer = MainWindow::Answer::save;
        window.savePath = window.folder.filePath(QStringLiteral("kept.lever"));
        window.menu(QStringLiteral("New ensemble"));
        QVERIFY(read(window.savePath).contains("Changed"));
        QVERIFY(window.ensemble().instruments.empty());
        QVERIFY(window->close());
    }

    void savingThatIsCalledOffKeepsTheDocument() {
        Window window;
        rename(window, "Changed");
        window.answer = MainWindow::Answer::save;
        window.savePath.clear();
        window.menu(QStringLiteral("Open the demo"));
        QCOMPARE(window.ensemble().title, std::string("Changed"));
        QVERIFY(window->document().isModified());
    }

    void undoBackToWhatWasSavedIsNotAChange() {
        Window window;
        rename(window, "Changed");
        QVERIFY(window->document().isModified());
        QTest::keyClick(&*window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(!window->document().isModified());
        QVERIFY(window->close());
        QCOMPARE(window.asked, 0);
    }

    void recentFilesAreListedNewestFirst() {
        Window window;
        for (const char* name : {"one.lever", "two.lever"}) {
            window.savePath = window.folder.filePath(QLatin1String(name));
            QVERIFY(window->files().saveAs());
        }
        QMenu* recent = window.action(QStringLiteral("Open recent"))->menu();
        emit recent->aboutToShow();
        QCOMPARE(recent->actions()[0]->text(), QStringLiteral("two.lever"));
        QCOMPARE(recent->actions()[1]->text(), QStringLiteral("one.lever"));
        recent->actions()[1]->trigger();
        QVERIFY(window->document().path().endsWith(QStringLiteral("one.lever")));
    }

    void badDocumentsAreRefusedAndWhatWasOpenStays_data() {
        QTest::addColumn<QByteArray>("bytes");
        QTest::addColumn<QString>("sentence");
        const QByteArray head = R"({"format": "mellow-lever/ensemble", "version": )";
        QTest::newRow("empty") << QByteArray() << "the document is empty";
        QTest::newRow("truncated") << head + "1, \"title\": \"T"
                                   << "ends before it is complete";
        QTest::newRow("newer") << head + "2}"
                               << "version 2";
        QTest::newRow("wrong type") << head + "1, \"title\": 5, \"instruments\": []}"
                                    << "title: expected text";
        QTest::newRow("unknown step")
            << head +
                   R"(1, "title": "T", "instruments": [{"id": "a", "output": {"port": "p", "channel": 1},
                   "parameters": [], "chains": [{"id": "c", "source": {"kind": "bend"}, "branches": [],
                   "steps": [{"kind": "twirl"}]}]}]})"
            << "unknown step \"twirl\"";
        QTest::newRow("other") << QByteArray("MThd") << "not JSON";
    }
    void badDocumentsAreRefusedAndWhatWasOpenStays() {
        QFETCH(QByteArray, bytes);
        QFETCH(QString, sentence);
        Window window;
        const Ensemble before = window.ensemble();
        const QString path = write(window, "bad.lever", bytes);
        QVERIFY(!window->openFile(path));
        QVERIFY2(window->noticeText().contains(sentence), qPrintable(window->noticeText()));
        QVERIFY(window->noticeText().contains(QStringLiteral("bad.lever")));
        QVERIFY(window.ensemble() == before);
        QCOMPARE(read(path), bytes);
    }

    void aMissingFileIsNamed() {
        Window window;
        QVERIFY(!window->openFile(window.folder.filePath(QStringLiteral("gone.lever"))));
        QVERIFY(window->noticeText().contains(QStringLiteral("gone.lever: cannot be read")));
    }

    void aFolderThatCannotBeWrittenLosesNothing() {
        Window window;
        rename(window, "Changed");
        // A folder that is not there stands for every reason why a file cannot be made; root may write
        // anywhere.
        window.savePath = window.folder.filePath(QStringLiteral("no/such/folder/storm.lever"));
        window.menu(QStringLiteral("Save as…"));
        QVERIFY(window->noticeText().contains(QStringLiteral("cannot be saved here")));
        QVERIFY(window->document().isModified());
        QCOMPARE(window.ensemble().title, std::string("Changed"));
        // The mend is a button.
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        window.click("noticeAction");
        QVERIFY(!window->document().isModified());
        QVERIFY(read(window.savePath).contains("Changed"));
        QVERIFY(window->noticeText().isEmpty());
    }

    void aFullDiskLosesNothing() {
        Window window;
        window->openDemo();
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        QVERIFY(window->files().saveAs());
        const QByteArray before = read(window.savePath);
        rename(window, "Changed");
        {
            const test::FullDisk full(2000);
            QVERIFY(!window->files().save());
        }
        QVERIFY(window->document().isModified());
        QVERIFY(window->noticeText().contains(QStringLiteral("storm.lever: cannot be saved here")));
        QCOMPARE(read(window.savePath), before);
        QCOMPARE(QDir(window.folder.path()).entryList({QStringLiteral("storm*")}, QDir::Files),
                 QStringList{QStringLiteral("storm.lever")});
        QVERIFY(window->files().save());
        QVERIFY(read(window.savePath).contains("Changed"));
    }

    void aReadOnlyFolderKeepsTheOldFile() {
        Window window;
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        QVERIFY(window->files().saveAs());
        const QByteArray before = read(window.savePath);
        const QByteArray folder = QFile::encodeName(window.folder.path());
        QCOMPARE(::chmod(folder.constData(), 0555), 0);
        rename(window, "Changed");
        // Rights do not hold root back, so become somebody else for a moment.
        const bool isRoot = ::geteuid() == 0;
        if (isRoot) QCOMPARE(::seteuid(65534), 0);
        const bool saved = window->files().save();
        if (isRoot) QCOMPARE(::seteuid(0), 0);
        QCOMPARE(::chmod(folder.constData(), 0755), 0);
        QVERIFY(!saved);
        QVERIFY(window->noticeText().contains(QStringLiteral("storm.lever: cannot be saved here")));
        QVERIFY(window->document().isModified());
        QCOMPARE(read(window.savePath), before);
        QCOMPARE(QDir(window.folder.path()).entryList(QDir::Files).size(), 1);
    }

    /// What a window that died had not saved is there when its document is opened again, as one step.
    void unsavedWorkComesBackAfterACrash() {
        QTemporaryDir folder;
        const QString path = folder.filePath(QStringLiteral("storm.lever"));
        const QString journal = folder.filePath(QStringLiteral(".storm.lever.journal"));
        {
            Window window;
            window.savePath = path;
            QVERIFY(window->files().saveAs());
            rename(window, "Not saved");
            QTRY_VERIFY(read(journal).contains("Not saved"));
            QVERIFY(QFile::copy(journal, journal + QStringLiteral(".copy")));
            window.answer = MainWindow::Answer::discard;
            QVERIFY(window->close());
        }
        QVERIFY(!QFile::exists(journal));
        QVERIFY(QFile::rename(journal + QStringLiteral(".copy"), journal));
        Window window;
        const std::string before = window.ensemble().title;
        QVERIFY(window->openFile(path));
        QCOMPARE(window.ensemble().title, std::string("Not saved"));
        QVERIFY(window->document().isModified());
        QVERIFY(window->noticeText().contains(QStringLiteral("is back")));
        window.click("noticeAction");
        QVERIFY(window.ensemble().title != "Not saved");
        QVERIFY(!window->document().isModified());
        QTest::keyClick(&*window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(window.ensemble().title, std::string("Not saved"));
        QVERIFY(window->files().save());
        QTRY_VERIFY(!QFile::exists(journal));
    }

    void unsavedWorkThatNeverHadAFileComesBackToo() {
        const QString folder = QFileInfo(QSettings().fileName()).absolutePath() + QStringLiteral("/unsaved");
        const auto orphans = [&folder] {
            return QDir(folder).entryList({QStringLiteral("untitled-*.journal")}, QDir::Files);
        };
        // Windows of other tests end with unsaved work, which is kept as well.
        QDir(folder).removeRecursively();
        QString kept;
        {
            Window window;
            window.menu(QStringLiteral("New ensemble"));
            rename(window, "Never saved");
            QTRY_COMPARE(orphans().size(), 1);
            kept = folder + QLatin1Char('/') + orphans().first();
            QTRY_VERIFY(read(kept).contains("Never saved"));
            QVERIFY(QFile::copy(kept, kept + QStringLiteral(".copy")));
            QVERIFY(window->close());
        }
        QVERIFY(QFile::rename(kept + QStringLiteral(".copy"), kept));
        Window window;
        window.menu(QStringLiteral("New ensemble"));
        window->files().bringBack();
        QCOMPARE(window.ensemble().title, std::string("Never saved"));
        QVERIFY(window->document().path().isEmpty());
        window.savePath = window.folder.filePath(QStringLiteral("now.lever"));
        QVERIFY(window->files().save());
        QTRY_COMPARE(orphans().size(), 0);
    }

    void aFileThatSomethingElseChangedIsNotWrittenOverUnasked() {
        Window window;
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        QVERIFY(window->files().saveAs());
        rename(window, "Ours");
        const QByteArray theirs = QByteArray::fromStdString(store::printEnsemble({}));
        write(window, "storm.lever", theirs);
        int asked = 0;
        Files::Changed answer = Files::Changed::cancel;
        window->files().onAskChanged([&](QWidget*) {
            ++asked;
            return answer;
        });
        QTRY_VERIFY_WITH_TIMEOUT(window->noticeText().contains(QStringLiteral("changed by something else")),
                                 2000);
        QVERIFY(!window->files().save());
        QCOMPARE(asked, 1);
        QCOMPARE(read(window.savePath), theirs);
        answer = Files::Changed::overwrite;
        QVERIFY(window->files().save());
        QVERIFY(read(window.savePath).contains("Ours"));
        QVERIFY(window->files().save());
        QCOMPARE(asked, 2);
    }

    void aSecondWindowLooksOrTakesOver() {
        Window first;
        first.savePath = first.folder.filePath(QStringLiteral("storm.lever"));
        QVERIFY(first->files().saveAs());
        rename(first, "Unsaved in the first");
        Window second;
        Files::Shared answer = Files::Shared::cancel;
        second->files().onAskShared([&](QWidget*) { return answer; });
        QVERIFY(!second->openFile(first.savePath));
        answer = Files::Shared::look;
        QVERIFY(second->openFile(first.savePath));
        const std::string saved = second.ensemble().title;
        rename(second, "Forbidden");
        QCOMPARE(second.ensemble().title, saved);
        QVERIFY(second->noticeText().contains(QStringLiteral("can be looked at")));
        QVERIFY(second->windowTitle().contains(QLatin1String(saved.c_str())));
        QVERIFY(!second->files().save());
        // Taken over, with what the first had not saved.
        answer = Files::Shared::takeOver;
        QVERIFY(second->openFile(first.savePath));
        QCOMPARE(second.ensemble().title, std::string("Unsaved in the first"));
        QVERIFY(first->document().isReadOnly());
        rename(first, "Too late");
        QCOMPARE(first.ensemble().title, std::string("Unsaved in the first"));
        rename(second, "The second's");
        QVERIFY(second->files().save());
        QVERIFY(read(first.savePath).contains("The second's"));
    }

    void earlierVersionsAreKeptAndGoneBackTo() {
        Window window;
        window.savePath = window.folder.filePath(QStringLiteral("storm.lever"));
        QVERIFY(window->files().saveAs());
        const Ensemble first = window.ensemble();
        rename(window, "Second");
        QVERIFY(window->files().save());
        window->document().edit(QStringLiteral("Remove"), [](Ensemble& e) { e.instruments.resize(1); });
        QVERIFY(window->files().save());
        VersionsDialog dialog(window->document());
        auto* versions = dialog.findChild<QListWidget*>(QStringLiteral("versions"));
        auto* differences = dialog.findChild<QListWidget*>(QStringLiteral("differences"));
        QCOMPARE(versions->count(), 2);
        QVERIFY(versions->item(0)->text().contains(QStringLiteral("is gone")));
        QVERIFY(versions->item(1)->text().contains(QStringLiteral("title “")));
        versions->setCurrentRow(1);
        QVERIFY(differences->count() >= 2);
        window.editsOnce([&] { dialog.findChild<QPushButton*>(QStringLiteral("goBack"))->click(); });
        QVERIFY(window.ensemble() == first);
    }

    void handsAreReadFromAnyMidiFileAndBadOnesRefused() {
        Window window;
        const QByteArray demo = read(QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/barometer-falls.mid"));
        QVERIFY(window->openHands(write(window, "lamp.mid", demo)));
        const auto* transport = window.find<app::Transport>("transport");
        QCOMPARE(transport->nameText(), QStringLiteral("lamp"));
        QVERIFY(!window->openHands(write(window, "text.mid", "These are words.")));
        QVERIFY(window->noticeText().contains(QStringLiteral("starts with MThd")));
        QCOMPARE(transport->nameText(), QStringLiteral("lamp"));
        QVERIFY(window->openHands(write(window, "cut.mid", demo.left(demo.size() / 2))));
        QVERIFY(window->noticeText().contains(QStringLiteral("is damaged at byte")));
        QByteArray lies = demo;
        lies.replace(18, 4, QByteArray::fromHex("7fffffff"));
        QVERIFY(window->openHands(write(window, "lies.mid", lies)));
        QVERIFY(window->noticeText().contains(QStringLiteral("says it is 2147483647 bytes long")));
    }

    void filesAreDroppedOnTheWindow() {
        Window window;
        Ensemble other;
        other.title = "Dropped";
        drop(window, write(window, "dropped.lever", QByteArray::fromStdString(store::printEnsemble(other))));
        QCOMPARE(window.ensemble().title, std::string("Dropped"));
        window.pageOf<app::TakesPage>().onAskImport([](app::ImportDialog&) { return true; });
        drop(window, write(window, "hands.mid",
                           read(QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/barometer-falls.mid"))));
        QCOMPARE(window.find<app::Transport>("transport")->nameText(), QStringLiteral("hands"));
    }

    void keysNobodyKnowsSurviveTheWindow() {
        Window window;
        const QString path = write(window, "later.lever", R"({"format": "mellow-lever/ensemble", "version": 1,
            "title": "Later", "instruments": [], "moonPhase": {"full": true}})");
        QVERIFY(window->openFile(path));
        rename(window, "Later still");
        QVERIFY(window->files().save());
        QVERIFY(read(path).contains("moonPhase"));
    }

    void theWindowRemembersItself() {
        {
            Window window;
            window->resize(1200, 760);
            window.menu(QStringLiteral("Practice keys"));
            QVERIFY(!window->practiceKeys().isVisible());
            window->close();
        }
        Window again;
        QVERIFY(!again->practiceKeys().isVisible());
        again.menu(QStringLiteral("Practice keys"));
        QVERIFY(again->practiceKeys().isVisible());
        again->close();
    }
};

QTEST_MAIN(FilesTest)
#include "files.moc"
