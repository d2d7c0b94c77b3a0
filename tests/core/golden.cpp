// The golden set: small ensembles with what goes in and what comes out, in the notation of `feed`, each with
// the arithmetic by which a person can verify it from the signal rules. The engine, the reference interpreter
// and the command-line tool must all give exactly that.
//
// A file of tests/golden: comment lines (#), lines that go in (>), lines that come out (<), until when the
// clock runs on (until), and the ensemble.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/engine/driving/feed.h"
#include "core/model/ensemble_words.h"
#include "core/store/ensemble_json.h"
#include "reference/interpreter.h"
#include "support/build.h"
#include "support/ends.h"

using namespace mellow;

namespace {

struct Case {
    std::vector<std::string> in;
    QStringList out;
    std::optional<std::int64_t> until;
    std::string ensemble;
};

Case read(const QString& name) {
    Case made;
    const QString text = QString::fromUtf8(test::sourceFile(QStringLiteral("tests/golden/") + name));
    const qsizetype start = text.indexOf(QStringLiteral("\nensemble\n"));
    made.ensemble = text.mid(start + 10).toStdString();
    for (const QString& line : text.left(start).split(QLatin1Char('\n'))) {
        if (line.startsWith(QStringLiteral("> "))) made.in.push_back(line.mid(2).toStdString());
        if (line.startsWith(QStringLiteral("< "))) made.out << line.mid(2);
        if (line.startsWith(QStringLiteral("until "))) made.until = line.mid(6).toLongLong();
    }
    return made;
}

Ensemble ensembleOf(const Case& golden) {
    auto ensemble = store::parseEnsemble(golden.ensemble);
    if (!ensemble) qFatal("%s", ensemble.problem().sentence().c_str());
    return std::move(*ensemble);
}

QStringList byTheEngine(const Case& golden) {
    test::Feeder feeder(ensembleOf(golden));
    std::vector<std::string> lines = feeder.feed(golden.in);
    if (golden.until) {
        for (std::string& line : feeder.until(*golden.until)) lines.push_back(std::move(line));
    }
    QStringList out;
    for (const std::string& line : lines) out << QString::fromStdString(line);
    return out;
}

QStringList byTheReference(const Case& golden) {
    reference::Interpreter interpreter(ensembleOf(golden));
    QStringList out;
    const auto take = [&out](const std::vector<reference::Sent>& sents) {
        for (const auto& sent : sents) {
            const QString time = QString::number(sent.time);
            out << (sent.address.empty() ? QStringLiteral("%1 %2 %3")
                                               .arg(time, QString::fromStdString(sent.instrument),
                                                    QString::fromStdString(midi::toHex(sent.bytes)))
                                         : QStringLiteral("%1 %2 %3 %4")
                                               .arg(time, QString::fromStdString(sent.port),
                                                    QString::fromStdString(sent.address))
                                               .arg(static_cast<double>(sent.number), 0, 'g', 7));
        }
    };
    for (const std::string& line : golden.in) {
        const auto read = engine::parseFeedLine(line, 0);
        if (read->address.empty()) {
            take(interpreter.process(read->time, read->port, read->bytes));
        } else if (read->port == engine::deskPortName) {
            take(interpreter.processDesk(read->time, read->address, read->number));
        } else {
            take(interpreter.processOsc(read->time, read->port, read->address, read->number));
        }
    }
    if (golden.until) take(interpreter.advance(*golden.until));
    return out;
}

QStringList byTheCommandLine(const Case& golden) {
    const QTemporaryDir folder;
    QFile file(folder.filePath(QStringLiteral("golden.lever")));
    if (!file.open(QIODevice::WriteOnly)) qFatal("no file");
    file.write(QByteArray::fromStdString(golden.ensemble));
    file.close();
    QStringList arguments{QStringLiteral("feed"), file.fileName()};
    if (golden.until) arguments << QStringLiteral("--until") << QString::number(*golden.until);
    QProcess cli;
    cli.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), arguments);
    for (const std::string& line : golden.in) cli.write(QByteArray::fromStdString(line + "\n"));
    cli.closeWriteChannel();
    if (!test::ends(cli, 30000) || cli.exitCode() != 0)
        return {QString::fromUtf8(cli.readAllStandardError())};
    QStringList lines =
        QString::fromUtf8(cli.readAllStandardOutput()).split(QLatin1Char('\n'), Qt::SkipEmptyParts);
    return lines;
}

}  // namespace

class GoldenTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() {
        const QDir folder(QStringLiteral(MELLOW_SOURCE_DIR "/tests/golden"));
        for (const QString& name : folder.entryList({QStringLiteral("*.txt")}))
            all_ << QString::fromUtf8(test::sourceFile(QStringLiteral("tests/golden/") + name));
    }
    void golden_data() {
        QTest::addColumn<QString>("name");
        const QDir folder(QStringLiteral(MELLOW_SOURCE_DIR "/tests/golden"));
        for (const QString& name : folder.entryList({QStringLiteral("*.txt")}))
            QTest::newRow(qPrintable(name)) << name;
    }
    void golden() {
        QFETCH(QString, name);
        const Case golden = read(name);
        QVERIFY(!golden.out.isEmpty());
        QCOMPARE(byTheEngine(golden), golden.out);
        QCOMPARE(byTheReference(golden), golden.out);
        QCOMPARE(byTheCommandLine(golden), golden.out);
    }

    /// Every kind there is, and every choice of each, has a case that uses it.
    void everyKindHasOne() {
        for (const SourceRow& kind : sourceKinds()) hasCases(kind.name, kind.fields);
        for (const MessageRow& kind : controlKinds()) hasCases(kind.name, kind.fields);
        for (const MessageRow& kind : messageKinds()) hasCases(kind.name, kind.fields);
        for (const StepKind* kind : stepKinds()) hasCases(kind->name, kind->fields);
    }
    void everyWordHasOne_data() {
        QTest::addColumn<QString>("key");
        QTest::addColumn<QString>("word");
        const auto add = [](const char* key, std::span<const std::string_view> words) {
            for (const std::string_view word : words) {
                const QString text = QString::fromUtf8(word.data(), static_cast<qsizetype>(word.size()));
                QTest::addRow("%s %s", key, qPrintable(text)) << QString::fromLatin1(key) << text;
            }
        };
        add("law", lawWords);
        add("mix", mixWords);
        add("outside", outsideWords);
        add("active", activeWords);
        add("rest", restWords);
        add("mode", fanWords);
        add("handover", handoverWords);
        add("follow", followWords);
    }
    void everyWordHasOne() {
        QFETCH(QString, key);
        QFETCH(QString, word);
        const auto uses = [&](const QString& text) { return says(text, key, word); };
        QVERIFY(std::any_of(all_.begin(), all_.end(), uses));
    }

 private:
    static bool says(const QString& text, const QString& key, const QString& word) {
        return text.contains(QStringLiteral("\"%1\": \"%2\"").arg(key, word));
    }

    void hasCases(std::string_view kind, std::span<const Field> fields) {
        const QString name = QString::fromUtf8(kind.data(), static_cast<qsizetype>(kind.size()));
        const auto usesKind = [&](const QString& text) { return says(text, QStringLiteral("kind"), name); };
        QVERIFY2(std::any_of(all_.begin(), all_.end(), usesKind), qPrintable(name));
        for (const Field& field : fields) {
            const QString key = QString::fromStdString(std::string(field.key));
            for (std::size_t choice = 0; choice < field.choices.size(); ++choice) {
                const QString word = QString::fromStdString(std::string(field.choices[choice]));
                const bool atStart = choice == static_cast<std::size_t>(field.start);
                const auto usesChoice = [&](const QString& text) {
                    const bool leftOut = atStart && !text.contains(QStringLiteral("\"%1\":").arg(key));
                    return usesKind(text) && (says(text, key, word) || leftOut);
                };
                QVERIFY2(std::any_of(all_.begin(), all_.end(), usesChoice),
                         qPrintable(name + QLatin1Char(' ') + key + QLatin1Char(' ') + word));
            }
        }
    }

    QStringList all_;  ///< the text of every case
};

QTEST_GUILESS_MAIN(GoldenTest)
#include "golden.moc"
