// One function a struct, each reading its fields by name in the order of the format, so that this file can be
// laid beside the format's page. Nothing here judges: a channel 17 is read, and is a matter of checks; only
// what is not this format at all is a complaint.
#include <algorithm>

#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "core/store/ensemble_words.h"
#include "core/store/json_reader.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::store {

namespace {

constexpr std::size_t deepestNesting = 64;
constexpr std::size_t largestDocument = std::size_t{64} << 20;

template<class Enum>
Enum wordAs(ObjectReader& in, std::string_view key, std::span<const std::string_view> words, Enum fallback) {
    return static_cast<Enum>(in.word(key, words, static_cast<int>(fallback)));
}

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

std::optional<Level> readLevel(ObjectReader& in, std::string_view key, bool required) {
    const JsonView member = required ? in.require(key) : in.find(key);
    if (!member) return std::nullopt;
    if (member.isNumber()) return Level(member.number());
    if (member.isText()) return Level(std::string(member.text()));
    in.wrongType(key, "a number or a word", member);
    return std::nullopt;
}

/// Two whole numbers, as `keys` and `bank` are written.
std::optional<std::array<int, 2>> readPair(ObjectReader& in, std::string_view key, std::string wanted) {
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

void readField(ObjectReader& in, const Field& field, FieldValue& value);

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
    if (message.kind == MessageKind::program) message.bank = readPair(in, "bank", "two numbers [msb, lsb]");
    if (message.kind == MessageKind::note) message.velocity = in.whole("velocity", message.velocity);
    if (message.kind == MessageKind::osc) message.address = in.requiredText("address");
    message.values = startOf(kind->fields);
    for (std::size_t i = 0; i < kind->fields.size(); ++i) readField(in, kind->fields[i], message.values[i]);
    message.extras = in.rest();
    return message;
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

std::vector<std::string> readNames(ObjectReader& in, std::string_view key) {
    return in.list<std::string>(key, false, [&in](JsonView each, const std::string& at) {
        if (each.isText()) return std::string(each.text());
        in.complaint().raise(each, at, "expected a name, found " + describeJson(each));
        return std::string();
    });
}

void readField(ObjectReader& in, const Field& field, FieldValue& value) {
    switch (field.type) {
        case Field::Type::number:
        case Field::Type::whole:
            value = in.number(field.key, std::get<double>(value));
            break;
        case Field::Type::names:
            value = readNames(in, field.key);
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

std::vector<Step> readSteps(ObjectReader& in) {
    return in.list<Step>("steps", false, [&in](JsonView json, const std::string& path) {
        return readStep(json, path, in.complaint());
    });
}

BranchWindow readBranchWindow(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    BranchWindow window;
    window.low = in.number("low", 0);
    window.high = in.number("high", 1);
    window.outside = wordAs(in, "outside", outsideWords, Outside::clamp);
    window.extras = in.rest();
    return window;
}

Branch readBranch(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Branch branch;
    branch.target = in.requiredText("target");
    branch.on = in.flag("on", true);
    branch.low = readLevel(in, "low", true).value_or(Level(0.0));
    branch.high = readLevel(in, "high", true).value_or(Level(0.0));
    if (const JsonView window = in.find("window"))
        branch.window = readBranchWindow(window, in.pathOf("window"), complaint);
    branch.steps = readSteps(in);
    branch.extras = in.rest();
    return branch;
}

Fan readFan(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Fan fan;
    fan.mode = wordAs(in, "mode", fanWords, FanMode::all);
    if (fan.mode == FanMode::chosen) {
        if (const JsonView by = in.require("by")) fan.by = readSource(by, in.pathOf("by"), complaint);
    }
    fan.extras = in.rest();
    return fan;
}

Chain readChain(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Chain chain;
    chain.id = in.requiredText("id");
    chain.name = in.text("name");
    chain.on = in.flag("on", true);
    chain.active = wordAs(in, "active", activeWords, Active::always);
    if (const JsonView source = in.require("source"))
        chain.source = readSource(source, in.pathOf("source"), complaint);
    chain.keepOriginal = in.flag("keepOriginal", false);
    chain.steps = readSteps(in);
    if (const JsonView fan = in.find("fan")) chain.fan = readFan(fan, in.pathOf("fan"), complaint);
    chain.branches = in.list<Branch>("branches", true, [&](JsonView each, const std::string& at) {
        return readBranch(each, at, complaint);
    });
    chain.handover = optionalWord<Handover>(in, "handover", handoverWords);
    chain.extras = in.rest();
    return chain;
}

Display readDisplay(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Display display;
    if (in.find("low")) display.low = in.number("low", 0);
    if (in.find("high")) display.high = in.number("high", 0);
    display.unit = in.text("unit");
    display.law = optionalWord<Law>(in, "law", lawWords);
    display.choices = readNames(in, "choices");
    display.extras = in.rest();
    return display;
}

Parameter readParameter(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Parameter parameter;
    parameter.id = in.requiredText("id");
    parameter.name = in.text("name");
    if (const JsonView message = in.require("message")) {
        parameter.message = readMessage(message, in.pathOf("message"), messageKinds(), complaint);
    }
    if (const JsonView display = in.find("display")) {
        parameter.display = readDisplay(display, in.pathOf("display"), complaint);
    }
    parameter.rest = readLevel(in, "rest", false);
    if (in.find("centred")) parameter.centred = in.flag("centred", false);
    parameter.mix = wordAs(in, "mix", mixWords, Mix::latest);
    parameter.repeats = in.flag("repeats", false);
    parameter.extras = in.rest();
    return parameter;
}

Input readInput(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Input input;
    if (in.find("port")) input.port = in.text("port");
    input.channel = in.channel("channel");
    if (const auto keys = readPair(in, "keys", "two key numbers [low, high]")) {
        input.lowKey = (*keys)[0];
        input.highKey = (*keys)[1];
    }
    input.transpose = in.whole("transpose", 0);
    input.extras = in.rest();
    return input;
}

Output readOutput(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Output output;
    output.port = in.requiredText("port");
    in.require("channel");
    output.channel = in.whole("channel", 1);
    output.extras = in.rest();
    return output;
}

Pass readPass(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Pass pass;
    pass.notes = in.flag("notes", true);
    pass.unmatched = in.flag("unmatched", true);
    pass.sysex = in.flag("sysex", false);
    pass.clock = in.flag("clock", false);
    pass.extras = in.rest();
    return pass;
}

Instrument readInstrument(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Instrument instrument;
    instrument.id = in.requiredText("id");
    instrument.name = in.text("name");
    instrument.on = in.flag("on", true);
    if (const JsonView input = in.find("input"))
        instrument.input = readInput(input, in.pathOf("input"), complaint);
    if (const JsonView output = in.require("output"))
        instrument.output = readOutput(output, in.pathOf("output"), complaint);
    if (const JsonView pass = in.find("pass")) instrument.pass = readPass(pass, in.pathOf("pass"), complaint);
    instrument.parameters = in.list<Parameter>("parameters", true, [&](JsonView each, const std::string& at) {
        return readParameter(each, at, complaint);
    });
    instrument.chains = in.list<Chain>("chains", false, [&](JsonView each, const std::string& at) {
        return readChain(each, at, complaint);
    });
    instrument.extras = in.rest();
    return instrument;
}

ControllerControl readControl(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    ControllerControl control;
    control.id = in.requiredText("id");
    control.name = in.text("name");
    if (const JsonView message = in.require("message"))
        control.message = readMessage(message, in.pathOf("message"), controlKinds(), complaint);
    control.rest = optionalWord<Rest>(in, "rest", restWords);
    control.extras = in.rest();
    return control;
}

Controller readController(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Controller controller;
    controller.id = in.requiredText("id");
    controller.name = in.text("name");
    controller.port = in.find("port") ? in.text("port") : std::string(anyPort);
    controller.controls = in.list<ControllerControl>(
        "controls", false,
        [&](JsonView each, const std::string& at) { return readControl(each, at, complaint); });
    controller.handover = optionalWord<Handover>(in, "handover", handoverWords);
    controller.extras = in.rest();
    return controller;
}

TieLine readTieLine(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    TieLine line;
    line.id = in.requiredText("id");
    line.name = in.text("name");
    line.rest = in.number("rest", 0);
    line.extras = in.rest();
    return line;
}

Tempo readTempo(JsonView json, const std::string& path, Complaint& complaint) {
    ObjectReader in(json, path, complaint);
    Tempo tempo;
    tempo.bpm = in.number("bpm", tempo.bpm);
    tempo.follow = wordAs(in, "follow", followWords, tempo.follow);
    if (in.find("port")) tempo.port = in.text("port");
    tempo.extras = in.rest();
    return tempo;
}

void readHeader(ObjectReader& in) {
    const JsonView format = in.require("format");
    if (!format) return;
    if (!format.isText() || format.text() != formatName) {
        in.complaint().raise(format, "format",
                             "expected \"" + std::string(formatName) + "\", found " + describeJson(format),
                             "choose a Mellow Lever ensemble");
        return;
    }
    const JsonView version = in.require("version");
    if (!version) return;
    const auto number = asWhole(version);
    if (!number || *number < 1) {
        in.complaint().raise(version, "version", "expected the number 1, found " + describeJson(version));
    } else if (*number > documentVersion) {
        in.complaint().raise(version, "version",
                             "the document is of version " + std::to_string(*number) +
                                 " and this Mellow Lever reads version " + std::to_string(documentVersion),
                             "open it with a newer Mellow Lever");
    }
}

Ensemble readEnsemble(JsonView json, Complaint& complaint) {
    ObjectReader in(json, "", complaint);
    Ensemble ensemble;
    readHeader(in);
    if (complaint.first) return ensemble;
    ensemble.title = in.requiredText("title");
    ensemble.controllers = in.list<Controller>(
        "controllers", false,
        [&](JsonView each, const std::string& at) { return readController(each, at, complaint); });
    ensemble.tieLines = in.list<TieLine>("tieLines", false, [&](JsonView each, const std::string& at) {
        return readTieLine(each, at, complaint);
    });
    ensemble.instruments = in.list<Instrument>(
        "instruments", true,
        [&](JsonView each, const std::string& at) { return readInstrument(each, at, complaint); });
    ensemble.sharedChains = in.list<Chain>("sharedChains", false, [&](JsonView each, const std::string& at) {
        return readChain(each, at, complaint);
    });
    if (in.find("inHand")) {
        ensemble.inHand = in.list<std::string>("inHand", false, [&](JsonView each, const std::string& at) {
            if (each.isText()) return std::string(each.text());
            complaint.raise(each, at, "expected an instrument's id, found " + describeJson(each));
            return std::string();
        });
    }
    if (const JsonView tempo = in.find("tempo"))
        ensemble.tempo = readTempo(tempo, in.pathOf("tempo"), complaint);
    ensemble.extras = in.rest();
    return ensemble;
}

/// What a document may cost when it is read, beside its text: of a file that a program or a person wrote
/// that is far more than it needs.
std::size_t roomFor(std::size_t size) {
    constexpr std::size_t always = std::size_t{24} << 20;
    return 7 * size + always;
}

}  // namespace

Result<Ensemble> parseEnsemble(std::string_view text) {
    const bool blank = text.find_first_not_of(" \t\r\n") == std::string_view::npos;
    if (blank) return Problem{"line 1", "the document is empty", "choose a file that Mellow Lever saved"};
    if (text.size() > largestDocument)
        return Problem{"the document", "it is larger than 64 MB", "choose an ensemble"};
    const auto tree = JsonTree::parse(text, deepestNesting);
    if (!tree) return tree.problem();
    Complaint complaint;
    complaint.room = roomFor(text.size());
    const JsonView root = tree->root();
    if (!root.isObject()) complaint.raise(root, "", "expected an ensemble, found " + describeJson(root));
    Ensemble ensemble = readEnsemble(root, complaint);
    if (complaint.first) return *complaint.first;
    return ensemble;
}

}  // namespace mellow::store
