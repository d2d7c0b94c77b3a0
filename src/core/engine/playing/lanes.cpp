#include "core/engine/playing/lanes.h"

#include <algorithm>
#include <array>

namespace mellow::engine {

void Lanes::copy(std::uint32_t b, Payload payload) {
    const Outlet& outlet = plan().outlets[b];
    state().sent[outlet.slot] = payload;
    const std::array<std::uint8_t, 3> message{outlet.status, static_cast<std::uint8_t>(payload),
                                              static_cast<std::uint8_t>(payload >> 8)};
    sink_({now_, outlet.port, outlet.instrument, static_cast<std::int32_t>(plan().branches[b].chain),
           static_cast<std::int32_t>(b), midi::Bytes(message).first(outlet.size)});
}

void Lanes::plain(std::uint32_t b, Payload payload) {
    const PlanBranch& branch = plan().branches[b];
    const std::uint32_t lane = laneOf(branch);
    const Outlet& outlet = plan().outlets[b];
    Payload& last = sent(lane, outlet.slot % slotsPerLane);
    if (last == payload && !branch.body->repeats) return;
    if (branch.body->kind == MessageKind::cc)
        return control(lane, senderOf(b), branch.body->number, payload >> 8);
    last = payload;
    midi::Short message;
    message.data = {static_cast<std::uint8_t>((outlet.status & 0xF0) | plan().lanes()[lane].channel),
                    static_cast<std::uint8_t>(payload), static_cast<std::uint8_t>(payload >> 8)};
    message.size = outlet.size;
    put(lane, senderOf(b), message);
}

void Lanes::pair(std::uint32_t b, int value) {
    const PlanBranch& branch = plan().branches[b];
    const std::uint32_t lane = laneOf(branch);
    const auto number = static_cast<std::uint32_t>(branch.body->number);
    const Payload last = sent(lane, pairSlot + number);
    if (last == value && !branch.body->repeats) return;
    if (last == noPayload || last >> 7 != value >> 7)
        control(lane, senderOf(b), branch.body->number, value >> 7);
    control(lane, senderOf(b), branch.body->number + 32, value & midi::max7);
    sent(lane, pairSlot + number) = static_cast<Payload>(value);
}

bool Lanes::wasSent(std::uint32_t b) {
    const PlanBranch& branch = plan().branches[b];
    const std::uint32_t lane = laneOf(branch);
    const auto number = static_cast<std::uint32_t>(branch.body->number);
    switch (branch.kind) {
        case MessageKind::cc:
            return sent(lane, number) != noPayload;
        case MessageKind::cc14:
            return sent(lane, pairSlot + number) != noPayload || sent(lane, number) != noPayload;
        case MessageKind::bend:
            return sent(lane, bendSlot) != noPayload;
        case MessageKind::pressure:
            return sent(lane, pressureSlot) != noPayload;
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return state().registers[registerOf(branch)] >= 0;
        case MessageKind::osc:
            return state().osc[branch.place].has_value();
        default:
            return false;
    }
}

/// The register that a branch sends: where articulations change the channel, each channel has its own.
std::uint32_t Lanes::registerOf(const PlanBranch& branch) const {
    const auto& registers = plan().numbering.registers;
    Register wanted = registers[branch.place];
    if (wanted.lane == laneOf(branch)) return branch.place;
    wanted.lane = laneOf(branch);
    return static_cast<std::uint32_t>(std::find(registers.begin(), registers.end(), wanted) -
                                      registers.begin());
}

void Lanes::inRegister(std::uint32_t b, int value) {
    const PlanBranch& branch = plan().branches[b];
    const std::uint32_t lane = laneOf(branch);
    int& last = state().registers[registerOf(branch)];
    if (last == value && !branch.body->repeats) return;
    const bool isRpn = branch.body->kind == MessageKind::rpn;
    const midi::Selection wanted{isRpn ? midi::PairKind::rpn : midi::PairKind::nrpn, branch.body->number >> 7,
                                 branch.body->number & midi::max7};
    const Sender sender = senderOf(b);
    if (state().selections[lane].wire != wanted) select(lane, sender, wanted);
    const int half = branch.body->max == pitchRangeMax ? centsASemitone : midi::max7 + 1;
    control(lane, sender, midi::dataEntry, value / half);
    control(lane, sender, midi::dataEntryLow, value % half);
    last = value;
}

void Lanes::program(std::uint32_t lane, const Sender& sender, const Program& program) {
    const auto selected = [&](int control, int number) {
        return sent(lane, static_cast<std::uint32_t>(control)) == payload(control, number);
    };
    const auto& bank = program.bank;
    const bool inBank =
        !bank || (selected(midi::bankSelect, (*bank)[0]) && selected(midi::bankSelectLow, (*bank)[1]));
    Payload& last = sent(lane, programSlot);
    if (last == payload(program.number, 0) && inBank && !program.repeats) return;
    if (bank) {
        control(lane, sender, midi::bankSelect, (*bank)[0]);
        control(lane, sender, midi::bankSelectLow, (*bank)[1]);
    }
    last = payload(program.number, 0);
    put(lane, sender, midi::make(midi::programChange, plan().lanes()[lane].channel, program.number));
}

void Lanes::osc(std::uint32_t b, double q) {
    const PlanBranch& branch = plan().branches[b];
    const auto value = static_cast<float>(displayValue(branch.body->range, q));
    std::optional<float>& last = state().osc[branch.place];
    if (last == value && !branch.body->repeats) return;
    last = value;
    const OscPlace& place = plan().numbering.oscPlaces[branch.place];
    const Sender sender = senderOf(b);
    sink_({now_, place.port, sender.instrument, sender.chain, sender.branch, {}, place.address, value});
}

void Lanes::control(std::uint32_t lane, const Sender& sender, int number, int value) {
    const auto control = static_cast<std::uint32_t>(number);
    // A program belongs to the bank in which it was chosen.
    if (midi::isBankSelect(number) && sent(lane, control) != payload(number, value))
        sent(lane, programSlot) = noPayload;
    sent(lane, control) = payload(number, value);
    if (midi::isHalfOfAPair(control))
        sent(lane, pairSlot + static_cast<std::uint32_t>(midi::pairOf(control))) = noPayload;
    midi::Selection& wire = state().selections[lane].wire;
    if (midi::selectsRegister(number)) wire.take(number, value);
    const bool data = midi::isDataEntry(number);
    if (data) forgetRegister(lane, wire);
    if (number == midi::resetAllControllers) forget(lane);
    put(lane, sender, midi::make(midi::controlChange, plan().lanes()[lane].channel, number, value));
}

void Lanes::remember(std::uint32_t lane, midi::Bytes message) {
    switch (midi::kindOf(message)) {
        case midi::pitchBend:
            sent(lane, bendSlot) = payload(message[1], message[2]);
            break;
        case midi::channelPressure:
            sent(lane, pressureSlot) = payload(message[1], 0);
            break;
        case midi::programChange:
            sent(lane, programSlot) = payload(message[1], 0);
            break;
        case midi::keyPressure:
            sent(lane, keyPressureSlot + message[1]) = payload(message[1], message[2]);
            break;
        default:
            break;
    }
}

void Lanes::pass(std::uint32_t lane, const Sender& sender, const midi::Short& message) {
    if (midi::kindOf(message.bytes()) != midi::controlChange) {
        remember(lane, message.bytes());
        return put(lane, sender, message);
    }
    const int number = message.data[1];
    if (midi::selectsRegister(number)) state().selections[lane].player.take(number, message.data[2]);
    const bool data = midi::isDataEntry(number);
    if (data) reselect(lane, sender);
    control(lane, sender, number, message.data[2]);
}

/// Either byte may be unknown, and is not sent then.
void Lanes::select(std::uint32_t lane, const Sender& sender, const midi::Selection& wanted) {
    const bool isRpn = wanted.kind == midi::PairKind::rpn;
    if (wanted.high != midi::Selection::unknown)
        control(lane, sender, isRpn ? midi::rpnSelect : midi::nrpnSelect, wanted.high);
    if (wanted.low != midi::Selection::unknown)
        control(lane, sender, isRpn ? midi::rpnSelectLow : midi::nrpnSelectLow, wanted.low);
}

void Lanes::reselect(std::uint32_t lane, const Sender& sender) {
    const midi::Selection player = state().selections[lane].player;
    if (player.kind == midi::PairKind::control || player == state().selections[lane].wire) return;
    select(lane, sender, player);
    state().selections[lane].wire = player;
}

void Lanes::forgetRegister(std::uint32_t lane, const midi::Selection& selection) {
    const auto& registers = plan().numbering.registers;
    for (std::size_t i = 0; i < registers.size(); ++i) {
        if (registers[i].lane == lane && registers[i].kind == selection.kind &&
            registers[i].number == selection.number())
            state().registers[i] = -1;
    }
}

void Lanes::forget(std::uint32_t lane) {
    std::fill_n(state().sent.begin() + static_cast<std::ptrdiff_t>(lane) * slotsPerLane, slotsPerLane,
                noPayload);
    state().selections[lane] = {};
    const auto& registers = plan().numbering.registers;
    for (std::size_t i = 0; i < registers.size(); ++i) {
        if (registers[i].lane == lane) state().registers[i] = -1;
    }
}

Sender Lanes::senderOf(std::uint32_t b) const {
    const PlanBranch& branch = plan().branches[b];
    return {plan().parts[branch.part].name, static_cast<std::int32_t>(branch.chain),
            static_cast<std::int32_t>(b)};
}

std::uint32_t Lanes::at(PortId port, std::uint8_t channel) const {
    const auto& lanes = plan().lanes();
    const auto found = std::find(lanes.begin(), lanes.end(), Lane{port, channel, 0});
    return static_cast<std::uint32_t>(found - lanes.begin());
}

}  // namespace mellow::engine
