// The kinds of message that a parameter sends or a control of a controller has. The order is that in which
// menus list them, and an enumerator is its row's place.
#include <array>

#include "core/model/kinds.h"
#include "core/sources/fields.h"

namespace mellow {

namespace {

constexpr int max7 = 127;
constexpr int max14 = 16383;

const std::array<MessageRow, 12>& messageRows() {
    static const std::array<MessageRow, 12> rows{{
        {MessageKind::cc, "cc", "Control (CC)", max7, true},
        {MessageKind::cc14, "cc14", "Control, 14-bit", max14, true},
        {MessageKind::bend, "bend", "Pitch bend", max14, false},
        {MessageKind::pressure, "pressure", "Channel pressure", max7, false},
        {MessageKind::keyPressure, "keyPressure", "Key pressure", max7, false},
        {MessageKind::velocity, "velocity", "Velocity of passing notes", max7, false},
        {MessageKind::note, "note", "Note or key switch", max7, true},
        {MessageKind::program, "program", "Program change", max7, false},
        {MessageKind::rpn, "rpn", "RPN", max14, true},
        {MessageKind::nrpn, "nrpn", "NRPN", max14, true},
        {MessageKind::osc, "osc", "OSC", max7, false},
        {MessageKind::relative, "relative", "Relative encoder", 0, true, encoderFields},
    }};
    return rows;
}

}  // namespace

std::span<const MessageRow> messageKinds() {
    return std::span(messageRows()).first(messageRows().size() - 1);
}
std::span<const MessageRow> controlKinds() {
    return messageRows();
}
const MessageRow& row(MessageKind kind) {
    return messageRows().at(static_cast<std::size_t>(kind));
}

}  // namespace mellow
