// A field: one value that something in the document has, described once.
//
// Steps and sources come in kinds, and what a kind can be set to differs from kind to kind. Each kind lists
// its fields: what they are called in the document and on screen, of what type they are, their unit and
// limits, and what they start as. The editor, the JSON, the checks and the sentence are read off that list,
// so a field is never named in two places.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

namespace mellow {

/// Members of a JSON object that this version does not know: name and JSON text, in the order found.
using Extras = std::vector<std::pair<std::string, std::string>>;

struct Point {
    double x = 0;
    double y = 0;
    bool operator==(const Point&) const = default;
};

/// A number, one of the field's choices (by index), points, names, or text.
using FieldValue = std::variant<double, int, std::vector<Point>, std::vector<std::string>, std::string>;

struct Field {
    enum class Type { number, whole, choice, points, names, text };
    std::string_view key;    ///< in the document
    std::string_view label;  ///< on screen
    std::string_view unit;   ///< of a number: "", "%" (shown ×100), "ms", "Hz"
    Type type = Type::number;
    double low = 0;       ///< what the editor offers
    double high = 1;      ///< what the editor offers
    double start = 0;     ///< default of a number; of a choice, its index
    bool strict = false;  ///< outside low..high the rules give it no meaning, and its chain cannot run
    std::span<const std::string_view> choices = {};
    std::string_view help = {};  ///< one sentence for the musician
    bool sparing = false;        ///< not written into a document where it is as at the start
};

/// What a field starts as.
FieldValue startOf(const Field& field);
std::vector<FieldValue> startOf(std::span<const Field> fields);

/// Why values cannot be used as they are, going by their fields' limits; empty when they can.
std::string flawOf(std::span<const Field> fields, std::span<const FieldValue> values);

}  // namespace mellow
