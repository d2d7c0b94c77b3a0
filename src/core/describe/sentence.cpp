// A sentence is what moves the chain, what its steps do, in their own words, and where it leads, branch by
// branch. Names come from the document: a control's own name where a controller has it, the standard's
// otherwise. Whatever could be left out because it changes nothing is.
#include "core/describe/sentence.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/midi/message.h"
#include "core/midi/names.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::describe {

namespace {

template<class Row>
std::string messageText(const Row& kind, int number) {
    if (kind.name == "cc" || kind.name == "cc14") return midi::controlMessage(number, kind.name == "cc14");
    if (kind.numbered && number != anyNumber) return std::string(kind.label) + " " + std::to_string(number);
    return text::lowered(kind.label);
}

bool sendsSame(const ControllerControl& control, const Source& source) {
    return row(control.message.kind).name == row(source.kind).name &&
           (!row(source.kind).numbered || control.message.number == source.number);
}

/// "Sine of 0.5 Hz", "Random steps over 4 beats".
std::string cycleName(const Source& source) {
    static constexpr std::array<std::string_view, 7> shapes{
        "Sine", "Triangle", "Rising ramp", "Falling ramp", "Square", "Random steps", "Random drift"};
    const std::string shape(shapes.at(static_cast<std::size_t>(choiceOf(source, 0))));
    const double beats = numberOf(source, 2);
    if (beats > 0) return shape + " over " + text::plain(beats) + (beats == 1 ? " beat" : " beats");
    return shape + " of " + text::withUnit(numberOf(source, 1), "Hz");
}

std::string withNumber(const Source& source) {
    const auto& kind = row(source.kind);
    std::string name(kind.label);
    if (!kind.numbered || source.number == anyNumber) return name;
    return (source.kind == SourceKind::key ? "Key" : name) + " " + std::to_string(source.number);
}

std::string signedNumber(double value) {
    return value > 0 ? "+" + text::plain(value) : text::plain(value);
}

std::vector<std::string> phrases(const Ensemble& ensemble, const std::vector<Step>& steps, int sourceMax) {
    std::vector<std::string> words;
    bool first = true;
    for (const Step& step : steps) {
        if (!step.on) continue;
        const std::string second =
            step.with ? text::lowered(sourceName(ensemble, *step.with)) : std::string();
        std::string phrase = step.kind->phrase(step, {first ? sourceMax : 0, second});
        if (!phrase.empty()) words.push_back(std::move(phrase));
        first = false;
    }
    return words;
}

std::string windowPhrase(const BranchWindow& window) {
    const auto percent = [](double p) { return text::plain(std::round(p * 1000) / 10) + " %"; };
    const std::string outside = window.outside == Outside::silent ? ", silent outside"
                                : window.outside == Outside::rest ? ", at rest outside"
                                                                  : "";
    return "from " + percent(window.low) + " to " + percent(window.high) + " of the way" + outside;
}

std::string reachPhrase(const Range& range, const Branch& branch) {
    const std::string low = levelText(range, branch.low);
    const std::string high = levelText(range, branch.high);
    const auto from = rawPosition(range, branch.low);
    const auto to = rawPosition(range, branch.high);
    if (from && to && *from > *to) return low + " falling to " + high;
    if (branch.low == branch.high) return "always " + low;
    const std::string unit = " " + range.unit;
    const bool sameUnit = !range.unit.empty() && low.ends_with(unit) && high.ends_with(unit);
    const bool hasMinus = low.starts_with(text::minus) || high.starts_with(text::minus);
    return (sameUnit ? low.substr(0, low.size() - unit.size()) : low) + (hasMinus ? " to " : text::dash) +
           high;
}

/// Entries of the hand's order by the names of whom they mean.
std::string handPhrase(const Ensemble& ensemble, const Branch& branch) {
    const auto name = [&ensemble](const Level& level) {
        const auto* entry = std::get_if<std::string>(&level);
        return entry == nullptr ? levelText({}, level) : handName(ensemble, *entry);
    };
    return branch.low == branch.high ? "always " + name(branch.low)
                                     : name(branch.low) + " to " + name(branch.high);
}

}  // namespace

std::string sourceMessage(const Source& source) {
    return messageText(row(source.kind), source.number);
}
std::string targetMessage(const Message& message) {
    const MessageRow& kind = row(message.kind);
    return kind.phrase != nullptr ? kind.phrase(message) : messageText(kind, message.number);
}

std::string elementName(const Ensemble& ensemble, const Source& source) {
    const DeskElement* element = Directory(ensemble).deskElement(elementOf(source));
    if (element == nullptr) return "Desk element " + elementOf(source) + " (missing)";
    static constexpr std::array<const char*, axisCount> axes{" across", " up", " touch"};
    const bool isPad = element->kind == ElementKind::pad;
    return nameOf(*element) + (isPad ? axes.at(static_cast<std::size_t>(axisOf(source))) : "");
}

/// "Bend of the newest note", with its zone where that is the upper, and its range in semitones.
std::string fingerName(const Source& source) {
    static constexpr std::array<const char*, 3> what{"Bend", "Slide", "Pressure"};
    static constexpr std::array<const char*, 3> which{"newest", "highest", "lowest"};
    const ZoneNote note = zoneNoteOf(source);
    std::string name = what.at(static_cast<std::size_t>(note.takes));
    if (note.takes == Finger::bend) name += " ±" + text::plain(note.range);
    name += std::string(" of the ") + which.at(static_cast<std::size_t>(note.of)) + " note";
    return note.zone == midi::Zone::upper ? name + " in the upper zone" : name;
}

std::string sourceName(const Ensemble& ensemble, const Source& source) {
    for (const Controller& controller : ensemble.controllers) {
        if (!source.controller.empty() && source.controller != controller.id) continue;
        for (const ControllerControl& control : controller.controls) {
            const bool named = source.kind == SourceKind::control && source.control == control.id;
            if (named || sendsSame(control, source)) return nameOf(control);
        }
    }
    switch (source.kind) {
        case SourceKind::cc:
        case SourceKind::cc14:
            return midi::controlName(source.number);
        case SourceKind::lfo:
            return cycleName(source);
        case SourceKind::osc:
            return "OSC " + textOf(source, 0);
        case SourceKind::desk:
            return elementName(ensemble, source);
        case SourceKind::zoneNote:
            return fingerName(source);
        case SourceKind::tieLine: {
            const TieLine* line = findById(ensemble.tieLines, source.tieLine);
            return line == nullptr ? "Tie line " + source.tieLine + " (missing)" : nameOf(*line);
        }
        case SourceKind::control:
            return "Control " + source.control + " (missing)";
        default:
            return withNumber(source);
    }
}

std::string stepLabel(const Step& step, int sourceMax) {
    std::string label(step.kind->label);
    if (!step.on) return label + " (off)";
    if (step.kind->name == "window") {
        const std::string phrase = step.kind->phrase(step, {sourceMax, ""});
        return label + " " + (phrase.empty() ? "all" : phrase);
    }
    if (step.kind->name == "limit") {
        const PhraseContext context{sourceMax, ""};
        return label + " " + placeText(numberOf(step, 0), context) + text::dash +
               placeText(numberOf(step, 1), context);
    }
    // The first number says most; a drawn response or a switch has none.
    if (step.kind->fields.empty()) return label;
    const Field& first = step.kind->fields.front();
    if (first.type != Field::Type::number && first.type != Field::Type::whole) return label;
    const double value = numberOf(step, 0);
    if (first.unit == "%") return label + " " + placeText(value, {sourceMax, ""});
    if (!first.unit.empty()) return label + " " + text::withUnit(value, first.unit);
    return label + " " + (first.low < 0 ? signedNumber(value) : text::plain(value));
}

std::string reachWords(const Ensemble& ensemble, const Target& target, const Branch& branch) {
    return target.hand != nullptr ? handPhrase(ensemble, branch) : reachPhrase(rangeOf(target), branch);
}

std::string wayWords(const Ensemble& ensemble, const Chain& chain, const Branch* branch) {
    std::vector<std::string> words = phrases(ensemble, chain.steps, maxOf(resolved(ensemble, chain.source)));
    if (branch != nullptr) {
        if (branch->window) words.push_back(windowPhrase(*branch->window));
        for (std::string& phrase : phrases(ensemble, branch->steps, 0)) words.push_back(std::move(phrase));
    }
    std::string all;
    for (const std::string& each : words) all += (all.empty() ? "" : ", ") + each;
    return all;
}

std::string branchPhrase(const Ensemble& ensemble, const Instrument* instrument, const Branch& branch) {
    const Target target = targetOf(ensemble, instrument, branch.target);
    if (!target.exists()) return branch.target + " (missing)";
    const std::string name = nameOf(target, instrument == nullptr);
    if (!branch.on) return name + " (switched off)";
    const std::string phrase = name + " " + reachWords(ensemble, target, branch);
    std::vector<std::string> extra = phrases(ensemble, branch.steps, 0);
    if (branch.window) extra.insert(extra.begin(), windowPhrase(*branch.window));
    return extra.empty() ? phrase : phrase + " (" + text::listed(extra) + ")";
}

namespace {

/// What is to be said of a chain behind its targets.
std::string asidesOf(const Ensemble& ensemble, const Chain& chain) {
    std::string asides;
    if (chain.active == Active::inHand) asides += "; only in hand";
    if (handoverOf(ensemble, chain) == Handover::meet) asides += "; the control is waited for";
    if (handoverOf(ensemble, chain) == Handover::glide) asides += "; the control is met half way";
    if (chain.keepOriginal) asides += "; the original is passed on too";
    return asides;
}

}  // namespace

std::string chainSentence(const Ensemble& ensemble, const Instrument* instrument, const Chain& chain,
                          std::size_t most) {
    std::string sentence = sourceName(ensemble, chain.source);
    const std::vector<std::string> steps =
        phrases(ensemble, chain.steps, maxOf(resolved(ensemble, chain.source)));
    const auto firstOn =
        std::find_if(chain.steps.begin(), chain.steps.end(), [](const Step& step) { return step.on; });
    const bool windowFirst = firstOn != chain.steps.end() && firstOn->kind->name == "window";
    for (std::size_t i = 0; i < steps.size(); ++i) {
        sentence += (i == 0 && windowFirst ? " " : ", ") + steps[i];
    }
    sentence += steps.empty() ? " " : ", ";
    std::vector<std::string> targets;
    for (const Branch& branch : chain.branches) {
        if (targets.size() == most) break;
        targets.push_back(branchPhrase(ensemble, instrument, branch));
    }
    if (const std::size_t others = chain.branches.size() - targets.size(); others > 0)
        targets.push_back(std::to_string(others) + " more");
    if (targets.empty()) return sentence + "reaches nothing yet.";
    const bool chosen = chain.fan.mode == FanMode::chosen && chain.fan.by;
    sentence += (chosen ? "reaches one of " : "reaches ") + text::listed(targets);
    if (chosen) sentence += ", chosen by " + text::lowered(sourceName(ensemble, *chain.fan.by));
    sentence += asidesOf(ensemble, chain);
    sentence += chain.on ? "." : " (switched off).";
    return sentence;
}

}  // namespace mellow::describe
