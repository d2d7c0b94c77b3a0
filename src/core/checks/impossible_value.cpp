// Values that the signal rules give no meaning: a channel 17, a log range from 0, an id used twice.
#include <algorithm>
#include <cmath>
#include <string_view>
#include <unordered_set>
#include <utility>

#include "core/checks/rules.h"
#include "core/model/edit.h"
#include "core/model/edit_hands.h"
#include "core/model/law.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

constexpr const char* ownIds = "give each an id of its own";
constexpr const char* giveId = "Give it an id of its own";

std::string anotherChain(const std::string& id) {
    return "another chain has the id \"" + id + "\" already";
}

/// Calls tell(place, id) for each thing of a list whose id came before.
template<class List, class Tell>
void lookForDoubles(const List& list, Tell&& tell) {
    std::unordered_set<std::string_view> seen;
    std::size_t place = 0;
    for (const auto& each : list) {
        if (!seen.insert(each.id).second) tell(place, each.id);
        ++place;
    }
}

/// Gives the thing at a place an id that no other of its list has; whatever refers to the old one keeps to
/// the first that has it.
template<class List>
void renew(List& list, std::size_t place) {
    if (place >= list.size()) return;
    const std::string id = newId(std::as_const(list), nameOf(std::as_const(list)[place]));
    list[place].id = id;
}

bool isChannel(int channel) {
    return channel >= 1 && channel <= 16;
}

template<class Row>
std::string numberFlaw(const Row& kind, int number) {
    const int highest = kind.highestNumber;
    if (!kind.numbered || (number >= 0 && number <= highest)) return {};
    return "number " + std::to_string(number) + " is outside 0 to " + std::to_string(highest);
}

/// Brings what fields forbid to the nearest that they allow.
void keepInside(std::span<const Field> fields, std::vector<FieldValue>& values) {
    for (std::size_t i = 0; i < fields.size(); ++i) {
        auto* number = std::get_if<double>(&values[i]);
        if (number == nullptr || !fields[i].strict) continue;
        *number = std::clamp(*number, fields[i].low, fields[i].high);
        if (fields[i].type == Field::Type::whole) *number = std::round(*number);
    }
}

bool isFree(const Source& source) {
    return source.number == anyNumber && source.kind == SourceKind::program;
}

/// The nearest source that can be, to one that is as `wrong` is.
Mend nearestSource(const ChainAt& at, const Source& wrong) {
    return mendSources(at, "Use the nearest that can be", [wrong](Source& source) {
        if (source != wrong) return;
        const SourceRow& kind = row(source.kind);
        if (kind.numbered && !isFree(source))
            source.number = std::clamp(source.number, 0, kind.highestNumber);
        if (source.channel) source.channel = std::clamp(*source.channel, 1, 16);
        keepInside(kind.fields, source.values);
    });
}

/// Tells what is impossible about chains, their sources, steps, branches and targets.
class ChainLook {
 public:
    ChainLook(const ChainAt& at, Findings& findings) : at_(at), findings_(findings) {}

    void operator()() {
        lookAtSource(at_.chain.source, "its source");
        if (at_.chain.fan.by) lookAtSource(*at_.chain.fan.by, "the chooser of its fan");
        lookAtSteps(at_.chain.steps);
        if (at_.chain.fan.mode == FanMode::chosen && at_.chain.branches.empty())
            stop("its fan has no branch to choose", "add a target",
                 {mendChain(at_, "Feed all branches", [](Chain& chain) { chain.fan = {}; })});
        for (std::size_t b = 0; b < at_.chain.branches.size(); ++b) {
            branch_ = b;
            lookAtBranch(at_.chain.branches[b], b);
        }
    }

 private:
    void stop(std::string what, std::string mend, std::vector<Mend> mends) {
        findings_.push_back(about(at_, branch_, Severity::trouble, branch_ ? Stops::branch : Stops::chain,
                                  std::move(what), std::move(mend), std::move(mends)));
    }

    void lookAtSource(const Source& source, const std::string& which) {
        const std::string number =
            isFree(source) ? std::string() : numberFlaw(row(source.kind), source.number);
        if (!number.empty()) stop(which + ": " + number, "correct the number", {nearestSource(at_, source)});
        if (source.channel && !isChannel(*source.channel)) {
            stop(which + " listens to channel " + std::to_string(*source.channel), "use 1 to 16, or any",
                 {mendSources(at_, "Listen to any channel", [source](Source& mended) {
                     if (mended == source) mended.channel.reset();
                 })});
        }
        const std::string flaw = flawOf(source);
        if (flaw.empty()) return;
        Source mended = source;
        keepInside(row(source.kind).fields, mended.values);
        stop(which + ": " + flaw, "correct the value",
             flawOf(mended).empty() ? std::vector<Mend>{nearestSource(at_, source)} : std::vector<Mend>{});
    }

    void lookAtSteps(const std::vector<Step>& steps) {
        for (std::size_t s = 0; s < steps.size(); ++s) {
            const Step& step = steps[s];
            if (!step.on) continue;
            const std::string flaw = flawOf(step);
            if (!flaw.empty())
                stop(text::lowered(step.kind->label) + ": " + flaw, "correct the value", curesOf(step, s));
            if (step.with) lookAtSource(*step.with, "its " + text::lowered(step.kind->label) + " step");
        }
    }

    /// A step with values that its kind allows, or switched off.
    [[nodiscard]] std::vector<Mend> curesOf(const Step& wrong, std::size_t place) const {
        const auto mend = [&](std::string name, std::function<void(Step&)> edit) {
            return mendChain(
                at_, std::move(name),
                [place, branch = branch_, kind = wrong.kind, edit = std::move(edit)](Chain& chain) {
                    if (branch && *branch >= chain.branches.size()) return;
                    auto& steps = branch ? chain.branches[*branch].steps : chain.steps;
                    if (place < steps.size() && steps[place].kind == kind) edit(steps[place]);
                });
        };
        std::vector<Mend> cures;
        Step inside = wrong;
        keepInside(wrong.kind->fields, inside.values);
        if (flawOf(inside).empty())
            cures.push_back(mend("Use the nearest that can be",
                                 [](Step& step) { keepInside(step.kind->fields, step.values); }));
        if (flawOf(makeStep(*wrong.kind)).empty())
            cures.push_back(
                mend("Begin the step anew", [](Step& step) { step.values = makeStep(*step.kind).values; }));
        cures.push_back(mend("Switch the step off", [](Step& step) { step.on = false; }));
        return cures;
    }

    void lookAtBranch(const Branch& branch, std::size_t b) {
        if (branch.on) lookAtSteps(branch.steps);
        const Target target = targetOf(at_, branch);
        if (!target.exists()) return;
        const auto isNumber = [](const Level& level) { return std::holds_alternative<double>(level); };
        if (target.parameter != nullptr && isPlain(*target.parameter) && isNumber(branch.low) &&
            isNumber(branch.high))
            return;
        if (target.parameter != nullptr) lookAtParameter(*target.parameter, branch);
        if (target.hand != nullptr && target.hand->handOrder.empty())
            return stop("it chooses who is in hand, and nobody is in the hand order",
                        "put instruments or sections into the order",
                        {{"Put everybody into the order",
                          [](Ensemble& mended) { mended.handOrder = handEntries(mended); }}});
        const Range range = rangeOf(target);
        if (!flawOf(range).empty()) return;
        for (const Level& level : {branch.low, branch.high}) {
            if (!rawPosition(range, level)) {
                stop("its reach names \"" + levelText(range, level) + "\", which " + targetName(at_, branch) +
                         " does not know",
                     "choose a value in the parameter's range", {wholeReach(at_, b)});
            }
        }
    }

    /// True of parameters with which nothing can be wrong, as nearly all are: told without building a
    /// sentence, since every compilation asks for every branch.
    static bool isPlain(const Parameter& parameter) {
        const Message& message = parameter.message;
        const bool ordinary = message.kind == MessageKind::cc || message.kind == MessageKind::bend ||
                              message.kind == MessageKind::pressure || message.kind == MessageKind::velocity;
        const bool linear = parameter.display.law.value_or(Law::linear) == Law::linear;
        return ordinary && linear && message.number >= 0 && message.number <= 127 && !parameter.display.low &&
               !parameter.display.high && !parameter.rest;
    }

    void lookAtParameter(const Parameter& parameter, const Branch& branch) {
        const Message& message = parameter.message;
        const auto stopAt = [&](const std::string& what, const std::string& mend, std::string_view cure,
                                std::function<void(Parameter&)> edit) {
            stop(nameOf(parameter) + what, mend,
                 {mendParameter(at_, branch, std::string(cure), std::move(edit))});
        };
        const char* const correct = "correct the parameter's message";
        const char* const nearest = "Use the nearest that can be";
        const std::string number = numberFlaw(row(message.kind), message.number);
        if (!number.empty())
            stopAt(": " + number, correct, nearest, [](Parameter& mended) {
                mended.message.number =
                    std::clamp(mended.message.number, 0, row(mended.message.kind).highestNumber);
            });
        const auto flaw = row(message.kind).flaw != nullptr ? row(message.kind).flaw(message) : std::nullopt;
        if (flaw) stopAt(": " + flaw->what, correct, flaw->cure, flaw->mend);
        const Range range = rangeOf(parameter);
        if (!flawOf(range).empty())
            return stopAt(": " + flawOf(range), "correct its display range", "Use the message's own range",
                          [](Parameter& mended) {
                              mended.display.low.reset();
                              mended.display.high.reset();
                              mended.display.law.reset();
                              mended.display.choices.clear();
                          });
        if (parameter.rest && !rawPosition(range, *parameter.rest)) {
            stopAt(" rests at \"" + levelText(range, *parameter.rest) + "\", which it does not know",
                   "correct its rest", "Let it rest at its low end",
                   [](Parameter& mended) { mended.rest.reset(); });
        }
    }

    const ChainAt& at_;
    Findings& findings_;
    std::optional<std::size_t> branch_;  ///< at hand; none: what the branches share
};

void lookAtChain(const ChainAt& at, Findings& findings) {
    ChainLook(at, findings)();
}

/// What selects it, as far as that can be sent: an articulation of which one message cannot be sends none.
void lookAtArticulation(const InstrumentAt& at, std::size_t place, Findings& findings) {
    const Articulation& articulation = at.instrument.articulations[place];
    for (const Select& select : articulation.select) {
        const std::string flaw = flawOf(select);
        if (flaw.empty()) continue;
        findings.push_back(about(
            at.place, Severity::trouble, Stops::nothing,
            "\"" + nameOf(articulation) + "\": " + flaw + ", so nothing selects it", "correct the value",
            {mendInstrument(at, "Use the nearest that can be", [place](Instrument& mended) {
                if (place >= mended.articulations.size()) return;
                for (Select& each : mended.articulations[place].select) keepInside(each);
            })}));
    }
}

void lookAtInstrument(const InstrumentAt& at, Findings& findings) {
    const Instrument& instrument = at.instrument;
    const auto stop = [&](std::string what, std::string mend, Mend cure) {
        findings.push_back(about(at.place, Severity::trouble, Stops::instrument, std::move(what),
                                 std::move(mend), {std::move(cure)}));
    };
    if (!isChannel(instrument.output.channel)) {
        stop("it plays on channel " + std::to_string(instrument.output.channel), "use a channel from 1 to 16",
             mendInstrument(at, "Use the nearest that can be", [](Instrument& mended) {
                 mended.output.channel = std::clamp(mended.output.channel, 1, 16);
             }));
    }
    if (instrument.input.channel && !isChannel(*instrument.input.channel)) {
        stop("it listens to channel " + std::to_string(*instrument.input.channel), "use 1 to 16, or any",
             mendInstrument(at, "Listen to any channel",
                            [](Instrument& mended) { mended.input.channel.reset(); }));
    }
    for (std::size_t a = 0; a < instrument.articulations.size(); ++a) lookAtArticulation(at, a, findings);
    lookForDoubles(instrument.articulations, [&](std::size_t a, const std::string& id) {
        findings.push_back(
            about(at.place, Severity::trouble, Stops::nothing, "two articulations have the id \"" + id + "\"",
                  ownIds,
                  {mendInstrument(at, giveId, [a](Instrument& mended) { renew(mended.articulations, a); })}));
    });
    lookForDoubles(instrument.parameters, [&](std::size_t p, const std::string& id) {
        findings.push_back(
            about(at.place, Severity::trouble, Stops::nothing,
                  "two parameters have the id \"" + id + "\", and only the first is used",
                  "give each an id of its own",
                  {mendInstrument(at, giveId, [p](Instrument& mended) { renew(mended.parameters, p); })}));
    });
    lookForDoubles(instrument.chains, [&](std::size_t c, const std::string& id) {
        const ChainAt chain{at.directory, &instrument, instrument.chains[c],
                            Place{at.place, c, std::nullopt}};
        findings.push_back(
            about(chain, {}, Severity::trouble, Stops::chain, anotherChain(id), ownIds,
                  {mendInstrument(at, giveId, [c](Instrument& mended) { renew(mended.chains, c); })}));
    });
}

void lookAtAll(const Whole& whole, Findings& findings) {
    const Ensemble& ensemble = whole.ensemble();
    lookForDoubles(ensemble.instruments, [&](std::size_t i, const std::string& id) {
        findings.push_back(about(i, Severity::trouble, Stops::instrument,
                                 "another instrument has the id \"" + id + "\" already", ownIds,
                                 {{giveId, [i](Ensemble& mended) { renew(mended.instruments, i); }}}));
    });
    lookForDoubles(ensemble.sharedChains, [&](std::size_t c, const std::string& id) {
        const ChainAt chain{whole.directory(), nullptr, ensemble.sharedChains[c],
                            Place{std::nullopt, c, std::nullopt}};
        findings.push_back(about(chain, {}, Severity::trouble, Stops::chain, anotherChain(id), ownIds,
                                 {{giveId, [c](Ensemble& mended) { renew(mended.sharedChains, c); }}}));
    });
}

}  // namespace

extern const Rule impossibleValue{
    .chain = lookAtChain, .instrument = lookAtInstrument, .whole = lookAtAll, .stops = true};

}  // namespace mellow::checks
