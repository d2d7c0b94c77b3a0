// A source of a kind begins with every field at its start, so that reading one is overwriting what the
// document says. Flaws are those of its fields; an OSC address has a rule of its own.
#include "core/model/source.h"

#include "core/text/printable.h"

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

bool isOscAddress(std::string_view text) {
    return text.starts_with('/') && text::isOneWord(text);
}

std::string flawOf(const Source& source) {
    const auto& kind = row(source.kind);
    std::string flaw = flawOf(kind.fields, source.values);
    if (flaw.empty() && source.kind == SourceKind::osc && !isOscAddress(textOf(source, 0)))
        flaw = "an OSC address begins with / and is one word";
    return flaw;
}

}  // namespace mellow
