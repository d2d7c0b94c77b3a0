// The schema is read off the same descriptions as everything else: keys of structs (model/ensemble_keys.h),
// and the rows and fields of what has a kind. Two rules that no description carries stand here: a fan that
// chooses needs a chooser, and an instrument may name its sound on the practice rack.
#include "core/store/schema.h"

#include <nlohmann/json.hpp>

#include "core/model/ensemble_keys.h"
#include "core/steps/step.h"

namespace mellow::store {

namespace {

using Json = nlohmann::ordered_json;

Json typed(const char* type) {
    return {{"type", type}};
}

Json reference(std::string_view name) {
    return {{"$ref", "#/$defs/" + std::string(name)}};
}

Json listOf(Json items) {
    return {{"type", "array"}, {"items", std::move(items)}};
}

Json numbersOf(const char* type, int count) {
    Json numbers = listOf(typed(type));
    numbers["minItems"] = count;
    numbers["maxItems"] = count;
    return numbers;
}

template<class Words>
Json oneOf(const Words& words) {
    Json list = Json::array();
    for (const auto& word : words) list.push_back(std::string(word));
    return {{"enum", std::move(list)}};
}

/// The names of kinds for which holds(row) is true.
template<class Rows, class Holds>
std::vector<std::string> namesOf(const Rows& rows, Holds&& holds) {
    std::vector<std::string> names;
    for (const auto& row : rows) {
        if (holds(row)) names.emplace_back(row.name);
    }
    return names;
}

Json described(Json schema, std::string_view about) {
    if (about.empty()) return schema;
    Json with{{"description", std::string(about)}};
    with.update(schema);
    return with;
}

Json schemaOf(const Field& field) {
    switch (field.type) {
        case Field::Type::choice:
            return oneOf(field.choices);
        case Field::Type::points:
            return listOf(numbersOf("number", 2));
        case Field::Type::names:
            return listOf(typed("string"));
        case Field::Type::text:
            return typed("string");
        default:
            return typed("number");
    }
}

void addFields(Json& properties, std::span<const Field> fields) {
    for (const Field& field : fields) properties[std::string(field.key)] = schemaOf(field);
}

/// For kinds of these names, the keys that they need beside `kind`.
Json needs(const std::vector<std::string>& kinds, const Json& keys) {
    return {{"if", {{"properties", {{"kind", {{"enum", kinds}}}}}}}, {"then", {{"required", keys}}}};
}

Json sourceSchema() {
    const auto all = [](const SourceRow&) { return true; };
    Json properties{{"kind", {{"enum", namesOf(sourceKinds(), all)}}}};
    properties["number"] = typed("integer");
    properties["channel"] = reference("channelFilter");
    properties["controller"] = typed("string");
    properties["control"] = described(typed("string"), "Of a control: its id within the controller.");
    properties["id"] = described(typed("string"), "Of a tie line.");
    properties["rest"] = oneOf(restWords);
    for (const SourceRow& kind : sourceKinds()) addFields(properties, kind.fields);
    const auto numbered = [](const SourceRow& row) {
        return row.numbered && row.kind != SourceKind::program;
    };
    return {{"type", "object"},
            {"required", {"kind"}},
            {"properties", std::move(properties)},
            {"allOf",
             {needs(namesOf(sourceKinds(), numbered), {"number"}), needs({"control"}, {"control"}),
              needs({"tieLine"}, {"id"})}}};
}

Json stepSchema() {
    std::vector<std::string> names;
    std::vector<std::string> withSource;
    Json properties{{"kind", Json()}, {"on", typed("boolean")}, {"with", reference("source")}};
    for (const StepKind* kind : stepKinds()) {
        names.emplace_back(kind->name);
        if (kind->namesSource) withSource.emplace_back(kind->name);
        addFields(properties, kind->fields);
    }
    properties["kind"] = {{"enum", names}};
    return {{"type", "object"},
            {"required", {"kind"}},
            {"properties", std::move(properties)},
            {"allOf", {needs(withSource, {"with"})}}};
}

template<class Thing>
struct Inner {
    using Type = Thing;
};
template<class Thing>
struct Inner<std::optional<Thing>> : Inner<Thing> {};

template<class Thing>
Json schemaOfType(std::span<const std::string_view> words, bool isControl) {
    if constexpr (std::is_enum_v<Thing>) {
        return oneOf(words);
    } else if constexpr (std::is_same_v<Thing, bool>) {
        return typed("boolean");
    } else if constexpr (std::is_same_v<Thing, std::map<std::string, std::string>>) {
        return {{"type", "object"}, {"additionalProperties", typed("string")}};
    } else if constexpr (std::is_same_v<Thing, int> || std::is_same_v<Thing, std::int64_t>) {
        return typed("integer");
    } else if constexpr (std::is_same_v<Thing, double>) {
        return typed("number");
    } else if constexpr (std::is_same_v<Thing, std::string>) {
        return typed("string");
    } else if constexpr (std::is_same_v<Thing, Level>) {
        return reference("level");
    } else if constexpr (std::is_same_v<Thing, Source>) {
        return reference("source");
    } else if constexpr (std::is_same_v<Thing, Step>) {
        return reference("step");
    } else if constexpr (std::is_same_v<Thing, Message>) {
        return reference(isControl ? "controlMessage" : "message");
    } else if constexpr (std::is_same_v<Thing, std::array<int, 2>>) {
        return numbersOf("integer", 2);
    } else if constexpr (std::is_same_v<Thing, std::array<int, 4>>) {
        return numbersOf("integer", 4);
    } else if constexpr (Described<Thing>) {
        return reference(Keys<Thing>::name);
    } else {
        return listOf(schemaOfType<typename Thing::value_type>(words, isControl));
    }
}

template<class Struct, class Member>
Json schemaOf(const Key<Struct, Member>& key) {
    // The only whole numbers that may be absent are channels.
    if constexpr (std::is_same_v<Member, std::optional<int>>) return reference("channelFilter");
    const bool isControl = key.messages == controlKinds;
    return described(schemaOfType<typename Inner<Member>::Type>(key.words, isControl), key.about);
}
template<class Struct>
Json schemaOf(const PairKey<Struct>&) {
    return numbersOf("integer", 2);
}

Json messageSchema(std::span<const MessageRow> kinds) {
    const auto all = [](const MessageRow&) { return true; };
    Json properties{{"kind", {{"enum", namesOf(kinds, all)}}}};
    properties["number"] = typed("integer");
    Json needed =
        Json::array({needs(namesOf(kinds, [](const MessageRow& row) { return row.numbered; }), {"number"})});
    forEachKey<Message>([&](const auto& key) {
        const auto hasIt = [&key](const MessageRow& row) { return row.part == key.name; };
        const std::vector<std::string> owners = namesOf(kinds, hasIt);
        properties[std::string(key.name)] = schemaOf(key);
        if (key.need == Need::isRequired)
            needed.push_back(needs(owners, Json::array({std::string(key.name)})));
    });
    for (const MessageRow& kind : kinds) addFields(properties, kind.fields);
    return {{"type", "object"},
            {"required", {"kind"}},
            {"properties", std::move(properties)},
            {"allOf", std::move(needed)}};
}

template<Described Struct>
Json structSchema() {
    Json required = Json::array();
    Json properties = Json::object();
    forEachKey<Struct>([&](const auto& key) {
        properties[std::string(key.name)] = schemaOf(key);
        if constexpr (requires { key.need; }) {
            if (key.need == Need::isRequired) required.push_back(std::string(key.name));
        }
    });
    Json schema = typed("object");
    if (!required.empty()) schema["required"] = std::move(required);
    schema["properties"] = std::move(properties);
    return schema;
}

/// A select needs what its kind needs.
Json selectSchema() {
    Json schema = structSchema<Select>();
    schema["required"] = {"kind"};
    Json needed = Json::array();
    for (std::size_t kind = 0; kind < selectWords.size(); ++kind) {
        Json keys = Json::array();
        forEachKey<Select>([&](const auto& key) {
            const bool isOfKind = Keys<Select>::isOf(static_cast<SelectKind>(kind), key.name);
            if (key.need == Need::isRequired && isOfKind && key.name != "kind")
                keys.push_back(std::string(key.name));
        });
        needed.push_back(needs({std::string(selectWords.at(kind))}, keys));
    }
    schema["allOf"] = std::move(needed);
    return schema;
}

template<Described Struct>
void addWhatIsIn(Json& definitions);

/// A struct, and all that is in it; what has a schema of its own kind, as a source has, is left to that.
template<class Thing>
void addType(Json& definitions) {
    constexpr bool isLeaf = std::is_same_v<Thing, Source> || std::is_same_v<Thing, Step> ||
                            std::is_same_v<Thing, Message> || std::is_same_v<Thing, std::string>;
    if constexpr (isLeaf) {
        return;
    } else if constexpr (Described<Thing>) {
        Json& schema = definitions[std::string(Keys<Thing>::name)];
        if (!schema.is_null()) return;
        schema = structSchema<Thing>();
        addWhatIsIn<Thing>(definitions);
    } else if constexpr (requires { typename Thing::value_type; }) {
        addType<typename Thing::value_type>(definitions);
    }
}
template<class Struct, class Member>
void addMember(Json& definitions, const Key<Struct, Member>&) {
    addType<typename Inner<Member>::Type>(definitions);
}
template<class Struct>
void addMember(Json&, const PairKey<Struct>&) {}

template<Described Struct>
void addWhatIsIn(Json& definitions) {
    forEachKey<Struct>([&](const auto& key) { addMember(definitions, key); });
}

Json definitions() {
    Json all = Json::object();
    all["channelFilter"] = {{"description", "1 to 16, or any."},
                            {"anyOf", {typed("integer"), {{"const", "any"}}}}};
    all["level"] = {{"description",
                     "A place in a parameter's range: a number in display units, a label of its choices, or "
                     "-inf for silence."},
                    {"type", {"number", "string"}}};
    all["message"] = messageSchema(messageKinds());
    all["controlMessage"] = messageSchema(controlKinds());
    all["source"] = sourceSchema();
    all["step"] = stepSchema();
    addWhatIsIn<Ensemble>(all);
    all["select"] = selectSchema();
    all["fan"]["if"] = {{"required", {"mode"}}, {"properties", {{"mode", {{"const", "chosen"}}}}}};
    all["fan"]["then"] = {{"required", {"by"}}};
    all["instrument"]["properties"]["practiceSound"] = {
        {"description", "General MIDI program on the practice rack."},
        {"type", "integer"},
        {"minimum", 0},
        {"maximum", 127}};
    return all;
}

}  // namespace

std::string printSchema() {
    Json schema{
        {"$schema", "https://json-schema.org/draft/2020-12/schema"},
        {"title", "Mellow Lever ensemble, version 1"},
        {"description",
         "Unknown keys are allowed everywhere and kept on saving. What is well formed but cannot work (a "
         "reference to nothing, a number out of range) is a matter of checks, not of this schema."}};
    Json ensemble = structSchema<Ensemble>();
    Json required{"format", "version"};
    for (const auto& key : ensemble["required"]) required.push_back(key);
    Json properties{{"format", {{"const", formatName}}}, {"version", {{"const", 1}}}};
    properties.update(ensemble["properties"]);
    schema["type"] = "object";
    schema["required"] = std::move(required);
    schema["properties"] = std::move(properties);
    schema["$defs"] = definitions();
    return schema.dump(2) + "\n";
}

}  // namespace mellow::store
