#include "core/assignments/columns.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "core/describe/sentence.h"
#include "core/midi/message.h"
#include "core/profiles/message_text.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

using Complaint = std::optional<std::string>;

// What moves.

Source sourceOf(const Ensemble& ensemble, const Assignment& row) {
    return resolved(ensemble, row.chain->source);
}

std::string moveText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain != nullptr) return describe::sourceName(ensemble, row.chain->source);
    return row.control != nullptr ? nameOf(*row.control) : std::string();
}

std::string controllerText(const Ensemble&, const Assignment& row) {
    return row.controller == nullptr ? std::string() : nameOf(*row.controller);
}

std::string portText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain == nullptr) return row.controller == nullptr ? std::string() : row.controller->port;
    const std::string* own = portOf(ensemble, row.chain->source);
    if (own != nullptr) return *own;
    const bool isFree = row.owner == nullptr || row.owner->input.port == anyPort;
    return isFree ? "any" : row.owner->input.port;
}

std::optional<int> channelOf(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain == nullptr) return std::nullopt;
    const Source source = sourceOf(ensemble, row);
    if (source.channel) return source.channel;
    return row.owner == nullptr ? std::nullopt : row.owner->input.channel;
}

std::string channelText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain == nullptr) return {};
    const auto channel = channelOf(ensemble, row);
    return channel ? "ch " + std::to_string(*channel) : "any";
}

std::optional<double> channelNumber(const Ensemble& ensemble, const Assignment& row) {
    return channelOf(ensemble, row);
}

std::string messageText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain != nullptr) return describe::sourceMessage(sourceOf(ensemble, row));
    return row.control != nullptr ? describe::targetMessage(row.control->message) : std::string();
}

std::string resolutionText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain == nullptr) return {};
    const int max = maxOf(sourceOf(ensemble, row));
    return max <= 0 ? std::string() : max <= midi::max7 ? "7 bits" : "14 bits";
}

// What it does.

std::string wayText(const Ensemble& ensemble, const Assignment& row) {
    return row.chain == nullptr ? std::string() : describe::wayWords(ensemble, *row.chain, row.leads());
}

std::string chainText(const Ensemble&, const Assignment& row) {
    return row.chain == nullptr ? std::string() : nameOf(*row.chain);
}

std::string weightText(const Ensemble& ensemble, const Assignment& row) {
    if (row.leads() == nullptr) return {};
    const Fan& fan = row.chain->fan;
    if (fan.mode != FanMode::chosen || !fan.by) return "all";
    return "chosen by " + text::lowered(describe::sourceName(ensemble, *fan.by));
}

// What is moved.

std::string targetText(const Ensemble&, const Assignment& row) {
    if (row.target.exists()) return nameOf(row.target, false);
    return row.leads() == nullptr ? std::string() : row.leads()->target + " (missing)";
}

std::string instrumentText(const Ensemble&, const Assignment& row) {
    if (row.target.instrument != nullptr) return nameOf(*row.target.instrument);
    return row.owner == nullptr ? std::string() : nameOf(*row.owner);
}

std::string sendsText(const Ensemble&, const Assignment& row) {
    if (row.target.parameter == nullptr) return {};
    const std::string words = describe::targetMessage(row.target.parameter->message);
    if (row.target.instrument == nullptr) return words;
    return words + " on ch " + std::to_string(row.target.instrument->output.channel);
}

std::string reachText(const Ensemble& ensemble, const Assignment& row) {
    return row.leads() == nullptr || !row.target.exists()
               ? std::string()
               : describe::reachWords(ensemble, row.target, *row.leads());
}

std::string endText(const Assignment& row, Level Branch::*end) {
    if (row.leads() == nullptr || !row.target.exists() || row.target.hand != nullptr) return {};
    return levelText(rangeOf(row.target), row.leads()->*end);
}

std::string lowText(const Ensemble&, const Assignment& row) {
    return endText(row, &Branch::low);
}
std::string highText(const Ensemble&, const Assignment& row) {
    return endText(row, &Branch::high);
}

std::optional<double> endNumber(const Assignment& row, Level Branch::*end) {
    if (row.leads() == nullptr) return std::nullopt;
    const auto* number = std::get_if<double>(&(row.leads()->*end));
    return number == nullptr ? std::nullopt : std::optional(*number);
}

std::optional<double> lowNumber(const Ensemble&, const Assignment& row) {
    return endNumber(row, &Branch::low);
}
std::optional<double> highNumber(const Ensemble&, const Assignment& row) {
    return endNumber(row, &Branch::high);
}

/// −1, 0 or 1; nothing where the reach has no direction.
std::optional<int> directionOf(const Assignment& row) {
    if (row.leads() == nullptr || !row.target.exists()) return std::nullopt;
    if (row.leads()->low == row.leads()->high) return 0;
    const Range range = rangeOf(row.target);
    const auto from = rawPosition(range, row.leads()->low);
    const auto to = rawPosition(range, row.leads()->high);
    if (!from || !to) return std::nullopt;
    return *from > *to ? -1 : 1;
}

std::string directionText(const Ensemble&, const Assignment& row) {
    const auto direction = directionOf(row);
    return !direction ? "" : *direction < 0 ? "falls" : *direction > 0 ? "rises" : "stays";
}

std::string stateText(const Ensemble&, const Assignment& row) {
    if (row.chain == nullptr) return row.control != nullptr ? "unused" : "unmoved";
    if (row.leads() == nullptr) return "leads nowhere";
    if (!row.target.exists()) return "missing";
    if (!row.chain->on || !row.leads()->on) return "off";
    return row.chain->active == Active::inHand ? "only in hand" : "on";
}

std::string lockedText(const Ensemble&, const Assignment& row) {
    return row.target.parameter != nullptr && row.target.parameter->locked ? "locked" : "";
}

// Typing.

constexpr const char* gone = "it is not there any more";

Complaint setChainName(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Chain* chain = chainOf(ensemble, id);
    if (chain == nullptr) return gone;
    if (typed.find_first_not_of(' ') == std::string_view::npos) return "a chain needs a name";
    chain->name = std::string(typed);
    return std::nullopt;
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

Complaint setChannel(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Complaint why;
    Chain* chain = freeChain(ensemble, id, why);
    if (chain == nullptr) return why;
    if (text::folded(typed) == "any" || typed.empty()) {
        chain->source.channel.reset();
        return std::nullopt;
    }
    if (text::folded(typed).starts_with("ch ")) typed.remove_prefix(3);
    int channel = 0;
    const auto [end, error] = std::from_chars(typed.data(), typed.data() + typed.size(), channel);
    constexpr int channels = 16;
    if (error != std::errc() || end != typed.data() + typed.size() || channel < 1 || channel > channels)
        return "a channel is a number from 1 to 16, or any";
    chain->source.channel = channel;
    return std::nullopt;
}

Complaint setMessage(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Complaint why;
    Chain* chain = freeChain(ensemble, id, why);
    if (chain == nullptr) return why;
    const auto message = profiles::parseMessage(typed);
    const Source wanted = message ? mellow::sourceOf(*message) : Source{};
    const MessageRow* kind = message ? &row(message->kind) : nullptr;
    if (kind == nullptr || row(wanted.kind).name != kind->name)
        return "a message is written as CC 11, CC 1 14-bit, NRPN 300, pitch bend or channel pressure";
    if (kind->numbered && (message->number < 0 || message->number > kind->highestNumber))
        return "its number goes from 0 to " + std::to_string(kind->highestNumber);
    Source made = wanted;
    made.controller = chain->source.controller;
    made.channel = chain->source.channel;
    made.rest = chain->source.rest;
    chain->source = std::move(made);
    return std::nullopt;
}

Complaint setEnd(Ensemble& ensemble, const AssignmentId& id, std::string_view typed, Level Branch::*end) {
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const Instrument* owner = findById(std::as_const(ensemble.instruments), id.owner);
    const Target target = targetOf(ensemble, owner, branch->target);
    if (!target.exists() || target.hand != nullptr) return "its target has no range";
    const Range range = rangeOf(target);
    const auto level = parseLevel(range, typed);
    if (!level) {
        return range.law == Law::choices ? "one of " + text::listed(range.choices)
                                         : "a number" + (range.unit.empty() ? "" : " in " + range.unit);
    }
    branch->*end = *level;
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
    const std::string wanted = text::folded(typed);
    if (wanted != "falls" && wanted != "rises") return "it rises or falls";
    const Instrument* owner = findById(std::as_const(ensemble.instruments), id.owner);
    const Assignment row{
        owner, chainOf(ensemble, id), id.branch, nullptr, nullptr, targetOf(ensemble, owner, branch->target)};
    const auto direction = directionOf(row);
    if (!direction || *direction == 0) return "a reach that stays where it is has no direction";
    if ((*direction < 0) != (wanted == "falls")) std::swap(branch->low, branch->high);
    return std::nullopt;
}

Complaint setState(Ensemble& ensemble, const AssignmentId& id, std::string_view typed) {
    Chain* chain = chainOf(ensemble, id);
    Branch* branch = branchOf(ensemble, id);
    if (branch == nullptr) return gone;
    const std::string wanted = text::folded(typed);
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
    const std::string wanted = text::folded(typed);
    if (!wanted.empty() && wanted != "locked") return "locked, or nothing";
    std::string instrument = id.instrument;
    std::string parameter = id.parameter;
    if (const Branch* branch = branchOf(ensemble, id)) {
        const Instrument* owner = findById(std::as_const(ensemble.instruments), id.owner);
        const Target target = targetOf(ensemble, owner, branch->target);
        if (target.parameter == nullptr) return "only parameters are locked";
        instrument = target.instrument != nullptr ? target.instrument->id : id.owner;
        parameter = target.parameter->id;
    }
    Instrument* there = findById(ensemble.instruments, instrument);
    Parameter* found = there == nullptr ? nullptr : findById(there->parameters, parameter);
    if (found == nullptr) return gone;
    found->locked = !wanted.empty();
    return std::nullopt;
}

constexpr std::array<AssignmentColumn, 18> columns{{
    {"move", "What I move", "The control, or whatever else moves it", moveText},
    {"controller", "Controller", "Whose control that is", controllerText},
    {"port", "Port", "Where that comes in", portText},
    {"channel", "Channel", "The channel that is listened to", channelText, channelNumber, setChannel},
    {"message", "Message", "What comes in", messageText, nullptr, setMessage},
    {"resolution", "Resolution", "How finely that speaks", resolutionText},
    {"way", "What it does", "What becomes of it on the way", wayText},
    {"chain", "Chain", "The chain that leads there", chainText, nullptr, setChainName},
    {"target", "Target", "What is moved", targetText},
    {"instrument", "Instrument", "Whose that is", instrumentText},
    {"sends", "Sends", "The message that goes out", sendsText},
    {"reach", "Reach", "How far the target is moved", reachText},
    {"low", "From", "Where the reach begins, in the target's units", lowText, lowNumber, setLow},
    {"high", "To", "Where the reach ends", highText, highNumber, setHigh},
    {"direction", "Direction", "Whether the target rises or falls with the hand", directionText, nullptr,
     setDirection},
    {"weight", "Fan", "Whether the chain leads to all of its targets, or to a chosen one", weightText},
    {"state", "State", "On, off, only in hand; or what leads nowhere, and what nothing moves", stateText,
     nullptr, setState},
    {"locked", "Locked", "Stays where it is when values are drawn or put to rest", lockedText, nullptr,
     setLocked},
}};

}  // namespace

std::span<const AssignmentColumn> assignmentColumns() {
    return columns;
}

const AssignmentColumn* findAssignmentColumn(std::string_view key) {
    const auto* found = std::find_if(columns.begin(), columns.end(),
                                     [key](const AssignmentColumn& each) { return each.key == key; });
    return found == columns.end() ? nullptr : found;
}

bool standsBefore(const Ensemble& ensemble, const AssignmentColumn& column, const Assignment& one,
                  const Assignment& other) {
    if (column.number != nullptr) {
        const auto first = column.number(ensemble, one);
        const auto second = column.number(ensemble, other);
        if (first && second && *first != *second) return *first < *second;
        if (first.has_value() != second.has_value()) return first.has_value();
    }
    return text::folded(column.text(ensemble, one)) < text::folded(column.text(ensemble, other));
}

}  // namespace mellow
