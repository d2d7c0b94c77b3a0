#include "core/store/json_reader.h"

#include <algorithm>
#include <cmath>

#include "core/text/numbers.h"

namespace mellow::store {

std::string describeJson(const Json& json) {
    switch (json.type()) {
        case Json::value_t::null:
            return "nothing (null)";
        case Json::value_t::object:
            return "an object";
        case Json::value_t::array:
            return "a list";
        case Json::value_t::string:
            return "the text \"" + json.get<std::string>().substr(0, 40) + "\"";
        case Json::value_t::boolean:
            return json.get<bool>() ? "true" : "false";
        default:
            return "the number " + json.dump();
    }
}

std::optional<int> asWhole(const Json& json) {
    if (!json.is_number()) return std::nullopt;
    const double value = json.get<double>();
    if (std::floor(value) != value || std::abs(value) > 1e9) return std::nullopt;
    return static_cast<int>(value);
}

ObjectReader::ObjectReader(const Json& json, std::string path, Complaint& complaint)
    : json_(json), path_(std::move(path)), complaint_(complaint) {
    if (!json_.is_object()) complaint_.raise(path_, "expected an object, found " + describeJson(json_));
}

std::string ObjectReader::pathOf(std::string_view key) const {
    return path_.empty() ? std::string(key) : path_ + "." + std::string(key);
}

const Json* ObjectReader::find(std::string_view key) {
    if (!json_.is_object()) return nullptr;
    read_.push_back(key);
    const auto found = json_.find(std::string(key));
    return found == json_.end() ? nullptr : &*found;
}

const Json* ObjectReader::require(std::string_view key) {
    const Json* member = find(key);
    if (member == nullptr)
        complaint_.raise(path_.empty() ? "the document" : path_, "\"" + std::string(key) + "\" is missing");
    return member;
}

void ObjectReader::wrongType(std::string_view key, const std::string& wanted, const Json& got) {
    complaint_.raise(pathOf(key), "expected " + wanted + ", found " + describeJson(got));
}

double ObjectReader::number(std::string_view key, double fallback) {
    const Json* member = find(key);
    if (member == nullptr) return fallback;
    if (!member->is_number()) {
        wrongType(key, "a number", *member);
        return fallback;
    }
    return member->get<double>();
}

int ObjectReader::whole(std::string_view key, int fallback) {
    const Json* member = find(key);
    if (member == nullptr) return fallback;
    const auto value = asWhole(*member);
    if (!value) wrongType(key, "a whole number", *member);
    return value.value_or(fallback);
}

bool ObjectReader::flag(std::string_view key, bool fallback) {
    const Json* member = find(key);
    if (member == nullptr) return fallback;
    if (!member->is_boolean()) {
        wrongType(key, "true or false", *member);
        return fallback;
    }
    return member->get<bool>();
}

std::string ObjectReader::text(std::string_view key) {
    const Json* member = find(key);
    if (member == nullptr) return {};
    if (!member->is_string()) {
        wrongType(key, "text", *member);
        return {};
    }
    return member->get<std::string>();
}

std::string ObjectReader::requiredText(std::string_view key) {
    return require(key) == nullptr ? std::string() : text(key);
}

int ObjectReader::word(std::string_view key, std::span<const std::string_view> words, int fallback) {
    const Json* member = find(key);
    if (member == nullptr) return fallback;
    if (member->is_string()) {
        const auto found = std::find(words.begin(), words.end(), member->get_ref<const std::string&>());
        if (found != words.end()) return static_cast<int>(found - words.begin());
    }
    wrongType(key, "one of " + text::listed(words), *member);
    return fallback;
}

std::optional<int> ObjectReader::channel(std::string_view key) {
    const Json* member = find(key);
    if (member == nullptr || (member->is_string() && member->get_ref<const std::string&>() == "any"))
        return std::nullopt;
    const auto value = asWhole(*member);
    if (!value) wrongType(key, "a channel from 1 to 16 or \"any\"", *member);
    return value;
}

Extras ObjectReader::rest() const {
    Extras extras;
    if (!json_.is_object()) return extras;
    for (const auto& [key, value] : json_.items()) {
        if (std::find(read_.begin(), read_.end(), key) == read_.end()) extras.emplace_back(key, value.dump());
    }
    return extras;
}

}  // namespace mellow::store
