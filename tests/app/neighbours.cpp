// What may lie beside a document that is not the program's: links, pipes, folders and files of a person's, in
// every place where the program keeps something of its own. Nothing of a person's is moved, emptied or
// written, nothing waits, and the work is saved all the same.
#include <sys/stat.h>
#include <unistd.h>

#include <QSignalSpy>
#include <fstream>
#include <set>

#include "app/takes/take_work.h"
#include "core/files/sidecars.h"
#include "core/store/journal.h"
#include "core/takes/take_folder.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::Window;
namespace fs = std::filesystem;

namespace {

void write(const fs::path& path, const std::string& text) {
    std::ofstream file(path, std::ios::binary);
    file << text;
    if (!file.flush()) qFatal("cannot write %s", path.c_str());
}

std::string read(const fs::path& path) {
    std::ifstream file(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(file), {}};
}

/// All that lies below a folder, with what it holds and when it was written.
QString pictureOf(const fs::path& folder) {
    std::set<std::string> lines;
    for (const auto& each : fs::recursive_directory_iterator(folder)) {
        struct stat status {};
        ::lstat(each.path().c_str(), &status);
        const auto written = status.st_mtim.tv_sec * std::int64_t{1'000'000'000} + status.st_mtim.tv_nsec;
        lines.insert(each.path().string() + " " + std::to_string(status.st_mode) + " " +
                     (S_ISREG(status.st_mode) ? std::to_string(written) + " " + read(each.path()) : ""));
    }
    QString picture;
    for (const std::string& line : lines) picture += QString::fromStdString(line) + QLatin1Char('\n');
    return picture;
}

/// A person's own folder, with files that look like the program's.
void fill(const fs::path& folder) {
    fs::create_directories(folder);
    write(folder / "letter.txt", "mine");
    write(folder / "sketch.mid", "MThd, mine");
    write(folder / "1790000000000.lever", "{\"mine\": true}");
    write(folder / "storm.recording", "mine");
    write(folder / "old.journal", "mine");
}

enum class Kind { linkToFile, linkToFolder, linkToNothing, linkToLike, pipe, folder, ownFile, hardLink };

struct Kinds {
    const char* name;
    Kind kind;
};
constexpr Kinds kinds[] = {{"a link to a file", Kind::linkToFile},
                           {"a link to a folder", Kind::linkToFolder},
                           {"a link to nothing", Kind::linkToNothing},
                           {"a link to what looks like ours", Kind::linkToLike},
                           {"a pipe", Kind::pipe},
                           {"a folder", Kind::folder},
                           {"a file", Kind::ownFile},
                           {"a second name of a file", Kind::hardLink}};

struct Places {
    const char* name;
    fs::path (*of)(const fs::path& document, const std::string& take);
};
fs::path afterRecordings(const fs::path& document, const char* ending) {
    fs::path path = files::recordingsOf(document);
    path += ending;
    return path;
}
const Places places[] = {
    {"lock", [](const fs::path& d, const std::string&) { return files::lockOf(d); }},
    {"journal", [](const fs::path& d, const std::string&) { return files::journalOf(d); }},
    {"versions", [](const fs::path& d, const std::string&) { return files::versionsOf(d); }},
    {"recording", [](const fs::path& d, const std::string&) { return afterRecordings(d, "-1-1.recording"); }},
    {"list of takes", [](const fs::path& d, const std::string&) { return files::keptListOf(takeKind, d); }},
    {"takes", [](const fs::path& d, const std::string&) { return takesFolderOf(d); }},
    {"a take", [](const fs::path& d, const std::string& take) { return takesFolderOf(d) / take; }},
    {"a file in the making",
     [](const fs::path& d, const std::string&) { return d.parent_path() / ".mellow-1-abcdef.part"; }},
};

void put(const fs::path& place, Kind kind, const fs::path& mine) {
    std::error_code error;
    fs::remove_all(place, error);
    fs::create_directories(place.parent_path());
    const fs::path like = mine / "like-ours";
    switch (kind) {
        case Kind::linkToFile:
            return fs::create_symlink(mine / "letter.txt", place);
        case Kind::linkToFolder:
            return fs::create_symlink(mine, place);
        case Kind::linkToNothing:
            return fs::create_symlink(mine / "not-there", place);
        case Kind::linkToLike:
            write(like, std::string(store::journalHead()) + "\n");
            return fs::create_symlink(like, place);
        case Kind::pipe:
            if (::mkfifo(place.c_str(), 0600) != 0) qFatal("no pipe");
            return;
        case Kind::folder:
            return fill(place);
        case Kind::ownFile:
            return write(place, "mine");
        case Kind::hardLink:
            return fs::create_hard_link(mine / "letter.txt", place);
    }
}

}  // namespace

class NeighboursTest : public QObject {
    Q_OBJECT

    std::unique_ptr<Window> window_;

    void record() {
        (*window_)->takes().recording.toggle();
        (*window_)->live().hands().send(midi::make(midi::controlChange, 0, 1, 33));
        (*window_)->live().hands().send(midi::make(midi::noteOn, 0, 60, 90));
        (*window_)->live().hands().send(midi::make(midi::noteOff, 0, 60, 64));
        QTRY_VERIFY((*window_)->takes().recording.progress().second >= std::size_t{3});
        (*window_)->takes().recording.toggle();
        QTRY_VERIFY(!(*window_)->takes().recording.isOn());
    }

 private slots:
    void initTestCase() { window_ = std::make_unique<Window>(); }
    void cleanupTestCase() { window_.reset(); }

    void nothingOfAPersonsIsTouched_data() {
        QTest::addColumn<int>("place");
        QTest::addColumn<int>("kind");
        for (int p = 0; p < static_cast<int>(std::size(places)); ++p) {
            for (int k = 0; k < static_cast<int>(std::size(kinds)); ++k)
                QTest::addRow("%s: %s", places[p].name, kinds[k].name) << p << k;
        }
    }
    void nothingOfAPersonsIsTouched() {
        QFETCH(int, place);
        QFETCH(int, kind);
        Window& window = *window_;
        QTemporaryDir folder;
        const fs::path root = folder.path().toStdString();
        fs::create_directories(root / "work");
        fill(root / "mine");
        const fs::path document = root / "work" / "storm.lever";
        window->openDemo();
        window.savePath = QString::fromStdString(document.string());
        window.menu(QStringLiteral("Save as…"));
        QVERIFY(fs::exists(document));
        const std::string take = window.ensemble().takes.front().file;
        window->newEnsemble();
        const fs::path there = places[place].of(document, take);
        put(there, kinds[kind].kind, root / "mine");
        const QString mine = pictureOf(root / "mine");
        const bool isTheirs = kinds[kind].kind == Kind::folder || kinds[kind].kind == Kind::ownFile;
        const QString theirs = kinds[kind].kind == Kind::folder ? pictureOf(there) : QString();

        window->openFile(window.savePath);
        // Of a document that cannot be opened so there is nothing to be saved.
        QCOMPARE(window->document().path(), window.savePath);
        for (const char* title : {"Storm one", "Storm two", "Storm three"}) {
            window->document().edit(QStringLiteral("Rename"), [title](Ensemble& e) { e.title = title; });
            if (title == std::string("Storm two")) record();
            window.menu(QStringLiteral("Save"));
        }
        window->newEnsemble();
        QCOMPARE(pictureOf(root / "mine"), mine);
        if (kinds[kind].kind == Kind::folder) {
            // The program may keep its own beside them; theirs are all there.
            const QString now = pictureOf(there);
            for (const QString& line : theirs.split(QLatin1Char('\n')))
                QVERIFY2(now.contains(line), qPrintable(line));
        }
        if (isTheirs && kinds[kind].kind == Kind::ownFile) QCOMPARE(read(there), std::string("mine"));
        QVERIFY(read(document).find("Storm three") != std::string::npos);
    }
};

QTEST_MAIN(NeighboursTest)
#include "neighbours.moc"
