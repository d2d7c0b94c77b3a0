// Values that the signal rules give no meaning: a channel 17, a log range from 0, an id used twice.
#include <set>

#include "core/checks/rules.h"
#include "core/model/law.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

bool isChannel(int channel) {
    return channel >= 1 && channel <= 16;
}

/// The highest number that a kind may carry.
int highestNumber(std::string_view kind) {
    if (kind == "cc14") return 31;
    return kind == "rpn" || kind == "nrpn" ? 16383 : 127;
}

template<class Kind>
std::string numberFlaw(const KindRow<Kind>& kind, int number) {
    const int highest = highestNumber(kind.name);
    if (!kind.numbered || (number >= 0 && number <= highest)) return {};
    return "number " + std::to_string(number) + " is outside 0 to " + std::to_string(highest);
}

void lookAtBranch(const ChainAt& at, std::size_t b, Findings& findings) {
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(about(at, b, Severity::trouble, Stops::chain, std::move(what), std::move(mend)));
    };
    const Branch& branch = at.chain.branches[b];
    for (const Step& step : branch.steps) {
        if (branch.on && step.on && step.kind->available && !flawOf(step).empty()) {
            stop(text::lowered(step.kind->label) + ": " + flawOf(step), "correct the value");
        }
    }
    const Parameter* parameter = targetOf(at, branch);
    if (parameter == nullptr) return;
    const std::string number = numberFlaw(row(parameter->message.kind), parameter->message.number);
    if (!number.empty()) stop(nameOf(*parameter) + ": " + number, "correct the parameter's message");
    const Range range = rangeOf(*parameter);
    if (!flawOf(range).empty())
        return stop(nameOf(*parameter) + ": " + flawOf(range), "correct its display range");
    for (const Level& level : {branch.low, branch.high}) {
        if (!rawPosition(range, level)) {
            stop("its reach names \"" + levelText(range, level) + "\", which " + nameOf(*parameter) +
                     " does not know",
                 "choose a value in the parameter's range");
        }
    }
    if (parameter->rest && !rawPosition(range, *parameter->rest)) {
        stop(nameOf(*parameter) + " rests at \"" + levelText(range, *parameter->rest) +
                 "\", which it does not know",
             "correct its rest");
    }
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(about(at, {}, Severity::trouble, Stops::chain, std::move(what), std::move(mend)));
    };
    const Source& source = at.chain.source;
    const std::string number = numberFlaw(row(source.kind), source.number);
    if (!number.empty()) stop("its source: " + number, "correct the number");
    if (source.channel && !isChannel(*source.channel)) {
        stop("its source listens to channel " + std::to_string(*source.channel), "use 1 to 16, or any");
    }
    for (const Step& step : at.chain.steps) {
        if (step.on && step.kind->available && !flawOf(step).empty()) {
            stop(text::lowered(step.kind->label) + ": " + flawOf(step), "correct the value");
        }
    }
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) lookAtBranch(at, b, findings);
}

void lookAtInstrument(const Ensemble& ensemble, std::size_t i, Findings& findings) {
    const Instrument& instrument = ensemble.instruments[i];
    const auto stop = [&](std::string what, std::string mend) {
        findings.push_back(
            about(ensemble, i, Severity::trouble, Stops::instrument, std::move(what), std::move(mend)));
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
            about(ensemble, i, Severity::trouble, Stops::nothing,
                  "two parameters have the id \"" + parameter.id + "\", and only the first is used",
                  "give each an id of its own"));
    }
}

}  // namespace

void impossibleValue(const Ensemble& ensemble, Findings& findings) {
    std::set<std::string_view> instruments;
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        lookAtInstrument(ensemble, i, findings);
        const std::string& id = ensemble.instruments[i].id;
        if (!instruments.insert(id).second) {
            findings.push_back(about(ensemble, i, Severity::trouble, Stops::instrument,
                                     "another instrument has the id \"" + id + "\" already",
                                     "give each an id of its own"));
        }
    }
    std::set<std::string> chains;
    forEachChain(ensemble, [&](const ChainAt& at) {
        lookAtChain(at, findings);
        if (!chains.insert(std::to_string(*at.place.instrument) + "/" + at.chain.id).second) {
            findings.push_back(about(at, {}, Severity::trouble, Stops::chain,
                                     "another chain has the id \"" + at.chain.id + "\" already",
                                     "give each an id of its own"));
        }
    });
}

}  // namespace mellow::checks
