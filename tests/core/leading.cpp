// What does this do: the rows that something leads to are those from which messages come when it is moved, as
// the engine plays them.
#include <QtTest>
#include <set>

#include "core/describe/sentence.h"
#include "core/sheet/leading.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::sheet;

namespace {

Cause wheel(int number, const char* port = "keys") {
    return {port, {0xB0, static_cast<std::uint8_t>(number), 64}, {}};
}

QStringList names(const Ensemble& ensemble, const std::vector<Reached>& all) {
    QStringList texts;
    for (const Reached& each : all) {
        const auto row = assignmentAt(ensemble, each.row);
        texts << QString::fromStdString(nameOf(*row->chain) + ">" + nameOf(row->target, false)) +
                     (each.from < 0 ? QString() : QStringLiteral("<%1").arg(each.from));
    }
    return texts;
}

/// A wheel to a tie line, which two instruments read; a second wheel that is combined, and one that chooses.
Ensemble joined() {
    Instrument one = test::instrument("one", 1);
    Instrument two = test::instrument("two", 2);
    one.parameters = {test::ccParameter("level", 11), test::ccParameter("tone", 74)};
    two.parameters = one.parameters;
    Source swell = makeSource(SourceKind::tieLine);
    swell.tieLine = "swell";
    Step both = test::step("combine");
    both.with = test::ccSource(2);
    one.chains = {test::chain("up", swell, {}, {test::branch("level", 0, 127)}),
                  test::chain("mixed", test::ccSource(3), {both}, {test::branch("tone", 0, 127)})};
    two.chains = {test::chain("down", swell, {}, {test::branch("tone", 127, 0)}),
                  test::chain("off", test::ccSource(1), {}, {test::branch("level", 0, 127)})};
    two.chains[1].on = false;
    Ensemble ensemble = test::ensemble({one, two});
    ensemble.tieLines = {{"swell", "Swell", 0, {}}};
    ensemble.sharedChains = {
        test::chain("all", test::ccSource(1), {}, {test::branch("tieLine:swell", 0, 1)})};
    return ensemble;
}

/// Without what moves by itself, so that whatever comes out came of what went in.
Ensemble still(int seed) {
    Ensemble ensemble = test::RandomWorld(static_cast<std::uint32_t>(seed)).ensemble();
    const auto moves = [](const Chain& chain) {
        bool any = false;
        forEachSource(
            chain, [&](const Source& source) { any = any || row(source.kind).origin == Origin::generator; });
        return any;
    };
    std::erase_if(ensemble.sharedChains, moves);
    for (Instrument& instrument : ensemble.instruments) std::erase_if(instrument.chains, moves);
    return ensemble;
}

/// Whether a parameter's message can be what was sent.
bool explains(const Parameter& parameter, const std::vector<std::uint8_t>& sent) {
    const Message& message = parameter.message;
    const int status = sent[0] & 0xF0;
    switch (message.kind) {
        case MessageKind::cc:
            return status == 0xB0 && sent[1] == message.number;
        case MessageKind::cc14:
            return status == 0xB0 && (sent[1] == message.number || sent[1] == message.number + 32);
        case MessageKind::bend:
            return status == 0xE0;
        case MessageKind::pressure:
            return status == 0xD0;
        case MessageKind::keyPressure:
            return status == 0xA0;
        case MessageKind::note:
            return status == 0x90 || status == 0x80;
        case MessageKind::program:
            return status == 0xC0 || (status == 0xB0 && (sent[1] == 0 || sent[1] == 32));
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return status == 0xB0 && (sent[1] == 6 || sent[1] == 38 || (sent[1] >= 96 && sent[1] <= 101));
        case MessageKind::articulation:
            return true;  // whatever selects it
        default:
            return false;
    }
}

struct Sent {
    std::string instrument;
    std::vector<std::uint8_t> bytes;
};

std::vector<Sent> sentIn(const std::vector<std::string>& lines) {
    std::vector<Sent> all;
    for (const std::string& line : lines) {
        const QStringList words = QString::fromStdString(line).split(QLatin1Char(' '));
        if (words.value(2).startsWith(QLatin1Char('/'))) continue;
        Sent sent{words.value(1).toStdString(), {}};
        for (const QString& word : words.mid(2))
            sent.bytes.push_back(static_cast<std::uint8_t>(word.toInt(nullptr, 16)));
        all.push_back(std::move(sent));
    }
    return all;
}

}  // namespace

class LeadingTest : public QObject {
    Q_OBJECT

 private slots:
    void throughTieLinesAndSecondSources() {
        const Ensemble ensemble = joined();
        QCOMPARE(names(ensemble, leadsTo(ensemble, wheel(1))),
                 (QStringList{"all>Swell", "up>level<0", "down>tone<0"}));
        QCOMPARE(names(ensemble, leadsTo(ensemble, wheel(2))), QStringList{"mixed>tone"});
        QCOMPARE(names(ensemble, leadsTo(ensemble, wheel(9))), QStringList());
        QCOMPARE(names(ensemble, comesFrom(ensemble, "one/level")), (QStringList{"up>level", "all>Swell<0"}));
        QCOMPARE(names(ensemble, comesFrom(ensemble, "two/level")), QStringList());
        const AssignmentId shared{sharedOwner, "all", 0, "", "", "", ""};
        QCOMPARE(leadsTo(ensemble, shared).size(), std::size_t{3});
    }

    void whatSleepsLeadsNowhere() {
        Ensemble ensemble = joined();
        findById(ensemble.instruments, "one")->chains[0].active = Active::inHand;
        ensemble.inHand = std::vector<std::string>{"two"};
        QCOMPARE(names(ensemble, leadsTo(ensemble, wheel(1))), (QStringList{"all>Swell", "down>tone<0"}));
    }

    /// What an instrument's filters keep out, what its steps and its chooser hear.
    void filtersSecondsAndChoosers() {
        Ensemble ensemble = joined();
        Instrument& two = *findById(ensemble.instruments, "two");
        two.input.channel = 2;
        two.input.lowKey = 60;
        two.input.transpose = 12;
        Source key = makeSource(SourceKind::key);
        key.number = 84;
        Step inner = test::step("combine");
        inner.with = test::ccSource(7);
        Chain chosen = test::chain("chosen", test::ccSource(8), {},
                                   {test::branch("level", 0, 127), test::branch("tone", 0, 127)});
        chosen.fan.mode = FanMode::chosen;
        chosen.fan.by = test::ccSource(9);
        chosen.branches[1].steps = {inner};
        two.chains.push_back(chosen);
        two.chains.push_back(test::chain("struck", key, {}, {test::branch("tone", 0, 127)}));
        const auto onSecond = [](std::uint8_t status, std::uint8_t first, std::uint8_t second) {
            return Cause{"keys", {static_cast<std::uint8_t>(status | 1), first, second}, {}};
        };
        QCOMPARE(names(ensemble, leadsTo(ensemble, wheel(8))), QStringList());
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0xB0, 8, 1))),
                 (QStringList{"chosen>level", "chosen>tone"}));
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0xB0, 9, 1))),
                 (QStringList{"chosen>level", "chosen>tone"}));
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0xB0, 7, 1))), QStringList{"chosen>tone"});
        // Keys are counted as the instrument takes them, and only those that it hears.
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0x90, 72, 90))), QStringList{"struck>tone"});
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0x90, 84, 90))), QStringList());
        key.number = 24;
        two.chains.back().source = key;
        QCOMPARE(names(ensemble, leadsTo(ensemble, onSecond(0x90, 12, 90))), QStringList());
    }

    void asTheEnginePlaysIt_data() {
        QTest::addColumn<int>("seed");
        for (int seed = 1; seed <= 150; ++seed) QTest::addRow("random %d", seed) << seed;
    }
    void asTheEnginePlaysIt() {
        QFETCH(int, seed);
        const Ensemble ensemble = still(seed);
        std::set<std::tuple<std::string, int, int>> controls;
        for (const char* port : {"keys", "pads"}) {
            for (int number = 0; number < 120; ++number) {
                if (midi::isDataEntry(number) || midi::selectsRegister(number)) continue;
                for (const int channel : {0, 1}) controls.emplace(port, number, channel);
            }
        }
        int checked = 0;
        for (const auto& [port, number, channel] : controls) {
            Cause cause{
                port, {static_cast<std::uint8_t>(0xB0 + channel), static_cast<std::uint8_t>(number), 64}, {}};
            const std::vector<Reached> rows = leadsTo(ensemble, cause);
            if (rows.empty() && number % 16 != 0) continue;
            test::Feeder feeder(ensemble);
            std::vector<std::string> in;
            for (int value = 0; value <= 127; value += value == 126 ? 1 : 3) {
                in.push_back(
                    QStringLiteral("%1 %2 %3 %4 %5")
                        .arg(value * 1000)
                        .arg(QString::fromStdString(port))
                        .arg(0xB0 + channel, 2, 16, QLatin1Char('0'))
                        .arg(number, 2, 16, QLatin1Char('0'))
                        .arg(value, 2, 16, QLatin1Char('0'))
                        .toUpper()
                        .replace(QString::fromStdString(port).toUpper(), QString::fromStdString(port))
                        .toStdString());
            }
            std::vector<std::string> out = feeder.feed(in);
            const std::vector<std::string> later = feeder.until(10'000'000);
            out.insert(out.end(), later.begin(), later.end());
            bool chosesHand = false;
            for (const Reached& each : rows)
                chosesHand = chosesHand || assignmentAt(ensemble, each.row)->target.hand != nullptr;
            if (chosesHand) continue;  // what the hand then does is not walked
            // Whatever came out is explained by a row, or is what went in, passed on.
            for (const Sent& sent : sentIn(out)) {
                const bool passed = (sent.bytes[0] & 0xF0) == 0xB0 && sent.bytes[1] == number;
                const bool explained = std::any_of(rows.begin(), rows.end(), [&](const Reached& each) {
                    const auto row = assignmentAt(ensemble, each.row);
                    return row->target.parameter != nullptr &&
                           row->target.instrument->id == sent.instrument &&
                           explains(*row->target.parameter, sent.bytes);
                });
                QVERIFY2(passed || explained,
                         qPrintable(
                             QStringLiteral("CC %1 at %2: %3")
                                 .arg(number)
                                 .arg(QString::fromStdString(port), QString::fromStdString(sent.instrument)) +
                             QString::fromLatin1(QByteArray(reinterpret_cast<const char*>(sent.bytes.data()),
                                                            static_cast<int>(sent.bytes.size()))
                                                     .toHex(' '))));
            }
            // A plain row is heard.
            for (const Reached& each : rows) {
                const auto row = assignmentAt(ensemble, each.row);
                const Branch& branch = *row->leads();
                const bool isPlain =
                    each.from < 0 && row->chain->steps.empty() && branch.steps.empty() && !branch.window &&
                    row->chain->fan.mode == FanMode::all && row->chain->source.kind == SourceKind::cc &&
                    handoverOf(ensemble, *row->chain) == Handover::jump && row->target.parameter != nullptr &&
                    row->target.parameter->message.kind == MessageKind::cc &&
                    row->target.parameter->mix == Mix::latest && branch.low != branch.high;
                if (!isPlain) continue;
                ++checked;
                const std::vector<Sent> all = sentIn(out);
                QVERIFY2(std::any_of(all.begin(), all.end(),
                                     [&](const Sent& sent) {
                                         return sent.instrument == row->target.instrument->id &&
                                                explains(*row->target.parameter, sent.bytes);
                                     }),
                         (nameOf(*row->chain) + " to " + nameOf(row->target, true)).c_str());
            }
        }
        Q_UNUSED(checked);
    }
};

QTEST_APPLESS_MAIN(LeadingTest)
#include "leading.moc"
