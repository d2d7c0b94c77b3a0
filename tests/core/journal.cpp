// The journal gives back the last state that was written whole, whatever was cut off; versions are kept
// beside a document; what differs is said in words.
#include "core/store/journal.h"

#include <rapidcheck.h>
#include <QTemporaryDir>
#include <QtTest>
#include <filesystem>

#include "core/files/files.h"
#include "core/files/sidecars.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::test;

namespace {

/// A document that is edited at random, and its journal.
struct Edited {
    std::string text = store::journalHead();
    std::vector<Ensemble> states;
    std::vector<std::size_t> ends;

    explicit Edited(std::uint32_t seed, int edits) {
        RandomWorld world(seed);
        auto ensemble = std::make_shared<Ensemble>(world.ensemble());
        std::shared_ptr<Ensemble> before;
        for (int i = 0; i <= edits; ++i) {
            text += store::journalRecord(before.get(), *ensemble, 1000 + i);
            states.push_back(*ensemble);
            ends.push_back(text.size());
            before = ensemble;
            ensemble = std::make_shared<Ensemble>(*before);
            if (world.oneIn(5) && ensemble->instruments.size() > 1) {
                // Instruments change places, go, and come.
                Instrument moved = std::as_const(ensemble->instruments)[0];
                ensemble->instruments.erase(std::as_const(ensemble->instruments).begin());
                if (world.oneIn(2)) ensemble->instruments.push_back(std::move(moved));
            } else {
                world.edit(*ensemble);
            }
        }
    }
};

}  // namespace

class JournalTest : public QObject {
    Q_OBJECT

 private slots:
    void theLastStateComesBack() {
        QVERIFY(rc::check("read", [] {
            const Edited edited(*rc::gen::arbitrary<std::uint32_t>(), 12);
            const auto read = store::readJournal(edited.text);
            RC_ASSERT(static_cast<bool>(read));
            RC_ASSERT(read->ensemble == edited.states.back());
            RC_ASSERT(read->time == 1012);
            RC_ASSERT(read->isWhole);
        }));
    }

    /// Cut anywhere, the state before the cut comes back.
    void whatIsCutOffTakesNothingBeforeItAlong() {
        QVERIFY(rc::check("cut", [] {
            const Edited edited(*rc::gen::arbitrary<std::uint32_t>(), 6);
            const auto cut = *rc::gen::inRange<std::size_t>(0, edited.text.size());
            const auto read = store::readJournal(std::string_view(edited.text).substr(0, cut));
            const auto whole = static_cast<std::size_t>(
                std::upper_bound(edited.ends.begin(), edited.ends.end(), cut) - edited.ends.begin());
            RC_ASSERT(static_cast<bool>(read) == (whole > 0));
            if (whole > 0) RC_ASSERT(read->ensemble == edited.states[whole - 1]);
        }));
    }

    /// A byte that is other than it was written ends the journal before its record.
    void whatIsDamagedIsNotTaken() {
        QVERIFY(rc::check("damage", [] {
            Edited edited(*rc::gen::arbitrary<std::uint32_t>(), 6);
            const auto at = *rc::gen::inRange<std::size_t>(edited.ends[0], edited.text.size());
            edited.text[at] = static_cast<char>(edited.text[at] ^ (1 << *rc::gen::inRange(0, 7)));
            const auto read = store::readJournal(edited.text);
            RC_ASSERT(static_cast<bool>(read));
            const auto state = std::find(edited.states.begin(), edited.states.end(), read->ensemble);
            RC_ASSERT(state != edited.states.end());
        }));
    }

    /// An edit of one instrument among many costs that instrument.
    void aRecordSaysOnlyWhatIsOther() {
        std::vector<Instrument> many;
        for (int i = 0; i < 50; ++i) many.push_back(instrument("i" + std::to_string(i)));
        const Ensemble before = ensemble(std::move(many));
        Ensemble after = before;
        after.instruments[20].name = "Other";
        const std::string first = store::journalRecord(nullptr, before, 0);
        const std::string second = store::journalRecord(&before, after, 1);
        QVERIFY(second.size() * 20 < first.size());
        QVERIFY(second.starts_with("state 1 0+19,n,21+28 "));
        const auto read = store::readJournal(store::journalHead() + first + second);
        QVERIFY(read && read->ensemble == after);
    }

    /// A record whose sum is another is not taken, though it can be read; nor what stands behind it.
    void aSumThatIsAnotherEndsIt() {
        const Ensemble one = ensemble({instrument("one")});
        Ensemble two = one;
        two.title = "Two";
        const std::string first = store::journalRecord(nullptr, one, 0);
        std::string second = store::journalRecord(&one, two, 1);
        const std::size_t line = second.find('\n');
        second[line - 1] = second[line - 1] == '0' ? '1' : '0';
        const auto read = store::readJournal(store::journalHead() + first + second);
        QVERIFY(read && !read->isWhole);
        QVERIFY(read->ensemble == one);
    }

    /// The last instrument is an instrument like any other: changed, gone, and come.
    void theLastInstrument() {
        Ensemble states[4];
        states[0] = ensemble({instrument("one"), instrument("two"), instrument("three")});
        states[1] = states[0];
        states[1].instruments[2].name = "Changed";
        states[2] = states[1];
        states[2].instruments.erase(std::as_const(states[2].instruments).begin() + 2);
        states[3] = states[2];
        states[3].instruments.push_back(instrument("four"));
        std::string text = store::journalHead();
        const Ensemble* before = nullptr;
        for (const Ensemble& state : states) {
            text += store::journalRecord(before, state, 0);
            before = &state;
            const auto read = store::readJournal(text);
            QVERIFY(read && read->isWhole);
            QVERIFY(read->ensemble == state);
        }
    }

    void whatIsNoJournalIsRefused() {
        QVERIFY(!store::readJournal(""));
        QVERIFY(!store::readJournal("MThd"));
        QVERIFY(!store::readJournal(store::journalHead()));
        const std::string places = "99999999999999999999";
        const std::string document = store::printEnsemble({});
        for (const std::string& words : {std::string("0"), std::string("n"), places, "0+" + places}) {
            QVERIFY(!store::readJournal(store::journalHead() + "state 1 " + words + " " +
                                        std::to_string(document.size()) + " 0\n" + document + "\n"));
        }
    }

    /// Each record names all instruments twice: what is too much is not taken.
    void aJournalThatDoublesWithEachRecordEnds() {
        const Ensemble one = ensemble({instrument("one")});
        std::string text = store::journalHead() + store::journalRecord(nullptr, one, 0);
        const Ensemble none;
        std::string tail = store::journalRecord(nullptr, none, 1);
        for (std::size_t count = 1; count < (std::size_t{1} << 40); count *= 2) {
            const std::string all = count == 1 ? "0" : "0+" + std::to_string(count - 1);
            std::string record = tail;
            record.replace(record.find(" - "), 3, " " + all + "," + all + " ");
            text += record;
        }
        const auto read = store::readJournal(text);
        QVERIFY(read && !read->isWhole);
        QVERIFY(read->ensemble.instruments.size() <= (std::size_t{1} << 17));
    }

    void tenVersionsAreKept() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath(QStringLiteral("storm.lever")).toStdString();
        QVERIFY(static_cast<bool>(files::keepVersion(path)));
        QVERIFY(files::versions(path).empty());
        const auto now = std::filesystem::file_time_type::clock::now();
        for (int i = 0; i < 14; ++i) {
            QVERIFY(static_cast<bool>(files::writeFile(path, "state " + std::to_string(i))));
            std::filesystem::last_write_time(path, now - std::chrono::seconds(100 - i));
            QVERIFY(static_cast<bool>(files::keepVersion(path)));
            QVERIFY(static_cast<bool>(files::keepVersion(path)));
        }
        const auto kept = files::versions(path);
        QCOMPARE(kept.size(), files::versionsKept);
        QCOMPARE(*files::readTextFile(kept.front().path), std::string("state 13"));
        QCOMPARE(*files::readTextFile(kept.back().path), std::string("state 4"));
        QVERIFY(kept.front().time - kept.back().time == 9000);
    }
};

QTEST_APPLESS_MAIN(JournalTest)
#include "journal.moc"
