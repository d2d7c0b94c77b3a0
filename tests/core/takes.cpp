// Takes as values and as files: what is written is read back, to the microsecond and to the byte, and what
// was recorded becomes the take that one expects.
#include <rapidcheck.h>

#include <QTemporaryDir>
#include <QtTest>
#include <filesystem>

#include "core/files/files.h"
#include "core/takes/chase.h"
#include "core/takes/recording.h"
#include "core/takes/take_folder.h"
#include "support/random_take.h"

using namespace mellow;

namespace {

std::string hexAt(const Take& take, std::size_t place) {
    return midi::toHex(take.bodyOf(take.events.at(place)));
}

/// "1000 keys B0 01 40", one for each event.
std::vector<std::string> linesOf(const Take& take) {
    std::vector<std::string> lines;
    for (const TakeEvent& event : take.events) {
        const midi::Bytes body = take.bodyOf(event);
        std::string line = std::to_string(event.time);
        line += " " + take.ports[event.port] + " ";
        line += text::oscLineOf(body) ? std::string(body.begin(), body.end()) : midi::toHex(body);
        lines.push_back(line);
    }
    return lines;
}

void play(Take& take, std::int64_t time, const std::string& port, const midi::Short& message) {
    take.add(time, take.portNumber(port), message.bytes());
}

midi::Short cc(int number, int value) {
    return midi::make(midi::controlChange, 0, number, value);
}
midi::Short on(int key) {
    return midi::make(midi::noteOn, 0, key, 100);
}
midi::Short off(int key) {
    return midi::make(midi::noteOff, 0, key, 64);
}

}  // namespace

class TakesTest : public QObject {
    Q_OBJECT

 private slots:
    void aFileGivesBackTheTake() {
        QVERIFY(rc::check("print then read", [] {
            // A file says of a tempo so many microseconds a quarter note, so whole ones come back.
            Take take = test::randomTake(*rc::gen::arbitrary<std::uint64_t>());
            for (TempoChange& change : take.tempos) change.tempo = 60e6 / std::round(60e6 / change.tempo);
            // Tracks are merged by time, then in their order.
            std::stable_sort(take.events.begin(), take.events.end(),
                             [](const TakeEvent& a, const TakeEvent& b) {
                                 return a.time != b.time ? a.time < b.time : a.port < b.port;
                             });
            const auto bytes = printTake(take);
            RC_ASSERT(bytes);
            const auto reading = readTake(*bytes, {});
            RC_ASSERT(reading);
            RC_ASSERT(linesOf(reading->take) == linesOf(take));
            RC_ASSERT(reading->take.marks.size() == take.marks.size());
            RC_ASSERT(reading->take.marks[0].body == take.marks[0].body);
            const auto again = printTake(reading->take);
            RC_ASSERT(again);
            RC_ASSERT(*again == *bytes);
        }));
    }

    /// Without the bytes that say what is left of a microsecond, times are those of ticks.
    void aTickIsTwentyMicrosecondsAtHundredAndTwenty() {
        Take take;
        take.tempos.push_back({0, 120});
        play(take, 1'000'011, "keys", cc(1, 64));
        const auto bytes = printTake(take);
        QVERIFY(bytes);
        const auto file = smf::read(*bytes);
        QVERIFY(file);
        QCOMPARE(file->file.division.ticksPerQuarter, 25000);
        QCOMPARE(file->file.tracks.size(), std::size_t{2});
        QCOMPARE(static_cast<std::uint64_t>(file->file.tracks[1].events.at(1).tick), std::uint64_t{50001});
        QCOMPARE(readTake(*bytes, {})->take.events[0].time, std::int64_t{1'000'011});
    }

    /// A pause of hours is more than one number of a file can say.
    void aPauseOfHours() {
        Take take;
        take.tempos.push_back({0, 120});
        play(take, 0, "keys", cc(1, 1));
        play(take, 4LL * 3600 * 1'000'000, "pedals", cc(1, 2));
        const auto bytes = printTake(take);
        QVERIFY2(static_cast<bool>(bytes), bytes ? "" : bytes.problem().sentence().c_str());
        const auto reading = readTake(*bytes, {});
        QVERIFY(reading->warnings.empty());
        QCOMPARE(linesOf(reading->take), linesOf(take));
        QVERIFY(reading->take.marks.empty());
        QCOMPARE(*printTake(reading->take), *bytes);
    }

    void tracksPlayThroughThePortsThatAreSaid() {
        Take take;
        play(take, 0, "old keys", cc(1, 1));
        play(take, 10, "pedals", cc(11, 2));
        KeptTake kept;
        kept.ports = {{"old keys", "new keys"}};
        const auto reading = readTake(*printTake(take), kept);
        QCOMPARE(reading->take.ports, (std::vector<std::string>{"new keys", "pedals"}));
        const auto file = smf::read(*printTake(take));
        QCOMPARE(trackPorts(kept, file->file), (std::vector<std::string>{"any", "new keys", "pedals"}));
    }

    void sha256() {
        // FIPS 180-4, the example "abc".
        const std::vector<std::uint8_t> abc{'a', 'b', 'c'};
        QCOMPARE(sha256Of(abc),
                 std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
    }

    void aFolderKeepsWhatItHas() {
        QTemporaryDir place;
        const std::filesystem::path document = place.filePath("Tin.lever").toStdString();
        const auto folder = takesFolderOf(document);
        QCOMPARE(folder.filename().string(), std::string("Tin.takes"));
        Take take = test::randomTake(1);
        KeptTake wanted;
        wanted.id = "a";
        wanted.name = "Barometer falls";
        const auto stored = storeTake(folder, wanted, take);
        QVERIFY(stored);
        QVERIFY(stored->file.starts_with("barometer-falls-"));
        const auto bytes = readTakeBytes(folder, *stored);
        QVERIFY(bytes);
        QVERIFY(doubtsAbout(*stored, folder / stored->file, *bytes, {}).empty());
        // Another version of it is another file.
        take.length += 1000;
        const auto second = storeTake(folder, *stored, take);
        QVERIFY(second && second->file != stored->file);
        std::set<std::string> names;
        Ensemble ensemble;
        ensemble.takes.push_back(*second);
        nameTakes(ensemble, names);
        QVERIFY(files::unnamedKept(takeKind, document, files::KeptList{}, names).empty());
        files::KeptList list;
        list.add(fileOf(*stored));
        QVERIFY(list.write(takeKind, document));
        QCOMPARE(files::KeptList::of(takeKind, document).sums(), list.sums());
        QCOMPARE(files::unnamedKept(takeKind, document, list, names), (std::vector{folder / stored->file}));
        // What somebody changed is doubted.
        QVERIFY(files::writeFile(folder / stored->file, std::string_view("MThd")));
        const auto changed = readTakeBytes(folder, *stored);
        QCOMPARE(doubtsAbout(*stored, folder / stored->file, *changed, {}).size(), std::size_t{1});
    }

    /// A document that names the folder too finds its takes beside itself, and wherever they are carried.
    void aNameWithItsFolderIsFound() {
        QTemporaryDir place;
        const auto old = takesFolderOf(place.filePath("Tin.lever").toStdString());
        auto stored = storeTake(old, KeptTake{}, test::randomTake(3));
        QVERIFY(stored);
        stored->file = "Tin.takes/" + stored->file;
        QVERIFY(readTakeBytes(old, *stored));
        const auto other = takesFolderOf(place.filePath("elsewhere/Storm.lever").toStdString());
        QVERIFY(!readTakeBytes(other, *stored));
        QVERIFY(carryTake(old, other, *stored));
        QVERIFY(readTakeBytes(other, *stored));
    }

    void aFileOutsideTheFolderIsRefused() {
        KeptTake kept;
        kept.id = "x";
        for (const char* file : {"../secret.mid", "/etc/passwd", "", "a/../../b.mid"}) {
            kept.file = file;
            QVERIFY2(!takePath("/tmp/x.takes", kept), file);
        }
    }

    void aRecordingBecomesATake() {
        Recording recording;
        recording.begins = 5'000'000;
        recording.ends = 7'000'000;
        play(recording.heard, 5'500'000, "keys", cc(1, 64));
        recording.follow(5'000'000, 96.0);
        const Take take = takeOf(recording);
        QCOMPARE(linesOf(take), (std::vector<std::string>{"500000 keys B0 01 40"}));
        QCOMPARE(take.length, std::int64_t{2'000'000});
        QCOMPARE(take.tempos, (std::vector<TempoChange>{{0, 96}}));
    }

    /// What was just played begins after a pause, and no pause is one in which a key is held.
    void phrasesBeginAfterPauses() {
        constexpr std::int64_t second = 1'000'000;
        Recording recording;
        const std::uint16_t hands = recording.heard.portNumber("hands");
        const auto note = [&](std::int64_t time, int velocity) {
            recording.heard.add(time, hands, midi::make(midi::noteOn, 0, 60, velocity).bytes());
        };
        QVERIFY(beginningsIn(recording, leastPause).empty());
        note(10 * second, 90);
        note(60 * second, 0);
        note(62 * second, 90);
        note(63 * second, 0);
        note(400 * second, 80);
        recording.follow(0, 90.0);
        recording.follow(401 * second, 100.0);
        note(402 * second, 0);
        recording.ends = 405 * second;
        QCOMPARE(beginningsIn(recording, leastPause), (std::vector{10 * second, 400 * second}));
        const Recording last = since(recording, 400 * second);
        QCOMPARE(last.heard.events.size(), std::size_t{2});
        const Take take = takeOf(last);
        QCOMPARE(take.events[0].time, std::int64_t{0});
        QCOMPARE(take.events[1].time, 2 * second);
        QCOMPARE(take.length, 5 * second);
        QCOMPARE(take.tempos.size(), std::size_t{2});
        QCOMPARE(take.tempos[0].tempo, 90.0);
        QCOMPARE(take.tempos[1].time, second);
    }

    void aLogGivesBackTheRecording() {
        const Take take = test::randomTake(7, 100);
        std::string log = recording_log::head();
        for (std::size_t port = 0; port < take.ports.size(); ++port)
            log += recording_log::port(static_cast<std::uint16_t>(port), take.ports[port]);
        log += recording_log::tempo(0, 96.5);
        log += recording_log::pass(0, 1000);
        for (const TakeEvent& event : take.events) log += recording_log::event(take, event);
        const auto whole = recording_log::read(log);
        QVERIFY(whole);
        QCOMPARE(linesOf(whole->heard), linesOf(take));
        QCOMPARE(whole->heard.tempos, (std::vector<TempoChange>{{0, 96.5}}));
        QCOMPARE(whole->passes.size(), std::size_t{1});
        // Wherever it was cut, all whole lines before that are there, and nothing else.
        for (std::size_t cut = log.size(); cut > log.size() - 200; --cut) {
            const auto part = recording_log::read(std::string_view(log).substr(0, cut));
            QVERIFY(part);
            auto lines = linesOf(part->heard);
            auto expected = linesOf(take);
            expected.resize(lines.size());
            QCOMPARE(lines, expected);
            const auto newlines = static_cast<std::size_t>(
                std::count(log.begin() + static_cast<std::ptrdiff_t>(cut), log.end(), '\n'));
            QCOMPARE(lines.size(), take.events.size() - newlines);
        }
        QVERIFY(!recording_log::read("something else\n"));
    }

    /// What cannot be, in the middle of a log, takes nothing behind it along: times that fall, ports that
    /// nobody named, messages that are none.
    void aDamagedLineTakesNoneAlong() {
        std::string log = recording_log::head() + recording_log::port(0, "keys");
        log += "E 1000 0 B0 01 10\nE 999 0 B0 01 11\nE 1000 0 B0 01 12\nE 1500 7 B0 01 13\nE 1500 0 B0 01\n";
        log += "E 2000 0 B0 01 80\nT 2500 -3\nE loud 0 B0 01 14\n\nX\nE 3000 0 B0 01 15\n";
        const auto read = recording_log::read(log);
        QVERIFY(read);
        std::vector<std::pair<std::int64_t, int>> heard;
        for (const TakeEvent& event : read->heard.events)
            heard.emplace_back(event.time, read->heard.bodyOf(event)[2]);
        QCOMPARE(heard, (decltype(heard){{1000, 0x10}, {1000, 0x12}, {3000, 0x15}}));
        QCOMPARE(read->unread, std::size_t{8});
        QCOMPARE(read->begins, std::int64_t{1000});
        QCOMPARE(read->ends, std::int64_t{3000});
    }

    void whatIsTouchedTakesOver() {
        Take under;
        for (int i = 0; i < 10; ++i) play(under, i * 100'000, "keys", cc(1, i));
        for (int i = 0; i < 10; ++i) play(under, i * 100'000 + 50'000, "keys", cc(11, 100 + i));
        under.length = 2'000'000;
        Recording over;
        over.begins = 10'000'000;
        over.passes.push_back({10'000'000, 200'000});
        over.ends = 10'400'000;
        play(over.heard, 10'150'000, "keys", cc(1, 77));  // at 350,000 of the take
        const Take made = overdubbed(under, over, 0, under.length);
        std::vector<std::string> wheel;
        std::vector<std::string> pedal;
        for (const std::string& line : linesOf(made))
            (line.find("B0 01") != std::string::npos ? wheel : pedal).push_back(line);
        // From the touch to the end of the pass, at 600,000, the new hand has it; then the old one goes on.
        QCOMPARE(wheel, (std::vector<std::string>{
                            "0 keys B0 01 00", "100000 keys B0 01 01", "200000 keys B0 01 02",
                            "300000 keys B0 01 03", "350000 keys B0 01 4D", "600001 keys B0 01 06",
                            "700000 keys B0 01 07", "800000 keys B0 01 08", "900000 keys B0 01 09"}));
        QCOMPARE(pedal.size(), std::size_t{10});
    }

    void newNotesEndOldOnesOfTheirKey() {
        Take under;
        play(under, 0, "keys", on(60));
        play(under, 1'000'000, "keys", off(60));
        Recording over;
        over.passes.push_back({0, 0});
        over.ends = 2'000'000;
        play(over.heard, 500'000, "keys", on(60));
        play(over.heard, 1'500'000, "keys", off(60));
        QCOMPARE(linesOf(overdubbed(under, over, 0, 2'000'000)),
                 (std::vector<std::string>{"0 keys 90 3C 64", "500000 keys 80 3C 40", "500000 keys 90 3C 64",
                                           "1500000 keys 80 3C 40"}));
        // A key that is still down when the recording ends comes up there.
        over.heard = {};
        play(over.heard, 1'200'000, "keys", on(62));
        const auto lines = linesOf(overdubbed(under, over, 0, 2'000'000));
        QCOMPARE(lines.back(), std::string("2000000 keys 80 3E 40"));
    }

    void punchedInAndOut() {
        Take under;
        under.length = 3'000'000;
        Recording over;
        over.passes.push_back({0, 0});
        over.ends = 3'000'000;
        for (int i = 0; i < 30; ++i) play(over.heard, i * 100'000, "keys", cc(1, i));
        const Take made = overdubbed(under, over, 1'000'000, 2'000'000);
        QCOMPARE(made.events.size(), std::size_t{10});
        QCOMPARE(made.events.front().time, std::int64_t{1'000'000});
        QCOMPARE(made.events.back().time, std::int64_t{1'900'000});
    }

    void whatIsChased() {
        Take take;
        play(take, 0, "keys", cc(1, 10));
        play(take, 10, "keys", cc(101, 0));
        play(take, 11, "keys", cc(100, 0));
        play(take, 12, "keys", cc(6, 12));
        play(take, 20, "keys", on(60));
        play(take, 30, "keys", on(64));
        play(take, 40, "keys", cc(1, 20));
        play(take, 50, "keys", off(60));
        play(take, 60, "pedals", cc(64, 127));
        play(take, 70, "keys", cc(1, 30));
        std::vector<std::string> said;
        for (const std::uint32_t place : eventsToChase(take, 65)) said.push_back(hexAt(take, place));
        QCOMPARE(said, (std::vector<std::string>{"B0 65 00", "B0 64 00", "B0 65 00", "B0 64 00", "B0 06 0C",
                                                 "B0 01 14", "B0 40 7F", "90 40 64"}));
    }
};

QTEST_APPLESS_MAIN(TakesTest)
#include "takes.moc"
