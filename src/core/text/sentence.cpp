#include "core/text/sentence.h"

#include <algorithm>
#include <cmath>

#include "core/checks/check.h"
#include "core/midi/message.h"
#include "core/model/law.h"
#include "core/text/numbers.h"

namespace mellow::text {

namespace {

template<class Thing>
std::string messageText(const Thing& thing) {
    switch (row(thing.kind).name == "cc" ? 0 : row(thing.kind).numbered ? 1 : 2) {
        case 0:
            return "CC " + std::to_string(thing.number);
        case 1:
            return std::string(row(thing.kind).label) + " " + std::to_string(thing.number);
        default:
            return lowered(row(thing.kind).label);
    }
}

bool sendsSame(const ControllerControl& control, const Source& source) {
    return row(control.message.kind).name == row(source.kind).name &&
           (!row(source.kind).numbered || control.message.number == source.number);
}

std::string signedNumber(double value) {
    return value > 0 ? "+" + plain(value) : plain(value);
}

std::vector<std::string> phrases(const std::vector<Step>& steps, int sourceMax) {
    std::vector<std::string> words;
    bool first = true;
    for (const Step& step : steps) {
        if (!step.on) continue;
        std::string phrase = step.kind->available ? step.kind->phrase(step, {first ? sourceMax : 0})
                                                  : lowered(step.kind->label) + " (not available yet)";
        if (!phrase.empty()) words.push_back(std::move(phrase));
        first = false;
    }
    return words;
}

std::string windowPhrase(const BranchWindow& window) {
    const auto percent = [](double p) { return plain(std::round(p * 1000) / 10) + " %"; };
    const std::string outside = window.outside == Outside::silent ? ", silent outside"
                                : window.outside == Outside::rest ? ", at rest outside"
                                                                  : "";
    return "from " + percent(window.low) + " to " + percent(window.high) + " of the way" + outside;
}

std::string reachPhrase(const Parameter& parameter, const Branch& branch) {
    const Range range = rangeOf(parameter);
    const std::string low = levelText(range, branch.low);
    const std::string high = levelText(range, branch.high);
    const auto from = rawPosition(range, branch.low);
    const auto to = rawPosition(range, branch.high);
    if (from && to && *from > *to) return low + " falling to " + high;
    if (branch.low == branch.high) return "always " + low;
    const std::string unit = " " + range.unit;
    const bool sameUnit = !range.unit.empty() && low.ends_with(unit) && high.ends_with(unit);
    const bool hasMinus = low.starts_with(minus) || high.starts_with(minus);
    return (sameUnit ? low.substr(0, low.size() - unit.size()) : low) + (hasMinus ? " to " : dash) + high;
}

}  // namespace

std::string sourceMessage(const Source& source) {
    return messageText(source);
}
std::string targetMessage(const Message& message) {
    return messageText(message);
}

std::string sourceName(const Ensemble& ensemble, const Source& source) {
    for (const Controller& controller : ensemble.controllers) {
        if (!source.controller.empty() && source.controller != controller.id) continue;
        for (const ControllerControl& control : controller.controls) {
            if (sendsSame(control, source)) return nameOf(control);
        }
    }
    if (source.kind == SourceKind::cc) return midi::controlName(source.number);
    std::string name(row(source.kind).label);
    return row(source.kind).numbered ? name + " " + std::to_string(source.number) : name;
}

std::string stepLabel(const Step& step, int sourceMax) {
    std::string label(step.kind->label);
    if (!step.on) return label + " (off)";
    if (!step.kind->available) return label;
    if (step.kind->name == "window") {
        const std::string phrase = step.kind->phrase(step, {sourceMax});
        return label + " " + (phrase.empty() ? "all" : phrase);
    }
    // The first number says most; a drawn response or a switch has none.
    if (step.kind->fields.empty()) return label;
    const Field& first = step.kind->fields.front();
    if (first.type != Field::Type::number && first.type != Field::Type::whole) return label;
    const double value = numberOf(step, 0);
    if (first.unit == "%") return label + " " + placeText(value, {sourceMax});
    if (!first.unit.empty()) return label + " " + withUnit(value, first.unit);
    return label + " " + (first.low < 0 ? signedNumber(value) : plain(value));
}

std::string branchPhrase(const Instrument* instrument, const Branch& branch) {
    const Parameter* parameter =
        instrument == nullptr ? nullptr : findById(instrument->parameters, branch.target);
    if (parameter == nullptr) return branch.target + " (missing)";
    if (!branch.on) return nameOf(*parameter) + " (switched off)";
    std::string phrase = nameOf(*parameter) + " " + reachPhrase(*parameter, branch);
    std::vector<std::string> extra = phrases(branch.steps, 0);
    if (branch.window) extra.insert(extra.begin(), windowPhrase(*branch.window));
    return extra.empty() ? phrase : phrase + " (" + listed(extra) + ")";
}

std::string chainSentence(const Ensemble& ensemble, const Instrument* instrument, const Chain& chain) {
    std::string sentence = sourceName(ensemble, chain.source);
    const std::vector<std::string> steps = phrases(chain.steps, maxOf(chain.source));
    const auto firstOn =
        std::find_if(chain.steps.begin(), chain.steps.end(), [](const Step& step) { return step.on; });
    const bool windowFirst = firstOn != chain.steps.end() && firstOn->kind->name == "window";
    for (std::size_t i = 0; i < steps.size(); ++i) {
        sentence += (i == 0 && windowFirst ? " " : ", ") + steps[i];
    }
    sentence += steps.empty() ? " " : ", ";
    std::vector<std::string> targets;
    for (const Branch& branch : chain.branches) targets.push_back(branchPhrase(instrument, branch));
    if (targets.empty()) return sentence + "reaches nothing yet.";
    sentence += "reaches " + listed(targets);
    if (chain.keepOriginal) sentence += "; the original is passed on too";
    sentence += chain.on ? "." : " (switched off).";
    return sentence;
}

}  // namespace mellow::text
