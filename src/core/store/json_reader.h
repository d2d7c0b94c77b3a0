// Reading JSON objects field by field, with a path for every complaint.
//
// An ObjectReader hands out the members of one object, typed and checked, and at the end whatever nobody
// asked for, as Extras. The first complaint is remembered and everything after it returns defaults, so that
// the code that reads a struct can be written straight through without a branch after each field.
#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::store {

using Json = nlohmann::ordered_json;

/// The first thing found wrong in a document.
struct Complaint {
    std::optional<Problem> first;

    void raise(const std::string& where, std::string what, std::string mend = {}) {
        if (!first) first = Problem{where, std::move(what), std::move(mend)};
    }
};

class ObjectReader {
 public:
    ObjectReader(const Json& json, std::string path, Complaint& complaint);

    [[nodiscard]] const std::string& path() const { return path_; }
    [[nodiscard]] std::string pathOf(std::string_view key) const;
    Complaint& complaint() { return complaint_; }

    /// The member, marked as read; nullptr when it is absent.
    const Json* find(std::string_view key);
    /// As find(), but absence is a complaint.
    const Json* require(std::string_view key);

    double number(std::string_view key, double fallback);
    int whole(std::string_view key, int fallback);
    bool flag(std::string_view key, bool fallback);
    std::string text(std::string_view key);
    std::string requiredText(std::string_view key);
    /// A word out of a list, by index.
    int word(std::string_view key, std::span<const std::string_view> words, int fallback);
    /// A channel: 1..16 or "any" (nothing). Other whole numbers are kept, for checks to name.
    std::optional<int> channel(std::string_view key);

    /// The elements of an array member, read one by one.
    template<class Value, class Read>
    std::vector<Value> list(std::string_view key, bool required, Read&& read) {
        std::vector<Value> values;
        const Json* member = required ? require(key) : find(key);
        if (member == nullptr) return values;
        if (!member->is_array()) {
            wrongType(key, "a list", *member);
            return values;
        }
        for (std::size_t i = 0; i < member->size() && !complaint_.first; ++i) {
            values.push_back(read((*member)[i], pathOf(key) + "[" + std::to_string(i) + "]"));
        }
        return values;
    }

    /// Every member that was not asked for.
    [[nodiscard]] Extras rest() const;

    void wrongType(std::string_view key, const std::string& wanted, const Json& got);

 private:
    const Json& json_;
    std::string path_;
    Complaint& complaint_;
    std::vector<std::string_view> read_;
};

/// What a JSON value is, in words, for complaints.
std::string describeJson(const Json& json);

/// Complains when a number is not whole or too large to be one.
std::optional<int> asWhole(const Json& json);

}  // namespace mellow::store
