// Types are checked where a value is asked for, and the complaint has the value's line, its path, what was
// expected and what was found. Which members were asked for is remembered, since the others are the extras.
#include "core/store/json_reader.h"

#include <algorithm>
#include <cmath>

#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::store {

std::string describeJson(JsonView json) {
    switch (json.type()) {
        case JsonView::Type::null:
            return "nothing (null)";
        case JsonView::Type::object:
            return "an object";
        case JsonView::Type::list:
            return "a list";
        case JsonView::Type::text:
            return "the text " + text::quoted(json.text());
        case JsonView::Type::boolean:
            return json.flag() ? "true" : "false";
        default:
            return "the number " + json.print();
    }
}

std::optional<int> asWhole(JsonView json) {
    if (!json.isNumber()) return std::nullopt;
    const double value = json.number();
    if (std::floor(value) != value || std::abs(value) > 1e9) return std::nullopt;
    return static_cast<int>(value);
}

ObjectReader::ObjectReader(JsonView json, std::string path, Complaint& complaint)
    : json_(json), path_(std::move(path)), complaint_(complaint) {
    if (!json_.isObject()) complaint_.raise(json_, path_, "expected an object, found " + describeJson(json_));
}

std::string ObjectReader::pathOf(std::string_view key) const {
    return path_.empty() ? std::string(key) : path_ + "." + std::string(key);
}

JsonView ObjectReader::find(std::string_view key) {
    read_.push_back(key);
    return json_.find(key);
}

JsonView ObjectReader::require(std::string_view key) {
    const JsonView member = find(key);
    if (!member)
        complaint_.raise(json_, path_.empty() ? "the document" : path_,
                         "\"" + std::string(key) + "\" is missing");
    return member;
}

void ObjectReader::wrongType(std::string_view key, const std::string& wanted, JsonView got) {
    complaint_.raise(got, pathOf(key), "expected " + wanted + ", found " + describeJson(got));
}

double ObjectReader::number(std::string_view key, double fallback) {
    const JsonView member = find(key);
    if (!member) return fallback;
    if (!member.isNumber()) {
        wrongType(key, "a number", member);
        return fallback;
    }
    return member.number();
}

int ObjectReader::whole(std::string_view key, int fallback) {
    const JsonView member = find(key);
    if (!member) return fallback;
    const auto value = asWhole(member);
    if (!value) wrongType(key, "a whole number", member);
    return value.value_or(fallback);
}

bool ObjectReader::flag(std::string_view key, bool fallback) {
    const JsonView member = find(key);
    if (!member) return fallback;
    if (!member.isFlag()) {
        wrongType(key, "true or false", member);
        return fallback;
    }
    return member.flag();
}

std::string ObjectReader::text(std::string_view key) {
    const JsonView member = find(key);
    if (!member) return {};
    if (!member.isText()) {
        wrongType(key, "text", member);
        return {};
    }
    return std::string(member.text());
}

std::string ObjectReader::requiredText(std::string_view key) {
    return require(key) ? text(key) : std::string();
}

int ObjectReader::word(std::string_view key, std::span<const std::string_view> words, int fallback) {
    const JsonView member = find(key);
    if (!member) return fallback;
    if (member.isText()) {
        const auto found = std::find(words.begin(), words.end(), member.text());
        if (found != words.end()) return static_cast<int>(found - words.begin());
    }
    wrongType(key, "one of " + text::listed(words), member);
    return fallback;
}

std::optional<int> ObjectReader::channel(std::string_view key) {
    const JsonView member = find(key);
    if (!member || (member.isText() && member.text() == "any")) return std::nullopt;
    const auto value = asWhole(member);
    if (!value) wrongType(key, "a channel from 1 to 16 or \"any\"", member);
    return value;
}

Extras ObjectReader::rest() const {
    Extras extras;
    for (JsonView each = json_.isObject() ? json_.first() : JsonView(); each; each = each.next()) {
        if (std::find(read_.begin(), read_.end(), each.key()) != read_.end()) continue;
        // Besides the text, two strings and the room that a growing list keeps.
        if (!complaint_.spend(3 * sizeof(Extras::value_type), each, path_)) break;
        extras.emplace_back(std::string(each.key()), each.print());
    }
    return extras;
}

}  // namespace mellow::store
