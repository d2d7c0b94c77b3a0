// Reading JSON objects field by field, with a path for every complaint.
//
// An ObjectReader hands out the members of one object, typed and checked, and at the end whatever nobody
// asked for, as Extras. The first complaint is remembered and everything after it returns defaults, so that
// the code that reads a struct can be written straight through without a branch after each field.
#pragma once

#include <algorithm>
#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/store/json_tree.h"

namespace mellow::store {

/// The first thing found wrong in a document, and what it has cost so far: a hostile one may hold a million
/// things in a few bytes each, which here are larger.
struct Complaint {
    std::optional<Problem> first;
    std::size_t room = 0;  ///< bytes that may still be spent on what is read

    void raise(JsonView at, const std::string& path, std::string what, std::string mend = {}) {
        if (first) return;
        const std::string line = at ? "line " + std::to_string(at.line()) : "";
        first = Problem{line + (line.empty() || path.empty() ? "" : ", ") + path, std::move(what),
                        std::move(mend)};
    }
    /// Notes that something takes that many bytes. False, and a complaint, where there is no more room.
    bool spend(std::size_t bytes, JsonView at, const std::string& path) {
        if (bytes > room)
            raise(at, path, "the document holds far more than a file of its size can",
                  "choose a file that Mellow Lever saved");
        room -= std::min(bytes, room);
        return !first;
    }
};

class ObjectReader {
 public:
    ObjectReader(JsonView json, std::string path, Complaint& complaint);

    [[nodiscard]] const std::string& path() const { return path_; }
    [[nodiscard]] std::string pathOf(std::string_view key) const;
    Complaint& complaint() { return complaint_; }

    /// The member, marked as read; none when it is absent.
    JsonView find(std::string_view key);
    /// As find(), but absence is a complaint.
    JsonView require(std::string_view key);

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
        const JsonView member = required ? require(key) : find(key);
        if (!member) return values;
        if (!member.isList()) {
            wrongType(key, "a list", member);
            return values;
        }
        if (!complaint_.spend(member.size() * sizeof(Value), member, pathOf(key))) return values;
        values.reserve(member.size());
        for (JsonView each = member.first(); each && !complaint_.first; each = each.next())
            values.push_back(read(each, pathOf(key) + "[" + std::to_string(values.size()) + "]"));
        return values;
    }

    /// Every member that was not asked for.
    [[nodiscard]] Extras rest() const;

    void wrongType(std::string_view key, const std::string& wanted, JsonView got);

 private:
    JsonView json_;
    std::string path_;
    Complaint& complaint_;
    std::vector<std::string_view> read_;
};

/// What a JSON value is, in words, for complaints.
std::string describeJson(JsonView json);

/// Complains when a number is not whole or too large to be one.
std::optional<int> asWhole(JsonView json);

}  // namespace mellow::store
