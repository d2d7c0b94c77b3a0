// Values that the signal rules give no meaning: a channel 17, a log range from 0, an id used twice.
#include <set>
#include <utility>

#include "core/checks/rules.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

bool isChannel(int channel) {
    return channel >= 1 && channel <= 16;
}

template<class Row>
std::string numberFlaw(const Row& kind, int number) {
    const int highest = highestNumber(kind);
    if (!kind.numbered || (number >= 0 && number <= highest)) return {};
    return "number " + std::to_string(number) + " is outside 0 to " + std::to_string(highest);
}

template<class Stop>
void lookAtSource(const Source& source, const std::string& which, Stop&& stop) {
    const std::string number = source.number == anyNumber && source.kind == SourceKind::program
                                   ? std::string()
                                   : numberFlaw(row(source.kind), source.number);
    if (!number.empty()) stop(which + ": " + number, "correct the number");
    if (source.channel && !isChannel(*source.channel)) {
        stop(which + " listens to channel " + std::to_string(*source.channel), "use 1 to 16, or any");
    }
    if (!flawOf(source).empty()) stop(which + ": " + flawOf(source), "correct the value");
}

template<class Stop>
void lookAtSteps(const std::vector<Step>& steps, Stop&& stop) {
    for (const Step& step : steps) {
        if (!step.on) continue;
        const std::string flaw = flawOf(step);
        if (!flaw.empty()) stop(text::lowered(step.kind->label) + ": " + flaw, "correct the value");
        if (step.with) lookAtSource(*step.with, "its " + text::lowered(step.kind->label) + " step", stop);
    }
}

bool isData(int value) {
    return value >= 0 && value <= 127;
}

template<class Stop>
void lookAtParameter(const Parameter& parameter, Stop&& stop) {
    const Message& message = parameter.message;
    const std::string number = numberFlaw(row(message.kind), message.number);
    if (!number.empty()) stop(nameOf(parameter) + ": " + number, "correct the parameter's message");
    if (message.bank && (!isData((*message.bank)[0]) || !isData((*message.bank)[1])))
        stop(nameOf(parameter) + ": its bank is outside 0 to 127", "correct the parameter's message");
    if (message.kind == MessageKind::note && (message.velocity < 1 || message.velocity > 127))
        stop(nameOf(parameter) + ": velocity " + std::to_string(message.velocity) + " is outside 1 to 127",
             "correct the parameter's message");
    if (message.kind == MessageKind::osc && !isOscAddress(message.address))
        stop(nameOf(parameter) + ": an OSC address begins with / and is one word",
             "correct the parameter's message");
    const Range range = rangeOf(parameter);
    if (!flawOf(range).empty())
        return stop(nameOf(parameter) + ": " + flawOf(range), "correct its display range");
    if (parameter.rest && !rawPosition(range, *parameter.rest)) {
        stop(nameOf(parameter) + " rests at \"" + levelText(range, *parameter.rest) +
                 "\", which it does not know",
             "correct its rest");
    }
}

/// True of parameters with which nothing can be wrong, as nearly all are: told without building a sentence,
/// since every compilation asks for every branch.
bool isPlain(const Parameter& parameter) {
    const Message& message = parameter.message;
    const bool ordinary = message.kind == MessageKind::cc || message.kind == MessageKind::bend ||
                          message.kind == MessageKind::pressure || message.kind == MessageKind::velocity;
    const bool linear = parameter.display.law.value_or(Law::linear) == Law::linear;
    return ordinary && linear && message.number >= 0 && message.number <= 127 && !parameter.display.low &&
           !parameter.display.high && !parameter.rest;
}

bool isNumber(const Level& level) {
    return std::holds_alternative<double>(level);
}

void lookAtBranch(const ChainAt& at, std::size_t b, Findings& findings) {
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(about(at, b, Severity::trouble, Stops::chain, std::move(what), std::move(mend)));
    };
    const Branch& branch = at.chain.branches[b];
    if (branch.on) lookAtSteps(branch.steps, stop);
    const Target target = targetOf(at, branch);
    if (!target.exists()) return;
    if (target.parameter != nullptr && isPlain(*target.parameter) && isNumber(branch.low) &&
        isNumber(branch.high))
        return;
    if (target.parameter != nullptr) lookAtParameter(*target.parameter, stop);
    const Range range = rangeOf(target);
    if (!flawOf(range).empty()) return;
    for (const Level& level : {branch.low, branch.high}) {
        if (!rawPosition(range, level)) {
            stop("its reach names \"" + levelText(range, level) + "\", which " + targetName(at, branch) +
                     " does not know",
                 "choose a value in the parameter's range");
        }
    }
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(about(at, {}, Severity::trouble, Stops::chain, std::move(what), std::move(mend)));
    };
    lookAtSource(at.chain.source, "its source", stop);
    if (at.chain.fan.by) lookAtSource(*at.chain.fan.by, "the chooser of its fan", stop);
    lookAtSteps(at.chain.steps, stop);
    if (at.chain.fan.mode == FanMode::chosen && at.chain.branches.empty())
        stop("its fan has no branch to choose", "add a target");
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) lookAtBranch(at, b, findings);
}

void lookAtInstrument(const Scope& scope, std::size_t i, Findings& findings) {
    const Instrument& instrument = scope.ensemble().instruments[i];
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(
            about(scope, i, Severity::trouble, Stops::instrument, std::move(what), std::move(mend)));
    };
    if (!isChannel(instrument.output.channel)) {
        stop("it plays on channel " + std::to_string(instrument.output.channel),
             "use a channel from 1 to 16");
    }
    if (instrument.input.channel && !isChannel(*instrument.input.channel)) {
        stop("it listens to channel " + std::to_string(*instrument.input.channel), "use 1 to 16, or any");
    }
    std::set<std::string_view> parameters;
    for (const Parameter& parameter : instrument.parameters) {
        if (parameters.insert(parameter.id).second) continue;
        findings.push_back(
            about(scope, i, Severity::trouble, Stops::nothing,
                  "two parameters have the id \"" + parameter.id + "\", and only the first is used",
                  "give each an id of its own"));
    }
}

}  // namespace

void impossibleValue(const Scope& scope, Findings& findings) {
    const Ensemble& ensemble = scope.ensemble();
    std::set<std::string_view> instruments;
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        if (scope.holds(i)) lookAtInstrument(scope, i, findings);
        const std::string& id = ensemble.instruments[i].id;
        if (!instruments.insert(id).second) {
            findings.push_back(about(scope, i, Severity::trouble, Stops::instrument,
                                     "another instrument has the id \"" + id + "\" already",
                                     "give each an id of its own"));
        }
    }
    const Instrument* owner = nullptr;
    std::set<std::string_view> chains;
    forEachChain(scope, [&](const ChainAt& at) {
        lookAtChain(at, findings);
        if (std::exchange(owner, at.instrument) != at.instrument) chains.clear();
        if (!chains.insert(at.chain.id).second) {
            findings.push_back(about(at, {}, Severity::trouble, Stops::chain,
                                     "another chain has the id \"" + at.chain.id + "\" already",
                                     "give each an id of its own"));
        }
    });
}

}  // namespace mellow::checks
