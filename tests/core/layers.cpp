// Arrows point one way: the core includes nothing from above, and no Qt; io includes no app; cli no app. And
// inside each of them a room, which is a folder with what lies in its own folders, includes only rooms that
// stand below it; no two folders lead to one another by whatever way; and no file stands outside a room.
#include <QDirIterator>
#include <QRegularExpression>
#include <QtTest>
#include <functional>
#include <map>
#include <set>

class LayersTest : public QObject {
    Q_OBJECT

 private slots:
    void includes_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QString>("forbidden");
        QTest::newRow("core") << "src/core"
                              << "#include\\s+[\"<](Q[A-Z]|Qt|io/|app/|cli/|jack/|fluidsynth|thread|mutex)";
        QTest::newRow("io") << "src/io"
                            << "#include\\s+[\"<](Q[A-Z]|Qt|app/|cli/)";
        QTest::newRow("cli") << "src/cli"
                             << "#include\\s+[\"<](Q[A-Z]|Qt|app/)";
    }
    void includes() {
        QFETCH(QString, folder);
        QFETCH(QString, forbidden);
        const QRegularExpression pattern(forbidden);
        QDirIterator files(QStringLiteral(MELLOW_SOURCE_DIR "/") + folder, {"*.h", "*.cpp"}, QDir::Files,
                           QDirIterator::Subdirectories);
        int seen = 0;
        while (files.hasNext()) {
            QFile file(files.next());
            QVERIFY(file.open(QIODevice::ReadOnly));
            const auto match = pattern.match(QString::fromUtf8(file.readAll()));
            QVERIFY2(!match.hasMatch(), qPrintable(file.fileName() + ": " + match.captured()));
            ++seen;
        }
        QVERIFY(seen > 0);
    }

    void rooms_data() {
        QTest::addColumn<QString>("room");
        QTest::addColumn<QStringList>("below");
        for (const auto& [room, below] : plan()) QTest::newRow(qPrintable(room)) << room << below;
    }
    void rooms() {
        QFETCH(QString, room);
        QFETCH(QStringList, below);
        const Includes all = includesOf(allSources());
        bool seen = false;
        for (const auto& [file, included] : all) {
            if (roomOf(file) != room) continue;
            seen = true;
            const QString other = roomOf(included);
            const bool isRoot = file.startsWith("core/") && roots().contains(included);
            QVERIFY2(isRoot || other == room || below.contains(other), qPrintable(file + ": " + included));
        }
        QVERIFY2(seen || below.isEmpty(), "nothing is there");
    }

    /// A folder that the plan does not know has no place in it yet, and neither has a file beside the rooms.
    void everyFileHasARoom() {
        for (const auto& [file, text] : allSources())
            QVERIFY2(file.startsWith("cli/") || roots().contains(file) || !roomOf(file).isEmpty(),
                     qPrintable(file));
    }

    void noCircle() {
        const QStringList circle = circleIn(includesOf(allSources()));
        QVERIFY2(circle.isEmpty(), qPrintable(circle.join(QStringLiteral(" -> "))));
    }
    /// What documents call a file or a folder, in the letters of code, is one.
    void documentsNameWhatIsThere() {
        const QDir root(QStringLiteral(MELLOW_SOURCE_DIR));
        QSet<QString> there;
        for (const char* top : {"src", "tests", "bench", "fuzz", "cmake", "data", "docs"}) {
            there << QStringLiteral("/%1/").arg(QLatin1String(top));
            QDirIterator entries(root.filePath(QLatin1String(top)),
                                 QDir::Files | QDir::Dirs | QDir::NoDotAndDotDot,
                                 QDirIterator::Subdirectories);
            while (entries.hasNext()) {
                const QString path = QLatin1Char('/') + root.relativeFilePath(entries.next());
                there << path + (entries.fileInfo().isDir() ? QStringLiteral("/") : QString());
            }
        }
        const auto isThere = [&there](QString named) {
            named.prepend(QLatin1Char('/'));
            return std::any_of(there.begin(), there.end(), [&named](const QString& path) {
                if (named.endsWith(QLatin1String(".*"))) return path.contains(named.chopped(1));
                return path.endsWith(named) || path.endsWith(named + QLatin1String(".h")) ||
                       path.endsWith(named + QLatin1Char('/'));
            });
        };
        static const QRegularExpression code(
            QStringLiteral("`((?:src|tests|core|io|app|engine|pages|bench|fuzz)/[a-z_./*]*|"
                           "[a-z_]+/[a-z_/]*\\.(?:h|cpp|\\*)|[a-z_]+\\.(?:h|cpp))`"));
        int seen = 0;
        for (const QFileInfo& document :
             root.entryInfoList({"*.md"}) + QDir(root.filePath("docs")).entryInfoList({"*.md"})) {
            QFile file(document.filePath());
            QVERIFY(file.open(QIODevice::ReadOnly));
            auto found = code.globalMatch(QString::fromUtf8(file.readAll()));
            for (; found.hasNext(); ++seen) {
                const QString named = found.next().captured(1);
                QVERIFY2(isThere(named), qPrintable(document.fileName() + ": " + named));
            }
        }
        QVERIFY(seen > 40);
    }

    /// The search itself, on circles that were made.
    void circlesAreFound() {
        const auto text = [](const char* includes) {
            return QStringLiteral("#include \"%1\"\n").arg(QLatin1String(includes));
        };
        Sources made{{"app/ground/a.h", text("app/widgets/b.h")}, {"app/widgets/b.h", text("app/live/c.h")}};
        QVERIFY(circleIn(includesOf(made)).isEmpty());
        made["app/live/c.h"] = text("app/ground/d.h");
        QCOMPARE(circleIn(includesOf(made)),
                 (QStringList{"app/ground", "app/widgets", "app/live", "app/ground"}));
    }

 private:
    /// What all of the core stands on.
    static QStringList roots() { return {"core/result.h", "core/result.cpp", "core/time.h"}; }

    using Sources = std::map<QString, QString>;                 ///< texts by path below src
    using Includes = std::vector<std::pair<QString, QString>>;  ///< a file, and what it includes

    /// The rooms, each with those that it may look into.
    static std::vector<std::pair<QString, QStringList>> plan() {
        const QStringList ground{"core/midi", "core/text", "core/files"};
        const QStringList model = ground + QStringList{"core/model"};
        const QStringList kinds = model + QStringList{"core/steps", "core/sources", "core/messages"};
        const QStringList engine = kinds + QStringList{"core/reach", "core/checks", "core/smf"};
        std::vector<std::pair<QString, QStringList>> all{
            {"version", {}},
            {"core/midi", {}},
            {"core/text", {}},
            {"core/files", {"core/text"}},
            {"core/smf", ground},
            {"core/model", ground},
            {"core/steps", model},
            {"core/sources", model},
            {"core/messages", model + QStringList{"core/sources"}},
            {"core/reach", kinds},
            {"core/describe", kinds},
            {"core/store", kinds},
            {"core/checks", kinds + QStringList{"core/reach", "core/describe"}},
            {"core/engine/program", engine},
            {"core/engine/compiling", engine + QStringList{"core/engine/program"}},
            {"core/engine/playing", engine + QStringList{"core/engine/program"}},
            {"core/engine/driving", engine + QStringList{"core/engine/program", "core/engine/compiling",
                                                         "core/engine/playing", "core/store"}},
            {"core/takes", model + QStringList{"core/smf", "core/engine/program", "core/engine/compiling",
                                               "core/engine/playing", "core/engine/driving"}},
            {"core/assignments",
             kinds + QStringList{"core/describe", "core/store", "core/profiles", "core/reuse"}},
            {"core/sheet",
             kinds + QStringList{"core/reach", "core/describe", "core/store", "core/checks", "core/profiles",
                                 "core/reuse", "core/assignments", "core/desk"}},
            {"core/compare", kinds + QStringList{"core/describe"}},
            {"core/desk", kinds},
            {"core/learning", kinds},
            {"core/placing", kinds},
            {"core/filling", kinds},
            {"core/layering", kinds + QStringList{"core/filling"}},
            {"core/profiles", kinds},
            {"core/reuse", kinds},
            {"core/library", kinds + QStringList{"core/store"}},
            {"core/balance",
             kinds + QStringList{"core/describe", "core/profiles", "core/store", "core/smf", "core/takes",
                                 "core/engine/program", "core/engine/compiling", "core/engine/playing"}},
        };
        // From here on each room may look into all of the core, and into those before it.
        QStringList before;
        for (const auto& [room, below] : all) before << room;
        before << QString();  // what stands at the top of the core
        for (const char* room :
             {"io/clocks", "io/playing", "io/sound", "io/ports", "io/recording", "io/bounce", "io/balance",
              "io/keeping", "io/managing", "io/session", "app/ground", "app/paper", "app/widgets",
              "app/document", "app/live", "app/takes", "app/acts", "app/pages"}) {
            all.emplace_back(QLatin1String(room), before);
            before << QLatin1String(room);
        }
        QStringList pages;
        for (const QString& name : QDir(QStringLiteral(MELLOW_SOURCE_DIR "/src/app/pages"))
                                       .entryList(QDir::Dirs | QDir::NoDotAndDotDot)) {
            // No page looks into another.
            pages << QStringLiteral("app/pages/") + name;
            all.emplace_back(pages.back(), before);
        }
        before << pages;
        all.emplace_back(QStringLiteral("app/frame"), before);
        all.emplace_back(QStringLiteral("tools"), before << QStringLiteral("app/frame"));
        return all;
    }

    /// The innermost room of the plan that a file is in; empty: none.
    static QString roomOf(const QString& file) {
        static const auto rooms = plan();
        QString found;
        for (const auto& [room, below] : rooms) {
            if (file.startsWith(room + QLatin1Char('/')) && room.size() > found.size()) found = room;
        }
        return found;
    }

    static Sources allSources() {
        const QDir src(QStringLiteral(MELLOW_SOURCE_DIR "/src"));
        Sources all;
        QDirIterator files(src.path(), {"*.h", "*.cpp"}, QDir::Files, QDirIterator::Subdirectories);
        while (files.hasNext()) {
            QFile file(files.next());
            if (file.open(QIODevice::ReadOnly))
                all[src.relativeFilePath(file.fileName())] = QString::fromUtf8(file.readAll());
        }
        return all;
    }
    static Includes includesOf(const Sources& sources) {
        static const QRegularExpression pattern(
            QStringLiteral("#include \"((?:core|io|app|cli|tools)/[^\"]+)\""));
        Includes all;
        for (const auto& [file, text] : sources) {
            auto found = pattern.globalMatch(text);
            while (found.hasNext()) all.emplace_back(file, found.next().captured(1));
        }
        return all;
    }
    /// Folders that lead to one another, the first of them at both ends; empty: there are none.
    static QStringList circleIn(const Includes& includes) {
        std::map<QString, std::set<QString>> leads;
        const auto folderOf = [](const QString& file) { return file.section(QLatin1Char('/'), 0, -2); };
        for (const auto& [file, included] : includes) {
            if (folderOf(file) != folderOf(included)) leads[folderOf(file)].insert(folderOf(included));
        }
        std::set<QString> done;
        QStringList way;
        const std::function<QStringList(const QString&)> follow = [&](const QString& folder) -> QStringList {
            if (const auto at = way.indexOf(folder); at >= 0) return way.mid(at) + QStringList{folder};
            if (!done.insert(folder).second) return {};
            way << folder;
            for (const QString& next : leads[folder]) {
                if (QStringList circle = follow(next); !circle.isEmpty()) return circle;
            }
            way.removeLast();
            return {};
        };
        for (const auto& [folder, next] : std::map(leads)) {
            if (QStringList circle = follow(folder); !circle.isEmpty()) return circle;
        }
        return {};
    }
};

QTEST_APPLESS_MAIN(LayersTest)
#include "layers.moc"
