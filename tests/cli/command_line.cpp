// mellow-lever-cli as a process: what it reads, writes, prints and returns.
#include <fcntl.h>
#include <unistd.h>

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>

#include "core/files/files.h"
#include "core/smf/read.h"
#include "core/smf/write.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/process.h"

using namespace mellow;
using namespace mellow::test;

namespace {

Raw raw(const QStringList& arguments, const QByteArray& input = {}) {
    return runRaw(commandLine(), arguments, input);
}

Ended run(const QStringList& arguments, const QByteArray& input = {}) {
    return test::run(commandLine(), arguments, input);
}

QByteArray contentOf(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
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

    /// A pipe that stays open is answered line by line, while the writer waits for the answer.
    void feedAnswersEachLineAsItComes() {
        QProcess process;
        process.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), {"feed", "--live", ensemble_});
        const auto answerTo = [&process](const char* line, int lines) {
            process.write(line);
            QByteArray answer;
            (void)QTest::qWaitFor(
                [&] {
                    answer += process.readAllStandardOutput();
                    return answer.count('\n') >= lines;
                },
                10000);
            return QString::fromUtf8(answer);
        };
        const QString whole = run({"feed", ensemble_}, "0 keys B0 01 00\n1500 keys b0 01 7f\n").out;
        const QString first = run({"feed", ensemble_}, "0 keys B0 01 00\n").out;
        const auto count = [](const QString& text) { return static_cast<int>(text.count('\n')); };
        QVERIFY(!first.isEmpty());
        QCOMPARE(answerTo("0 keys B0 01 00\n", count(first)), first);
        process.write("nonsense\n");
        QCOMPARE(first + answerTo("1500 keys B0 01 7F\n", count(whole) - count(first)), whole);
        process.closeWriteChannel();
        QVERIFY(ends(process, 10000));
        QCOMPARE(process.exitCode(), 2);
        QVERIFY(process.readAllStandardError().contains("standard input, line 2: expected a time"));
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
        const auto reading = smf::read(*files::readFile(out.toStdString()));
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
        QCOMPARE(lines(smf::read(*files::readFile(out.toStdString()))->file, 1).mid(1),
                 (QStringList{"0 B1 15 06", "10 B1 15 03", "20 B1 15 01", "20 B1 15 02", "20 B1 15 04",
                              "20 B1 15 05", "20 B1 15 07"}));
    }

    void applyTakesOnlyTheInstrumentsNamed() {
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, midi(0), "-o", out, "--instrument", "two"}).code, 0);
        QCOMPARE(smf::read(*files::readFile(out.toStdString()))->file.tracks.size(), std::size_t{2});
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
                smf::read(*files::readFile(folder_->filePath(QString::fromLatin1(name)).toStdString()));
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
            return lines(smf::read(*files::readFile(out.toStdString()))->file, 1).size();
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
        QVERIFY(*files::readFile(folder_->filePath("a.mid").toStdString()) ==
                *files::readFile(folder_->filePath("b.mid").toStdString()));
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
        QCOMPARE(*files::readTextFile(out.toStdString()), std::string("precious"));
    }

    void anOutputThatIsAnInputIsRefused() {
        const QString in = midi(0);
        const QByteArray before = contentOf(in);
        const QString link = folder_->filePath("link.mid");
        QVERIFY(QFile::link(in, link));
        for (const QString& out : {in, link, ensemble_}) {
            const Ended ended = run({"apply", ensemble_, in, "-o", out});
            QCOMPARE(ended.code, 2);
            QVERIFY2(ended.err.contains("is one of the files that are read"), qPrintable(ended.err));
        }
        QCOMPARE(contentOf(in), before);
        // A format-2 file's outputs have names of their own, and these count.
        const QString sequences = write("in-1.mid", contentOf(midi(2)).toStdString());
        QCOMPARE(run({"apply", ensemble_, sequences, "-o", folder_->filePath("in.mid")}).code, 2);
    }

    void linksDevicesAndPipesAreWrittenThrough() {
        const QString in = midi(0);
        const QString dangling = folder_->filePath("dangling.mid");
        QVERIFY(QFile::link(folder_->filePath("made.mid"), dangling));
        QCOMPARE(run({"apply", ensemble_, in, "-o", dangling}).code, 0);
        QVERIFY(QFileInfo(dangling).isSymLink());
        const QByteArray whole = contentOf(folder_->filePath("made.mid"));
        QVERIFY(whole.startsWith("MThd"));
        QCOMPARE(run({"apply", ensemble_, in, "-o", "/dev/null"}).code, 0);
        QVERIFY(!QFileInfo(QStringLiteral("/dev/null")).isFile());
        const QString pipe = folder_->filePath("pipe");
        QCOMPARE(QProcess::execute(QStringLiteral("mkfifo"), {pipe}), 0);
        // A reader that is there before anybody writes.
        const int reader = ::open(pipe.toLocal8Bit().constData(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
        QVERIFY(reader >= 0);
        QCOMPARE(run({"apply", ensemble_, in, "-o", pipe}).code, 0);
        QByteArray came(whole.size() + 1, '\0');
        came.resize(::read(reader, came.data(), static_cast<std::size_t>(came.size())));
        ::close(reader);
        QCOMPARE(came, whole);
        QVERIFY(!QFileInfo(pipe).isFile());
    }

    /// A pipe or a device where a file is read would be waited for, for ever.
    void whatIsNoFileIsNotRead() {
        const QString pipe = folder_->filePath("waiting");
        QCOMPARE(QProcess::execute(QStringLiteral("mkfifo"), {pipe}), 0);
        const QString out = folder_->filePath("out.mid");
        for (const QStringList& words : {QStringList{"check", pipe},
                                         {"describe", pipe},
                                         {"takes", pipe},
                                         {"feed", pipe},
                                         {"apply", pipe, midi(0), "-o", out},
                                         {"apply", ensemble_, pipe, "-o", out},
                                         {"check", "/dev/zero"},
                                         {"check", folder_->path()}}) {
            const Ended ended = run(words);
            QCOMPARE(ended.code, 2);
            QCOMPARE(ended.err.count('\n'), 1);
            QVERIFY2(ended.err.contains(words.contains(pipe) ? pipe : words.last()), qPrintable(ended.err));
            QVERIFY(!QFile::exists(out));
        }
    }

    void aNameThatSaysNothingIsRefused() {
        const Ended ended = run({"apply", ensemble_, midi(0), "-o", ""});
        QCOMPARE(ended.code, 2);
        QCOMPARE(ended.err.count('\n'), 1);
        for (const char* until : {"", "1e3", "-1", "99999999999999999999", "9223372036854775807", "12x"}) {
            const Ended refused = run({"feed", ensemble_, "--until", until});
            QCOMPARE(refused.code, 2);
            QVERIFY2(refused.err.contains("--until"), qPrintable(refused.err));
        }
    }

    /// Whoever reads the first line only does not have to wait for the last one.
    void feedEndsWhenNobodyReads() {
        Ensemble endless = ensemble({instrument("one")});
        endless.instruments[0].chains = {
            chain("c", makeSource(SourceKind::lfo), {}, {branch("expression", 0, 127)})};
        const QString document = write("endless.lever", store::printEnsemble(endless));
        QProcess shell;
        shell.start(
            QStringLiteral("sh"),
            {QStringLiteral("-c"),
             QStringLiteral("printf '0 keys 90 3C 40\\n' | '%1' feed '%2' --until 1000000000000000 | head -1")
                 .arg(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), document)});
        QVERIFY(ends(shell));
        QCOMPARE(shell.readAllStandardOutput().count('\n'), 1);
    }

    /// Without standard streams the first file that is opened has the number of one of them.
    void standardStreamsMayBeClosed() {
        const QString out = folder_->filePath("closed.mid");
        const QString command =
            QStringLiteral("'%1' apply '%2' '%3' -o '%4' <&-")
                .arg(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), ensemble_, midi(0), out);
        QCOMPARE(QProcess::execute(QStringLiteral("sh"), {QStringLiteral("-c"), command}), 0);
        QVERIFY(contentOf(out).startsWith("MThd"));
    }

    void standardStreamsAreFiles() {
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, midi(0), "-o", out}).code, 0);
        QCOMPARE(raw({"apply", ensemble_, "-", "-o", "-"}, contentOf(midi(0))).out, contentOf(out));
        QCOMPARE(run({"check", "-"}, contentOf(ensemble_)).code, 0);
        QVERIFY(run({"apply", "-", "-", "-o", out}).err.contains("cannot both come from it"));
        QVERIFY(run({"feed", "-"}).err.contains("cannot both come from it"));
        QVERIFY(
            run({"apply", ensemble_, midi(2), "-o", "-"}).err.contains("a file for each of its sequences"));
        QVERIFY(run({"check", "-"}, "{").err.startsWith("standard input, line 1: "));
    }

    void aWriteThatFailsIsAnError_data() {
        QTest::addColumn<QString>("call");
        QTest::newRow("feed") << "echo '0 k B0 02 01' | \"$0\" feed \"$1\" > /dev/full";
        QTest::newRow("describe") << "\"$0\" describe \"$1\" > /dev/full";
        QTest::newRow("check") << "\"$0\" check --json \"$1\" > /dev/full";
        QTest::newRow("apply") << "\"$0\" apply \"$1\" \"$2\" -o /dev/full";
        QTest::newRow("apply to stdout") << "\"$0\" apply \"$1\" \"$2\" -o - > /dev/full";
        QTest::newRow("a reader that is gone")
            << "exec 3> >(exit); wait $!; \"$0\" apply \"$1\" \"$2\" -o - >&3; exit $?";
    }
    void aWriteThatFailsIsAnError() {
        QFETCH(QString, call);
        QProcess shell;
        shell.start(QStringLiteral("bash"),
                    {QStringLiteral("-c"), call, QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"),
                     ensemble_, midi(0)});
        QVERIFY(ends(shell));
        const QString err = QString::fromUtf8(shell.readAllStandardError());
        QCOMPARE(shell.exitCode(), 2);
        QCOMPARE(err.count('\n'), 1);
    }

    void sequencesAreWrittenAllOrNone() {
        const QString in = midi(2);
        QVERIFY(QDir(folder_->path()).mkdir(QStringLiteral("out-2.mid")));
        const Ended ended = run({"apply", ensemble_, in, "-o", folder_->filePath("out.mid")});
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains("out-2.mid"), qPrintable(ended.err));
        QVERIFY(!QFile::exists(folder_->filePath("out-1.mid")));
        QCOMPARE(QDir(folder_->path()).entryList({QStringLiteral("out-1*")}).size(), 0);
    }

    void whatAFileMayCostIsBounded() {
        // One event at the latest tick there is, at the slowest tempo: 142 years.
        smf::File file;
        file.division.ticksPerQuarter = 1;
        file.tracks.resize(1);
        file.add(file.tracks[0], 0, smf::EventKind::meta, bytes("FF FF FF"), smf::tempo);
        file.add(file.tracks[0], 0x0FFFFFFF, smf::EventKind::channel, bytes("90 3C 40"));
        const auto written = *smf::write(file);
        const QString in = write("long.mid", std::string(written.begin(), written.end()));
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", ensemble_, in, "-o", out}).code, 0);
        QFile::remove(out);
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].chains = {
            chain("c", makeSource(SourceKind::lfo), {}, {branch("expression", 0, 127)})};
        const Ended ended = run({"apply", write("lfo.lever", store::printEnsemble(e)), in, "-o", out});
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains("it lasts 1250999 hours"), qPrintable(ended.err));
        QVERIFY(!QFile::exists(out));
    }

    void theClockRunsTenSecondsBehindTheEndAndNoGridPointMore() {
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].chains = {
            chain("c", makeSource(SourceKind::lfo), {}, {branch("expression", 0, 127)})};
        e.instruments[0].parameters[0].repeats = true;
        smf::File file;
        file.tracks.resize(1);
        file.tracks[0].endTick = 1;  // 1041 µs
        const auto written = *smf::write(file);
        const QString out = folder_->filePath("out.mid");
        QCOMPARE(run({"apply", write("lfo.lever", store::printEnsemble(e)),
                      write("short.mid", std::string(written.begin(), written.end())), "-o", out})
                     .code,
                 0);
        // The last grid point is that at 10,001 ms, tick 9600.96; and one event a grid point, from 0 on.
        const auto reading = smf::read(*files::readFile(out.toStdString()));
        QCOMPARE(std::uint64_t{reading->file.tracks[1].events.back().tick}, std::uint64_t{9601});
    }

    void sysExGoesToWhoPassesItWholeOrInPackets() {
        Ensemble e = ensemble({instrument("one"), instrument("two", 2)});
        e.instruments[1].pass.sysex = true;
        smf::File file;
        file.tracks.resize(1);
        smf::Track& track = file.tracks[0];
        file.add(track, 0, smf::EventKind::sysex, bytes("7D 01 F7"));
        file.add(track, 5, smf::EventKind::sysex, bytes("7D 02"));
        file.add(track, 6, smf::EventKind::escape, bytes("03"));
        file.add(track, 7, smf::EventKind::escape, bytes("04 F7"));
        file.add(track, 8, smf::EventKind::escape, bytes("F3 01"));
        const auto written = *smf::write(file);
        const QString in = write("sysex.mid", std::string(written.begin(), written.end()));
        const QString out = folder_->filePath("out.mid");
        const auto tracksOf = [&] {
            run({"apply", write("sysex.lever", store::printEnsemble(e)), in, "-o", out});
            const auto reading = smf::read(*files::readFile(out.toStdString()));
            return std::array{lines(reading->file, 0), lines(reading->file, 1).mid(1),
                              lines(reading->file, 2).mid(1)};
        };
        const QStringList packets{"0 sysex 7D 01 F7", "5 sysex 7D 02", "6 03", "7 04 F7"};
        QCOMPARE(tracksOf(), (std::array{QStringList{"8 F3 01"}, QStringList{}, packets}));
        e.instruments[1].pass.sysex = false;
        QCOMPARE(tracksOf(), (std::array{packets + QStringList{"8 F3 01"}, QStringList{}, QStringList{}}));
    }

    void thePauseBeforeTheEndSurvives() {
        smf::File file;
        file.tracks.resize(1);
        file.add(file.tracks[0], 10, smf::EventKind::channel, bytes("90 3C 40"));
        file.tracks[0].endTick = 5000;
        const auto written = *smf::write(file);
        const QString out = folder_->filePath("out.mid");
        run({"apply", ensemble_, write("pause.mid", std::string(written.begin(), written.end())), "-o", out});
        const auto reading = smf::read(*files::readFile(out.toStdString()));
        for (const smf::Track& track : reading->file.tracks) QCOMPARE(track.endTick, std::uint64_t{5000});
    }

    void aPortThatNobodyNamesIsToldOf() {
        const QString out = folder_->filePath("out.mid");
        const Ended ended = run({"apply", ensemble_, midi(0), "-o", out, "--port", "attic"});
        QCOMPARE(ended.code, 0);
        QVERIFY2(ended.err.contains("nothing in it listens on a port \"attic\""), qPrintable(ended.err));
        QCOMPARE(run({"apply", ensemble_, midi(0), "-o", out}).err, QString());
    }

    void whatAFileSaysIsPrintable() {
        const std::string id = "one\n\x1b[31m" + std::string(1000000, 'x');
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].id = id;
        e.instruments[0].chains = {chain("c\nd", ccSource(1), {}, {branch("gone\x07", 0, 127)})};
        const QString path = write("odd.lever", store::printEnsemble(e));
        for (const char* call : {"check", "describe"}) {
            const Ended ended = run({call, path});
            QVERIFY(ended.out.size() < 10000);
            QVERIFY2(!ended.out.contains(QChar(0x1b)) && !ended.out.contains(QChar(7)),
                     qPrintable(ended.out));
            QVERIFY2(ended.out.contains("one\\n\\x1B[31mxxx"), qPrintable(ended.out));
        }
        QVERIFY(run({"check", path}).out.contains("which is not one word"));
        const Ended fed = run({"feed", path}, "0 k B0 02 01\n");
        QCOMPARE(fed.out.count('\n'), 1);
        QCOMPARE(fed.out.split(' ').size(), 5);
    }

    void complaintsNameTheLineAndThePath_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("says");
        const QByteArray head =
            "{\"format\": \"mellow-lever/ensemble\",\n\"version\": 1,\n\"title\": \"T\",\n";
        QTest::newRow("a number too large") << head + "\"instruments\": [],\n\"x\": 1e999\n}"
                                            << "line 5: a number is too large";
        QTest::newRow("a value of the wrong type")
            << head + "\"instruments\": [\n{\"id\":\n7}]}"
            << "line 6, instruments[0].id: expected text, found the number 7";
        QTest::newRow("a number that ends its line") << head + "\"inHand\":\n7\n,\"instruments\": []}"
                                                     << "line 5, inHand: expected a list";
        QTest::newRow("what is missing") << head + "\"instruments\": [\n\n{}]}"
                                         << "line 6, instruments[0]: \"id\" is missing";
        QTest::newRow("half a character")
            << head + "\"instruments\": \"" + QByteArray(39, 'x') + "\xC3\xA4\xC3\xA4\"}"
            << QStringLiteral("line 4, instruments: expected a list, found the text \"%1…%2ää\"")
                   .arg(QString(27, 'x'), QString(11, 'x'));
        QTest::newRow("cut off") << head << "line 3: the document ends before it is complete";
        QTest::newRow("nested") << head + "\"x\": " + QByteArray(100000, '[') << "nested deeper";
    }
    void complaintsNameTheLineAndThePath() {
        QFETCH(QByteArray, text);
        QFETCH(QString, says);
        const QString path = write("bad.lever", text.toStdString());
        const Ended ended = run({"check", path});
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains(says), qPrintable(ended.err));
        QVERIFY2(ended.err.startsWith(path + ", "), qPrintable(ended.err));
        QCOMPARE(ended.err.count('\n'), 1);
    }

    void checkSpeaksToProgramsToo() {
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("gone", 0, 127)})};
        const Ended ended = run({"check", "--json", write("trouble.lever", store::printEnsemble(e))});
        QCOMPARE(ended.code, 1);
        const QJsonArray found = QJsonDocument::fromJson(ended.out.toUtf8()).array();
        QCOMPARE(found.size(), 1);
        QCOMPARE(found[0]["severity"].toString(), QStringLiteral("trouble"));
        QCOMPARE(found[0]["place"], (QJsonObject{{"instrument", "one"}, {"chain", "c"}, {"branch", 1}}));
        QVERIFY(found[0]["what"].toString().contains("gone"));
        QVERIFY(!found[0]["mend"].toString().isEmpty());
        QCOMPARE(QJsonDocument::fromJson(run({"check", "--json", ensemble_}).out.toUtf8()).array().size(), 0);
    }

    void checkCountsTroubleNotNotes() {
        QCOMPARE(run({"check", ensemble_}).code, 0);
        Ensemble e = ensemble({instrument("one"), instrument("two")});
        const Ended noted = run({"check", write("note.lever", store::printEnsemble(e))});
        QCOMPARE(noted.code, 0);
        QVERIFY2(noted.out.startsWith(QLatin1String("note: one: ")) &&
                     noted.out.contains(QLatin1String("\nnote: two: ")),
                 qPrintable(noted.out));
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
        const QList<std::pair<QStringList, QString>> wrong{
            {{}, "A subcommand is required"},
            {{"sing"}, "\"sing\" was not expected"},
            {{"apply", ensemble_}, "--output is required"},
            {{"apply", ensemble_, "-o", folder_->filePath("x.mid")}, "IN.mid is required"},
            {{"feed", ensemble_, "--untill", "5"}, "\"--untill\" was not expected"},
            {{"feed", ensemble_, "--until", "noon"}, "noon"},
        };
        for (const auto& [words, says] : wrong) {
            const Ended ended = run(words);
            QCOMPARE(ended.code, 2);
            QVERIFY2(ended.err.contains(says), qPrintable(ended.err));
            QCOMPARE(ended.err.count('\n'), 1);
            QCOMPARE(ended.out, QString());
        }
        for (const char* call : {"apply", "feed", "check", "describe"}) {
            const Ended ended = run({call, "--help"});
            QCOMPARE(ended.code, 0);
            QVERIFY(ended.out.contains("ENSEMBLE"));
        }
        QFile news(QStringLiteral(MELLOW_SOURCE_DIR "/CHANGELOG.md"));
        QVERIFY(news.open(QIODevice::ReadOnly));
        const QString changes = QString::fromUtf8(news.readAll());
        const auto heading = QRegularExpression("\n## ([0-9.]+) \\(").match(changes);
        const QRegularExpression said("^mellow-lever-cli " + QRegularExpression::escape(heading.captured(1)) +
                                      "( \\([0-9a-f]+(-changed)?\\))?\n$");
        QVERIFY2(said.match(run({"--version"}).out).hasMatch(), qPrintable(run({"--version"}).out));
    }

 private:
    QString write(const char* name, const std::string& text) {
        const QString path = folder_->filePath(QString::fromLatin1(name));
        (void)files::writeFile(path.toStdString(), text);
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
