// The table of this machine as a file: what was written is read, whatever ports are called; what is broken or
// hostile is said, or passed over.
#include "io/ports/machine_table.h"

#include <rapidcheck.h>
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

using namespace mellow;
using io::MachineTable;

class MachineTableTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path path() {
        return folder_.filePath(QStringLiteral("deep/machine.json")).toStdString();
    }
    Result<MachineTable> reading(const std::string& text) {
        std::filesystem::create_directories(path().parent_path());
        std::ofstream(path()) << text;
        return io::readMachineTable(path());
    }

 private slots:
    void whatIsWrittenIsRead() {
        QVERIFY(rc::check("tables", [this] {
            MachineTable table;
            table.sound = *rc::gen::element<std::string>("", "jack", "none", "a system to come");
            for (int i = *rc::gen::inRange(0, 6); i > 0; --i)
                table.wires.push_back({"p" + *rc::gen::string<std::string>(),
                                       "t:" + *rc::gen::string<std::string>(), *rc::gen::arbitrary<bool>(),
                                       *rc::gen::element<std::string>("JACK", "ALSA")});
            // Names that are no text are made text, so that only those that are come back the same.
            std::erase_if(table.wires, [](const io::Wire& wire) {
                const auto plain = [](const std::string& text) {
                    return std::all_of(text.begin(), text.end(), [](char c) { return c >= 0; });
                };
                return !plain(wire.ours) || !plain(wire.theirs);
            });
            for (int i = *rc::gen::inRange(0, 6); i > 0; --i) {
                const std::string name = "port " + std::to_string(i) + " / \"x\"";
                table.setFilter(name,
                                io::PortFilter::unpacked(*rc::gen::inRange<std::uint32_t>(0, 1U << 20)));
                table.setRate(name, *rc::gen::inRange(0, 100000));
            }
            RC_ASSERT(io::writeMachineTable(path(), table));
            const auto again = io::readMachineTable(path());
            RC_ASSERT(again);
            RC_ASSERT(*again == table);
        }));
    }

    void noFileIsAnEmptyTable() {
        const auto none = io::readMachineTable(folder_.filePath(QStringLiteral("none.json")).toStdString());
        QVERIFY(none && *none == MachineTable{});
    }

    void whatIsNoneIsSaidAndWhatIsOddPassedOver() {
        for (const char* text : {"", "[]", "{\"wires\": [", "nonsense"}) {
            const auto read = reading(text);
            QVERIFY2(!read, text);
            QVERIFY(read.problem().sentence().find("machine.json") != std::string::npos);
        }
        const auto odd = reading(R"({"wires": [7, {"ours": 3}, {"ours": "a", "theirs": "b:c", "way": "in"}],
            "ports": {"a": 4, "b": {"heard": "x", "bytesASecond": -3}, "c": {"bytesASecond": 3125}}, "more": {}})");
        QVERIFY(odd);
        QCOMPARE(odd->wires, (std::vector<io::Wire>{{"a", "b:c", true}}));
        QCOMPARE(odd->rate("c"), 3125);
        QCOMPARE(odd->rate("b"), 0);
        QCOMPARE(odd->filter("b"), io::PortFilter{});
    }
};

QTEST_GUILESS_MAIN(MachineTableTest)
#include "machine_table.moc"
