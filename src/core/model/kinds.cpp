#include "core/model/kinds.h"

#include <algorithm>
#include <array>

namespace mellow {

namespace {

constexpr int max7 = 127;
constexpr int max14 = 16383;

constexpr std::array<KindRow<SourceKind>, 19> sourceRows{{
    {SourceKind::cc, "cc", "Control (CC)", max7, true, true},
    {SourceKind::cc14, "cc14", "Control, 14-bit", max14, true, false},
    {SourceKind::bend, "bend", "Pitch bend", max14, false, true},
    {SourceKind::pressure, "pressure", "Channel pressure", max7, false, true},
    {SourceKind::keyPressure, "keyPressure", "Key pressure", max7, false, false},
    {SourceKind::velocity, "velocity", "Velocity", max7, false, true},
    {SourceKind::releaseVelocity, "releaseVelocity", "Release velocity", max7, false, false},
    {SourceKind::key, "key", "Key as a button", max7, true, false},
    {SourceKind::keyNumber, "keyNumber", "Key number", max7, false, false},
    {SourceKind::program, "program", "Program change", max7, true, false},
    {SourceKind::rpn, "rpn", "RPN", max14, true, false},
    {SourceKind::nrpn, "nrpn", "NRPN", max14, true, false},
    {SourceKind::relative, "relative", "Relative encoder", max7, true, false},
    {SourceKind::control, "control", "Control of a controller", max7, false, false},
    {SourceKind::tieLine, "tieLine", "Tie line", max7, false, false},
    {SourceKind::lfo, "lfo", "Cycle generator", max7, false, false},
    {SourceKind::envelope, "envelope", "Envelope", max7, false, false},
    {SourceKind::walk, "walk", "Random walk", max7, false, false},
    {SourceKind::osc, "osc", "OSC", max7, false, false},
}};

constexpr std::array<KindRow<MessageKind>, 11> messageRows{{
    {MessageKind::cc, "cc", "Control (CC)", max7, true, true},
    {MessageKind::cc14, "cc14", "Control, 14-bit", max14, true, false},
    {MessageKind::bend, "bend", "Pitch bend", max14, false, true},
    {MessageKind::pressure, "pressure", "Channel pressure", max7, false, true},
    {MessageKind::keyPressure, "keyPressure", "Key pressure", max7, false, false},
    {MessageKind::velocity, "velocity", "Velocity of passing notes", max7, false, false},
    {MessageKind::note, "note", "Note", max7, true, false},
    {MessageKind::program, "program", "Program change", max7, false, false},
    {MessageKind::rpn, "rpn", "RPN", max14, true, false},
    {MessageKind::nrpn, "nrpn", "NRPN", max14, true, false},
    {MessageKind::osc, "osc", "OSC", max7, false, false},
}};

template<class Rows>
auto find(const Rows& rows, std::string_view name) -> decltype(rows.data()) {
    const auto found =
        std::find_if(rows.begin(), rows.end(), [name](const auto& r) { return r.name == name; });
    return found == rows.end() ? nullptr : &*found;
}

}  // namespace

std::span<const KindRow<SourceKind>> sourceKinds() {
    return sourceRows;
}
std::span<const KindRow<MessageKind>> messageKinds() {
    return messageRows;
}
const KindRow<SourceKind>& row(SourceKind kind) {
    return sourceRows.at(static_cast<std::size_t>(kind));
}
const KindRow<MessageKind>& row(MessageKind kind) {
    return messageRows.at(static_cast<std::size_t>(kind));
}
const KindRow<SourceKind>* findSourceKind(std::string_view name) {
    return find(sourceRows, name);
}
const KindRow<MessageKind>* findMessageKind(std::string_view name) {
    return find(messageRows, name);
}

}  // namespace mellow
