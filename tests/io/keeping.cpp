// What keeps unsaved work on the disk, and who may change a document.
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>
#include <filesystem>

#include "core/files/files.h"
#include "core/store/journal.h"
#include "io/keeping/claim.h"
#include "io/keeping/journal_writer.h"
#include "support/build.h"
#include "support/full_disk.h"

using namespace mellow;
namespace fs = std::filesystem;

namespace {

std::shared_ptr<const Ensemble> titled(const std::string& title) {
    Ensemble made = test::ensemble({test::instrument()});
    made.title = title;
    return std::make_shared<const Ensemble>(std::move(made));
}

std::string titleIn(const fs::path& journal) {
    const auto text = files::readTextFile(journal);
    const auto read = text ? store::readJournal(*text) : Result<store::Journaled>(Problem{});
    return read ? read->ensemble.title : "";
}

}  // namespace

class KeepingTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    fs::path journal_;

 private slots:
    void init() {
        journal_ = folder_.filePath(QStringLiteral("journal")).toStdString();
        fs::remove_all(journal_);
    }

    void whatWasHandedOverIsThereSoon() {
        io::JournalWriter writer;
        writer.keep(journal_, {}, titled("one"));
        QTRY_COMPARE(titleIn(journal_), std::string("one"));
        for (int i = 0; i < 100; ++i) writer.keep(journal_, {}, titled("more " + std::to_string(i)));
        QTRY_COMPARE(titleIn(journal_), std::string("more 99"));
        writer.drop();
        writer.flush();
        QVERIFY(!fs::exists(journal_));
    }

    void whatIsStillToBeWrittenIsWrittenAtTheEnd() {
        {
            io::JournalWriter writer;
            writer.keep(journal_, {}, titled("last"));
        }
        QCOMPARE(titleIn(journal_), std::string("last"));
    }

    /// Another writer's journal is not this one's to remove; it is replaced only by one that is whole.
    void aJournalFromBeforeStaysUntilThereIsAnother() {
        {
            io::JournalWriter writer;
            writer.keep(journal_, {}, titled("before the crash"));
        }
        io::JournalWriter writer;
        writer.drop();
        writer.flush();
        QCOMPARE(titleIn(journal_), std::string("before the crash"));
        writer.keep(journal_, {}, titled("after"));
        writer.flush();
        QCOMPARE(titleIn(journal_), std::string("after"));
    }

    /// A person's file that is called as the journal would be stays, and the journal goes elsewhere.
    void aPersonsFileIsNotReplaced() {
        QVERIFY(files::writeFile(journal_, std::string_view("mine")));
        const fs::path elsewhere = journal_.string() + ".elsewhere";
        {
            io::JournalWriter writer;
            writer.keep(journal_, elsewhere, titled("Storm glass"));
            writer.flush();
            const auto text = files::readTextFile(journal_);
            QVERIFY(text && *text == "mine");
            QCOMPARE(titleIn(elsewhere), std::string("Storm glass"));
        }
        fs::remove(elsewhere);
    }

    void aJournalThatHasGrownIsBegunAnew() {
        io::JournalWriter writer;
        const std::string longTitle(400000, 'a');
        for (int i = 0; i < 20; ++i) {
            writer.keep(journal_, {}, titled(longTitle + std::to_string(i)));
            writer.flush();
        }
        QVERIFY(fs::file_size(journal_) < 7 * longTitle.size());
        QCOMPARE(titleIn(journal_), longTitle + "19");
    }

    void whoeverLivesHoldsItsJournal() {
        io::JournalWriter writer;
        QVERIFY(!io::isBeingWritten(journal_));
        writer.keep(journal_, {}, titled("one"));
        writer.flush();
        QVERIFY(io::isBeingWritten(journal_));
    }

    /// A full disk: what was kept stays, it is said once, and when there is room again all of it is kept.
    void aFullDiskIsSaidAndLosesNothing() {
        const std::string full = folder_.filePath(QStringLiteral("no/folder")).toStdString();
        io::JournalWriter writer;
        std::atomic<int> told{0};
        writer.onProblem([&told](const Problem&) { ++told; });
        // A file where a folder should be stands for every reason.
        QVERIFY(
            static_cast<bool>(files::writeFile(folder_.filePath(QStringLiteral("no")).toStdString(), "x")));
        for (int i = 0; i < 3; ++i) {
            writer.keep(full, {}, titled("kept " + std::to_string(i)));
            writer.flush();
        }
        QCOMPARE(told.load(), 1);
        fs::remove(folder_.filePath(QStringLiteral("no")).toStdString());
        writer.keep(full, {}, titled("kept at last"));
        writer.flush();
        QCOMPARE(titleIn(full), std::string("kept at last"));
    }

    /// A record that found no room is not half there, and what came before it still reads.
    void aDiskThatFillsUpWhileItIsWrittenLosesNothing() {
        io::JournalWriter writer;
        std::atomic<int> told{0};
        writer.onProblem([&told](const Problem&) { ++told; });
        writer.keep(journal_, {}, titled("before"));
        writer.flush();
        const std::string much(100'000, 'a');
        {
            const test::FullDisk full(8000);
            for (int i = 0; i < 3; ++i) {
                writer.keep(journal_, {}, titled(much + std::to_string(i)));
                writer.flush();
            }
            QCOMPARE(titleIn(journal_), std::string("before"));
            QCOMPARE(told.load(), 1);
        }
        writer.keep(journal_, {}, titled(much + "at last"));
        writer.flush();
        QCOMPARE(titleIn(journal_), much + "at last");
    }

    void aWriterThatIsKilledLeavesWhatItWrote() {
        const pid_t child = ::fork();
        if (child == 0) {
            io::JournalWriter writer;
            for (int i = 0;; ++i) {
                writer.keep(journal_, {}, titled("state " + std::to_string(i)));
                writer.flush();
            }
        }
        QTRY_VERIFY(titleIn(journal_).size() > 7);
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        QVERIFY(titleIn(journal_).starts_with("state "));
        QVERIFY(!io::isBeingWritten(journal_));
    }

    void oneOfSeveralHoldsADocument() {
        const fs::path lock = folder_.filePath(QStringLiteral("lock")).toStdString();
        io::Claim first;
        io::Claim second;
        QVERIFY(first.take(lock) == io::Claim::Taken::yes);
        QVERIFY(second.take(lock) == io::Claim::Taken::byAnother);
        QVERIFY(!first.isDemanded());
        io::Claim::demand(lock);
        QVERIFY(first.isDemanded());
        first.release();
        QVERIFY(second.take(lock) == io::Claim::Taken::yes);
        QVERIFY(!second.isDemanded());
        second.release();
        QVERIFY(!fs::exists(lock));
        QVERIFY(first.take(folder_.filePath(QStringLiteral("none/lock")).toStdString()) ==
                io::Claim::Taken::cannotTell);
    }
};

QTEST_GUILESS_MAIN(KeepingTest)
#include "keeping.moc"
