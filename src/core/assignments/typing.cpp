#include "core/assignments/typing.h"

#include <algorithm>
#include <array>
#include <charconv>

#include "core/describe/sentence.h"
#include "core/profiles/message_text.h"
#include "core/reuse/carrying.h"
#include "core/text/numbers.h"

namespace mellow::typing {

namespace {

constexpr const char* gone = "it is not there any more";

bool isBlank(std::string_view typed) {
    return typed.find_first_not_of(' ') == std::string_view::npos;
}

std::string_view trimmed(std::string_view typed) {
    const auto first = typed.find_first_not_of(' ');
    if (first == std::string_view::npos) return {};
    return typed.substr(first, typed.find_last_not_of(' ') - first + 1);
}

/// A chain whose source is a message of its own; one that follows a control follows what that is.
Chain* freeChain(Ensemble& ensemble, const AssignmentId& id, Complaint& why) {
    Chain* chain = chainOf(ensemble, id);
    if (chain == nullptr) why = gone;
    if (chain != nullptr && chain->source.kind == SourceKind::control) {
        why = "it follows a control of a controller, whose message is said in Gear";
        return nullptr;
    }
    return chain;
}

ControllerControl* controlAt(Ensemble& ensemble, const AssignmentId& id) {
    Controller* controller = findById(ensemble.controllers, id.controller);
    return controller == nullptr ? nullptr : findById(controller->controls, id.control);
}

/// The target of a branch, and the chain's owner.
Target targetAt(const Ensemble& ensemble, const AssignmentId& id, const Branch& branch) {
    return targetOf(ensemble, findById(std::as_const(ensemble.instruments), id.owner), branch.target);
}

/// The instrument whose parameter a row moves, or is.
Instrument* movedInstrument(Ensemble& ensemble, const AssignmentId& id) {
    std::string instrument = id.instrument;
    if (const Branch* branch = branchOf(ensemble, id)) {
        const Target target = targetAt(ensemble, id, *branch);
        if (target.instrument == nullptr) return nullptr;
        instrument = target.instrument->id;
    }
    return findById(ensemble.instruments, instrument);
}

Parameter* movedParameter(Ensemble& ensemble, const AssignmentId& id) {
    std::string parameter = id.parameter;
    if (const Branch* branch = branchOf(ensemble, id)) {
        const Target target = targetAt(ensemble, id, *branch);
        if (target.parameter == nullptr) return nullptr;
        parameter = target.parameter->id;
    }
    Instrument* instrument = movedInstrument(ensemble, id);
    return instrument == nullptr ? nullptr : findById(instrument->parameters, parameter);
}

/// "3", "ch 3".
std::optional<int> parseChannel(std::string_view typed) {
    typed = trimmed(typed);
    const std::string lower = text::folded(typed);
    for (const std::string_view before : {"channel ", "ch "}) {
        if (lower.starts_with(before)) typed.remove_prefix(before.size());
    }
    int channel = 0;
    const auto [end, error] = std::from_chars(typed.data(), typed.data() + typed.size(), channel);
    constexpr int channels = 16;
    const bool is = error == std::errc() && end == typed.data() + typed.size() && channel >= 1;
    return is && channel <= channels ? std::optional(channel) : std::nullopt;
}

/// A message that can be what is meant by its kind and number; otherwise why not.
struct Read {
    std::optional<Message> message;
    Complaint why;
};
Read readMessage(std::string_view typed) {
    const auto message = profiles::parseMessage(typed);
    if (!message) {
        return {std::nullopt,
                "a message is written as CC 11, CC 1 14-bit, NRPN 300, pitch bend or channel pressure"};
    }
    const MessageRow& kind = row(message->kind);
    if (kind.numbered && (message->number < 0 || message->number > kind.highestNumber))
        return {std::nullopt, "its number goes from 0 to " + std::to_string(kind.highestNumber)};
    return {message, std::nullopt};
}

/// A text without what is only there to be read.
std::string lettersOf(std::string_view words) {
    std::string letters = text::folded(words);
    std::erase_if(letters, [](char c) { return c == ' ' || c == ',' || c == '-'; });
    return letters;
}

/// Whether a text says a message and nothing else: "pressure of the newest note" is none.
bool isWholly(std::string_view typed, const Message& message) {
    const std::string letters = lettersOf(typed);
    return letters == lettersOf(profiles::messageText(message)) ||
           letters == lettersOf(describe::targetMessage(message));
}

/// Gives a chain another source, which keeps where it comes from and where it rests.
void listenTo(Chain& chain, Source made) {
    made.controller = chain.source.controller;
    made.channel = chain.source.channel;
    made.rest = chain.source.rest;
    chain.source = std::move(made);
}

bool isFinite(const Level& level) {
    const auto* number = std::get_if<double>(&level);
    return number != nullptr;
}

std::string levelAsked(const Range& range) {
    return range.law == Law::choices ? "one of " + text::listed(range.choices)
                                     : "a number" + (range.unit.empty() ? "" : " in " + range.unit);
}

/// The range in which a row's branch moves its target; nothing where it has none.
std::optional<Range> rangeAt(const Ensemble& ensemble, const AssignmentId& id, const Branch& branch) {
    const Target target = targetAt(ensemble, id, branch);
    if (!target.exists() || target.hand != nullptr) return std::nullopt;
    return rangeOf(target);
}

Complaint setEnd(Ensemble& ensemble, const AssignmentId& id, std::string_view typed, Level Branch::*end) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const auto range = rangeAt(ensemble, id, *branch);
    if (!range) return "its target has no range";
    const auto level = parseLevel(*range, typed);
    if (!level) return levelAsked(*range);
    branch->*end = *level;
    return std::nullopt;
}

/// A text behind another where both stand: "6.2 kHz" behind "400 Hz".
struct Halves {
    std::string_view low;
    std::string_view high;
};

/// Where a text may be parted in two ends, the likeliest first.
std::vector<Halves> halvesOf(std::string_view typed) {
    std::vector<Halves> all;
    for (const std::string_view between : {" falling to ", " rising to ", " to ", "–", "..", "-"}) {
        for (auto at = typed.find(between); at != std::string_view::npos; at = typed.find(between, at + 1)) {
            if (at > 0)
                all.push_back({trimmed(typed.substr(0, at)), trimmed(typed.substr(at + between.size()))});
        }
    }
    return all;
}

}  // namespace

std::optional<std::pair<Level, Level>> parseReach(const Range& range, std::string_view typed) {
    typed = trimmed(typed);
    if (typed.starts_with("always ")) typed.remove_prefix(std::string_view("always ").size());
    for (const Halves& halves : halvesOf(typed)) {
        const auto low = parseLevel(range, halves.low);
        const auto high = parseLevel(range, halves.high);
        if (low && high) return std::pair(*low, *high);
    }
    const auto both = parseLevel(range, typed);
    return both ? std::optional(std::pair(*both, *both)) : std::nullopt;
}

Complaint setMove(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Chain* chain = chainOf(ensemble, id);
    if (chain == nullptr) {
        ControllerControl* control = controlAt(ensemble, id);
        if (control == nullptr) return "nothing moves it; lead a chain there";
        if (isBlank(typed)) return "a control needs a name";
        control->name = std::string(trimmed(typed));
        return std::nullopt;
    }
    const std::string wanted = text::folded(trimmed(typed));
    for (const Controller& controller : ensemble.controllers) {
        for (const ControllerControl& control : controller.controls) {
            if (text::folded(nameOf(control)) != wanted) continue;
            Source source;
            source.kind = SourceKind::control;
            source.controller = controller.id;
            source.control = control.id;
            source.channel = chain->source.channel;
            source.rest = chain->source.rest;
            chain->source = std::move(source);
            return std::nullopt;
        }
    }
    if (const Read read = readMessage(typed); read.message && isWholly(typed, *read.message)) {
        if (row(mellow::sourceOf(*read.message).kind).name != row(read.message->kind).name)
            return "no control sends such a message";
        const bool named = chain->source.kind == SourceKind::control;
        if (named) chain->source.controller.clear();
        listenTo(*chain, mellow::sourceOf(*read.message));
        return std::nullopt;
    }
    return "the name of a control, or a message such as CC 11";
}

Complaint setInPort(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    const std::string port(trimmed(typed));
    if (port.empty()) return "a port has a name, or is any";
    std::string controller = id.controller;
    if (const Chain* chain = chainOf(ensemble, id)) controller = chain->source.controller;
    if (Controller* named = findById(ensemble.controllers, controller)) {
        named->port = port;
        return std::nullopt;
    }
    Instrument* owner = findById(ensemble.instruments, id.owner);
    if (owner == nullptr) return "a shared chain hears any port, unless it names a controller";
    owner->input.port = port;
    return std::nullopt;
}

Complaint setChannel(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Complaint why;
    Chain* chain = freeChain(ensemble, id, why);
    if (chain == nullptr) return why;
    if (isBlank(typed) || text::folded(trimmed(typed)) == "any") {
        chain->source.channel.reset();
        return std::nullopt;
    }
    const auto channel = parseChannel(typed);
    if (!channel) return "a channel is a number from 1 to 16, or any";
    chain->source.channel = channel;
    return std::nullopt;
}

Complaint setMessage(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    const Read read = readMessage(typed);
    if (ControllerControl* control = controlAt(ensemble, id)) {
        if (!read.message) return read.why;
        if (row(read.message->kind).heard == nullptr) return "no control sends such a message";
        control->message = *read.message;
        return std::nullopt;
    }
    Complaint why;
    Chain* chain = freeChain(ensemble, id, why);
    if (chain == nullptr) return why;
    if (!read.message) return read.why;
    const Source wanted = mellow::sourceOf(*read.message);
    if (row(wanted.kind).name != row(read.message->kind).name) return "no control sends such a message";
    listenTo(*chain, wanted);
    return std::nullopt;
}

Complaint setResolution(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Complaint why;
    Chain* chain = freeChain(ensemble, id, why);
    if (chain == nullptr) return why;
    const std::string wanted = text::folded(trimmed(typed));
    const bool fine = wanted.starts_with("14");
    if (!fine && !wanted.starts_with("7")) return "7 bits, or 14 bits";
    SourceKind& kind = chain->source.kind;
    if (kind != SourceKind::cc && kind != SourceKind::cc14) return "only control changes have the choice";
    constexpr int pairs = 32;
    if (fine && chain->source.number >= pairs) return "only CC 0 to 31 have a fine half";
    kind = fine ? SourceKind::cc14 : SourceKind::cc;
    return std::nullopt;
}

Complaint setChainName(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Chain* chain = chainOf(ensemble, id);
    if (chain == nullptr) return gone;
    if (isBlank(typed)) return "a chain needs a name";
    chain->name = std::string(typed);
    return std::nullopt;
}

namespace {

/// The targets that are called so, as a branch names them.
std::vector<std::string> targetsCalled(const Ensemble& ensemble, const Instrument* owner,
                                       std::string_view typed) {
    const std::string wanted = text::folded(trimmed(typed));
    std::vector<std::string> all;
    const auto add = [&](const Instrument& instrument, bool shared) {
        for (const Parameter& parameter : instrument.parameters) {
            const std::string whole = nameOf(instrument) + " " + nameOf(parameter);
            if (text::folded(nameOf(parameter)) != wanted && text::folded(whole) != wanted) continue;
            all.push_back(shared ? instrument.id + "/" + parameter.id : parameter.id);
        }
    };
    if (owner != nullptr) {
        add(*owner, false);
    } else {
        for (const Instrument& instrument : ensemble.instruments) add(instrument, true);
    }
    for (const TieLine& line : ensemble.tieLines) {
        if (text::folded(nameOf(line)) == wanted) all.push_back(std::string(tieLineTarget) + line.id);
    }
    return all;
}

}  // namespace

Complaint setTarget(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) {
        Parameter* parameter = movedParameter(ensemble, id);
        if (parameter == nullptr) return gone;
        if (isBlank(typed)) return "a parameter needs a name";
        parameter->name = std::string(trimmed(typed));
        return std::nullopt;
    }
    const Instrument* owner = findById(std::as_const(ensemble.instruments), id.owner);
    const Target before = targetAt(ensemble, id, *branch);
    if (before.exists() && text::folded(nameOf(before, false)) == text::folded(trimmed(typed)))
        return std::nullopt;
    const std::vector<std::string> called = targetsCalled(ensemble, owner, typed);
    if (called.empty()) {
        return owner == nullptr ? "no parameter or tie line is called so"
                                : nameOf(*owner) + " has no parameter that is called so";
    }
    if (called.size() > 1) return "several are called so; say the instrument before it";
    if (called.front() == branch->target) return std::nullopt;
    const auto from = rangeAt(ensemble, id, *branch);
    branch->target = called.front();
    const auto to = rangeAt(ensemble, id, *branch);
    if (from && to) {
        reuse::carryReach(*branch, *from, *to);
    } else if (to) {
        branch->low = levelAt(*to, 0);
        branch->high = levelAt(*to, 1);
    }
    return std::nullopt;
}

Complaint setSends(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Parameter* parameter = movedParameter(ensemble, id);
    if (parameter == nullptr) return "only parameters send a message";
    std::optional<int> channel;
    if (const auto at = typed.rfind(" on ch "); at != std::string_view::npos) {
        channel = parseChannel(typed.substr(at + std::string_view(" on ").size()));
        if (!channel) return "a channel is a number from 1 to 16";
        typed = typed.substr(0, at);
    }
    const Read read = readMessage(typed);
    if (!read.message) return read.why;
    if (read.message->kind == MessageKind::relative) return "no instrument listens to an encoder";
    if (channel) movedInstrument(ensemble, id)->output.channel = *channel;
    const Parameter before = *parameter;
    parameter->message = *read.message;
    reuse::carryReaches(ensemble, movedInstrument(ensemble, id)->id, before, *parameter);
    return std::nullopt;
}

Complaint setOut(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Instrument* instrument = movedInstrument(ensemble, id);
    if (instrument == nullptr) return "it moves no instrument";
    const auto channel = parseChannel(typed);
    if (!channel) return "a channel is a number from 1 to 16";
    instrument->output.channel = *channel;
    return std::nullopt;
}

Complaint setOutPort(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Instrument* instrument = movedInstrument(ensemble, id);
    if (instrument == nullptr) return "it moves no instrument";
    if (isBlank(typed)) return "a port has a name";
    instrument->output.port = std::string(trimmed(typed));
    return std::nullopt;
}

Complaint setReach(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const auto range = rangeAt(ensemble, id, *branch);
    if (!range) return "its target has no range";
    const auto ends = parseReach(*range, typed);
    if (!ends) {
        return range->law == Law::choices
                   ? levelAsked(*range)
                   : "two numbers" + (range->unit.empty() ? "" : " in " + range->unit) + ", as 30–127";
    }
    branch->low = ends->first;
    branch->high = ends->second;
    return std::nullopt;
}

Complaint setLow(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    return setEnd(ensemble, id, typed, &Branch::low);
}
Complaint setHigh(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    return setEnd(ensemble, id, typed, &Branch::high);
}

Complaint setDirection(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const std::string wanted = text::folded(trimmed(typed));
    if (wanted != "falls" && wanted != "rises") return "it rises or falls";
    const Instrument* owner = findById(std::as_const(ensemble.instruments), id.owner);
    const Assignment row{
        owner, chainOf(ensemble, id), id.branch, nullptr, nullptr, targetOf(ensemble, owner, branch->target)};
    const auto direction = directionOf(row);
    if (!direction || *direction == 0) return "a reach that stays where it is has no direction";
    if ((*direction < 0) != (wanted == "falls")) std::swap(branch->low, branch->high);
    return std::nullopt;
}

Complaint setRest(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    if (const Branch* branch = branchOf(ensemble, id)) {
        if (const auto line = tieLineOf(branch->target)) {
            TieLine* found = findById(ensemble.tieLines, *line);
            const auto rest = text::parse(typed, "");
            if (found == nullptr) return gone;
            if (!rest || *rest < 0 || *rest > 1) return "a number from 0 to 1";
            found->rest = *rest;
            return std::nullopt;
        }
    }
    Parameter* parameter = movedParameter(ensemble, id);
    if (parameter == nullptr) return "it has no rest";
    const Range range = rangeOf(*parameter);
    const auto level = parseLevel(range, typed);
    if (!level) return levelAsked(range);
    const auto q = rawPosition(range, *level);
    if (isFinite(*level) && (!q || *q < 0 || *q > 1)) return "it lies outside the parameter’s range";
    parameter->rest = *level;
    return std::nullopt;
}

Complaint setState(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Chain* chain = chainOf(ensemble, id);
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const std::string wanted = text::folded(trimmed(typed));
    if (wanted == "off") {
        branch->on = false;
        return std::nullopt;
    }
    if (wanted != "on" && wanted != "only in hand") return "on, off, or only in hand";
    branch->on = true;
    chain->on = true;
    chain->active = wanted == "on" ? Active::always : Active::inHand;
    return std::nullopt;
}

Complaint setLocked(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    const std::string wanted = text::folded(trimmed(typed));
    if (!wanted.empty() && wanted != "locked") return "locked, or nothing";
    Parameter* found = movedParameter(ensemble, id);
    if (found == nullptr) return "only parameters are locked";
    found->locked = !wanted.empty();
    return std::nullopt;
}

Complaint setNote(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return "only what leads somewhere has a note";
    branch->note = std::string(typed);
    return std::nullopt;
}

}  // namespace mellow::typing
