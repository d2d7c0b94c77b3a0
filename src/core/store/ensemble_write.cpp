// Structs are written as their keys are described (model/ensemble_keys.h), with what says nothing left out: a
// key at its default is not written, so that documents stay short and a diff shows what a person did. Objects
// are printed a property a line, lists of plain values on one line.
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/model/ensemble_keys.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "core/store/part_json.h"

namespace mellow::store {

namespace {

using Json = nlohmann::ordered_json;

/// Whole numbers without a decimal point, as people write them.
Json number(double value) {
    if (!std::isfinite(value)) return 0;  // JSON has no word for it, and a document must be read again.
    if (std::floor(value) == value && std::abs(value) < 1e15) return static_cast<std::int64_t>(value);
    return value;
}

Json level(const Level& level) {
    if (const auto* word = std::get_if<std::string>(&level)) return *word;
    return number(std::get<double>(level));
}

std::string wordOf(std::span<const std::string_view> words, int value) {
    return std::string(words[static_cast<std::size_t>(value)]);
}

void addExtras(Json& json, const Extras& extras) {
    for (const auto& [key, text] : extras) json[key] = Json::parse(text, nullptr, false);
}

Json field(const Field& field, const FieldValue& value) {
    switch (field.type) {
        case Field::Type::number:
        case Field::Type::whole:
            return number(std::get<double>(value));
        case Field::Type::names:
            return std::get<std::vector<std::string>>(value);
        case Field::Type::text:
            return std::get<std::string>(value);
        case Field::Type::choice:
            return field.choices[static_cast<std::size_t>(std::get<int>(value))];
        case Field::Type::points:
            break;
    }
    Json points = Json::array();
    for (const Point& point : std::get<std::vector<Point>>(value))
        points.push_back({number(point.x), number(point.y)});
    return points;
}

void addFields(Json& json, std::span<const Field> fields, const std::vector<FieldValue>& values) {
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (fields[i].sparing && values[i] == startOf(fields[i])) continue;
        json[std::string(fields[i].key)] = field(fields[i], values[i]);
    }
}

Json source(const Source& source) {
    Json json;
    json["kind"] = row(source.kind).name;
    if (row(source.kind).numbered && source.number != anyNumber) json["number"] = source.number;
    if (source.channel) json["channel"] = *source.channel;
    if (!source.controller.empty()) json["controller"] = source.controller;
    if (!source.control.empty()) json["control"] = source.control;
    if (source.kind == SourceKind::tieLine) json["id"] = source.tieLine;
    if (source.rest) json["rest"] = wordOf(restWords, static_cast<int>(*source.rest));
    addFields(json, row(source.kind).fields, source.values);
    addExtras(json, source.extras);
    return json;
}

Json step(const Step& step) {
    Json json;
    json["kind"] = step.kind->name;
    if (!step.on) json["on"] = false;
    if (step.with) json["with"] = source(*step.with);
    addFields(json, step.kind->fields, step.values);
    addExtras(json, step.extras);
    return json;
}

// Structs, by their descriptions.

template<Described Struct>
Json written(const Struct& value);
Json message(const Message& message);

template<class Thing>
Json thing(const Thing& value) {
    if constexpr (std::is_same_v<Thing, Source>) {
        return source(value);
    } else if constexpr (std::is_same_v<Thing, Step>) {
        return step(value);
    } else if constexpr (std::is_same_v<Thing, Message>) {
        return message(value);
    } else if constexpr (std::is_same_v<Thing, Level>) {
        return level(value);
    } else if constexpr (Described<Thing>) {
        return written(value);
    } else if constexpr (std::is_same_v<Thing, double>) {
        return number(value);
    } else {
        return value;
    }
}

template<class KeyType, class Member>
Json member(const KeyType& key, const Member& value) {
    if constexpr (std::is_enum_v<Member>) {
        return wordOf(key.words, static_cast<int>(value));
    } else if constexpr (std::is_same_v<Member, std::map<std::string, std::string>>) {
        return Json(value);
    } else if constexpr (requires { value.begin(); } && !std::is_same_v<Member, std::string>) {
        Json array = Json::array();
        for (const auto& each : value) array.push_back(thing(each));
        return array;
    } else {
        return thing(value);
    }
}

template<class Struct, class Member>
void add(Json& json, const Key<Struct, Member>& key, const Struct& value, const Struct& absent) {
    const Member& is = value.*key.member;
    if (key.need == Need::mayBeAbsent && is == absent.*key.member) return;
    if constexpr (requires { is.has_value(); }) {
        if (is) json[std::string(key.name)] = member(key, *is);
    } else {
        json[std::string(key.name)] = member(key, is);
    }
}

template<class Struct>
void add(Json& json, const PairKey<Struct>& key, const Struct& value, const Struct& absent) {
    if (value.*key.first == absent.*key.first && value.*key.second == absent.*key.second) return;
    json[std::string(key.name)] = {value.*key.first, value.*key.second};
}

template<Described Struct>
Json written(const Struct& value) {
    static const Struct absent;
    Json json = Json::object();
    forEachKey<Struct>([&](const auto& key) {
        if (hasKey(value, key.name)) add(json, key, value, absent);
    });
    addExtras(json, value.extras);
    return json;
}

Json message(const Message& message) {
    static const Message absent;
    const MessageRow& kind = row(message.kind);
    Json json;
    json["kind"] = kind.name;
    if (kind.numbered) json["number"] = message.number;
    forEachKey<Message>([&](const auto& key) {
        if (key.name == kind.part) add(json, key, message, absent);
    });
    addFields(json, kind.fields, message.values);
    addExtras(json, message.extras);
    return json;
}

bool isFlat(const Json& array) {
    return std::all_of(array.begin(), array.end(), [](const Json& each) {
        return !each.is_object() && (!each.is_array() || isFlat(each));
    });
}

/// What is not UTF-8 is replaced: a document can be read again, whatever got into it.
std::string plain(const Json& json) {
    return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string inlineList(const Json& json) {
    if (!json.is_array()) return plain(json);
    std::string text = "[";
    for (const Json& each : json) text += (text.size() > 1 ? ", " : "") + inlineList(each);
    return text + "]";
}

void print(const Json& json, std::size_t indent, std::string& out) {
    const bool isObject = json.is_object();
    if (!isObject && (!json.is_array() || isFlat(json))) {
        out += inlineList(json);
        return;
    }
    if (json.empty()) {
        out += "{}";
        return;
    }
    const std::string margin(indent + 2, ' ');
    out += isObject ? "{\n" : "[\n";
    std::size_t left = json.size();
    for (const auto& [key, value] : json.items()) {
        out += margin;
        if (isObject) out += plain(Json(key)) + ": ";
        print(value, indent + 2, out);
        out += --left > 0 ? ",\n" : "\n";
    }
    out += std::string(indent, ' ') + (isObject ? "}" : "]");
}

template<Described Document>
std::string printed(const Document& document, std::string_view format, int version) {
    Json json;
    json["format"] = format;
    json["version"] = version;
    json.update(written(document));
    std::string text;
    print(json, 0, text);
    return text + "\n";
}

}  // namespace

std::string printEnsemble(const Ensemble& ensemble) {
    return printed(ensemble, formatName, documentVersion);
}

std::string printPart(const Part& part) {
    return printed(part, partFormat, partVersion);
}

}  // namespace mellow::store
