// Takes from the command line: listed, played into the ensemble, rendered; and what is said where a file is
// missing, another, or damaged.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "core/takes/take_folder.h"
#include "support/build.h"
#include "support/process.h"

using namespace mellow;

namespace {

using test::Ended;

Ended run(const QStringList& words) {
    return test::run(test::commandLine(), words);
}

std::vector<std::uint8_t> bytesOf(const QString& path) {
    const auto bytes = files::readFile(path.toStdString());
    return bytes ? *bytes : std::vector<std::uint8_t>{};
}

/// "480 B0 01 40", one for each event of a track.
QStringList linesOf(const QString& path, std::size_t track) {
    const auto reading = smf::read(bytesOf(path));
    QStringList lines;
    if (!reading || track >= reading->file.tracks.size()) return lines;
    for (const smf::Event& event : reading->file.tracks[track].events) {
        if (event.kind == smf::EventKind::channel)
            lines << QStringLiteral("%1 %2")
                         .arg(event.tick)
                         .arg(QString::fromStdString(midi::toHex(reading->file.body(event))));
    }
    return lines;
}

}  // namespace

class CliTakesTest : public QObject {
    Q_OBJECT

 private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        Instrument one = test::instrument();
        one.input.port = "hands";
        one.output.port = "practice-rack";
        one.chains.push_back(
            test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
        Source desk = makeSource(SourceKind::desk);
        desk.values[0] = std::string("lever");
        one.parameters.push_back(test::ccParameter("tone", 74));
        one.chains.push_back(test::chain("lever", desk, {}, {test::branch("tone", 0, 127)}));
        Ensemble ensemble = test::ensemble({one});
        DeskPage page;
        page.id = "page";
        DeskElement lever;
        lever.id = "lever";
        page.elements.push_back(lever);
        ensemble.desk.pages.push_back(page);
        Take take;
        take.tempos.push_back({0, 120});
        take.add(500'000, take.portNumber("hands"), midi::make(midi::controlChange, 0, 1, 64).bytes());
        take.add(1'000'000, 0, midi::make(midi::noteOn, 0, 60, 100).bytes());
        take.add(1'500'000, 0, midi::make(midi::noteOff, 0, 60, 64).bytes());
        const std::string line = text::oscLine("/lever", 1);
        take.add(1'600'000, take.portNumber("desk"),
                 {reinterpret_cast<const std::uint8_t*>(line.data()), line.size()});
        take.add(1'700'000, take.portNumber("elsewhere"), midi::make(midi::controlChange, 0, 1, 1).bytes());
        take.marks.push_back({1'000'000, smf::marker, "first hail"});
        take.length = 2'000'000;
        document_ = folder_->filePath(QStringLiteral("storm.lever"));
        KeptTake kept;
        kept.id = "hail";
        kept.name = "First hail";
        kept.recorded = "2026-10-01T10:00:00Z";
        const auto stored = storeTake(takesFolderOf(document_.toStdString()), kept, take);
        QVERIFY(stored);
        file_ = QString::fromStdString((takesFolderOf(document_.toStdString()) / stored->file).string());
        ensemble.takes.push_back(*stored);
        QVERIFY(files::writeFile(document_.toStdString(), std::string_view(store::printEnsemble(ensemble))));
        out_ = folder_->filePath(QStringLiteral("out.mid"));
    }

    void listed() {
        const Ended ended = run({"takes", document_});
        QCOMPARE(ended.code, 0);
        QCOMPARE(
            ended.out,
            QStringLiteral(
                "hail  First hail  2.000 s  5 events  hands, desk and elsewhere  2026-10-01T10:00:00Z\n"));
        const Ended json = run({"takes", "--json", document_});
        const QJsonArray all = QJsonDocument::fromJson(json.out.toUtf8()).array();
        QCOMPARE(all.size(), 1);
        QCOMPARE(all[0].toObject().value(QStringLiteral("seconds")).toDouble(), 2.0);
    }

    /// Each track arrives through its own port; moves of the desk are among them.
    void applied() {
        for (const char* name : {"First hail", "hail"}) {
            const Ended ended = run({"apply", document_, "--take", name, "-o", out_});
            QVERIFY2(ended.code == 0, qPrintable(ended.err));
            QCOMPARE(ended.err, QString());
            // At 120 beats a minute a tick is 20 µs. What came through another port moves nothing.
            QCOMPARE(linesOf(out_, 1),
                     (QStringList{"25000 B0 0B 40", "50000 90 3C 64", "75000 80 3C 40", "80000 B0 4A 7F"}));
        }
        const Ended led = run({"apply", document_, "--take", "hail", "--port", "nowhere", "-o", out_});
        QCOMPARE(led.code, 0);
        QVERIFY(linesOf(out_, 1).filter(QStringLiteral("B0 0B")).isEmpty());
    }

    void aPartOfIt() {
        QCOMPARE(run({"apply", document_, "--take", "hail", "--from", "1", "--to", "1.2", "-o", out_}).code,
                 0);
        // Where the swell stood is said first, and a note that still sounds is ended.
        QCOMPARE(linesOf(out_, 1), (QStringList{"0 B0 0B 40", "0 90 3C 64", "10000 80 3C 40"}));
        QCOMPARE(run({"apply", document_, "--take", "hail", "--from", "2", "--to", "1", "-o", out_}).code, 2);
        QCOMPARE(run({"apply", document_, file_, "--from", "1", "-o", out_}).code, 2);
    }

    void whatIsWrongIsSaid() {
        const auto refused = [&](const QStringList& words, const QString& says) {
            const QString untouched = folder_->filePath(QStringLiteral("never.mid"));
            const Ended ended = run(words + QStringList{"-o", untouched});
            QCOMPARE(ended.code, 2);
            QVERIFY2(ended.err.contains(says), qPrintable(ended.err));
            QCOMPARE(ended.err.count(QLatin1Char('\n')), 1);
            QVERIFY(!QFile::exists(untouched));
        };
        refused({"apply", document_, "--take", "Second hail"}, QStringLiteral("has no take"));
        refused({"apply", document_, file_, "--take", "hail"}, QStringLiteral("two things"));
        refused({"bounce", document_, "--take", "hail"}, QStringLiteral(".wav or .flac"));
        // It is not the file that was recorded, and plays all the same.
        auto bytes = bytesOf(file_);
        bytes[bytes.size() - 5] ^= 1;
        QVERIFY(files::writeFile(file_.toStdString(), bytes));
        const Ended other = run({"takes", document_});
        QVERIFY2(other.err.contains(QStringLiteral("not the file that was recorded")), qPrintable(other.err));
        QVERIFY(QFile::remove(file_));
        refused({"apply", document_, "--take", "hail"}, QStringLiteral("is not there"));
        const Ended listed = run({"takes", document_});
        QCOMPARE(listed.code, 1);
        QVERIFY(listed.out.contains(QStringLiteral("cannot be played")));
        QVERIFY(files::writeFile(file_.toStdString(), std::string_view("no MIDI at all")));
        refused({"apply", document_, "--take", "hail"}, QFileInfo(file_).fileName());
    }

    void bounced() {
        for (const char* name : {"out.wav", "out.flac"}) {
            const QString path = folder_->filePath(QLatin1String(name));
            const Ended ended = run({"bounce", document_, "--take", "hail", "-o", path});
            QVERIFY2(ended.code == 0, qPrintable(ended.err));
            QVERIFY(bytesOf(path).size() > 1000);
            // The same take gives the same file.
            const auto first = bytesOf(path);
            QCOMPARE(run({"bounce", document_, "--take", "hail", "-o", path}).code, 0);
            QVERIFY(bytesOf(path) == first);
        }
        const Ended apart = run({"bounce", document_, "--take", "hail", "--apart", "-o",
                                 folder_->filePath(QStringLiteral("each.wav"))});
        QCOMPARE(apart.code, 0);
        QVERIFY2(apart.out.contains(QStringLiteral("each-one.wav")), qPrintable(apart.out));
        QVERIFY(QFile::exists(folder_->filePath(QStringLiteral("each-one.wav"))));
    }

    /// What nobody means by mistake: rendering for days, and four gigabytes without a word.
    void aLongBounceIsAskedFor() {
        const QString path = folder_->filePath(QStringLiteral("long.wav"));
        const Ended refused = run({"bounce", document_, "--take", "hail", "--longest", "0.0001", "-o", path});
        QCOMPARE(refused.code, 2);
        QVERIFY2(refused.err.contains(QStringLiteral("--longest")), qPrintable(refused.err));
        QVERIFY(!QFile::exists(path));
        QCOMPARE(run({"bounce", document_, "--take", "hail", "--longest", "0.1", "-o", path}).code, 0);
    }

    /// A take, or its folder, that is none: a pipe is not waited for, and a link out of the folder not
    /// followed.
    void aTakeThatIsNoFile() {
        QVERIFY(QFile::remove(file_));
        QCOMPARE(QProcess::execute(QStringLiteral("mkfifo"), {file_}), 0);
        const Ended ended = run({"apply", document_, "--take", "hail", "-o", out_});
        QCOMPARE(ended.code, 2);
        QVERIFY2(ended.err.contains(QFileInfo(file_).fileName()), qPrintable(ended.err));
        QVERIFY(!QFile::exists(out_));
    }

    /// A part of a take knows the registers that stood before it: the value, and not its address alone.
    void aPartKeepsItsRegisters() {
        Ensemble ensemble = test::ensemble({test::instrument()});
        Take take;
        take.tempos.push_back({0, 120});
        const std::uint16_t hands = take.portNumber("hands");
        for (const auto& [control, value] : {std::pair{101, 0}, {100, 0}, {6, 12}, {38, 5}, {64, 127}})
            take.add(100'000, hands, midi::make(midi::controlChange, 0, control, value).bytes());
        take.add(200'000, hands, midi::make(midi::pitchBend, 0, 0, 96).bytes());
        take.add(300'000, hands, midi::make(midi::channelPressure, 0, 90).bytes());
        take.add(1'500'000, hands, midi::make(midi::noteOn, 0, 60, 100).bytes());
        take.add(3'000'000, hands, midi::make(midi::noteOff, 0, 60, 64).bytes());
        take.length = 3'500'000;
        KeptTake kept;
        kept.id = "bent";
        kept.name = "Bent";
        const auto stored = storeTake(takesFolderOf(document_.toStdString()), kept, take);
        QVERIFY(stored);
        ensemble.takes.push_back(*stored);
        QVERIFY(files::writeFile(document_.toStdString(), std::string_view(store::printEnsemble(ensemble))));
        const Ended ended =
            run({"apply", document_, "--take", "bent", "--from", "1", "--to", "2", "-o", out_});
        QVERIFY2(ended.code == 0, qPrintable(ended.err));
        const QStringList lines = linesOf(out_, 1);
        const QString all = lines.join(QLatin1Char('|'));
        // What stood is there before the note, the register with its value.
        for (const char* stands : {"0 B0 06 0C", "0 B0 26 05", "0 B0 40 7F", "0 E0 00 60", "0 D0 5A"})
            QVERIFY2(lines.contains(QLatin1String(stands)), qPrintable(all));
        QVERIFY(lines.indexOf(QStringLiteral("0 B0 64 00")) < lines.indexOf(QStringLiteral("0 B0 06 0C")));
        QVERIFY2(lines.contains(QStringLiteral("25000 90 3C 64")), qPrintable(all));
        // And the part leaves nothing behind it: key, pedal, bend and pressure are let go at its end.
        for (const char* letGo : {"50000 80 3C 40", "50000 B0 40 00", "50000 E0 00 40", "50000 D0 00"})
            QVERIFY2(lines.contains(QLatin1String(letGo)), qPrintable(all));
    }

    void theDemo() {
        const QString demo = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");
        const Ended listed = run({"takes", demo});
        QCOMPARE(listed.code, 0);
        QCOMPARE(listed.err, QString());
        QCOMPARE(run({"apply", demo, "--take", "Barometer falls", "-o", out_}).code, 0);
        QVERIFY(bytesOf(out_).size() > 10000);
    }

 private:
    std::unique_ptr<QTemporaryDir> folder_;
    QString document_, file_, out_;
};

QTEST_GUILESS_MAIN(CliTakesTest)
#include "takes.moc"
