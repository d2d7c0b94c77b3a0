// Arrows point one way: the core includes nothing from above, and no Qt; io includes no app; cli no app. And
// inside the core each folder includes only what stands below it.
#include <QDirIterator>
#include <QRegularExpression>
#include <QtTest>

#include "support/build.h"

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

    void foldersOfTheCore_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QStringList>("below");
        const auto row = [](const char* folder, const QStringList& below) {
            QTest::newRow(folder) << QString::fromLatin1(folder) << below;
        };
        const QStringList ground{"midi", "text", "files"};
        const QStringList model = ground + QStringList{"model"};
        const QStringList kinds = model + QStringList{"steps", "sources", "messages"};
        row("midi", {});
        row("text", {});
        row("files", {"text"});
        row("smf", ground);
        row("model", ground);
        row("steps", model);
        row("sources", model);
        row("messages", model + QStringList{"sources"});
        row("reach", kinds);
        row("describe", kinds);
        row("store", kinds);
        row("checks", kinds + QStringList{"reach", "describe"});
        row("engine", kinds + QStringList{"reach", "checks", "smf"});
        row("takes", {"midi", "smf", "text", "model", "files", "engine"});
        row("learning", kinds);
        row("placing", kinds);
        row("filling", kinds);
        row("layering", kinds + QStringList{"filling"});
        row("profiles", kinds);
        row("reuse", kinds);
        row("library", kinds + QStringList{"store"});
    }
    void foldersOfTheCore() {
        QFETCH(QString, folder);
        QFETCH(QStringList, below);
        const QRegularExpression pattern(QStringLiteral("#include \"core/(\\w+)/"));
        const QDir place(QStringLiteral(MELLOW_SOURCE_DIR "/src/core/") + folder);
        for (const QString& name : place.entryList({"*.h", "*.cpp"})) {
            auto found = pattern.globalMatch(QString::fromUtf8(
                mellow::test::sourceFile(QStringLiteral("src/core/") + folder + QLatin1Char('/') + name)));
            while (found.hasNext()) {
                const QString included = found.next().captured(1);
                QVERIFY2(included == folder || below.contains(included),
                         qPrintable(folder + QLatin1Char('/') + name + ": " + included));
            }
        }
    }
    /// A folder that the tree does not know has no place in it yet.
    void everyFolderHasAPlace() {
        const QDir core(QStringLiteral(MELLOW_SOURCE_DIR "/src/core"));
        const QStringList known{"checks",  "describe", "engine",  "files", "filling", "layering", "learning",
                                "library", "messages", "midi",    "model", "placing", "profiles", "reach",
                                "reuse",   "smf",      "sources", "steps", "store",   "takes",    "text"};
        for (const QString& folder : core.entryList(QDir::Dirs | QDir::NoDotAndDotDot)) {
            const bool hasFiles = !QDir(core.filePath(folder)).entryList({"*.h", "*.cpp"}).isEmpty();
            QVERIFY2(!hasFiles || known.contains(folder), qPrintable(folder));
        }
    }
};

QTEST_APPLESS_MAIN(LayersTest)
#include "layers.moc"
