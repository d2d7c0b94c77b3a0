// The calls `sheet` and `compare` as processes: what they write, print and return.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QtTest>

#include "core/assignments/assignments.h"
#include "core/assignments/columns.h"
#include "core/profiles/delimited.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/process.h"

using namespace mellow;
using namespace mellow::test;

namespace {

const QString demoFile = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");

Ended call(const QStringList& arguments, const QByteArray& input = {}) {
    return test::run(commandLine(), arguments, input);
}

QByteArray contentOf(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

/// All that can be read of a PDF, without its line breaks.
QString textOf(const QString& pdf) {
    const Ended ended = test::run(QStringLiteral("pdftotext"), {pdf, QStringLiteral("-")});
    return ended.out.simplified();
}

}  // namespace

class SheetCallTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    QString file(const char* name) { return folder_.filePath(QLatin1String(name)); }

 private slots:
    void asCsv() {
        const Ended ended = call({"sheet", demoFile, "--csv"});
        QCOMPARE(ended.code, 0);
        const profiles::Table table = profiles::parseTable(ended.out.toStdString());
        QCOMPARE(table.size(), assignmentsOf(test::demo()).size() + 1);
        QCOMPARE(table[0].size(), assignmentColumns().size() + 1);
        QCOMPARE(table[1][0], std::string("glass/swell/1"));
        // The other reading has the same rows in another order.
        const Ended hear = call({"sheet", demoFile, "--csv", "--by", "hear"});
        const profiles::Table heard = profiles::parseTable(hear.out.toStdString());
        QCOMPARE(heard.size(), table.size());
        QVERIFY(heard != table);
        const Ended found = call({"sheet", demoFile, "--csv", "--find", "falls mod wheel flute"});
        QCOMPARE(profiles::parseTable(found.out.toStdString()).size(), std::size_t{1});
        const Ended falls = call({"sheet", demoFile, "--csv", "--find", "falls glass"});
        QVERIFY(falls.out.contains("glass/swell/2"));
        QVERIFY(!falls.out.contains("glass/swell/1"));
    }

    void asHtmlAndMarkdown() {
        QCOMPARE(call({"sheet", demoFile, "--html", "-o", file("demo.html")}).code, 0);
        // No error and no warning of a validator.
        const Ended tidy = test::run(QStringLiteral("tidy"), {"-q", "-e", file("demo.html")});
        QCOMPARE(tidy.err, QString());
        QCOMPARE(tidy.code, 0);
        const Ended markdown = call({"sheet", demoFile, "--md"});
        QVERIFY(markdown.out.startsWith("# The Tin Observatory\n"));
        QVERIFY(markdown.out.contains("- **Sustain pedal** (CC 64): free"));
    }

    /// Whatever names the rows have is on the paper, and can be searched for.
    void asPdf() {
        QCOMPARE(call({"sheet", demoFile, "--pdf", "-o", file("demo.pdf")}).code, 0);
        const QString text = textOf(file("demo.pdf"));
        const Ensemble ensemble = test::demo();
        for (const Assignment& row : assignmentsOf(ensemble)) {
            for (const char* column :
                 {"move", "controller", "target", "instrument", "sends", "reach", "way"}) {
                const QString said =
                    QString::fromStdString(findAssignmentColumn(column)->text(ensemble, row));
                for (const QString& word : said.split(QLatin1Char(' '), Qt::SkipEmptyParts))
                    QVERIFY2(text.contains(word), qPrintable(QLatin1String(column) + ": " + said));
            }
        }
        for (const KeptTake& take : ensemble.takes) QVERIFY(text.contains(QString::fromStdString(take.name)));
        const auto sizeOf = [&](const QString& pdf) {
            return test::run(QStringLiteral("pdfinfo"), {pdf}).out;
        };
        QVERIFY(sizeOf(file("demo.pdf")).contains("(A4)"));
        QCOMPARE(call({"sheet", demoFile, "--pdf", "--paper", "Letter", "-o", file("letter.pdf")}).code, 0);
        QVERIFY(sizeOf(file("letter.pdf")).contains("(letter)"));
        QVERIFY(runRaw(commandLine(), {"sheet", demoFile, "--pdf"}).out.startsWith("%PDF"));
        QVERIFY(runRaw(commandLine(), {"sheet", "-", "--pdf"}, contentOf(demoFile)).out.startsWith("%PDF"));
    }

    /// A control that moves more than a page holds, and names longer than a line.
    void muchOnPaper() {
        Instrument one = instrument("one");
        one.parameters.clear();
        Chain all = chain("all", ccSource(1), {}, {});
        for (int i = 0; i < 300; ++i) {
            Parameter parameter = ccParameter("p" + std::to_string(i), i % 128);
            parameter.name = i == 7 ? std::string(400, 'w') : "target-" + std::to_string(i);
            one.parameters.push_back(parameter);
            all.branches.push_back(branch(parameter.id, 0, 127));
        }
        one.chains = {all};
        QFile ensembleFile(file("much.lever"));
        QVERIFY(ensembleFile.open(QIODevice::WriteOnly));
        ensembleFile.write(QByteArray::fromStdString(store::printEnsemble(ensemble({one}))));
        ensembleFile.close();
        QCOMPARE(call({"sheet", file("much.lever"), "--pdf", "-o", file("much.pdf")}).code, 0);
        const QString text = textOf(file("much.pdf"));
        for (int i = 0; i < 300; ++i) {
            if (i != 7)
                QVERIFY2(text.contains(QStringLiteral("target-%1 ").arg(i)), qPrintable(QString::number(i)));
        }
    }

    void whatIsWrongIsSaid() {
        const auto refused = [this](const QStringList& words, const char* sentence) {
            const Ended ended = call(words);
            QCOMPARE(ended.code, 2);
            QVERIFY2(ended.err.contains(QLatin1String(sentence)), qPrintable(ended.err));
            QCOMPARE(ended.err.count(QLatin1Char('\n')), 1);
            QCOMPARE(ended.out, QString());
        };
        refused({"sheet", demoFile}, "--help");
        refused({"sheet", demoFile, "--csv", "--html"}, "--help");
        refused({"sheet", demoFile, "--csv", "--by", "ear"}, "--by");
        refused({"sheet", file("nowhere.lever"), "--csv"}, "nowhere.lever");
        refused({"sheet", file("nowhere.lever"), "--pdf"}, "nowhere.lever");
        refused({"sheet", demoFile, "--csv", "-o", file("none/there.csv")}, "there.csv");
        refused({"sheet", demoFile, "--pdf", "-o", file("none/there.pdf")}, "there.pdf");
        refused({"sheet", demoFile, "--csv", "-o", demoFile}, "tin-observatory.lever");
        refused({"compare", demoFile, file("nowhere.lever")}, "nowhere.lever");
        refused({"compare", "-", "-"}, "standard input");
    }

    void compared() {
        Ensemble other = test::demo();
        findById(other.instruments, "glass")->chains[0].steps[1].values[0] = 0.5;
        QFile changed(file("changed.lever"));
        QVERIFY(changed.open(QIODevice::WriteOnly));
        changed.write(QByteArray::fromStdString(store::printEnsemble(other)));
        changed.close();
        QCOMPARE(call({"compare", demoFile, demoFile}).code, 0);
        QCOMPARE(call({"compare", demoFile, demoFile}).out, QString());
        const Ended differs = call({"compare", demoFile, file("changed.lever")});
        QCOMPARE(differs.code, 1);
        QCOMPARE(differs.out, QString("Glass harmonium\n  Swell: Bend 0.35 → 0.5\n"));
        const Ended json = call({"compare", demoFile, file("changed.lever"), "--json"});
        const QJsonObject first = QJsonDocument::fromJson(json.out.toUtf8()).array().first().toObject();
        QCOMPARE(first["where"].toString(), QString("Glass harmonium"));
        QCOMPARE(first["kind"].toString(), QString("changed"));
        QCOMPARE(first["what"].toString(), QString("Swell: Bend 0.35 → 0.5"));
        QCOMPARE(call({"compare", "-", demoFile}, contentOf(file("changed.lever"))).code, 1);
    }
};

QTEST_APPLESS_MAIN(SheetCallTest)
#include "sheet.moc"
