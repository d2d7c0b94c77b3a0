// A day on a stage, played faster than it lasts: one person plays, bends and treads, edits now and then, and
// pulls a cable now and then. What the day needs of memory is known after its first hour, the journal never
// grows beyond its bound, and when the hands are lifted nothing sounds.
//
// MELLOW_SOAK_HOURS: another length than a day.
#include <malloc.h>

#include <QTemporaryDir>
#include <QtTest>
#include <filesystem>
#include <random>

#include "core/files/files.h"
#include "core/store/journal.h"
#include "io/keeping/journal_writer.h"
#include "io/playing/player.h"
#include "io/ports/loopback.h"
#include "support/build.h"
#include "support/receiver.h"

using namespace mellow;
using engine::Time;

namespace {

constexpr Time second = 1'000'000;
constexpr Time hour = 3600 * second;

/// Steps with memory, a generator, a note parameter, a register and a mix: all that keeps something.
Ensemble rig() {
    Instrument one = test::instrument("one", 1);
    Parameter key;
    key.id = "key";
    key.message.kind = MessageKind::note;
    key.message.number = 24;
    one.parameters.push_back(key);
    Parameter deep;
    deep.id = "deep";
    deep.message.kind = MessageKind::nrpn;
    deep.message.number = 300;
    one.parameters.push_back(deep);
    one.parameters[1].mix = Mix::highest;
    one.chains.push_back(test::chain("swell", test::ccSource(1), {test::step("smooth", {40, 120})},
                                     {test::branch("expression", 20, 127), test::branch("deep", 0, 16383)}));
    Source shimmer = makeSource(SourceKind::lfo);
    one.chains.push_back(test::chain("shimmer", shimmer, {}, {test::branch("tone", 10, 60)}));
    one.chains.push_back(test::chain("tone", test::ccSource(2), {test::step("thin", {0.01, 20})},
                                     {test::branch("tone", 0, 127)}));
    one.chains.push_back(
        test::chain("switch", test::ccSource(3), {test::step("latch")}, {test::branch("key", 0, 127)}));
    Instrument two = test::instrument("two", 2);
    two.input.transpose = 12;
    two.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 127, 0)}));
    return test::ensemble({one, two});
}

/// One of the edits that people make while they play.
void change(Ensemble& ensemble, std::mt19937& random) {
    Instrument& one = ensemble.instruments[random() % 2];
    Chain& chain = one.chains[random() % one.chains.size()];
    switch (random() % 6) {
        case 0:
            chain.on = !chain.on;
            break;
        case 1:
            chain.branches[0].low = static_cast<double>(random() % 64);
            break;
        case 2:
            one.input.transpose = static_cast<int>(random() % 25) - 12;
            break;
        case 3:
            if (one.chains.size() < 12) {
                Chain copy = chain;
                copy.id = "more-" + std::to_string(random() % 1000);
                one.chains.push_back(std::move(copy));
            }
            break;
        case 4:
            if (one.chains.size() > 4) one.chains.pop_back();
            break;
        default:
            one.on = !one.on;
    }
}

/// Hands that hold no more than ten keys.
class Hands {
 public:
    explicit Hands(std::mt19937& random) : random_(random) {}

    std::vector<std::uint8_t> move() {
        const auto data = [this] { return static_cast<std::uint8_t>(random_() % 128); };
        switch (random_() % 7) {
            case 0:
            case 1:
            case 2:
                if (keys_.size() < 10 && random_() % 2 == 0) {
                    const auto key = static_cast<std::uint8_t>(36 + random_() % 60);
                    keys_.insert(key);
                    return {0x90, key, static_cast<std::uint8_t>(1 + random_() % 127)};
                }
                return keys_.empty() ? std::vector<std::uint8_t>{0xD0, data()} : lift();
            case 3:
                return {0xB0, 64, static_cast<std::uint8_t>(random_() % 2 * 127)};
            case 4:
                return {0xE0, data(), data()};
            default:
                return {0xB0, static_cast<std::uint8_t>(1 + random_() % 3), data()};
        }
    }
    std::vector<std::uint8_t> lift() {
        const std::uint8_t key = *keys_.begin();
        keys_.erase(keys_.begin());
        return {0x80, key, 64};
    }
    [[nodiscard]] bool hold() const { return !keys_.empty(); }
    void letGo() { keys_.clear(); }

 private:
    std::mt19937& random_;
    std::set<std::uint8_t> keys_;
};

std::size_t used() {
    return mallinfo2().uordblks;
}

}  // namespace

class SoakTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    io::Player player_;
    io::Patchbay patchbay_{player_};
    io::Loopback loopback_;
    test::Receiver receiver_;

    void listen() {
        for (const io::Loopback::Sent& sent : loopback_.sent()) receiver_.hear(sent.bytes);
        loopback_.forget();
        player_.watch([](const io::Happening&) {});
        player_.tap().drain([](const io::Tap::Seen&) {});
    }

 private slots:
    void aDayLeavesNothingBehind() {
        const QByteArray wanted = qgetenv("MELLOW_SOAK_HOURS");
        const Time hours = wanted.isEmpty() ? 24 : wanted.toInt();
        std::mt19937 random(5);
        Ensemble ensemble = rig();
        patchbay_.add(loopback_);
        player_.play(ensemble);
        QVERIFY(static_cast<bool>(loopback_.start(patchbay_)));
        const std::filesystem::path file = folder_.filePath(QStringLiteral("journal")).toStdString();
        io::JournalWriter journal;
        Hands hands(random);
        std::size_t afterAnHour = 0;
        std::uintmax_t longest = 0;
        int edits = 0;
        Time nextEdit = 20 * second;
        const engine::PortId keys = player_.ports().of("keys");
        for (Time now = 0; now < hours * hour; now += 100'000) {
            loopback_.run(now + static_cast<Time>(random() % 100'000), "keys", hands.move());
            if (now >= nextEdit) {
                nextEdit = now + static_cast<Time>(random() % 60) * second;
                change(ensemble, random);
                player_.play(ensemble);
                journal.keep(file, {}, std::make_shared<const Ensemble>(ensemble));
                if (++edits % 100 == 0) {
                    journal.flush();
                    longest = std::max(longest, std::filesystem::file_size(file));
                }
            }
            if (random() % 20'000 == 0) {
                player_.portLeft(keys);
                hands.letGo();
            }
            if (random() % 20'000 == 0)
                player_.portConnected(player_.ports().of("out"), engine::Engine::Again::yes);
            listen();
            if (afterAnHour == 0 && now >= hour) afterAnHour = used();
        }
        const std::size_t atTheEnd = used();
        QVERIFY(edits > 100 * hours);
        constexpr std::size_t slack = 512 * 1024;
        QVERIFY2(atTheEnd < afterAnHour + slack,
                 qPrintable(
                     QStringLiteral("%1 bytes after an hour, %2 at the end").arg(afterAnHour).arg(atTheEnd)));
        QVERIFY2(longest < 4'000'000, qPrintable(QString::number(longest)));
        QCOMPARE(player_.now().notesRefused(), std::uint64_t{0});
        journal.flush();
        const auto kept = files::readTextFile(file);
        QVERIFY(static_cast<bool>(kept));
        const auto read = store::readJournal(*kept);
        QVERIFY(static_cast<bool>(read));
        QVERIFY(read->ensemble == ensemble);

        while (hands.hold()) loopback_.run(player_.time() + 1000, "keys", hands.lift());
        for (const int number : {64, 3})
            loopback_.run(player_.time() + 1000, "keys", {0xB0, static_cast<std::uint8_t>(number), 0});
        // What a latched switch holds is a chain's doing and not a key's; with its chain it goes.
        for (Instrument& instrument : ensemble.instruments) instrument.chains.clear();
        player_.play(ensemble);
        loopback_.run(player_.time() + 5 * second);
        listen();
        QVERIFY2(receiver_.sounding.empty(), qPrintable(QString::number(receiver_.sounding.size())));
        for (const int channel : {0, 1}) {
            const auto pedal = receiver_.controls.find({channel, 64});
            QVERIFY2(pedal == receiver_.controls.end() || pedal->second == 0,
                     qPrintable(QString::number(channel)));
        }
        qInfo(
            "%d hours, %d edits; memory %zu bytes after an hour, %zu at the end; journal %llu bytes at most",
            static_cast<int>(hours), edits, afterAnHour, atTheEnd, static_cast<unsigned long long>(longest));
    }
};

QTEST_GUILESS_MAIN(SoakTest)
#include "soak.moc"
