// The kinds of source, by the list in model/kinds.h: an enumerator is its row's place.
#include <algorithm>
#include <array>

#include "core/model/kinds.h"

namespace mellow {

#define MELLOW_DECLARE(name) extern const SourceRow name##Source;
MELLOW_SOURCES(MELLOW_DECLARE)
#undef MELLOW_DECLARE

namespace {

const std::vector<SourceRow>& rows() {
#define MELLOW_ROW(name) name##Source,
    static const std::vector<SourceRow> all{MELLOW_SOURCES(MELLOW_ROW)};
#undef MELLOW_ROW
    return all;
}

}  // namespace

std::span<const SourceRow> sourceKinds() {
    return rows();
}
const SourceRow& row(SourceKind kind) {
    return rows()[static_cast<std::size_t>(kind)];
}
const SourceRow* findSourceKind(std::string_view name) {
    const auto found = std::find_if(rows().begin(), rows().end(),
                                    [name](const SourceRow& each) { return each.name == name; });
    return found == rows().end() ? nullptr : &*found;
}

}  // namespace mellow
