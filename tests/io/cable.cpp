// A bad cable: bytes are lost, late, split, repeated and changed on the way in, and a slow wire leads out.
//
// Whatever such a cable carries, the byte reader makes whole messages of it, and the player must come to rest
// with them: when the cable is pulled nothing sounds on, and when it works again the instruments stand where
// the hands do.
#include <rapidcheck.h>

#include <QtTest>
#include <random>

#include "core/midi/stream_reader.h"
#include "io/playing/player.h"
#include "io/ports/loopback.h"
#include "support/build.h"
#include "support/receiver.h"

using namespace mellow;
using engine::Time;
using test::Receiver;

namespace {

using Bytes = std::vector<std::uint8_t>;

/// How often a byte fares badly, of a thousand.
struct Faults {
    int lost = 0;
    int repeated = 0;
    int changed = 0;
};

class Dice {
 public:
    explicit Dice(std::uint32_t seed) : random_(seed) {}
    int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    bool of1000(int chances) { return below(1000) < chances; }
    std::uint8_t data() { return static_cast<std::uint8_t>(below(128)); }

 private:
    std::mt19937 random_;
};

/// Wheel to expression, a 14-bit pair and a bend beside it, and all that hands hold passes.
Ensemble northRack() {
    Instrument one = test::instrument();
    Parameter fine;
    fine.id = "fine";
    fine.message.kind = MessageKind::cc14;
    fine.message.number = 4;
    one.parameters.push_back(fine);
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 127, 0)}));
    Source pair = makeSource(SourceKind::cc14);
    pair.number = 2;
    one.chains.push_back(test::chain("fine", pair, {}, {test::branch("fine", 0, 16383)}));
    return test::ensemble({one});
}

/// A hand at the near end: what it does, as a cable carries it, with running status and a clock in between.
class Hand {
 public:
    explicit Hand(Dice& dice) : dice_(dice) {}
    Bytes move() {
        switch (dice_.below(6)) {
            case 0:
            case 1: {
                const int key = 48 + dice_.below(24);
                return message({0x90, static_cast<std::uint8_t>(key),
                                static_cast<std::uint8_t>(dice_.below(2) == 0 ? 0 : 90)});
            }
            case 2:
                return message({0xB0, 1, dice_.data()});
            case 3: {
                Bytes both = message({0xB0, 2, dice_.data()});
                const Bytes low = message({0xB0, 34, dice_.data()});
                both.insert(both.end(), low.begin(), low.end());
                return both;
            }
            case 4:
                return message({0xB0, 64, dice_.data()});
            default:
                return message({0xE0, dice_.data(), dice_.data()});
        }
    }
    Bytes message(const Bytes& whole) {
        Bytes sent(whole.begin() + (whole[0] == running_ ? 1 : 0), whole.end());
        running_ = whole[0];
        if (dice_.of1000(100)) sent.insert(sent.begin() + dice_.below(static_cast<int>(sent.size())), 0xF8);
        return sent;
    }
    /// As after a pause: nothing is left out.
    void beginAnew() { running_ = 0; }

 private:
    Dice& dice_;
    std::uint8_t running_ = 0;
};

Bytes carried(const Bytes& bytes, const Faults& faults, Dice& dice) {
    Bytes arrives;
    for (const std::uint8_t byte : bytes) {
        if (dice.of1000(faults.lost)) continue;
        arrives.push_back(dice.of1000(faults.changed) ? static_cast<std::uint8_t>(dice.below(256)) : byte);
        if (dice.of1000(faults.repeated)) arrives.push_back(arrives.back());
    }
    return arrives;
}

/// The player between the bad cable and a wire of 3,125 bytes a second.
struct Stage {
    io::Player player;
    io::Patchbay patchbay{player};
    io::Loopback loopback;
    midi::StreamReader reader;
    Receiver receiver;
    midi::StreamReader receiving;
    Time free = 0;
    std::size_t heard = 0;
    bool wireKept = true;

    Stage() {
        patchbay.add(loopback);
        player.play(northRack());
        if (!loopback.start(patchbay)) qFatal("the loopback does not start");
        loopback.run(0);
        patchbay.setRate(player.ports().of("out"), io::Pacer::dinRate);
    }
    void arrive(const Bytes& bytes, Dice& dice) {
        // In pieces of any size, each with its delay.
        for (std::size_t at = 0; at < bytes.size();) {
            const auto size =
                std::min<std::size_t>(static_cast<std::size_t>(1 + dice.below(5)), bytes.size() - at);
            const Time time = player.time() + 1 + dice.below(3000);
            reader.read(midi::Bytes(bytes).subspan(at, size), [&](midi::Bytes whole) {
                loopback.run(std::max(time, player.time()), "keys", {whole.begin(), whole.end()});
            });
            loopback.run(std::max(time, player.time()));
            at += size;
        }
        listen();
    }
    void rest() {
        for (int i = 0; i < 100; ++i) loopback.run(player.time() + 20'000);
        listen();
    }
    void listen() {
        for (; heard < loopback.sent().size(); ++heard) {
            const io::Loopback::Sent& sent = loopback.sent()[heard];
            if (sent.bytes[0] < 0xF8) {
                wireKept = wireKept && sent.time >= free;
                free = sent.time + static_cast<Time>(sent.bytes.size()) * 320;
            }
            receiving.read(sent.bytes, [this](midi::Bytes whole) {
                if (midi::isChannelStatus(whole[0])) receiver.hear(whole);
            });
        }
    }
};

}  // namespace

class CableTest : public QObject {
    Q_OBJECT

 private slots:
    void aCableThatIsPulledLeavesNothingSounding() {
        QVERIFY(rc::check("pulled", [] {
            Dice dice(*rc::gen::arbitrary<std::uint32_t>());
            const Faults faults{dice.below(100), dice.below(100), dice.below(100)};
            Stage stage;
            Hand hand(dice);
            for (int i = 0; i < 150; ++i) stage.arrive(carried(hand.move(), faults, dice), dice);
            stage.player.portLeft(stage.player.ports().of("keys"));
            stage.rest();
            RC_ASSERT(stage.wireKept);
            RC_ASSERT(stage.receiver.sounding.empty());
            for (int channel = 0; channel < 16; ++channel) {
                const auto pedal = stage.receiver.controls.find({channel, midi::sustain});
                RC_ASSERT(pedal == stage.receiver.controls.end() || pedal->second == 0);
            }
        }));
    }

    void whenItWorksAgainInstrumentsStandWhereTheHandsDo() {
        QVERIFY(rc::check("again", [] {
            Dice dice(*rc::gen::arbitrary<std::uint32_t>());
            const Faults faults{dice.below(60), dice.below(60), dice.below(60)};
            Stage stage;
            Hand hand(dice);
            for (int i = 0; i < 150; ++i) stage.arrive(carried(hand.move(), faults, dice), dice);
            stage.rest();
            hand.beginAnew();
            const int wheel = dice.below(128);
            const int fine = dice.below(16384);
            const int bend = dice.below(16384);
            const auto high = [](int value) { return static_cast<std::uint8_t>(value >> 7); };
            const auto low = [](int value) { return static_cast<std::uint8_t>(value & 127); };
            for (const Bytes& clean :
                 {Bytes{0xB0, 1, low(wheel)}, Bytes{0xB0, 2, high(fine)}, Bytes{0xB0, 34, low(fine)},
                  Bytes{0xE0, low(bend), high(bend)}, Bytes{0xB0, 64, 0}})
                stage.arrive(hand.message(clean), dice);
            stage.rest();
            Receiver& receiver = stage.receiver;
            RC_ASSERT(stage.wireKept);
            RC_ASSERT((receiver.controls[{0, 11}]) == 127 - wheel);
            RC_ASSERT((receiver.controls[{0, 4}] << 7 | receiver.controls[{0, 36}]) == fine);
            RC_ASSERT(receiver.bends[0] == bend);
            RC_ASSERT((receiver.controls[{0, 64}]) == 0);
        }));
    }
};

QTEST_GUILESS_MAIN(CableTest)
#include "cable.moc"
