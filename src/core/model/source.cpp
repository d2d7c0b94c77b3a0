#include "core/model/source.h"

namespace mellow {

Source makeSource(SourceKind kind) {
    Source source;
    source.kind = kind;
    source.values = startOf(row(kind).fields);
    if (kind == SourceKind::program) source.number = anyNumber;
    return source;
}

double numberOf(const Source& source, std::size_t field) {
    return *std::get_if<double>(&source.values[field]);
}
int choiceOf(const Source& source, std::size_t field) {
    return *std::get_if<int>(&source.values[field]);
}
const std::string& textOf(const Source& source, std::size_t field) {
    return *std::get_if<std::string>(&source.values[field]);
}

std::string flawOf(const Source& source) {
    const auto& kind = row(source.kind);
    std::string flaw = flawOf(kind.fields, source.values);
    if (flaw.empty() && source.kind == SourceKind::osc && !textOf(source, 0).starts_with('/'))
        flaw = "an OSC address begins with /";
    return flaw;
}

}  // namespace mellow
