// The document's structs are read as their keys are described (model/ensemble_keys.h). What has a kind (a
// source, a message, a step) is read here, since which keys it has depends on that. Nothing here judges: a
// channel 17 is read, and is a matter of checks; only what is not this format at all is a complaint.
#include <algorithm>
#include <cmath>

#include "core/model/ensemble_keys.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "core/store/json_reader.h"
#include "core/store/part_json.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::store {

namespace {

constexpr std::size_t deepestNesting = 64;
constexpr std::size_t largestDocument = std::size_t{64} << 20;

template<class Enum>
std::optional<Enum> optionalWord(ObjectReader& in, std::string_view key,
                                 std::span<const std::string_view> words) {
    if (!in.find(key)) return std::nullopt;
    return static_cast<Enum>(in.word(key, words, 0));
}

template<class Kinds, class NameOf>
std::string namesOf(const Kinds& kinds, NameOf&& nameOf) {
    std::vector<std::string> names;
    for (const auto& kind : kinds) names.emplace_back(nameOf(kind));
    return text::listed(names);
}

/// Two whole numbers, as `keys` and `bank` are written.
std::optional<std::array<int, 2>> readPair(ObjectReader& in, std::string_view key,
                                           const std::string& wanted) {
    const JsonView pair = in.find(key);
    if (!pair) return std::nullopt;
    if (pair.isList() && pair.size() == 2) {
        const auto first = asWhole(pair.first());
        const auto second = asWhole(pair.first().next());
        if (first && second) return std::array{*first, *second};
    }
    in.wrongType(key, wanted, pair);
    return std::nullopt;
}

std::vector<std::string> readTexts(ObjectReader& in, std::string_view key, std::string_view each,
                                   bool required = false) {
    return in.list<std::string>(key, required, [&](JsonView text, const std::string& at) {
        if (text.isText()) return std::string(text.text());
        in.complaint().raise(text, at, "expected " + std::string(each) + ", found " + describeJson(text));
        return std::string();
    });
}

std::vector<Point> readPoints(ObjectReader& in, std::string_view key, bool& present) {
    present = static_cast<bool>(in.find(key));
    return in.list<Point>(key, false, [&in](JsonView json, const std::string& path) {
        const bool pair =
            json.isList() && json.size() == 2 && json.first().isNumber() && json.first().next().isNumber();
        if (!pair) {
            in.complaint().raise(json, path, "expected a point [x, y], found " + describeJson(json));
            return Point{};
        }
        return Point{json.first().number(), json.first().next().number()};
    });
}

void readField(ObjectReader& in, const Field& field, FieldValue& value) {
    switch (field.type) {
        case Field::Type::number:
        case Field::Type::whole:
            value = in.number(field.key, std::get<double>(value));
            break;
        case Field::Type::names:
            value = readTexts(in, field.key, "a name");
            break;
        case Field::Type::text:
            value = in.text(field.key);
            break;
        case Field::Type::choice:
            value = in.word(field.key, field.choices, std::get<int>(value));
            break;
        case Field::Type::points: {
            bool present = false;
            auto points = readPoints(in, field.key, present);
            if (present) value = std::move(points);
            break;
        }
    }
}

/// What a source refers to, by kind.
void readReferences(ObjectReader& in, Source& source) {
    source.controller = in.text("controller");
    if (source.kind == SourceKind::control) source.control = in.requiredText("control");
    if (source.kind == SourceKind::tieLine) source.tieLine = in.requiredText("id");
}

Source readSource(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    const std::string name = in.requiredText("kind");
    const auto* kind = findSourceKind(name);
    if (kind == nullptr) {
        complaint.raise(json, in.pathOf("kind"), "unknown source " + text::quoted(name),
                        "use one of " + namesOf(sourceKinds(), [](auto& r) { return r.name; }));
        return {};
    }
    if (!complaint.spend(kind->fields.size() * sizeof(FieldValue), json, path)) return {};
    Source source = makeSource(kind->kind);
    if (kind->numbered) {
        if (kind->kind != SourceKind::program) in.require("number");
        source.number = in.whole("number", source.number);
    }
    source.channel = in.channel("channel");
    readReferences(in, source);
    source.rest = optionalWord<Rest>(in, "rest", restWords);
    for (std::size_t i = 0; i < kind->fields.size(); ++i) readField(in, kind->fields[i], source.values[i]);
    source.extras = in.rest();
    return source;
}

Step readStep(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    const std::string name = in.requiredText("kind");
    const StepKind* kind = findStepKind(name);
    if (kind == nullptr) {
        complaint.raise(json, in.pathOf("kind"), "unknown step " + text::quoted(name),
                        "use one of " + namesOf(stepKinds(), [](auto* k) { return k->name; }));
        return makeStep(*stepKinds().front());
    }
    if (!complaint.spend(kind->fields.size() * sizeof(FieldValue), json, path)) return makeStep(*kind);
    Step step = makeStep(*kind);
    step.on = in.flag("on", true);
    for (std::size_t i = 0; i < kind->fields.size(); ++i) readField(in, kind->fields[i], step.values[i]);
    if (kind->namesSource) {
        if (const JsonView with = in.require("with"))
            step.with = readSource(with, in.pathOf("with"), complaint);
    }
    step.extras = in.rest();
    return step;
}

// Structs, by their descriptions. One overload of read() for each type that a member can have; none of them
// changes a value whose key is absent.

template<Described Struct>
Struct readStruct(JsonView json, const std::string& path, Complaint& complaint);
Fan readFan(JsonView json, const std::string& path, Complaint& complaint);
Message readMessage(JsonView json, const std::string& path, std::span<const MessageRow> kinds,
                    Complaint& complaint);

template<class Thing>
Thing readThing(JsonView json, const std::string& path, Complaint& complaint) {
    if constexpr (std::is_same_v<Thing, Source>) {
        return readSource(json, path, complaint);
    } else if constexpr (std::is_same_v<Thing, Step>) {
        return readStep(json, path, complaint);
    } else if constexpr (std::is_same_v<Thing, Fan>) {
        return readFan(json, path, complaint);
    } else {
        return readStruct<Thing>(json, path, complaint);
    }
}

class Members {
 public:
    explicit Members(ObjectReader& in) : in_(in) {}

    template<class Struct, class Member>
    void read(const Key<Struct, Member>& key, Struct& into) {
        readAs(key, into.*key.member);
    }
    template<class Struct>
    void read(const PairKey<Struct>& key, Struct& into) {
        if (const auto pair = readPair(in_, key.name, std::string(key.wanted))) {
            into.*key.first = (*pair)[0];
            into.*key.second = (*pair)[1];
        }
    }

 private:
    template<class KeyType>
    JsonView find(const KeyType& key) {
        return key.need == Need::isRequired ? in_.require(key.name) : in_.find(key.name);
    }

    template<class KeyType>
    void readAs(const KeyType& key, double& value) {
        if (find(key)) value = in_.number(key.name, value);
    }
    template<class KeyType>
    void readAs(const KeyType& key, int& value) {
        if (find(key)) value = in_.whole(key.name, value);
    }
    template<class KeyType>
    void readAs(const KeyType& key, std::int64_t& value) {
        const JsonView member = find(key);
        if (!member) return;
        constexpr double largest = 9007199254740992;  // 2^53: whole numbers that JSON's readers agree on
        const double number = member.isNumber() ? member.number() : 0.5;
        if (std::floor(number) != number || std::abs(number) > largest)
            return in_.wrongType(key.name, "a whole number", member);
        value = static_cast<std::int64_t>(number);
    }
    /// An object whose members are all texts.
    template<class KeyType>
    void readAs(const KeyType& key, std::map<std::string, std::string>& value) {
        const JsonView member = find(key);
        if (!member) return;
        if (!member.isObject()) return in_.wrongType(key.name, "an object", member);
        for (JsonView each = member.first(); each; each = each.next()) {
            if (!in_.complaint().spend(sizeof(std::pair<std::string, std::string>), member,
                                       in_.pathOf(key.name)))
                return;
            if (!each.isText()) return in_.wrongType(key.name, std::string(key.each), each);
            value.insert_or_assign(std::string(each.key()), std::string(each.text()));
        }
    }
    template<class KeyType>
    void readAs(const KeyType& key, bool& value) {
        if (find(key)) value = in_.flag(key.name, value);
    }
    template<class KeyType>
    void readAs(const KeyType& key, std::string& value) {
        if (find(key)) value = in_.text(key.name);
    }
    template<class KeyType, class Enum>
    requires std::is_enum_v<Enum>
    void readAs(const KeyType& key, Enum& value) {
        if (find(key)) value = static_cast<Enum>(in_.word(key.name, key.words, static_cast<int>(value)));
    }
    /// A place on a grid.
    template<class KeyType>
    void readAs(const KeyType& key, std::array<int, 4>& value) {
        if (const JsonView member = find(key)) readPlace(member, key, value);
    }
    template<class KeyType>
    void readAs(const KeyType& key, Level& value) {
        const JsonView member = find(key);
        if (!member) return;
        if (member.isNumber()) {
            value = member.number();
        } else if (member.isText()) {
            value = std::string(member.text());
        } else {
            in_.wrongType(key.name, "a number or a word", member);
        }
    }
    /// The only whole numbers that may be absent are channels.
    template<class KeyType>
    void readAs(const KeyType& key, std::optional<int>& value) {
        value = in_.channel(key.name);
    }
    template<class KeyType>
    void readAs(const KeyType& key, std::optional<std::array<int, 2>>& value) {
        value = readPair(in_, key.name, std::string(key.each));
    }
    template<class KeyType>
    void readAs(const KeyType& key, Message& value) {
        if (const JsonView member = find(key))
            value = readMessage(member, in_.pathOf(key.name), key.messages(), in_.complaint());
    }
    template<class KeyType>
    void readAs(const KeyType& key, std::vector<std::string>& value) {
        value = readTexts(in_, key.name, key.each, key.need == Need::isRequired);
    }
    template<class KeyType, class Member>
    void readAs(const KeyType& key, std::optional<Member>& value) {
        if (!in_.find(key.name)) return;
        readAs(key, value.emplace());
    }
    template<class KeyType, class Thing>
    void readAs(const KeyType& key, std::vector<Thing>& value) {
        value = in_.list<Thing>(key.name, key.need == Need::isRequired,
                                [&](JsonView each, const std::string& at) {
                                    return readThing<Thing>(each, at, in_.complaint());
                                });
    }
    template<class KeyType, class Thing>
    void readAs(const KeyType& key, SharedList<Thing>& value) {
        std::vector<Thing> list;
        readAs(key, list);
        value = std::move(list);
    }
    template<class KeyType, class Thing>
    void readAs(const KeyType& key, Thing& value) {
        if (const JsonView member = find(key))
            value = readThing<Thing>(member, in_.pathOf(key.name), in_.complaint());
    }

    template<class KeyType>
    void readPlace(JsonView member, const KeyType& key, std::array<int, 4>& value) {
        std::size_t count = 0;
        for (JsonView each = member.isList() ? member.first() : JsonView(); each; each = each.next()) {
            const auto number = asWhole(each);
            if (!number || count == value.size())
                return in_.wrongType(key.name, std::string(key.each), member);
            value[count++] = *number;
        }
        if (count != value.size()) in_.wrongType(key.name, std::string(key.each), member);
    }

    ObjectReader& in_;
};

/// What more there is to do with a thing that was read.
template<class Struct>
void complete(Struct&) {}
void complete(Instrument& instrument) {
    nameArticulations(instrument);
}
void complete(Part& part) {
    nameArticulations(part.parameters, part.articulations);
}

template<Described Struct>
Struct readStruct(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Members members(in);
    Struct made;
    forEachKey<Struct>([&](const auto& key) {
        if (hasKey(made, key.name)) members.read(key, made);
    });
    made.extras = in.rest();
    complete(made);
    return made;
}

/// kinds: those that the message may be of.
Message readMessage(JsonView json, const std::string& path, std::span<const MessageRow> kinds,
                    Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Message message;
    const std::string name = in.requiredText("kind");
    const auto kind =
        std::find_if(kinds.begin(), kinds.end(), [&name](const MessageRow& r) { return r.name == name; });
    if (kind == kinds.end()) {
        complaint.raise(json, in.pathOf("kind"), "unknown message " + text::quoted(name),
                        "use one of " + namesOf(kinds, [](auto& r) { return r.name; }));
        return message;
    }
    message.kind = kind->kind;
    if (kind->numbered) {
        in.require("number");
        message.number = in.whole("number", 0);
    }
    Members members(in);
    forEachKey<Message>([&](const auto& key) {
        if (key.name == kind->part) members.read(key, message);
    });
    message.values = startOf(kind->fields);
    for (std::size_t i = 0; i < kind->fields.size(); ++i) readField(in, kind->fields[i], message.values[i]);
    message.extras = in.rest();
    return message;
}

/// Only a fan that chooses has a chooser.
Fan readFan(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Fan fan;
    fan.mode = static_cast<FanMode>(in.word("mode", fanWords, static_cast<int>(fan.mode)));
    if (fan.mode == FanMode::chosen) {
        if (const JsonView by = in.require("by")) fan.by = readSource(by, in.pathOf("by"), complaint);
    }
    fan.extras = in.rest();
    return fan;
}

/// What a document is, as its first lines say.
struct Sort {
    std::string_view format;
    int version;
    const char* wanted;  ///< for a complaint: "an ensemble"
    const char* mend;
};
constexpr Sort ensembleSort{formatName, documentVersion, "an ensemble", "choose a Mellow Lever ensemble"};
constexpr Sort partSort{partFormat, partVersion, "a part", "choose a part that Mellow Lever wrote"};

void readHeader(ObjectReader& in, const Sort& sort) {
    const JsonView format = in.require("format");
    if (!format) return;
    if (!format.isText() || format.text() != sort.format) {
        in.complaint().raise(format, "format",
                             "expected \"" + std::string(sort.format) + "\", found " + describeJson(format),
                             sort.mend);
        return;
    }
    const JsonView version = in.require("version");
    if (!version) return;
    const auto number = asWhole(version);
    if (!number || *number < 1) {
        in.complaint().raise(version, "version", "expected the number 1, found " + describeJson(version));
    } else if (*number > sort.version) {
        in.complaint().raise(version, "version",
                             "the document is of version " + std::to_string(*number) +
                                 " and this Mellow Lever reads version " + std::to_string(sort.version),
                             "open it with a newer Mellow Lever");
    }
}

template<Described Document>
Document readDocument(JsonView json, const Sort& sort, Complaint& complaint) {
    ObjectReader in(json, "", complaint);
    readHeader(in, sort);
    if (complaint.first) return {};
    Document document = readStruct<Document>(json, "", complaint);
    std::erase_if(document.extras,
                  [](const auto& extra) { return extra.first == "format" || extra.first == "version"; });
    return document;
}

/// What a document may cost when it is read, beside its text: of a file that a program or a person wrote
/// that is far more than it needs.
std::size_t roomFor(std::size_t size) {
    constexpr std::size_t always = std::size_t{24} << 20;
    return 7 * size + always;
}

template<Described Document>
Result<Document> parse(std::string_view text, const Sort& sort) {
    const bool blank = text.find_first_not_of(" \t\r\n") == std::string_view::npos;
    if (blank) return Problem{"line 1", "the document is empty", "choose a file that Mellow Lever saved"};
    if (text.size() > largestDocument)
        return Problem{"the document", "it is larger than 64 MB", std::string("choose ") + sort.wanted};
    const auto tree = JsonTree::parse(text, deepestNesting);
    if (!tree) return tree.problem();
    Complaint complaint;
    complaint.room = roomFor(text.size());
    const JsonView root = tree->root();
    if (!root.isObject())
        complaint.raise(root, "", "expected " + std::string(sort.wanted) + ", found " + describeJson(root));
    Document document = readDocument<Document>(root, sort, complaint);
    if (complaint.first) return *complaint.first;
    return document;
}

}  // namespace

Result<Ensemble> parseEnsemble(std::string_view text) {
    return parse<Ensemble>(text, ensembleSort);
}

Result<Part> parsePart(std::string_view text) {
    return parse<Part>(text, partSort);
}

}  // namespace mellow::store
