// Names numbered in the order in which they were first seen.
//
// What plays compares numbers. A name keeps its number in every later plan that is compiled from an earlier
// one, which is how memory is carried across an edit.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace mellow::engine {

class Names {
 public:
    /// The number of a name, new or old.
    std::uint32_t intern(std::string_view name);
    /// The number of a name, or nothing when it was never interned.
    [[nodiscard]] std::optional<std::uint32_t> find(std::string_view name) const;
    [[nodiscard]] const std::string& name(std::uint32_t number) const { return names_[number]; }
    [[nodiscard]] std::size_t size() const { return names_.size(); }

 private:
    std::vector<std::string> names_;
    std::unordered_map<std::string, std::uint32_t> numbers_;
};

}  // namespace mellow::engine
