// Lanes by themselves: what leaves for a value, given what left before; no chain runs, no engine is there.
#include "core/engine/playing/lanes.h"

#include <QtTest>

#include "core/engine/compiling/compile.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

namespace {

/// The lanes of an instrument whose one chain leads to a parameter for each of the given messages.
class Spoken {
 public:
    explicit Spoken(const std::vector<Message>& messages) {
        Instrument one = instrument();
        std::vector<Branch> branches;
        for (const Message& message : messages) {
            Parameter parameter;
            parameter.id = "p" + std::to_string(one.parameters.size());
            parameter.message = message;
            one.parameters.push_back(parameter);
            branches.push_back(branch(parameter.id, 0, 1));
        }
        one.chains = {chain("c", ccSource(1), {}, std::move(branches))};
        program_ = engine::compile(ensemble({one}));
    }

    /// What leaves while act(lanes) is called, as hex.
    template<class Act>
    QStringList of(Act&& act) {
        QStringList left;
        auto take = [&left](const engine::Output& out) {
            left << QString::fromStdString(midi::toHex({out.bytes.begin(), out.bytes.end()}));
        };
        act(engine::Lanes(*program_, 0, engine::sinkTo(take)));
        return left;
    }

 private:
    std::unique_ptr<engine::Program> program_;
};

Message message(MessageKind kind, int number = 0) {
    Message made;
    made.kind = kind;
    made.number = number;
    return made;
}

constexpr engine::Sender player{0};

}  // namespace

class LanesTest : public QObject {
    Q_OBJECT

 private slots:
    void aRepeatIsNotSentButACopyIs() {
        Spoken spoken({message(MessageKind::cc, 74)});
        const auto value = engine::payload(74, 5);
        QCOMPARE(spoken.of([&](auto lanes) { lanes.plain(0, value); }), QStringList{"B0 4A 05"});
        QCOMPARE(spoken.of([&](auto lanes) { lanes.plain(0, value); }), QStringList());
        QCOMPARE(spoken.of([&](auto lanes) { lanes.copy(0, value); }), QStringList{"B0 4A 05"});
    }

    void aPairSendsItsHighByteOnlyWhenItChanges() {
        Spoken spoken({message(MessageKind::cc14, 1)});
        QCOMPARE(spoken.of([](auto lanes) { lanes.pair(0, 0x0102); }), (QStringList{"B0 01 02", "B0 21 02"}));
        QCOMPARE(spoken.of([](auto lanes) { lanes.pair(0, 0x0103); }), QStringList{"B0 21 03"});
        QCOMPARE(spoken.of([](auto lanes) { lanes.pair(0, 0x0103); }), QStringList());
        QCOMPARE(spoken.of([](auto lanes) { lanes.pair(0, 0x0203); }), (QStringList{"B0 01 04", "B0 21 03"}));
    }

    /// Half a pair that passes leaves the pair unknown.
    void aHalfThatPassesMakesAPairUnknown() {
        Spoken spoken({message(MessageKind::cc14, 1)});
        spoken.of([](auto lanes) { lanes.pair(0, 0x0102); });
        spoken.of([](auto lanes) { lanes.pass(0, player, midi::make(midi::controlChange, 0, 33, 9)); });
        QCOMPARE(spoken.of([](auto lanes) { lanes.pair(0, 0x0102); }), (QStringList{"B0 01 02", "B0 21 02"}));
    }

    void aRegisterIsSelectedOnceAndAgainAfterAnother() {
        Spoken spoken({message(MessageKind::nrpn, 130), message(MessageKind::rpn, 1)});
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(0, 200); }),
                 (QStringList{"B0 63 01", "B0 62 02", "B0 06 01", "B0 26 48"}));
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(0, 201); }),
                 (QStringList{"B0 06 01", "B0 26 49"}));
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(1, 0); }),
                 (QStringList{"B0 65 00", "B0 64 01", "B0 06 00", "B0 26 00"}));
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(0, 201); }), QStringList());
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(0, 202); }),
                 (QStringList{"B0 63 01", "B0 62 02", "B0 06 01", "B0 26 4A"}));
    }

    /// The player's data entry goes to the register that the player selected, whatever chains did since; and
    /// what it changed is unknown from then on.
    void thePlayersRegisterIsSelectedAgain() {
        Spoken spoken({message(MessageKind::nrpn, 130)});
        const auto pass = [](int number, int value) {
            return
                [=](auto lanes) { lanes.pass(0, player, midi::make(midi::controlChange, 0, number, value)); };
        };
        spoken.of(pass(101, 0));
        spoken.of(pass(100, 2));
        spoken.of([](auto lanes) { lanes.inRegister(0, 200); });
        QCOMPARE(spoken.of(pass(6, 64)), (QStringList{"B0 65 00", "B0 64 02", "B0 06 40"}));
        QCOMPARE(spoken.of(pass(38, 1)), QStringList{"B0 26 01"});
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(0, 200); }), QStringList());
    }

    void aProgramBringsItsBankWhereThatIsNotSelected() {
        const engine::Lanes::Program grand{std::array{1, 2}, 5, false};
        Spoken spoken({message(MessageKind::program)});
        QCOMPARE(spoken.of([&](auto lanes) { lanes.program(0, player, grand); }),
                 (QStringList{"B0 00 01", "B0 20 02", "C0 05"}));
        QCOMPARE(spoken.of([&](auto lanes) { lanes.program(0, player, grand); }), QStringList());
        spoken.of([](auto lanes) { lanes.pass(0, player, midi::make(midi::controlChange, 0, 32, 0)); });
        QCOMPARE(spoken.of([&](auto lanes) { lanes.program(0, player, grand); }),
                 (QStringList{"B0 00 01", "B0 20 02", "C0 05"}));
    }

    void whatPassesIsRememberedLikeWhatChainsSend() {
        Spoken spoken({message(MessageKind::bend), message(MessageKind::pressure)});
        spoken.of([](auto lanes) { lanes.pass(0, player, midi::makeBend(0, 0x1234)); });
        QCOMPARE(spoken.of([](auto lanes) { lanes.plain(0, engine::payload(0x1234 & 0x7F, 0x1234 >> 7)); }),
                 QStringList());
        spoken.of([](auto lanes) { lanes.pass(0, player, midi::make(midi::channelPressure, 0, 7)); });
        QCOMPARE(spoken.of([](auto lanes) { lanes.plain(1, engine::payload(7, 0)); }), QStringList());
    }

    void aResetForgetsEverything() {
        Spoken spoken({message(MessageKind::cc, 74), message(MessageKind::nrpn, 130)});
        spoken.of([](auto lanes) {
            lanes.plain(0, engine::payload(74, 5));
            lanes.inRegister(1, 200);
            lanes.pass(0, player, midi::make(midi::controlChange, 0, midi::resetAllControllers, 0));
        });
        QCOMPARE(spoken.of([](auto lanes) { lanes.plain(0, engine::payload(74, 5)); }),
                 QStringList{"B0 4A 05"});
        QCOMPARE(spoken.of([](auto lanes) { lanes.inRegister(1, 200); }),
                 (QStringList{"B0 63 01", "B0 62 02", "B0 06 01", "B0 26 48"}));
    }
};

QTEST_APPLESS_MAIN(LanesTest)
#include "lanes.moc"
