// The published JSON Schema: every shipped document keeps it, and so does whatever this program writes.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/store/ensemble_json.h"
#include "core/store/schema.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/random_ensemble.h"

using namespace mellow;

namespace {

const char* const validate = R"(
import json, sys, jsonschema
schema = json.load(open(sys.argv[1]))
jsonschema.Draft202012Validator.check_schema(schema)
validator = jsonschema.Draft202012Validator(schema)
wrong = 0
for name in sys.argv[2:]:
    for error in validator.iter_errors(json.load(open(name))):
        wrong += 1
        print(name, '/'.join(map(str, error.absolute_path)), error.message[:200])
sys.exit(3 if wrong else 0)
)";

/// What the validator says of files, empty when they keep the schema.
QString complaints(const QStringList& files) {
    QProcess python;
    python.setProcessChannelMode(QProcess::MergedChannels);
    python.start(QStringLiteral("/usr/bin/python3"),
                 QStringList{QStringLiteral("-c"), QString::fromLatin1(validate),
                             QStringLiteral(MELLOW_SOURCE_DIR "/docs/ensemble.schema.json")} +
                     files);
    if (!test::ends(python, 60000)) return QStringLiteral("python3 does not run");
    const QString said = QString::fromUtf8(python.readAll());
    constexpr int broken = 3;  // whatever else ends the validator is no judgement of a file
    if (python.exitCode() == broken) return QStringLiteral("invalid: ") + said;
    return python.exitCode() == 0 ? QString() : QStringLiteral("no validator: ") + said;
}

QString write(const QTemporaryDir& folder, const QString& name, const std::string& text) {
    QFile file(folder.filePath(name));
    if (!file.open(QIODevice::WriteOnly)) qFatal("cannot write %s", qPrintable(name));
    file.write(QByteArray::fromStdString(text));
    return file.fileName();
}

}  // namespace

class SchemaTest : public QObject {
    Q_OBJECT

 private slots:
    /// What is published is what the descriptions say; `mellow-lever-cli schema` prints it.
    void thePublishedSchemaIsThatOfTheDescriptions() {
        const QByteArray published = test::sourceFile(QStringLiteral("docs/ensemble.schema.json"));
        QCOMPARE(QString::fromUtf8(published), QString::fromStdString(store::printSchema()));
    }

    void shippedDocumentsKeepIt() {
        QStringList files;
        for (const char* folder : {"/data/demo", "/fuzz/seeds/ensemble"}) {
            const QDir in(QStringLiteral(MELLOW_SOURCE_DIR) + QLatin1String(folder));
            for (const QString& name : in.entryList({QStringLiteral("*.lever")})) files << in.filePath(name);
        }
        QVERIFY(files.size() >= 2);
        QCOMPARE(complaints(files), QString());
    }

    void whatIsWrittenKeepsIt() {
        const QTemporaryDir folder;
        QStringList files;
        for (std::uint32_t seed = 0; seed < 40; ++seed) {
            test::RandomWorld world(seed);
            files << write(folder, QStringLiteral("%1.lever").arg(seed),
                           store::printEnsemble(world.ensemble()));
        }
        QCOMPARE(complaints(files), QString());
    }

    void whatTheReaderRefusesTheSchemaRefuses() {
        const QTemporaryDir folder;
        const std::string head = R"({"format": "mellow-lever/ensemble", "version": 1, "title": "T", )";
        const std::string chain = R"("instruments": [{"id": "a", "output": {"port": "p", "channel": 1},
            "parameters": [], "chains": [{"id": "c", "source": {"kind": "bend"}, "branches": [], )";
        const std::vector<std::string> texts{R"({"format": "other"})", head + R"("instruments": 5})",
                                             head + R"("instruments": [{"id": "a"}]})",
                                             head + chain + R"("steps": [{"kind": "twirl"}]}]}]})",
                                             head + chain + R"("active": "sometimes"}]}]})"};
        for (const std::string& text : texts) {
            QVERIFY(!store::parseEnsemble(text));
            QVERIFY(complaints({write(folder, QStringLiteral("bad.lever"), text)})
                        .startsWith(QStringLiteral("invalid")));
        }
    }
};

QTEST_APPLESS_MAIN(SchemaTest)
#include "schema.moc"
