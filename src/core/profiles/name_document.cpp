#include "core/profiles/name_document.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <optional>
#include <pugixml.hpp>
#include <set>
#include <sstream>
#include <unordered_set>

#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"
#include "core/text/utf8.h"

namespace mellow::profiles {

namespace {

constexpr std::size_t largest = std::size_t{16} << 20;

struct Kind {
    const char* type;
    MessageKind kind;
    int max;
};
constexpr std::array kinds{Kind{"7bit", MessageKind::cc, 127}, Kind{"14bit", MessageKind::cc14, 16383},
                           Kind{"RPN", MessageKind::rpn, 16383}, Kind{"NRPN", MessageKind::nrpn, 16383}};

/// Names of values, by the lowest number that each stands for.
using ValueNames = std::map<int, std::string>;

ValueNames valuesIn(pugi::xml_node list) {
    ValueNames names;
    for (const pugi::xml_node value : list.children("Value")) {
        const std::string name = value.attribute("Name").as_string();
        if (!name.empty()) names.emplace(value.attribute("Number").as_int(-1), name);
    }
    names.erase(-1);
    return names;
}

/// True when the even spread of so many choices falls on each one's numbers.
bool isEven(const ValueNames& names, int max) {
    if (names.size() < 2) return false;
    const double last = static_cast<double>(names.size() - 1);
    int k = 0;
    for (auto each = names.begin(); each != names.end(); ++each, ++k) {
        const auto sent = static_cast<int>(std::lround(k / last * max));
        const auto next = std::next(each);
        if (sent < each->first || (next != names.end() && sent >= next->first)) return false;
    }
    return true;
}

class Reader {
 public:
    explicit Reader(NamedInstruments& into) : into_(into) {}

    void device(pugi::xml_node node) {
        findLists(node);
        Instrument instrument;
        const std::string maker = node.child_value("Manufacturer");
        const std::string model = node.child_value("Model");
        instrument.name = maker + (maker.empty() || model.empty() ? "" : " ") + model;
        if (instrument.name.empty()) instrument.name = node.attribute("Name").as_string("Device");
        instrument.id = instrumentIds_.make(instrument.name);
        instrument.output.port = "practice-rack";
        controls_.clear();
        ids_ = {};
        walk(node, instrument);
        if (beyond_ > 0)
            remark(instrument, std::to_string(beyond_) + " controls were left out: their numbers cannot be");
        beyond_ = 0;
        if (notes_ > 0)
            remark(instrument, std::to_string(notes_) + " names of notes were left out: a profile has none");
        if (uneven_ > 0)
            remark(instrument, "the named values of " + std::to_string(uneven_) +
                                   " controls were left out: they do not stand evenly");
        notes_ = uneven_ = 0;
        if (!instrument.parameters.empty()) into_.instruments.push_back(std::move(instrument));
    }

 private:
    /// Calls visit(node) for everything in a node, however it is nested there, in order; where that says so
    /// (true), for what is inside too.
    template<class Visit>
    static void forEachIn(pugi::xml_node node, Visit&& visit) {
        std::vector<pugi::xml_node> waiting{node};
        while (!waiting.empty()) {
            const pugi::xml_node each = waiting.back();
            waiting.pop_back();
            if (!visit(each)) continue;
            for (pugi::xml_node child = each.last_child(); child; child = child.previous_sibling())
                waiting.push_back(child);
        }
    }

    /// The lists that are referred to by name, once for each device.
    void findLists(pugi::xml_node node) {
        values_.clear();
        patches_.clear();
        usedPatches_.clear();
        forEachIn(node, [this](const pugi::xml_node& each) {
            const std::string_view kind = each.name();
            const std::string name = each.attribute("Name").as_string();
            if (kind == "ValueNameList") values_.emplace(name, each);
            if (kind == "PatchNameList") patches_.emplace(name, each);
            if (kind == "UsesPatchNameList") usedPatches_.insert(name);
            return true;
        });
    }

    void walk(pugi::xml_node node, Instrument& instrument) {
        forEachIn(node, [&](const pugi::xml_node& each) {
            const std::string_view name = each.name();
            const bool isOfABank = usedPatches_.contains(each.attribute("Name").as_string());
            if (name == "Control") {
                control(each, instrument);
            } else if (name == "PatchBank") {
                bank(each, instrument);
            } else if (name == "PatchNameList") {
                if (!isOfABank) programs(each, each, instrument);
            } else {
                notes_ += name == "Note" ? 1 : 0;
                return true;
            }
            return false;
        });
    }

    void control(pugi::xml_node node, Instrument& instrument) {
        const std::string_view type = node.attribute("Type").as_string("7bit");
        const auto kind =
            std::find_if(kinds.begin(), kinds.end(), [type](const Kind& each) { return each.type == type; });
        if (kind == kinds.end()) return;
        Parameter parameter;
        parameter.message.kind = kind->kind;
        parameter.message.number = node.attribute("Number").as_int(-1);
        if (parameter.message.number < 0 || parameter.message.number > row(kind->kind).highestNumber) {
            ++beyond_;
            return;
        }
        if (!controls_.emplace(kind->kind, parameter.message.number).second) return;
        parameter.name = node.attribute("Name").as_string();
        if (const pugi::xml_node values = node.child("Values")) {
            display(values, kind->max, parameter);
            if (const auto rest = values.attribute("Default")) {
                if (const double at = rest.as_double(); isFit(at)) parameter.rest = at;
            }
        }
        add(instrument, std::move(parameter));
    }

    void display(pugi::xml_node values, int max, Parameter& parameter) {
        ValueNames names = valuesIn(values);
        if (names.empty()) names = valuesIn(values.child("ValueNameList"));
        if (const auto uses = values.child("UsesValueNameList").attribute("Name")) {
            const auto list = values_.find(uses.as_string());
            if (names.empty() && list != values_.end()) names = valuesIn(list->second);
        }
        if (isEven(names, max)) {
            parameter.display.law = Law::choices;
            Choices choices;
            for (const auto& [number, name] : names) choices.add(name, number);
            parameter.display.choices = std::move(choices.names);
            return;
        }
        if (!names.empty()) ++uneven_;
        const double low = values.attribute("Min").as_double(0);
        const double high = values.attribute("Max").as_double(max);
        if (isFit(low) && isFit(high) && low < high && (low != 0 || high != max)) {
            parameter.display.low = low;
            parameter.display.high = high;
        }
        parameter.display.unit = values.attribute("Units").as_string();
    }

    void bank(pugi::xml_node node, Instrument& instrument) {
        pugi::xml_node list = node.child("PatchNameList");
        if (const auto uses = node.child("UsesPatchNameList").attribute("Name")) {
            const auto used = patches_.find(uses.as_string());
            if (used != patches_.end()) list = used->second;
        }
        if (list) programs(node, list, instrument);
    }

    /// Programs of a list; bank: what names it, and says how it is chosen.
    void programs(pugi::xml_node bank, pugi::xml_node list, Instrument& instrument) {
        std::map<int, std::string> names;
        constexpr int programs = 128;
        for (const pugi::xml_node patch : list.children("Patch")) {
            int number = patch.attribute("ProgramChange").as_int(-1);
            if (number < 0) number = patch.attribute("Number").as_int(-1);
            if (number >= 0 && number < programs) names[number] = patch.attribute("Name").as_string();
        }
        if (names.empty()) return;
        Parameter parameter;
        parameter.message.kind = MessageKind::program;
        parameter.name = bank.attribute("Name").as_string("Program");
        std::array<int, 2> chosen{0, 0};
        bool chooses = false;
        for (const pugi::xml_node change : bank.child("MIDICommands").children("ControlChange")) {
            const int control = change.attribute("Control").as_int(-1);
            if (control != 0 && control != 32) continue;
            chosen[control == 0 ? 0 : 1] = std::clamp(change.attribute("Value").as_int(0), 0, 127);
            chooses = true;
        }
        if (chooses) parameter.message.bank = chosen;
        parameter.display.law = Law::choices;
        Choices choices;
        for (int number = 0; number <= names.rbegin()->first; ++number) {
            const auto named = names.find(number);
            std::string name = named == names.end() ? "" : named->second;
            if (name.empty()) name = "Program " + std::to_string(number);
            choices.add(std::move(name), number);
        }
        parameter.display.choices = std::move(choices.names);
        add(instrument, std::move(parameter));
    }

    /// Names to choose from, no two alike.
    struct Choices {
        void add(std::string name, int number) {
            if (!there.insert(name).second) name += " (" + std::to_string(number) + ")";
            there.insert(name);
            names.push_back(std::move(name));
        }
        std::vector<std::string> names;
        std::unordered_set<std::string> there;
    };
    /// Numbers that a document can hold and a person can mean.
    static bool isFit(double number) {
        constexpr double biggest = 1e12;
        return std::isfinite(number) && std::abs(number) <= biggest;
    }

    void add(Instrument& instrument, Parameter parameter) {
        if (parameter.name.empty()) parameter.name = "Parameter";
        parameter.id = ids_.make(parameter.name);
        instrument.parameters.push_back(std::move(parameter));
    }
    void remark(const Instrument& instrument, const std::string& words) {
        into_.remarks.push_back(text::printable(instrument.name, 60) + ": " + words);
    }

    NamedInstruments& into_;
    std::map<std::string, pugi::xml_node> values_;
    std::map<std::string, pugi::xml_node> patches_;
    std::set<std::string> usedPatches_;
    std::set<std::pair<MessageKind, int>> controls_;  ///< of the instrument at hand
    FreshIds ids_;                                    ///< of the parameters of a device
    FreshIds instrumentIds_;
    int notes_ = 0;
    int uneven_ = 0;
    int beyond_ = 0;
};

class Printer {
 public:
    explicit Printer(const Instrument& instrument) {
        auto declaration = document_.append_child(pugi::node_declaration);
        declaration.append_attribute("version") = "1.0";
        declaration.append_attribute("encoding") = "UTF-8";
        document_.append_child(pugi::node_doctype)
            .set_value(
                "MIDINameDocument PUBLIC \"-//MIDI Manufacturers Association//DTD MIDINameDocument "
                "1.0//EN\" \"http://www.midi.org/dtds/MIDINameDocument10.dtd\"");
        auto root = document_.append_child("MIDINameDocument");
        root.append_child("Author");
        device_ = root.append_child("MasterDeviceNames");
        device_.append_child("Manufacturer");
        device_.append_child("Model").text() = nameOf(instrument).c_str();
        addChannels();
        controls_ = device_.append_child("ControlNameList");
        controls_.append_attribute("Name") = "Controls";
        for (const Parameter& parameter : instrument.parameters) add(parameter);
    }

    PrintedNames printed() {
        std::ostringstream out;
        document_.save(out, "  ");
        return {out.str(), std::move(remarks_)};
    }

 private:
    /// One set of names, for all channels.
    void addChannels() {
        constexpr int channels = 16;
        auto mode = device_.append_child("CustomDeviceMode");
        mode.append_attribute("Name") = "Default";
        auto assignments = mode.append_child("ChannelNameSetAssignments");
        set_ = device_.append_child("ChannelNameSet");
        set_.append_attribute("Name") = "All";
        auto available = set_.append_child("AvailableForChannels");
        for (int channel = 1; channel <= channels; ++channel) {
            auto assigned = assignments.append_child("ChannelNameSetAssign");
            assigned.append_attribute("Channel") = channel;
            assigned.append_attribute("NameSet") = "All";
            auto one = available.append_child("AvailableChannel");
            one.append_attribute("Channel") = channel;
            one.append_attribute("Available") = "true";
        }
        set_.append_child("UsesControlNameList").append_attribute("Name") = "Controls";
    }

    void add(const Parameter& parameter) {
        if (parameter.message.kind == MessageKind::program) return addPrograms(parameter);
        const auto kind = std::find_if(kinds.begin(), kinds.end(),
                                       [&](const Kind& each) { return each.kind == parameter.message.kind; });
        if (kind == kinds.end())
            return remark("“" + text::printable(nameOf(parameter), 60) +
                          "” was left out: a name document knows CC, RPN, NRPN and programs");
        auto control = controls_.append_child("Control");
        control.append_attribute("Type") = kind->type;
        control.append_attribute("Number") = parameter.message.number;
        control.append_attribute("Name") = nameOf(parameter).c_str();
        addValues(control.append_child("Values"), parameter, kind->max);
    }

    void addValues(pugi::xml_node values, const Parameter& parameter, int max) {
        const Range range = rangeOf(parameter);
        const bool linear = range.law == Law::linear;
        values.append_attribute("Min") = linear ? range.low : 0.0;
        values.append_attribute("Max") = linear ? range.high : static_cast<double>(max);
        const auto* rest = parameter.rest ? std::get_if<double>(&*parameter.rest) : nullptr;
        if (linear && rest != nullptr) values.append_attribute("Default") = *rest;
        if (linear && !range.unit.empty()) values.append_attribute("Units") = range.unit.c_str();
        if (range.law == Law::choices) return addChoices(values.append_child("ValueNameList"), range, max);
        if (!linear)
            remark("the law of “" + text::printable(nameOf(parameter), 60) +
                   "” was left out: a name document knows none");
    }

    static void addChoices(pugi::xml_node list, const Range& range, int max) {
        const double last = std::max(1.0, static_cast<double>(range.choices.size()) - 1);
        for (std::size_t i = 0; i < range.choices.size(); ++i) {
            auto value = list.append_child("Value");
            value.append_attribute("Number") =
                static_cast<int>(std::lround(static_cast<double>(i) / last * max));
            value.append_attribute("Name") = range.choices[i].c_str();
        }
    }

    void addPrograms(const Parameter& parameter) {
        auto bank = set_.append_child("PatchBank");
        bank.append_attribute("Name") = nameOf(parameter).c_str();
        if (parameter.message.bank) {
            auto commands = bank.append_child("MIDICommands");
            for (const std::size_t half : {0U, 1U}) {
                auto change = commands.append_child("ControlChange");
                change.append_attribute("Control") = half == 0 ? 0 : 32;
                change.append_attribute("Value") = (*parameter.message.bank)[half];
            }
        }
        auto list = bank.append_child("PatchNameList");
        const auto choices = rangeOf(parameter).choices;
        for (std::size_t i = 0; i < choices.size(); ++i) {
            auto patch = list.append_child("Patch");
            patch.append_attribute("Number") = static_cast<int>(i);
            patch.append_attribute("Name") = choices[i].c_str();
            patch.append_attribute("ProgramChange") = static_cast<int>(i);
        }
    }

    void remark(std::string words) { remarks_.push_back(std::move(words)); }

    pugi::xml_document document_;
    pugi::xml_node device_;
    pugi::xml_node set_;
    pugi::xml_node controls_;
    std::vector<std::string> remarks_;
};

int lineOf(std::string_view text, std::ptrdiff_t offset) {
    const auto end = static_cast<std::size_t>(std::max<std::ptrdiff_t>(offset, 0));
    return 1 +
           static_cast<int>(std::count(
               text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(end, text.size())), '\n'));
}

}  // namespace

Result<NamedInstruments> parseNames(std::string_view written) {
    if (written.size() > largest) return Problem{"the name document", "it is larger than 16 MB", ""};
    const text::Decoded decoded = text::toUtf8(written);
    const std::string& text = decoded.text;
    pugi::xml_document document;
    const auto parsed =
        document.load_buffer(text.data(), text.size(), pugi::parse_default, pugi::encoding_utf8);
    if (!parsed)
        return Problem{"line " + std::to_string(lineOf(text, parsed.offset)),
                       std::string("this is no XML: ") + text::lowered(parsed.description()),
                       "choose a .midnam file"};
    const pugi::xml_node root = document.child("MIDINameDocument");
    if (!root)
        return Problem{
            "the document",
            "expected a MIDINameDocument, found " + text::quoted(document.document_element().name()),
            "choose a .midnam file"};
    NamedInstruments named;
    Reader reader(named);
    for (const pugi::xml_node each : root.children()) {
        const std::string_view name = each.name();
        if (name == "MasterDeviceNames" || name == "ExtendingDeviceNames" || name == "StandardDeviceMode")
            reader.device(each);
    }
    if (named.instruments.empty())
        return Problem{"the name document", "it names no control and no program",
                       "choose one that lists what a device listens to"};
    return named;
}

PrintedNames printNames(const Instrument& instrument) {
    return Printer(instrument).printed();
}

}  // namespace mellow::profiles
