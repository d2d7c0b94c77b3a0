#include "core/describe/source_words.h"

#include <array>

#include "core/model/desk.h"
#include "core/model/kinds.h"

namespace mellow::describe {

std::string sourceWords(const Source& source) {
    static constexpr std::array<const char*, axisCount> axes{"x", "y", "touch"};
    const std::string number = std::to_string(source.number);
    switch (source.kind) {
        case SourceKind::keyNumber:
            return "keys";
        case SourceKind::velocity:
            return "velocity";
        case SourceKind::control:
            return "control " + source.controller + " " + source.control;
        case SourceKind::tieLine:
            return "tie line " + source.tieLine;
        case SourceKind::desk:
            return "desk " + elementOf(source) + " " + axes.at(static_cast<std::size_t>(axisOf(source)));
        case SourceKind::osc:
            return "osc " + textOf(source, 0);
        case SourceKind::cc:
            return "cc " + number;
        case SourceKind::cc14:
            return "14-bit cc " + number;
        case SourceKind::bend:
            return "bend";
        case SourceKind::pressure:
            return "pressure";
        case SourceKind::keyPressure:
            return "key pressure";
        case SourceKind::rpn:
            return "rpn " + number;
        case SourceKind::nrpn:
            return "nrpn " + number;
        default:
            return std::string(row(source.kind).name);
    }
}

std::string parameterWords(const std::string& id) {
    return "parameter " + id;
}

}  // namespace mellow::describe
