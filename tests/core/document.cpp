// The ensemble document: what is kept, what is refused, and how a save happens.
#include <rapidcheck.h>
#include <sys/stat.h>
#include <unistd.h>
#include <QDir>
#include <QTemporaryDir>
#include <QtTest>

#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;

namespace {

const char* const smallest = R"({"format":"mellow-lever/ensemble","version":1,"title":"T","instruments":[)";

QString refusal(const std::string& text) {
    const auto result = store::parseEnsemble(text);
    return result ? QStringLiteral("(loaded)") : QString::fromStdString(result.problem().sentence());
}

/// JSON as it is easier to write in code.
std::string inDoubleQuotes(std::string text) {
    std::replace(text.begin(), text.end(), '\'', '"');
    return text;
}

}  // namespace

class DocumentTest : public QObject {
    Q_OBJECT

 private slots:
    /// 64 MB are read, one byte more is refused before anything is made of it.
    void aDocumentHasALargestSize() {
        std::string text(std::size_t{64} << 20, ' ');
        text[0] = '[';
        const auto largest = store::parseEnsemble(text);
        QVERIFY(!largest && largest.problem().sentence().find("larger than") == std::string::npos);
        text += ' ';
        const auto larger = store::parseEnsemble(text);
        QVERIFY(!larger && larger.problem().sentence().find("larger than 64 MB") != std::string::npos);
    }

    void roundTrip() {
        QVERIFY(rc::check("print then parse", [] {
            test::RandomWorld world(
                *rc::gen::noShrink(rc::gen::resize(1000, rc::gen::arbitrary<std::uint32_t>())));
            const Ensemble ensemble = world.ensemble();
            const std::string text = store::printEnsemble(ensemble);
            const auto again = store::parseEnsemble(text);
            RC_ASSERT(static_cast<bool>(again));
            RC_ASSERT(*again == ensemble);
            RC_ASSERT(store::printEnsemble(*again) == text);
        }));
    }

    void unknownKeysSurvive() {
        std::string text = smallest;
        text += R"({"id":"a","output":{"port":"p","channel":1,"later":[1,{"x":null}]},"parameters":[
            {"id":"p","message":{"kind":"cc","number":1,"m":1},"display":{"tint":"blue"},"q":true}],
            "chains":[{"id":"c","source":{"kind":"lfo","shape":"drift","hz":0.5,"seed":7},"colour":"mint",
              "steps":[{"kind":"levels","count":4,"names":["a","b"]},{"kind":"bend","amount":0.5,"why":"x"}],
              "fan":{"mode":"chosen","by":{"kind":"cc","number":3}},
              "branches":[{"target":"p","low":0,"high":1,"window":{"low":0,"high":1,"soft":2}}]}]}],"theme":{"a":1}})";
        const auto ensemble = store::parseEnsemble(text);
        QVERIFY2(ensemble, qPrintable(refusal(text)));
        const QString printed = QString::fromStdString(store::printEnsemble(*ensemble)).simplified();
        for (const char* kept :
             {"\"later\": [ 1, { \"x\": null } ]", "\"tint\": \"blue\"", "\"shape\": \"drift\"",
              "\"seed\": 7", "\"count\": 4", "\"names\": [\"a\", \"b\"]", "\"why\": \"x\"",
              "\"colour\": \"mint\"", "\"soft\": 2", "\"m\": 1", "\"mode\": \"chosen\"",
              "\"theme\": { \"a\": 1 }"}) {
            QVERIFY2(printed.contains(QLatin1String(kept)), kept);
        }
    }

    void refused_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        const QString head = QString::fromLatin1(smallest);
        const QString instrument =
            head +
            R"({"id":"a","output":{"port":"p","channel":1},"parameters":[{"id":"x","message":{"kind":"cc","number":1}}],"chains":[%1]}]})";
        QTest::newRow("empty") << ""
                               << "line 1: the document is empty";
        QTest::newRow("blank") << " \n\t"
                               << "the document is empty";
        QTest::newRow("truncated") << head + "{"
                                   << "the document ends before it is complete";
        QTest::newRow("not JSON") << "format: lever"
                                  << "line 1: this is not JSON";
        QTest::newRow("another format") << R"({"format":"other","version":1})"
                                        << "format: expected \"mellow-lever/ensemble\"";
        QTest::newRow("a list") << "[]"
                                << "expected an ensemble, found a list";
        QTest::newRow("newer")
            << R"({"format":"mellow-lever/ensemble","version":2,"title":"","instruments":[]})"
            << "version: the document is of version 2 and this Mellow Lever reads version 1";
        QTest::newRow("no version") << R"({"format":"mellow-lever/ensemble"})"
                                    << "\"version\" is missing";
        QTest::newRow("no title") << R"({"format":"mellow-lever/ensemble","version":1,"instruments":[]})"
                                  << "\"title\" is missing";
        QTest::newRow("wrong type")
            << instrument.arg(R"({"id":"c","on":"yes","source":{"kind":"cc","number":1},"branches":[]})")
            << "instruments[0].chains[0].on: expected true or false, found the text \"yes\"";
        QTest::newRow("fraction of a number")
            << instrument.arg(R"({"id":"c","source":{"kind":"cc","number":1.5},"branches":[]})")
            << "source.number: expected a whole number, found the number 1.5";
        QTest::newRow("no source") << instrument.arg(R"({"id":"c","branches":[]})")
                                   << "instruments[0].chains[0]: \"source\" is missing";
        QTest::newRow("unknown step")
            << instrument.arg(
                   R"({"id":"c","source":{"kind":"cc","number":1},"steps":[{"kind":"wobble"}],"branches":[]})")
            << "instruments[0].chains[0].steps[0].kind: unknown step \"wobble\"; use one of window, reverse";
        QTest::newRow("unknown source")
            << instrument.arg(R"({"id":"c","source":{"kind":"theremin"},"branches":[]})")
            << "unknown source \"theremin\"";
        QTest::newRow("a point of three")
            << instrument.arg(
                   R"({"id":"c","source":{"kind":"cc","number":1},"steps":[{"kind":"points","points":[[0,0,0]]}],"branches":[]})")
            << "steps[0].points[0]: expected a point [x, y]";
        QTest::newRow("huge number") << head.left(head.size() - 1) + "1e999]}"
                                     << "a number is too large";
        QTest::newRow("deep") << QString(100000, QLatin1Char('[')) << "nested deeper";
        QTest::newRow("a broken letter") << QStringLiteral("{\"format\": \"\\ud800\"}") << "this is not JSON";
    }
    void refused() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        const QString sentence = refusal(text.toStdString());
        QVERIFY2(sentence.contains(says), qPrintable(sentence));
    }

    void everyCutIsRefusedPlainly() {
        const QByteArray demo = test::sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
        const std::string whole(demo.constData(), static_cast<std::size_t>(demo.size()));
        for (std::size_t cut = 0; cut + 2 < whole.size(); cut += 7) {
            const auto result = store::parseEnsemble(whole.substr(0, cut));
            QVERIFY(!result);
            QVERIFY(!result.problem().where.empty());
        }
    }

    void theDemoIsAsPrinted() {
        const QByteArray demo = test::sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
        const auto ensemble = store::parseEnsemble({demo.constData(), static_cast<std::size_t>(demo.size())});
        QVERIFY(ensemble);
        QCOMPARE(QByteArray::fromStdString(store::printEnsemble(*ensemble)), demo);
        QCOMPARE(ensemble->instruments.size(), std::size_t{6});
        QCOMPARE(ensemble->controllers.size(), std::size_t{4});
    }

    void saveReplacesInOneStep() {
        const QTemporaryDir folder;
        const std::string path = folder.filePath(QStringLiteral("a.lever")).toStdString();
        QVERIFY(files::writeFile(path, "one"));
        ::chmod(path.c_str(), 0640);
        QVERIFY(files::writeFile(path, "two"));
        QCOMPARE(*files::readTextFile(path), std::string("two"));
        struct stat status {};
        ::stat(path.c_str(), &status);
        QCOMPARE(status.st_mode & 0777, 0640u);
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1);
    }

    void saveFollowsALink() {
        const QTemporaryDir folder;
        const std::string real = folder.filePath(QStringLiteral("real.lever")).toStdString();
        const std::string link = folder.filePath(QStringLiteral("link.lever")).toStdString();
        QVERIFY(files::writeFile(real, "one"));
        QCOMPARE(::symlink(real.c_str(), link.c_str()), 0);
        QVERIFY(files::writeFile(link, "two"));
        QCOMPARE(*files::readTextFile(real), std::string("two"));
        QVERIFY(QFileInfo(QString::fromStdString(link)).isSymLink());
    }

    void aFolderThatCannotBeWrittenKeepsTheOldFile() {
        QTemporaryDir folder;
        const std::string path = folder.filePath(QStringLiteral("a.lever")).toStdString();
        QVERIFY(files::writeFile(path, "one"));
        ::chmod(folder.path().toStdString().c_str(), 0555);
        // Rights do not hold root back, so become somebody else for a moment.
        const bool isRoot = ::geteuid() == 0;
        if (isRoot) QCOMPARE(::seteuid(65534), 0);
        const auto saved = files::writeFile(path, "two");
        if (isRoot) QCOMPARE(::seteuid(0), 0);
        ::chmod(folder.path().toStdString().c_str(), 0755);
        QVERIFY(!saved);
        const QString sentence = QString::fromStdString(saved.problem().sentence());
        QVERIFY2(sentence.contains(QLatin1String("cannot be saved here")) &&
                     sentence.contains(QString::fromStdString(path)),
                 qPrintable(sentence));
        QCOMPARE(*files::readTextFile(path), std::string("one"));
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1);
    }

    void aMissingFileIsNamed() {
        const auto text = files::readTextFile("/nowhere/at/all.lever");
        QVERIFY(!text);
        QVERIFY(text.problem().sentence().find("/nowhere/at/all.lever") != std::string::npos);
        QVERIFY(!files::readTextFile("/tmp"));
    }

    void whatIsLeftOutMeansWhatTheFormatSays() {
        const auto valuesOf = [](const std::string& thing, const std::string& key) {
            const std::string members = key == "source" ? "'source':" : "'source':{'kind':'bend'},'steps':[";
            const auto ensemble = store::parseEnsemble(
                inDoubleQuotes(
                    "{'format':'mellow-lever/ensemble','version':1,'title':'T','instruments':[{'id':'i',"
                    "'output':{'port':'p','channel':1},'parameters':[],"
                    "'chains':[{'id':'c','branches':[]," +
                    members) +
                thing + (key == "source" ? "}]}]}" : "]}]}]}"));
            const Chain& chain = (*ensemble).instruments[0].chains[0];
            return key == "source" ? chain.source.values : chain.steps[0].values;
        };
        using Values = std::vector<FieldValue>;
        const std::vector<std::pair<const char*, Values>> steps{
            {"window", {0.0, 1.0}},
            {"reverse", {}},
            {"bend", {0.0}},
            {"sCurve", {0.0}},
            {"points", {std::vector<Point>{{0, 0}, {1, 1}}, 0}},
            {"restAt", {0.5, 0.5}},
            {"deadZone", {0.5, 0.1}},
            {"levels", {3.0, 0.1, std::vector<std::string>{}}},
            {"gate", {0.5, 0.02}},
            {"latch", {}},
            {"hold", {0}},
            {"smooth", {20.0, 20.0, 0}},
            {"scale", {1.0, 0.0}},
            {"thin", {0.0, 0.0}},
        };
        for (const auto& [kind, values] : steps)
            QVERIFY2(valuesOf("{\"kind\":\"" + std::string(kind) + "\"}", "step") == values, kind);
        const std::vector<std::pair<const char*, Values>> sources{
            {"{'kind':'lfo'}", {0, 1.0, 0.0, 0.0, 0, 1.0}},
            {"{'kind':'envelope'}", {50.0, 0.0, 200.0, 0.7, 300.0}},
            {"{'kind':'walk'}", {8.0, 0.1, 1.0}},
            {"{'kind':'relative','number':1}", {0, 1.0}},
        };
        for (const auto& [text, values] : sources)
            QVERIFY2(valuesOf(inDoubleQuotes(text), "source") == values, text);
        const auto whole = store::parseEnsemble(inDoubleQuotes(
            "{'format':'mellow-lever/"
            "ensemble','version':1,'title':'T','instruments':[{'id':'i','output':{'port':'p',"
            "'channel':1},'parameters':[{'id':'n','message':{'kind':'note','number':1}}],'chains':[{'id':'c',"
            "'source':{'kind':'program'},'branches':[{'target':'n','low':0,'high':1,'window':{}}]}]}]}"));
        const Instrument& instrument = (*whole).instruments[0];
        QVERIFY(instrument.on && instrument.pass == Pass{} && instrument.input == Input{});
        QVERIFY(instrument.pass.notes && instrument.pass.unmatched && !instrument.pass.sysex &&
                !instrument.pass.clock);
        QCOMPARE(instrument.input.lowKey, 0);
        QCOMPARE(instrument.input.highKey, 127);
        QCOMPARE(instrument.parameters[0].message.velocity, 100);
        QVERIFY(instrument.parameters[0].mix == Mix::latest && !instrument.parameters[0].repeats);
        const Chain& chain = instrument.chains[0];
        QVERIFY(chain.on && chain.active == Active::always && !chain.keepOriginal && !chain.handover);
        QCOMPARE(chain.source.number, anyNumber);
        QCOMPARE(chain.branches[0].window->low, 0.0);
        QCOMPARE(chain.branches[0].window->high, 1.0);
        QVERIFY(chain.branches[0].window->outside == Outside::clamp);
        QCOMPARE((*whole).tempo.bpm, 120.0);
        QVERIFY((*whole).tempo.follow == Follow::none && (*whole).tempo.port == "any");
        QVERIFY(!(*whole).inHand);
    }

    void aFileThatCannotTakeItsPlaceLeavesNothingBehind() {
        const QTemporaryDir folder;
        const QString path = folder.filePath(QStringLiteral("a.lever"));
        {
            auto file = files::NewFile::open(path.toStdString());
            QVERIFY(file);
            QVERIFY(file->write(test::bytes("41 42")));
            QVERIFY(file->finish());
            // Somebody makes a folder of that name meanwhile.
            QVERIFY(QDir(folder.path()).mkdir(QStringLiteral("a.lever")));
            const auto committed = file->commit();
            QVERIFY(!committed);
            QVERIFY(committed.problem().sentence().find("cannot be saved here") != std::string::npos);
        }
        QCOMPARE(QDir(folder.path()).entryList(QDir::AllEntries | QDir::NoDotAndDotDot),
                 QStringList{"a.lever"});
    }

    void tempoAndEncodersOfControllersSurviveARoundTrip() {
        Ensemble ensemble = test::ensemble({test::instrument()});
        ensemble.tempo = {90.5, Follow::clock, "keys", {}};
        Message knob;
        knob.kind = MessageKind::relative;
        knob.number = 20;
        knob.values = {2, 3.0};
        ensemble.controllers = {{"desk", "Desk", "desk", {{"knob", "", knob, Rest::middle, {}}}, {}, {}, {}}};
        const std::string text = store::printEnsemble(ensemble);
        QVERIFY(text.find("\"follow\": \"clock\"") != std::string::npos);
        QVERIFY(text.find("\"encoding\": \"sign\"") != std::string::npos);
        QVERIFY(*store::parseEnsemble(text) == ensemble);
        // No instrument listens to an encoder.
        std::string asParameter = text;
        asParameter.replace(asParameter.find("\"kind\": \"cc\""), 12, "\"kind\": \"relative\"");
        QVERIFY(store::parseEnsemble(asParameter).problem().sentence().find("unknown message") !=
                std::string::npos);
    }
};

QTEST_APPLESS_MAIN(DocumentTest)
#include "document.moc"
