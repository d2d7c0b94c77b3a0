// The doors by which text comes in: whatever comes through one of them can be saved, and what was saved
// opens.
#include <rapidcheck.h>

#include <QtTest>

#include "core/model/edit.h"
#include "core/profiles/columns.h"
#include "core/profiles/delimited.h"
#include "core/profiles/name_document.h"
#include "core/reuse/parts.h"
#include "core/store/ensemble_json.h"
#include "core/store/journal.h"
#include "core/store/part_json.h"
#include "core/takes/recording.h"
#include "core/takes/take_file.h"
#include "core/text/utf8.h"
#include "support/build.h"

using namespace mellow;

namespace {

/// How many texts each door is tried with; MELLOW_TEXTS says another number.
int textsWanted() {
    const int asked = qEnvironmentVariableIntValue("MELLOW_TEXTS");
    return asked > 0 ? asked : 2000;
}

class Random {
 public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    std::uint64_t next() {
        state_ += 0x9E3779B97F4A7C15U;
        std::uint64_t mixed = (state_ ^ state_ >> 30) * 0xBF58476D1CE4E5B9U;
        mixed = (mixed ^ mixed >> 27) * 0x94D049BB133111EBU;
        return mixed ^ mixed >> 31;
    }
    std::string bytes(std::size_t most) {
        std::string text(next() % (most + 1), ' ');
        for (char& each : text) each = static_cast<char>(next());
        return text;
    }
    template<class List>
    auto of(const List& list) {
        return *(std::begin(list) + static_cast<std::ptrdiff_t>(next() % std::size(list)));
    }

 private:
    std::uint64_t state_;
};

void savedAndOpened(const Ensemble& ensemble, const std::string& what) {
    const std::string text = store::printEnsemble(ensemble);
    QVERIFY2(text::isUtf8(text), what.c_str());
    const auto read = store::parseEnsemble(text);
    QVERIFY2(static_cast<bool>(read), (what + ": " + (read ? "" : read.problem().sentence())).c_str());
    QCOMPARE(store::printEnsemble(*read), text);
    const std::string journal = store::journalHead() + store::journalRecord(nullptr, ensemble, 1);
    QVERIFY2(static_cast<bool>(store::readJournal(journal)), what.c_str());
}

Instrument withParameters(std::vector<Parameter> parameters) {
    Instrument instrument = test::instrument();
    profiles::merge(instrument.parameters, std::move(parameters));
    return instrument;
}

constexpr const char* numbers[] = {"0",   "-1",  "7",     "128", "99999999999999", "1e400", "-1e400",
                                   "nan", "inf", "1e308", "x"};

}  // namespace

class DoorsTest : public QObject {
    Q_OBJECT

 private slots:
    void textIsMadeUtf8() {
        QCOMPARE(text::toUtf8("plain").from, std::string_view("UTF-8"));
        QCOMPARE(text::toUtf8("K\xE4lte \x80").text, std::string("K\xC3\xA4lte \xE2\x82\xAC"));
        QVERIFY(text::toUtf8("K\xE4lte").isGuess());
        QCOMPARE(text::toUtf8(std::string("\xFF\xFEK\0\xE4\0=\xD8\x00\xDE", 10)).text,
                 std::string("K\xC3\xA4\xF0\x9F\x98\x80"));
        Random random(1);
        for (int i = 0; i < textsWanted(); ++i) QVERIFY(text::isUtf8(text::toUtf8(random.bytes(60)).text));
    }

    void tables() {
        Random random(2);
        for (int i = 0; i < textsWanted(); ++i) {
            std::string text = "Name,Message,Low,High,Unit,Law,Choices,Rest\n";
            for (int row = 0; row < 3; ++row) {
                text += random.bytes(12) + ",CC " + random.of(numbers) + "," + random.of(numbers) + "," +
                        random.of(numbers) + "," + random.bytes(3) + ",even," + random.bytes(5) + "," +
                        random.of(numbers) + "\n";
            }
            auto said = profiles::thingsIn<Parameter>(profiles::parseTable(text));
            savedAndOpened(test::ensemble({withParameters(std::move(said.things))}),
                           "table " + std::to_string(i));
        }
    }

    void nameDocuments() {
        Random random(3);
        for (int i = 0; i < textsWanted(); ++i) {
            const auto attribute = [&](const char* name) {
                std::string letters = random.bytes(8);
                std::erase_if(letters, [](char c) { return c == '"' || c == '<' || c == '&' || c == 0; });
                return std::string(" ") + name + "=\"" + (random.next() % 2 ? letters : random.of(numbers)) +
                       "\"";
            };
            const std::string text =
                "<MIDINameDocument><MasterDeviceNames><Model>M</Model><ControlNameList Name=\"c\"><Control "
                "Type=\"7bit\"" +
                attribute("Name") + " Number=\"" + random.of(numbers) + "\"><Values Min=\"" +
                random.of(numbers) + "\" Max=\"" + random.of(numbers) + "\" Default=\"" + random.of(numbers) +
                "\"" + attribute("Units") +
                "/></Control></ControlNameList></MasterDeviceNames></MIDINameDocument>";
            auto named = profiles::parseNames(text);
            if (!named) continue;
            Ensemble ensemble = test::ensemble({});
            Part part;
            part.instruments = named->instruments;
            reuse::putInstruments(ensemble, part);
            savedAndOpened(ensemble, text);
        }
    }

    /// Text that is not UTF-8 got in all the same: it is saved as what can be read, and nothing is thrown.
    void whateverIsInADocumentCanBeSaved() {
        Random random(4);
        for (int i = 0; i < textsWanted(); ++i) {
            Ensemble ensemble = test::ensemble({test::instrument()});
            ensemble.title = random.bytes(20);
            ensemble.instruments[0].name = random.bytes(20);
            ensemble.instruments[0].parameters[0].display.unit = random.bytes(4);
            ensemble.instruments[0].parameters[0].display.high = std::numeric_limits<double>::infinity();
            savedAndOpened(ensemble, "title " + std::to_string(i));
        }
    }

    /// Any bytes where one of our own texts is wanted: a sentence, or what could be read.
    void anyBytes() {
        Random random(5);
        for (int i = 0; i < textsWanted(); ++i) {
            const std::string text = random.bytes(300);
            (void)store::parseEnsemble(text);
            (void)store::parsePart(text);
            (void)store::readJournal(store::journalHead() + text);
            (void)recording_log::read(recording_log::head() + text);
            (void)profiles::parseTable(text);
            (void)profiles::parseNames(text);
            (void)readTake({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()}, {});
        }
    }

    /// A spreadsheet takes no cell for a formula, and what goes out comes back.
    void cellsAreNoFormulas() {
        const profiles::Table table{{"=1+1", "+SUM(A1)", "-12", "@x", "-inf", "+3.5", "'quoted", "plain"},
                                    {"-cmd|x", "1", "2", "3", "4", "5", "6", "7"}};
        const std::string text = profiles::printCsv(table);
        QVERIFY(text.starts_with("'=1+1,'+SUM(A1),-12,'@x,-inf,+3.5,'quoted,plain"));
        QCOMPARE(profiles::parseTable(text), table);
    }

    /// Names that repeat cost no more than others.
    void manyEqualNames() {
        QElapsedTimer clock;
        clock.start();
        std::string text = "Name,Message\n";
        for (int i = 0; i < 40000; ++i) text += "Swell,CC " + std::to_string(i % 128) + "\n";
        auto said = profiles::thingsIn<Parameter>(profiles::parseTable(text));
        std::vector<Parameter> list;
        profiles::merge(list, std::move(said.things));
        QCOMPARE(list.size(), std::size_t{128});
        FreshIds ids;
        std::set<std::string> all;
        for (int i = 0; i < 20000; ++i) all.insert(ids.make("Swell"));
        QCOMPARE(all.size(), std::size_t{20000});
    }
};

QTEST_APPLESS_MAIN(DoorsTest)
#include "doors.moc"
