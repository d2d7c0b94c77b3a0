// The call `balance` as a process: what it measures, writes, prints and returns.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>

#include "core/balance/curve.h"
#include "core/balance/recorded.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/process.h"

using namespace mellow;
using namespace mellow::test;

namespace {

const QString demoFile = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");

Ended call(QStringList arguments, const QByteArray& input = {}) {
    arguments.prepend(QStringLiteral("balance"));
    return test::run(commandLine(), arguments, input);
}

QStringList glass(QStringList more = {}) {
    return QStringList{demoFile,
                       QStringLiteral("--instrument"),
                       QStringLiteral("glass"),
                       QStringLiteral("--source"),
                       QStringLiteral("cc 1"),
                       QStringLiteral("--positions"),
                       QStringLiteral("8")} +
           more;
}

}  // namespace

class BalanceCallTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString file(const char* name) { return folder_.filePath(QLatin1String(name)); }

 private slots:
    void theCurveAsATable() {
        const Ended table = call(glass());
        QCOMPARE(table.code, 0);
        QVERIFY(table.out.startsWith(QStringLiteral("Glass harmonium, Mod wheel; heard from Practice rack")));
        QCOMPARE(table.out.count(QLatin1Char('\n')), 10);
        const Ended csv = call(glass({"--csv", "--keys", "C3,C4"}));
        QCOMPARE(csv.code, 0);
        const QStringList lines = csv.out.split(QLatin1Char('\n'));
        QCOMPARE(lines[0], QStringLiteral("position,key,lufs,true peak dB,centroid Hz"));
        QCOMPARE(lines.size(), 18);
        QVERIFY(lines[1].startsWith(QStringLiteral("0.0000,C3,-")));
        QVERIFY(lines[9].startsWith(QStringLiteral("0.0000,C4,-")));
        QStringList overKeys = glass({"--csv", "--keys", "C3,C5"});
        overKeys[4] = QStringLiteral("keys");
        const QStringList keys = call(overKeys).out.split(QLatin1Char('\n'));
        QVERIFY(keys[1].contains(QStringLiteral(",C3,")) && keys[8].contains(QStringLiteral(",C5,")));
        const Ended json = call(glass({"--json"}));
        QCOMPARE(json.code, 0);
        const auto curve = balance::readCurve(json.out.toStdString());
        QVERIFY(curve);
        QCOMPARE(curve->keys[0].points.size(), std::size_t{8});
        QVERIFY(*curve->keys[0].points.back().heard.loudness >
                *curve->keys[0].points.front().heard.loudness + 15);
        // A chain's id is as good as what moves it; the same call gives the same numbers.
        QStringList byChain = glass({"--json"});
        byChain[4] = QStringLiteral("swell");
        const auto again = balance::readCurve(call(byChain).out.toStdString());
        QVERIFY(again && again->keys == curve->keys);
        QFile document(demoFile);
        QVERIFY(document.open(QIODevice::ReadOnly));
        QStringList piped = glass({"--csv"});
        piped[0] = QStringLiteral("-");
        QCOMPARE(call(piped, document.readAll()).code, 0);
    }

    /// With --level a document in which the chain has one more branch, and takes go along.
    void levelled() {
        QStringList wish{demoFile, "--instrument", "whistles", "--source", "cc 1", "--positions", "24"};
        const Ended ended =
            call(wish + QStringList{"--level", "cc 7", "--goal", "line:-40,-25", "-o", file("out.lever")});
        QCOMPARE(ended.code, 0);
        QVERIFY2(ended.out.contains(QStringLiteral("reaches Volume")), qPrintable(ended.out));
        const auto within =
            QRegularExpression(QStringLiteral("within ([0-9.]+) LU, was ([0-9.]+)")).match(ended.out);
        QVERIFY2(within.hasMatch() && within.captured(1).toDouble() <= 0.5, qPrintable(ended.out));
        const auto text = files::readTextFile(file("out.lever").toStdString());
        const auto made = store::parseEnsemble(*text);
        QVERIFY(made);
        const Chain& top = *findById(findById(made->instruments, "whistles")->chains, "top");
        QCOMPARE(top.branches.size(), std::size_t{3});
        QCOMPARE(top.branches[2].steps[0].kind->name, std::string_view("points"));
        QVERIFY(QFile::exists(file("out.takes")));
        QStringList again = wish + QStringList{"--json"};
        again[0] = file("out.lever");
        const auto curve = balance::readCurve(call(again).out.toStdString());
        QVERIFY(curve);
        const auto mean = balance::meanOf(*curve);
        for (const balance::CurvePoint& each : mean)
            QVERIFY(std::abs(*each.heard.loudness - (-40 + 15 * each.position)) <= 0.6);
        const Ended json = call(wish + QStringList{"--level", "cc 7", "--json", "-o", file("json.lever")});
        const QJsonObject object = QJsonDocument::fromJson(json.out.toUtf8()).object();
        QCOMPARE(object["chain"].toString(), QStringLiteral("top"));
        QVERIFY(object["off"].toDouble() <= 0.5);
        QVERIFY(object["after"].toObject()["keys"].isArray());
        QCOMPARE(object["goal"].toArray().size(), 24);
    }

    /// A sweep that is written knows all that is needed to read its sound.
    void aSweepIsWritten() {
        QCOMPARE(call(glass({"--write-sweep", file("sweep.mid")})).code, 0);
        const auto bytes = files::readFile(file("sweep.mid").toStdString());
        QVERIFY(bytes);
        const auto known = balance::readSweep(*bytes);
        QVERIFY(known);
        QCOMPARE(known->instrument, std::string("glass"));
        QCOMPARE(known->segments.size(), std::size_t{8});
        QVERIFY(known->click.has_value());
        // Its sound may come from anywhere; what is none is refused.
        const Ended none = call(glass({"--wav", file("none.wav"), "--sweep", file("sweep.mid")}));
        QCOMPARE(none.code, 2);
        QVERIFY(none.err.contains(QStringLiteral("none.wav")));
        const Ended notASweep = call(glass({"--wav", demoFile, "--sweep", demoFile}));
        QCOMPARE(notASweep.code, 2);
    }

    void whatCannotBeIsOneSentence_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("words");
        const auto row = [](const char* name, QStringList arguments, const char* words) {
            QTest::newRow(name) << arguments << QString::fromLatin1(words);
        };
        row("no instrument", {demoFile, "--instrument", "none", "--source", "cc 1"}, "none");
        row("no source", {demoFile, "--instrument", "glass", "--source", "hat"}, "nothing that can be moved");
        row("no key", glass({"--keys", "H4"}), "no keys");
        row("a generator", {demoFile, "--instrument", "glass", "--source", "tie line none"},
            "nothing that can be moved");
        row("level without output", glass({"--level", "cc 7"}), "-o OUT.lever");
        row("output without level", glass({"-o", "/tmp/never.lever"}), "--level");
        row("level by what does not", glass({"--level", "vibrato-depth", "-o", "/tmp/never.lever"}),
            "does not change the level");
        row("level by nothing", glass({"--level", "hat", "-o", "/tmp/never.lever"}), "no parameter");
        row("level by a note", glass({"--level", "note 60", "-o", "/tmp/never.lever"}),
            "no level can be set");
        row("a control that is none", glass({"--level", "cc 200", "-o", "/tmp/never.lever"}),
            "no level can be set");
        row("no folder", glass({"--level", "cc 7", "-o", "/tmp/no-such-folder/never.lever"}),
            "no-such-folder");
        row("a sweep of no sound", glass({"--sweep", demoFile}), "--wav");
        row("a sweep and a level",
            glass({"--write-sweep", "/tmp/never.lever", "--level", "cc 7", "-o", "/tmp/never.mid"}),
            "--write-sweep");
        row("a goal of no level", glass({"--goal", "flat"}), "--level");
        row("no goal", glass({"--level", "cc 7", "--goal", "steep", "-o", "/tmp/never.lever"}), "no goal");
        row("over itself", glass({"--level", "cc 7", "-o", demoFile}), "one of the files");
        row("no document", {"/none.lever", "--instrument", "glass", "--source", "cc 1"}, "none.lever");
        row("two forms", glass({"--csv", "--json"}), "");
    }
    void whatCannotBeIsOneSentence() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, words);
        const Ended ended = call(arguments);
        QVERIFY(ended.code != 0);
        QVERIFY(ended.out.isEmpty());
        QVERIFY2(ended.err.contains(words), qPrintable(ended.err));
        QVERIFY(!QFile::exists(QStringLiteral("/tmp/never.lever")));
        QVERIFY(!QFile::exists(QStringLiteral("/tmp/no-such-folder")));
    }
};

QTEST_GUILESS_MAIN(BalanceCallTest)
#include "balance.moc"
