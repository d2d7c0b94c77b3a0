// One function a struct again, with what says nothing left out: a field at its default is not written, so
// that documents stay short and a diff shows what a person did. Objects are printed a property a line, lists
// of plain values on one line.
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "core/store/ensemble_words.h"

namespace mellow::store {

namespace {

using Json = nlohmann::ordered_json;

/// Whole numbers without a decimal point, as people write them.
Json number(double value) {
    if (std::floor(value) == value && std::abs(value) < 1e15) return static_cast<std::int64_t>(value);
    return value;
}

Json level(const Level& level) {
    if (const auto* word = std::get_if<std::string>(&level)) return *word;
    return number(std::get<double>(level));
}

template<class Words, class Enum>
std::string wordOf(const Words& words, Enum value) {
    return std::string(words.at(static_cast<std::size_t>(value)));
}

void addExtras(Json& json, const Extras& extras) {
    for (const auto& [key, text] : extras) json[key] = Json::parse(text, nullptr, false);
}

void addName(Json& json, const std::string& name) {
    if (!name.empty()) json["name"] = name;
}

template<class List, class Write>
void addList(Json& json, const char* key, const List& list, Write&& write, bool always = false) {
    if (list.empty() && !always) return;
    Json array = Json::array();
    for (const auto& each : list) array.push_back(write(each));
    json[key] = std::move(array);
}

Json field(const Field& field, const FieldValue& value);
void addFields(Json& json, std::span<const Field> fields, const std::vector<FieldValue>& values);

Json message(const Message& message) {
    Json json;
    json["kind"] = row(message.kind).name;
    if (row(message.kind).numbered) json["number"] = message.number;
    if (message.bank) json["bank"] = *message.bank;
    if (message.kind == MessageKind::note && message.velocity != Message{}.velocity)
        json["velocity"] = message.velocity;
    if (message.kind == MessageKind::osc) json["address"] = message.address;
    addFields(json, row(message.kind).fields, message.values);
    addExtras(json, message.extras);
    return json;
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
    if (source.rest) json["rest"] = wordOf(restWords, *source.rest);
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

Json branchWindow(const BranchWindow& window) {
    Json json;
    json["low"] = number(window.low);
    json["high"] = number(window.high);
    if (window.outside != Outside::clamp) json["outside"] = wordOf(outsideWords, window.outside);
    addExtras(json, window.extras);
    return json;
}

Json branch(const Branch& branch) {
    Json json;
    json["target"] = branch.target;
    if (!branch.on) json["on"] = false;
    json["low"] = level(branch.low);
    json["high"] = level(branch.high);
    if (branch.window) json["window"] = branchWindow(*branch.window);
    addList(json, "steps", branch.steps, step);
    addExtras(json, branch.extras);
    return json;
}

Json chain(const Chain& chain) {
    Json json;
    json["id"] = chain.id;
    addName(json, chain.name);
    if (!chain.on) json["on"] = false;
    if (chain.active != Active::always) json["active"] = wordOf(activeWords, chain.active);
    json["source"] = source(chain.source);
    if (chain.keepOriginal) json["keepOriginal"] = true;
    addList(json, "steps", chain.steps, step);
    if (chain.fan != Fan{}) {
        Json fan;
        fan["mode"] = wordOf(fanWords, chain.fan.mode);
        if (chain.fan.by) fan["by"] = source(*chain.fan.by);
        addExtras(fan, chain.fan.extras);
        json["fan"] = std::move(fan);
    }
    addList(json, "branches", chain.branches, branch, true);
    if (chain.handover) json["handover"] = wordOf(handoverWords, *chain.handover);
    addExtras(json, chain.extras);
    return json;
}

Json display(const Display& display) {
    Json json = Json::object();
    if (display.low) json["low"] = number(*display.low);
    if (display.high) json["high"] = number(*display.high);
    if (!display.unit.empty()) json["unit"] = display.unit;
    if (display.law) json["law"] = wordOf(lawWords, *display.law);
    addList(json, "choices", display.choices, [](const std::string& label) { return Json(label); });
    addExtras(json, display.extras);
    return json;
}

Json parameter(const Parameter& parameter) {
    Json json;
    json["id"] = parameter.id;
    addName(json, parameter.name);
    json["message"] = message(parameter.message);
    if (parameter.display != Display{}) json["display"] = display(parameter.display);
    if (parameter.rest) json["rest"] = level(*parameter.rest);
    if (parameter.centred) json["centred"] = *parameter.centred;
    if (parameter.mix != Mix::latest) json["mix"] = wordOf(mixWords, parameter.mix);
    if (parameter.repeats) json["repeats"] = true;
    addExtras(json, parameter.extras);
    return json;
}

Json input(const Input& input) {
    Json json = Json::object();
    if (input.port != anyPort) json["port"] = input.port;
    if (input.channel) json["channel"] = *input.channel;
    if (input.lowKey != 0 || input.highKey != 127) json["keys"] = {input.lowKey, input.highKey};
    if (input.transpose != 0) json["transpose"] = input.transpose;
    addExtras(json, input.extras);
    return json;
}

Json output(const Output& output) {
    Json json;
    json["port"] = output.port;
    json["channel"] = output.channel;
    addExtras(json, output.extras);
    return json;
}

Json pass(const Pass& pass) {
    Json json = Json::object();
    if (!pass.notes) json["notes"] = false;
    if (!pass.unmatched) json["unmatched"] = false;
    if (pass.sysex) json["sysex"] = true;
    if (pass.clock) json["clock"] = true;
    addExtras(json, pass.extras);
    return json;
}

Json instrument(const Instrument& instrument) {
    Json json;
    json["id"] = instrument.id;
    addName(json, instrument.name);
    if (!instrument.on) json["on"] = false;
    if (instrument.input != Input{}) json["input"] = input(instrument.input);
    json["output"] = output(instrument.output);
    if (instrument.pass != Pass{}) json["pass"] = pass(instrument.pass);
    addList(json, "parameters", instrument.parameters, parameter, true);
    addList(json, "chains", instrument.chains, chain);
    addExtras(json, instrument.extras);
    return json;
}

Json control(const ControllerControl& control) {
    Json json;
    json["id"] = control.id;
    addName(json, control.name);
    json["message"] = message(control.message);
    if (control.rest) json["rest"] = wordOf(restWords, *control.rest);
    addExtras(json, control.extras);
    return json;
}

Json controller(const Controller& controller) {
    Json json;
    json["id"] = controller.id;
    addName(json, controller.name);
    json["port"] = controller.port;
    addList(json, "controls", controller.controls, control);
    if (controller.handover) json["handover"] = wordOf(handoverWords, *controller.handover);
    addExtras(json, controller.extras);
    return json;
}

Json tieLine(const TieLine& line) {
    Json json;
    json["id"] = line.id;
    addName(json, line.name);
    json["rest"] = number(line.rest);
    addExtras(json, line.extras);
    return json;
}

Json tempo(const Tempo& tempo) {
    Json json = Json::object();
    if (tempo.bpm != Tempo{}.bpm) json["bpm"] = number(tempo.bpm);
    if (tempo.follow != Follow::none) json["follow"] = wordOf(followWords, tempo.follow);
    if (tempo.port != anyPort) json["port"] = tempo.port;
    addExtras(json, tempo.extras);
    return json;
}

bool isFlat(const Json& array) {
    return std::all_of(array.begin(), array.end(), [](const Json& each) {
        return !each.is_object() && (!each.is_array() || isFlat(each));
    });
}

std::string inlineList(const Json& json) {
    if (!json.is_array()) return json.dump();
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
        if (isObject) out += Json(key).dump() + ": ";
        print(value, indent + 2, out);
        out += --left > 0 ? ",\n" : "\n";
    }
    out += std::string(indent, ' ') + (isObject ? "}" : "]");
}

}  // namespace

std::string printEnsemble(const Ensemble& ensemble) {
    Json json;
    json["format"] = formatName;
    json["version"] = documentVersion;
    json["title"] = ensemble.title;
    addList(json, "controllers", ensemble.controllers, controller);
    addList(json, "tieLines", ensemble.tieLines, tieLine);
    addList(json, "instruments", ensemble.instruments, instrument, true);
    addList(json, "sharedChains", ensemble.sharedChains, chain);
    if (ensemble.inHand) {
        addList(
            json, "inHand", *ensemble.inHand, [](const std::string& id) { return Json(id); }, true);
    }
    if (ensemble.tempo != Tempo{}) json["tempo"] = tempo(ensemble.tempo);
    addExtras(json, ensemble.extras);
    std::string text;
    print(json, 0, text);
    return text + "\n";
}

}  // namespace mellow::store
