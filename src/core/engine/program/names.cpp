// A list for number to name and a map for name to number, nothing else. Names are never removed: a number
// that was handed out stays good.
#include "core/engine/program/names.h"

namespace mellow::engine {

std::uint32_t Names::intern(std::string_view name) {
    const auto [entry, isNew] =
        numbers_.try_emplace(std::string(name), static_cast<std::uint32_t>(names_.size()));
    if (isNew) names_.emplace_back(name);
    return entry->second;
}

std::optional<std::uint32_t> Names::find(std::string_view name) const {
    const auto found = numbers_.find(std::string(name));
    return found == numbers_.end() ? std::nullopt : std::optional(found->second);
}

}  // namespace mellow::engine
