// Files of the program's own beside a person's: whatever else lies where one of them would be is refused with
// a sentence, and is afterwards what it was.
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <QtTest>
#include <filesystem>
#include <fstream>
#include <functional>

#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sidecars.h"
#include "core/store/ensemble_json.h"
#include "core/takes/take_folder.h"
#include "support/build.h"
#include "support/random_take.h"

using namespace mellow;
namespace fs = std::filesystem;

namespace {

constexpr std::string_view precious = "A person's own work, which nobody else may touch.\n";

std::string textIn(const fs::path& path) {
    const auto text = files::readTextFile(path);
    return text ? *text : std::string();
}

}  // namespace

class OwnFilesTest : public QObject {
    Q_OBJECT

 private slots:
    void init() {
        place_ = std::make_unique<QTemporaryDir>();
        folder_ = place_->path().toStdString();
        document_ = folder_ / "storm.lever";
        mine_ = folder_ / "mine.txt";
        QVERIFY(files::writeFile(mine_, precious));
        QVERIFY(files::writeFile(
            document_, std::string_view(store::printEnsemble(test::ensemble({test::instrument()})))));
    }

    void whateverLiesThereStays_data() {
        QTest::addColumn<std::function<void(const fs::path&)>>("put");
        const auto row = [](const char* name, std::function<void(const fs::path&)> put) {
            QTest::newRow(name) << put;
        };
        row("a link to a file", [this](const fs::path& at) { fs::create_symlink(mine_, at); });
        row("a link to nothing", [this](const fs::path& at) { fs::create_symlink(folder_ / "gone", at); });
        row("a second name", [this](const fs::path& at) { fs::create_hard_link(mine_, at); });
        row("a folder", [](const fs::path& at) { fs::create_directory(at); });
        row("a pipe", [](const fs::path& at) { QCOMPARE(::mkfifo(at.c_str(), 0600), 0); });
        row("a link to a pipe", [this](const fs::path& at) {
            QCOMPARE(::mkfifo((folder_ / "pipe").c_str(), 0600), 0);
            fs::create_symlink(folder_ / "pipe", at);
        });
        row("a device", [](const fs::path& at) { fs::create_symlink("/dev/zero", at); });
    }
    void whateverLiesThereStays() {
        QFETCH(std::function<void(const fs::path&)>, put);
        const fs::path at = folder_ / ".storm.lever.thing";
        put(at);
        const auto was = fs::symlink_status(at);
        for (const files::Own how :
             {files::Own::read, files::Own::write, files::Own::readWrite, files::Own::make}) {
            const auto opened = files::openOwn(at, how);
            QVERIFY(!opened);
            QVERIFY(!opened.problem().sentence().empty());
        }
        QVERIFY(!files::readOwn(at));
        QVERIFY(!files::writeOwn(at, "new", "new"));
        QVERIFY(!files::removeOwn(at, ""));
        QVERIFY(!files::isLocked(at));
        QCOMPARE(fs::symlink_status(at).type(), was.type());
        QCOMPARE(textIn(mine_), std::string(precious));
        QVERIFY(!fs::exists(folder_ / "gone"));
    }

    /// A file that does not begin as the program's own do is somebody's.
    void onlyWhatBeginsSoIsRemoved() {
        const fs::path at = folder_ / ".storm.lever.journal";
        QVERIFY(files::writeFile(at, precious));
        QVERIFY(!files::removeOwn(at, "mellow-lever journal"));
        QCOMPARE(textIn(at), std::string(precious));
        QVERIFY(files::writeFile(at, std::string_view("mellow-lever journal 1\n")));
        QVERIFY(files::removeOwn(at, "mellow-lever journal"));
        QVERIFY(!fs::exists(at));
    }

    /// Nor is it written over; and what takes the place of nothing finds nothing there.
    void onlyWhatBeginsSoIsWrittenOver() {
        const fs::path at = folder_ / ".storm.lever.thing";
        QVERIFY(files::writeOwn(at, "thing 1\n", "thing"));
        QVERIFY(files::writeOwn(at, "thing 2\n", "thing"));
        QCOMPARE(textIn(at), std::string("thing 2\n"));
        QVERIFY(files::writeFile(at, precious));
        const auto refused = files::writeOwn(at, "thing 3\n", "thing");
        QVERIFY(!refused && refused.problem().sentence().find("another kind") != std::string::npos);
        QCOMPARE(textIn(at), std::string(precious));
        fs::remove(at);
        auto first = files::NewFile::openItself(at, false);
        QVERIFY(first && first->finish());
        fs::create_symlink(mine_, at);
        QVERIFY(!first->commit());
        QVERIFY(fs::is_symlink(at));
        auto second = files::NewFile::openItself(at, true);
        QVERIFY(second && second->finish() && second->commit());
        QVERIFY(!fs::is_symlink(at));
        QCOMPARE(textIn(mine_), std::string(precious));
    }

    /// What cannot be read whole is an error, and not less than it is.
    void whatCannotBeReadIsSaid() {
        const fs::path at = folder_ / ".storm.lever.thing";
        {
            std::ofstream large(at, std::ios::binary);
            large << "thing";
        }
        fs::resize_file(at, (std::uintmax_t{512} << 20) + 1);
        const auto read = files::readOwn(at);
        QVERIFY(!read && read.problem().sentence().find("larger than 512 MB") != std::string::npos);
        QVERIFY(fs::exists(at));
    }

    void versionsBehindALinkAreNobodys() {
        const fs::path theirs = folder_ / "theirs";
        fs::create_directory(theirs);
        for (int i = 1; i <= 12; ++i)
            QVERIFY(files::writeFile(theirs / (std::to_string(i) + ".lever"), precious));
        fs::create_directory_symlink(theirs, files::versionsOf(document_));
        QVERIFY(!files::keepVersion(document_));
        QVERIFY(files::versions(document_).empty());
        for (int i = 1; i <= 12; ++i)
            QCOMPARE(textIn(theirs / (std::to_string(i) + ".lever")), std::string(precious));
    }

    void takesBehindALinkAreNobodys() {
        const fs::path theirs = folder_ / "theirs";
        fs::create_directory(theirs);
        fs::create_directory_symlink(theirs, takesFolderOf(document_));
        KeptTake wanted;
        wanted.id = wanted.name = "a";
        QVERIFY(!storeTake(takesFolderOf(document_), wanted, test::randomTake(1)));
        QVERIFY(fs::is_empty(theirs));
        QVERIFY(files::writeFile(theirs / "a.mid", precious));
        files::KeptList list;
        wanted.file = "a.mid";
        wanted.sha256 = sha256Of({reinterpret_cast<const std::uint8_t*>(precious.data()), precious.size()});
        list.add(fileOf(wanted));
        QVERIFY(files::unnamedKept(takeKind, document_, list, {}).empty());
    }

    /// Of what lies in the folder only what the program wrote, and is as it wrote it, can go; not what
    /// another document names, nor what is outside.
    void onlyTakesThatWereWrittenGo() {
        const fs::path folder = takesFolderOf(document_);
        KeptTake wanted;
        wanted.id = wanted.name = "gust";
        bool wrote = false;
        const auto stored = storeTake(folder, wanted, test::randomTake(1), &wrote);
        QVERIFY(stored && wrote);
        QVERIFY(storeTake(folder, wanted, test::randomTake(1), &wrote) && !wrote);
        QVERIFY(files::writeFile(folder / "mine.mid", precious));
        files::KeptList list;
        list.add(fileOf(*stored));
        QVERIFY(list.write(takeKind, document_));
        QCOMPARE(files::KeptList::of(takeKind, document_).sums().size(), std::size_t{1});
        QCOMPARE(files::unnamedKept(takeKind, document_, list, {}), (std::vector{folder / stored->file}));
        QVERIFY(files::unnamedKept(takeKind, document_, list, {stored->file}).empty());
        // A list that names what lies elsewhere leads nowhere.
        KeptTake outside;
        outside.file = "../mine.txt";
        outside.sha256 = sha256Of({reinterpret_cast<const std::uint8_t*>(precious.data()), precious.size()});
        files::KeptList forged;
        forged.add(fileOf(outside));
        QVERIFY(files::unnamedKept(takeKind, document_, forged, {}).empty());
        // Another document of the folder names it.
        const fs::path other = folder_ / "other.lever";
        QVERIFY(files::writeFile(other, std::string_view("{\"takes\": [\"" + stored->file + "\"]}")));
        QVERIFY(files::unnamedKept(takeKind, document_, list, {}).empty());
        fs::remove(other);
        // Somebody changed it.
        QVERIFY(files::writeFile(folder / stored->file, precious));
        QVERIFY(files::unnamedKept(takeKind, document_, list, {}).empty());
    }

    void noTwoDocumentsShareAFolder() {
        QCOMPARE(takesFolderOf("/a/x.lever"), fs::path("/a/x.takes"));
        QCOMPARE(takesFolderOf("/a/x.backup"), fs::path("/a/x.backup.takes"));
        QCOMPARE(takesFolderOf("/a/x"), fs::path("/a/x.takes"));
        QCOMPARE(takesFolderOf("/a/x.y.lever"), fs::path("/a/x.y.takes"));
    }

    /// Reading what a person names never waits, whatever it is.
    void nothingThatIsReadWaits() {
        const fs::path pipe = folder_ / "pipe.lever";
        QCOMPARE(::mkfifo(pipe.c_str(), 0600), 0);
        for (const fs::path& path : {pipe, folder_, fs::path("/dev/zero")}) {
            const auto text = files::readTextFile(path);
            QVERIFY(!text);
            QVERIFY(text.problem().sentence().find("a file is wanted") != std::string::npos);
        }
        const auto written = files::writeFile(pipe, precious);
        QVERIFY(!written);
        QVERIFY(written.problem().sentence().find("nobody reads") != std::string::npos);
    }

    /// What a program that was killed was writing goes when the next is written there; what is still being
    /// What is whole and waits for its place is nobody else's to clear away, in this process or another.
    void whatWaitsForItsPlaceStays() {
        auto first = files::NewFile::open(folder_ / "first.mid");
        QVERIFY(first);
        const std::string text = "first";
        first->write({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
        QVERIFY(static_cast<bool>(first->finish()));
        QVERIFY(static_cast<bool>(files::writeFile(folder_ / "second.mid", std::string_view("second"))));
        QVERIFY(static_cast<bool>(first->commit()));
        QCOMPARE(*files::readTextFile(folder_ / "first.mid"), text);
    }

    /// written does not.
    void halfWrittenFilesGo() {
        const fs::path left = folder_ / ".mellow-abcdef.part";
        QVERIFY(files::writeFile(left, precious));
        auto busy = files::NewFile::open(folder_ / "busy.bin");
        QVERIFY(busy);
        QVERIFY(!fs::exists(left));
        QVERIFY(files::writeFile(folder_ / "other.bin", precious));
        QVERIFY(busy->write({reinterpret_cast<const std::uint8_t*>(precious.data()), precious.size()}));
        QVERIFY(busy->finish() && busy->commit());
        QCOMPARE(textIn(folder_ / "busy.bin"), std::string(precious));
    }

 private:
    std::unique_ptr<QTemporaryDir> place_;
    fs::path folder_;
    fs::path document_;
    fs::path mine_;
};

QTEST_APPLESS_MAIN(OwnFilesTest)
#include "own_files.moc"
