// Lanes: the channels on which instruments are spoken to, and what each was told last.
//
// A receiver keeps what it was sent, so sending it again is noise, and some of it hangs together: the low
// byte of a 14-bit control belongs to the high byte before it, a data entry to the register that is selected,
// a program to its bank. So a lane remembers single messages by their data bytes, 14-bit controls as pairs,
// registers (RPN and NRPN) with the one that is selected, and its bank and program, whether a chain sent them
// or a player's own message passed (signal rules, section 6). Everything that leaves as a control goes
// through control(), which keeps all of that consistent.
//
// What is remembered lies in the State. This is a view of it at one moment, made for the asking; it knows
// nothing of chains' steps, of notes, or of whose turn it is.
#pragma once

#include "core/engine/program/output.h"
#include "core/engine/program/state.h"

namespace mellow::engine {

class Lanes {
 public:
    Lanes(engine::Program& program, Time now, const Sink& sink) : program_(program), now_(now), sink_(sink) {}

    // What chains send. branch: its place in the plan.

    /// A payload as it is, whatever was sent before.
    void copy(std::uint32_t branch, Payload payload);
    /// A control, bend or channel pressure.
    void plain(std::uint32_t branch, Payload payload);
    /// A 14-bit control: the high byte, then the low byte; while the high byte is unchanged, the low byte
    /// alone.
    void pair(std::uint32_t branch, int value);
    /// A register: select, unless it is selected already, then data entry, high byte and low.
    void inRegister(std::uint32_t branch, int value);
    struct Program {
        std::optional<std::array<int, 2>> bank;
        int number = 0;
        bool repeats = false;  ///< sent though it was sent last
    };
    /// A program, with its bank before it.
    void program(std::uint32_t lane, const Sender& sender, const Program& program);
    /// One float, in display units.
    void osc(std::uint32_t branch, double q);
    /// Whether something is known to stand where a branch leads: a control, a bend, a pressure, a register or
    /// an OSC number.
    [[nodiscard]] bool wasSent(std::uint32_t branch);

    // What a player's own messages come to.

    /// A message that passes, whatever it is. What it says of a register is about the one that the player
    /// selected, which is selected again if a chain has selected another since.
    void pass(std::uint32_t lane, const Sender& sender, const midi::Short& message);

    // Both.

    void put(std::uint32_t lane, const Sender& sender, const midi::Short& message) {
        sink_({now_, plan().lanes()[lane].port, sender.instrument, sender.chain, sender.branch,
               message.bytes()});
    }
    /// A control change, and all that it means: its value, that a pair is no longer known, which register is
    /// selected or has been changed, that the lane has been reset.
    void control(std::uint32_t lane, const Sender& sender, int number, int value);
    /// A message has left: what it says of everything but controls.
    void remember(std::uint32_t lane, midi::Bytes message);
    /// The last payload sent on a lane in a slot; noPayload: unknown.
    Payload& sent(std::uint32_t lane, std::uint32_t slot) {
        return state().sent[static_cast<std::size_t>(lane) * slotsPerLane + slot];
    }
    void forget(std::uint32_t lane);
    [[nodiscard]] Sender senderOf(std::uint32_t branch) const;
    /// Where a branch's instrument plays now.
    [[nodiscard]] std::uint32_t laneOf(const PlanBranch& branch) const {
        return branch.part == none ? branch.lane : program_.state.parts[branch.part].lane;
    }
    /// The lane of a port and channel that has one.
    [[nodiscard]] std::uint32_t at(PortId port, std::uint8_t channel) const;

 private:
    [[nodiscard]] const Plan& plan() const { return program_.plan; }
    [[nodiscard]] State& state() { return program_.state; }
    void select(std::uint32_t lane, const Sender& sender, const midi::Selection& wanted);
    void reselect(std::uint32_t lane, const Sender& sender);
    [[nodiscard]] std::uint32_t registerOf(const PlanBranch& branch) const;
    void forgetRegister(std::uint32_t lane, const midi::Selection& selection);

    engine::Program& program_;
    Time now_;
    const Sink& sink_;
};

}  // namespace mellow::engine
