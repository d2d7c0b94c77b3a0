// Jumping into a take leads to where playing from its start would have led: every value that a target was
// sent, every key that is held, and every byte from there on. Random ensembles, random takes, random places.
#include <rapidcheck.h>

#include <QtTest>
#include <map>

#include "core/engine/compiling/compile.h"
#include "core/takes/chased.h"
#include "core/takes/playback.h"
#include "support/build.h"
#include "support/random_ensemble.h"
#include "support/receiver.h"

using namespace mellow;

namespace {

/// What all instruments together made of what was sent, by port.
struct Room {
    std::map<engine::PortId, test::Receiver> ports;
    std::vector<std::string> lines;  ///< since the last clear
    engine::Time since = 0;

    void hear(const engine::Output& output) {
        std::string line = std::to_string(output.time - since);
        line += " ";
        line += std::to_string(output.port);
        line += " ";
        line += output.bytes.empty() ? std::string(output.address) : midi::toHex(output.bytes);
        lines.push_back(line);
        if (!output.bytes.empty() && midi::isChannelStatus(output.bytes[0]))
            ports[output.port].hear(output.bytes);
    }
};

/// Where the second room differs from what the first has; empty: nowhere.
std::string difference(const Room& from, const Room& to) {
    std::string all;
    const auto differ = [&all](engine::PortId port, const std::string& what, int number) {
        all += "port ";
        all += std::to_string(port);
        all += " " + what + " ";
        all += std::to_string(number);
        all += "; ";
    };
    const auto same = [](const auto& map, const auto& key, const auto& value) {
        const auto found = map.find(key);
        return found != map.end() && found->second == value;
    };
    for (const auto& [port, receiver] : from.ports) {
        const auto found = to.ports.find(port);
        const test::Receiver other = found == to.ports.end() ? test::Receiver{} : found->second;
        for (const auto& [control, value] : receiver.controls) {
            // Selects and entries are compared as the registers that they mean.
            const int number = control.second;
            if (midi::selectsRegister(number) || midi::isDataEntry(number)) continue;
            if (number > midi::lastOrdinary) continue;  // a command, and nothing that stands
            if (!same(other.controls, control, value)) differ(port, "control", number);
        }
        for (const auto& [channel, value] : receiver.bends) {
            if (!same(other.bends, channel, value)) differ(port, "bend", channel);
        }
        for (const auto& [which, value] : receiver.registers) {
            const auto there = other.registers.find(which);
            // A byte that was never sent stands as the instrument has it, whoever sent it.
            const bool known = there != other.registers.end();
            const bool sameHigh = value.first == 0 || (known && there->second.first == value.first);
            const bool sameLow = value.second == 0 || (known && there->second.second == value.second);
            if (sameHigh && sameLow) continue;
            const auto text = [](const std::pair<int, int>& bytes) {
                return std::to_string(bytes.first) + "," + std::to_string(bytes.second);
            };
            differ(port,
                   text(value) + " for " + (there == other.registers.end() ? "none" : text(there->second)) +
                       " in register",
                   std::get<2>(which));
        }
        if (receiver.sounding != other.sounding)
            differ(port, "notes", static_cast<int>(receiver.sounding.size()));
    }
    return all;
}

/// Hands that play what a world's instruments listen to.
Take played(test::RandomWorld& world, int events) {
    Take take;
    std::int64_t time = 0;
    for (int i = 0; i < events; ++i) {
        time += world.gap();
        if (world.oneIn(12)) {
            const test::DeskMove move = world.deskMove();
            const std::string line = text::oscLine(move.address, move.position);
            take.add(time, take.portNumber("desk"),
                     {reinterpret_cast<const std::uint8_t*>(line.data()), line.size()});
        } else {
            const std::uint16_t port = take.portNumber(world.port());
            take.add(time, port, world.message());
        }
    }
    take.length = time + 1000;
    take.tempos.push_back({0, 60.0 + world.below(100)});
    return take;
}

void jump(std::uint32_t seed) {
    test::RandomWorld world(seed);
    const Ensemble ensemble = world.ensemble();
    const Take take = played(world, 200);
    const std::int64_t position = take.length * *rc::gen::inRange(1, 100) / 100;
    const engine::Time at = std::max<engine::Time>(take.length, 1'000'000) * 4;
    // Played from the start, so that the position is reached at that time.
    const auto plain = engine::compile(ensemble);
    Room straight;
    straight.since = at;
    auto hearStraight = [&](const engine::Output& output) { straight.hear(output); };
    const engine::Sink intoStraight = engine::sinkTo(hearStraight);
    Playback playback(*plain, take, at - position);
    playback.playUntil(position - 1, intoStraight);
    // Another engine, in the midst of something else.
    const auto other = engine::compile(ensemble);
    engine::Names names = other->plan.numbering.ports;
    Room jumped;
    jumped.since = at;
    auto hearJumped = [&](const engine::Output& output) { jumped.hear(output); };
    const engine::Sink intoJumped = engine::sinkTo(hearJumped);
    const Take before = played(world, 100);
    Playback playing(*other, before, at - before.length - 1);
    playing.playUntil(before.length - 1, intoJumped);
    Chased arrived = chased(ensemble, take, position, at, &other->plan);
    takeOver(playing.engine(), arrived, intoJumped);
    RC_ASSERT(difference(straight, jumped) == std::string());
    // And on, byte by byte.
    straight.lines.clear();
    jumped.lines.clear();
    playback.playUntil(take.length, intoStraight);
    Playback rest(std::move(playing.engine()), take, at - position, position);
    rest.playUntil(take.length, intoJumped);
    for (std::size_t i = 0; i < std::max(jumped.lines.size(), straight.lines.size()); ++i) {
        const auto line = [i](const Room& room) {
            return i < room.lines.size() ? room.lines[i] : std::string("nothing");
        };
        RC_ASSERT(line(jumped) == line(straight));
    }
}

}  // namespace

class ChasingTest : public QObject {
    Q_OBJECT

 private slots:
    void randomPlaces() {
        QVERIFY(rc::check("a jump leads where playing would have", [] {
            for (int i = 0; i < 8; ++i) jump(*rc::gen::arbitrary<std::uint32_t>());
        }));
    }

    /// A latch remembers how often it was pressed, which no last message says.
    void aLatchStandsAsItStood() {
        Instrument one = test::instrument();
        one.output.port = "rack";
        Step latch = makeStep(*findStepKind("latch"));
        one.chains.push_back(
            test::chain("latched", test::ccSource(64), {latch}, {test::branch("expression", 0, 127)}));
        const Ensemble ensemble = test::ensemble({one});
        Take take;
        const auto press = [&](std::int64_t time) {
            take.add(time, take.portNumber("keys"), midi::make(midi::controlChange, 0, 64, 127).bytes());
            take.add(time + 1000, 0, midi::make(midi::controlChange, 0, 64, 0).bytes());
        };
        for (int i = 0; i < 3; ++i) press(i * 100'000);
        take.length = 1'000'000;
        const Chased arrived = chased(ensemble, take, 500'000, 2'000'000);
        int expression = -1;
        for (const Standing::Said& said : arrived.said) {
            if (said.message.data[1] == 11) expression = said.message.data[2];
        }
        QCOMPARE(expression, 127);
    }
};

QTEST_APPLESS_MAIN(ChasingTest)
#include "chasing.moc"
