// mellow-lever-cli as a process: what it reads, writes, prints and returns.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/smf/read.h"
#include "core/smf/write.h"
#include "core/store/ensemble_json.h"
#include "core/store/files.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

namespace {

struct Ended {
    int code = -1;
    QString out;
    QString err;
};

Ended run(const QStringList& arguments, const QByteArray& input = {}) {
    QProcess process;
    process.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), arguments);
    process.write(input);
    process.closeWriteChannel();
    if (!process.waitForFinished(60000)) return {};
    return {process.exitCode(), QString::fromUtf8(process.readAllStandardOutput()),
            QString::fromUtf8(process.readAllStandardError())};
}

}  // namespace

class CommandLineTest : public QObject {
    Q_OBJECT

 private slots:
    void init() {
        folder_.emplace();
        Ensemble e = ensemble({instrument("one"), instrument("two", 2)});
        e.instruments[0].name = "First";
        Step glide = step("smooth", {4, 4});
        glide.values[2] = 1;
        e.instruments[0].chains = {chain("c", ccSource(1), {glide}, {branch("expression", 0, 127)})};
        ensemble_ = write("e.lever", store::printEnsemble(e));
    }

    void feedSpeaksLines() {
        const Ended ended =
            run({"feed", ensemble_, "--until", "3000"}, "0 keys B0 01 00\n1500 keys b0 01 7f\n");
        QCOMPARE(ended.code, 0);
        QCOMPARE(
            ended.out,
            QStringLiteral(
                "0 one B0 0B 00\n0 two B1 01 00\n1500 two B1 01 7F\n2000 one B0 0B 20\n3000 one B0 0B 40\n"));
    }

    void feedRefusesABadLineByItsNumber_data() {
        QTest::addColumn<QByteArray>("line");
        for (const char* line :
             {"", "x keys B0 01 00", "5 keys", "5 keys B0 01", "5 keys B0 01 00 00", "5 keys ZZ",
              "5 keys B0 01 80", "5 keys 40", "0 keys F8", "-1 keys F8", "99999999999999999999 keys F8"}) {
            QTest::newRow(line) << QByteArray(line);
        }
    }
    void feedRefusesABadLineByItsNumber() {
        QFETCH(QByteArray, line);
        const Ended ended = run({"feed", ensemble_}, "1 keys B0 01 00\n" + line + "\n");
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains(QLatin1String("line 2")), qPrintable(ended.err));
        QCOMPARE(ended.out, QString());
    }

    void applyWritesATempoTrackAndANamedTrackAnInstrument() {
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, midi(0), "-o", out}).code, 0);
        const auto reading = smf::read(*store::readFile(out.toStdString()));
        QVERIFY(reading);
        QVERIFY(reading->warnings.empty());
        QCOMPARE(reading->file.tracks.size(), std::size_t{3});
        QCOMPARE(lines(reading->file, 0),
                 (QStringList{"0 03 54", "0 51 07 A1 20", "480 06 63 75 65", "480 sysex 7D F7"}));
        // 500,000 µs and 480 ticks a quarter: a millisecond is 0.96 ticks. The wheel moves at 500 ms, tick
        // 480; the points of the grid behind it stand at 480.96, 481.92, 482.88 and 483.84 ticks.
        QCOMPARE(lines(reading->file, 1), (QStringList{"0 03 46 69 72 73 74", "0 B0 0B 00", "481 B0 0B 20",
                                                       "482 B0 0B 40", "483 B0 0B 5F", "484 B0 0B 7F"}));
        QCOMPARE(lines(reading->file, 2), (QStringList{"0 03 74 77 6F", "0 B1 01 00", "480 B1 01 7F"}));
    }

    void applyMergesTracksByTickThenTrackThenPlace() {
        smf::File file;
        file.tracks.resize(3);
        const auto add = [&file](std::size_t track, std::uint64_t tick, const char* message) {
            file.add(file.tracks[track], tick, smf::EventKind::channel, bytes(message));
        };
        add(0, 20, "B0 15 01");
        add(0, 20, "B0 15 02");
        add(1, 10, "B0 15 03");
        add(1, 20, "B0 15 04");
        add(1, 20, "B0 15 05");
        add(2, 0, "B0 15 06");
        add(2, 20, "B0 15 07");
        const auto written = *smf::write(file);
        const QString in = write("three.mid", std::string(written.begin(), written.end()));
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, in, "-o", out, "--instrument", "two"}).code, 0);
        QCOMPARE(lines(smf::read(*store::readFile(out.toStdString()))->file, 1).mid(1),
                 (QStringList{"0 B1 15 06", "10 B1 15 03", "20 B1 15 01", "20 B1 15 02", "20 B1 15 04",
                              "20 B1 15 05", "20 B1 15 07"}));
    }

    void applyTakesOnlyTheInstrumentsNamed() {
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, midi(0), "-o", out, "--instrument", "two"}).code, 0);
        QCOMPARE(smf::read(*store::readFile(out.toStdString()))->file.tracks.size(), std::size_t{2});
        const Ended unknown =
            run({"apply", ensemble_, midi(0), "-o", folder_->filePath("no.mid"), "--instrument", "three"});
        QCOMPARE(unknown.code, 2);
        QVERIFY(unknown.err.contains("three"));
        QVERIFY(!QFile::exists(folder_->filePath("no.mid")));
    }

    void applyWritesOneFileASequence() {
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, midi(2), "-o", out}).code, 0);
        for (const char* name : {"out-1.mid", "out-2.mid"}) {
            const auto reading =
                smf::read(*store::readFile(folder_->filePath(QString::fromLatin1(name)).toStdString()));
            QVERIFY(reading);
            QCOMPARE(reading->file.format, 1);
        }
    }

    void applyListensOnThePortNamed() {
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].input.port = "keys";
        const QString path = write("port.lever", store::printEnsemble(e));
        const auto eventsWith = [&](const QStringList& more) {
            const QString out = folder_->filePath("out.mid");
            run(QStringList{"apply", path, midi(0), "-o", out} + more);
            return lines(smf::read(*store::readFile(out.toStdString()))->file, 1).size();
        };
        QCOMPARE(eventsWith({}), 3);
        QCOMPARE(eventsWith({"--port", "keys"}), 3);
        QCOMPARE(eventsWith({"--port", "pads"}), 1);
    }

    void theSameTwice() {
        const QString demo = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/");
        for (const char* name : {"a.mid", "b.mid"}) {
            QCOMPARE(run({"apply", demo + "tin-observatory.lever", demo + "barometer-falls.mid", "-o",
                          folder_->filePath(QString::fromLatin1(name))})
                         .code,
                     0);
        }
        QVERIFY(*store::readFile(folder_->filePath("a.mid").toStdString()) ==
                *store::readFile(folder_->filePath("b.mid").toStdString()));
    }

    void badInputLeavesNoOutput_data() {
        QTest::addColumn<QString>("ensemble");
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("says");
        QTest::newRow("MIDI is text") << "" << QByteArray("Dear diary") << "byte 0";
        QTest::newRow("MIDI is empty") << "" << QByteArray("") << "the file is empty";
        QTest::newRow("ensemble is newer")
            << R"({"format":"mellow-lever/ensemble","version":2})" << QByteArray() << "version 2";
        QTest::newRow("ensemble is empty") << " " << QByteArray() << "the document is empty";
    }
    void badInputLeavesNoOutput() {
        QFETCH(QString, ensemble);
        QFETCH(QByteArray, content);
        QFETCH(QString, says);
        const QString document = ensemble.isEmpty() ? ensemble_ : write("bad.lever", ensemble.toStdString());
        const QString input = ensemble.isEmpty() ? write("bad.mid", content.toStdString()) : midi(0);
        const QString out = folder_->filePath("out.mid");
        const Ended ended = run({"apply", document, input, "-o", out});
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains(says), qPrintable(ended.err));
        QVERIFY2(ended.err.contains(folder_->path()), qPrintable(ended.err));
        QCOMPARE(ended.err.count('\n'), 1);
        QVERIFY(!QFile::exists(out));
    }

    void aCutMidiFileIsRefused() {
        QFile whole(midi(0));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        const QByteArray all = whole.readAll();
        for (qsizetype cut = 0; cut < all.size(); cut += 5) {
            const QString out = folder_->filePath("out.mid");
            const Ended ended =
                run({"apply", ensemble_, write("cut.mid", all.left(cut).toStdString()), "-o", out});
            QCOMPARE(ended.code, 2);
            QVERIFY2(ended.err.contains("byte "), qPrintable(ended.err));
            QVERIFY(!QFile::exists(out));
        }
    }

    void anExistingOutputIsNotTouchedByAFailure() {
        const QString out = write("out.mid", "precious");
        QCOMPARE(run({"apply", ensemble_, write("bad.mid", "no"), "-o", out}).code, 2);
        QCOMPARE(*store::readTextFile(out.toStdString()), std::string("precious"));
    }

    void checkCountsTroubleNotNotes() {
        QCOMPARE(run({"check", ensemble_}).code, 0);
        Ensemble e = ensemble({instrument("one"), instrument("two")});
        const Ended noted = run({"check", write("note.lever", store::printEnsemble(e))});
        QCOMPARE(noted.code, 0);
        QVERIFY2(noted.out.startsWith(QLatin1String("note: two: ")), qPrintable(noted.out));
        e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("gone", 0, 127)})};
        const Ended troubled = run({"check", write("trouble.lever", store::printEnsemble(e))});
        QCOMPARE(troubled.code, 1);
        QVERIFY2(troubled.out.startsWith(QLatin1String("trouble: one, c, branch 1: ")),
                 qPrintable(troubled.out));
        QCOMPARE(run({"check", "/nowhere.lever"}).code, 2);
    }

    void describeSaysEachChain() {
        const Ended ended = run({"describe", ensemble_});
        QCOMPARE(ended.code, 0);
        QCOMPARE(ended.out,
                 QStringLiteral("First, c: Mod wheel, smoothed over 4 ms, reaches expression 0–127.\n"));
    }

    void usageErrorsAreBadInput() {
        QCOMPARE(run({}).code, 2);
        QCOMPARE(run({"sing"}).code, 2);
        QCOMPARE(run({"apply", ensemble_}).code, 2);
        QCOMPARE(run({"--help"}).code, 0);
    }

 private:
    QString write(const char* name, const std::string& text) {
        const QString path = folder_->filePath(QString::fromLatin1(name));
        (void)store::writeFile(path.toStdString(), text);
        return path;
    }

    /// A small file: a name, a tempo, a marker, a SysEx, and the wheel at its ends.
    QString midi(int format) {
        smf::File file;
        file.tracks.resize(1);
        smf::Track& track = file.tracks[0];
        file.add(track, 0, smf::EventKind::meta, bytes("54"), smf::trackName);
        file.add(track, 0, smf::EventKind::meta, bytes("07 A1 20"), smf::tempo);
        file.add(track, 0, smf::EventKind::channel, bytes("B0 01 00"));
        file.add(track, 480, smf::EventKind::meta, bytes("63 75 65"), 0x06);
        file.add(track, 480, smf::EventKind::sysex, bytes("7D F7"));
        file.add(track, 480, smf::EventKind::channel, bytes("B0 01 7F"));
        if (format == 2) file.tracks.push_back(file.tracks[0]);
        auto written = *smf::write(file);
        written[9] = static_cast<std::uint8_t>(format);
        return write("in.mid", std::string(written.begin(), written.end()));
    }

    static QStringList lines(const smf::File& file, std::size_t track) {
        QStringList texts;
        for (const smf::Event& event : file.tracks[track].events) {
            const QString kind =
                event.kind == smf::EventKind::meta
                    ? QStringLiteral("%1 ").arg(file.metaType(event), 2, 16, QLatin1Char('0')).toUpper()
                : event.kind == smf::EventKind::sysex ? QStringLiteral("sysex ")
                                                      : QString();
            texts << QStringLiteral("%1 %2%3")
                         .arg(event.tick)
                         .arg(kind, QString::fromStdString(midi::toHex(file.body(event))));
        }
        return texts;
    }

    std::optional<QTemporaryDir> folder_;
    QString ensemble_;
};

QTEST_GUILESS_MAIN(CommandLineTest)
#include "command_line.moc"
