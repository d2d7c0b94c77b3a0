#include "core/assignments/columns.h"

#include <algorithm>
#include <array>

#include "core/assignments/typing.h"
#include "core/describe/sentence.h"
#include "core/describe/source_words.h"
#include "core/midi/message.h"
#include "core/store/instrument_state.h"
#include "core/text/numbers.h"

namespace mellow {

using namespace typing;

namespace {

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

std::string stepsText(const Ensemble& ensemble, const Assignment& row) {
    if (row.chain == nullptr) return {};
    std::string all;
    const auto add = [&all](const std::vector<Step>& steps, int sourceMax) {
        for (const Step& step : steps)
            all += (all.empty() ? "" : ", ") + describe::stepLabel(step, sourceMax);
    };
    add(row.chain->steps, maxOf(sourceOf(ensemble, row)));
    if (const Branch* branch = row.leads()) add(branch->steps, 0);
    return all;
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
    std::string words = describe::targetMessage(row.target.parameter->message);
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

std::optional<double> outNumber(const Ensemble&, const Assignment& row) {
    if (row.target.instrument == nullptr) return std::nullopt;
    return row.target.instrument->output.channel;
}

std::string outText(const Ensemble&, const Assignment& row) {
    if (row.target.instrument == nullptr) return {};
    return "ch " + std::to_string(row.target.instrument->output.channel);
}

std::string outPortText(const Ensemble&, const Assignment& row) {
    return row.target.instrument == nullptr ? std::string() : row.target.instrument->output.port;
}

std::string restText(const Ensemble&, const Assignment& row) {
    if (row.target.tieLine != nullptr) return text::plain(row.target.tieLine->rest);
    if (row.target.parameter == nullptr) return {};
    return displayText(rangeOf(*row.target.parameter), restPosition(*row.target.parameter));
}

std::optional<double> restNumber(const Ensemble&, const Assignment& row) {
    if (row.target.tieLine != nullptr) return row.target.tieLine->rest;
    if (row.target.parameter == nullptr) return std::nullopt;
    return displayValue(rangeOf(*row.target.parameter), restPosition(*row.target.parameter));
}

std::string noteText(const Ensemble&, const Assignment& row) {
    return row.leads() == nullptr ? std::string() : row.leads()->note;
}

std::string lockedText(const Ensemble&, const Assignment& row) {
    return row.target.parameter != nullptr && row.target.parameter->locked ? "locked" : "";
}

// How loud it is, where that was measured and kept.

template<std::optional<double> KeptCurve::*level>
std::optional<double> levelNumber(const Ensemble&, const Assignment& row) {
    return row.loudness == nullptr ? std::nullopt : row.loudness->curve().*level;
}
template<std::optional<double> KeptCurve::*level>
std::string loudnessText(const Ensemble&, const Assignment& row) {
    if (row.loudness == nullptr) return {};
    const auto& measured = row.loudness->curve().*level;
    return measured ? text::tenths(*measured) : "too quiet";
}
template<std::optional<double> KeptCurve::*level>
std::string stretchText(const Ensemble& ensemble, const Assignment& row) {
    const auto stretch = levelNumber<level>(ensemble, row);
    return stretch ? text::tenths(*stretch) : std::string();
}

std::string measuredText(const Ensemble&, const Assignment& row) {
    if (row.loudness == nullptr) return {};
    return store::dayMeasured(row.loudness->curve(), row.loudness->isOutdated());
}

constexpr std::array columns{
    AssignmentColumn{"move", "What I move", "The control, or whatever else moves it", moveText, nullptr,
                     setMove},
    AssignmentColumn{"controller", "Controller", "Whose control that is", controllerText},
    AssignmentColumn{"port", "In port", "Where that comes in", portText, nullptr, setInPort},
    AssignmentColumn{"channel", "In channel", "The channel that is listened to", channelText, channelNumber,
                     setChannel},
    AssignmentColumn{"message", "In message", "What comes in", messageText, nullptr, setMessage},
    AssignmentColumn{"resolution", "Resolution", "How finely that speaks", resolutionText, nullptr,
                     setResolution},
    AssignmentColumn{"way", "What it does", "What becomes of it on the way", wayText},
    AssignmentColumn{"steps", "Steps", "The steps on the way, with their first numbers", stepsText},
    AssignmentColumn{"chain", "Chain", "The chain that leads there", chainText, nullptr, setChainName},
    AssignmentColumn{"target", "Reaches", "What is moved", targetText, nullptr, setTarget},
    AssignmentColumn{"instrument", "Instrument", "Whose that is", instrumentText},
    AssignmentColumn{"sends", "Sends", "The message that goes out", sendsText, nullptr, setSends},
    AssignmentColumn{"out", "Out channel", "The channel of the instrument that is moved", outText, outNumber,
                     setOut},
    AssignmentColumn{"outPort", "Out port", "The port of the instrument that is moved", outPortText, nullptr,
                     setOutPort},
    AssignmentColumn{"reach", "From, to", "How far the target is moved", reachText, lowNumber, setReach},
    AssignmentColumn{"low", "From", "Where the reach begins, in the target’s units", lowText, lowNumber,
                     setLow},
    AssignmentColumn{"high", "To", "Where the reach ends", highText, highNumber, setHigh},
    AssignmentColumn{"direction", "Direction", "Whether the target rises or falls with the hand",
                     directionText, nullptr, setDirection},
    AssignmentColumn{"rest", "At rest", "Where the target stands when nothing moves it", restText, restNumber,
                     setRest},
    AssignmentColumn{"weight", "Fan", "Whether the chain leads to all of its targets, or to a chosen one",
                     weightText},
    AssignmentColumn{"state", "State", "On, off, only in hand; or what leads nowhere, and what nothing moves",
                     stateText, nullptr, setState},
    AssignmentColumn{"locked", "Locked", "Stays where it is when values are drawn or put to rest", lockedText,
                     nullptr, setLocked},
    AssignmentColumn{
        "loudAtRest", "LUFS at rest",
        "Loudness at the lowest position of what moves the instrument, as it was measured and kept",
        loudnessText<&KeptCurve::rest>, levelNumber<&KeptCurve::rest>},
    AssignmentColumn{"loudAtHalf", "LUFS at half", "Loudness half way, as it was measured and kept",
                     loudnessText<&KeptCurve::half>, levelNumber<&KeptCurve::half>},
    AssignmentColumn{"loudAtFull", "LUFS at full",
                     "Loudness at the highest position, as it was measured and kept",
                     loudnessText<&KeptCurve::full>, levelNumber<&KeptCurve::full>},
    AssignmentColumn{"loudRange", "LU range",
                     "How far it is from the softest that can be heard to the loudest",
                     stretchText<&KeptCurve::range>, levelNumber<&KeptCurve::range>},
    AssignmentColumn{"loudBump", "LU bump", "By how much loudness goes back on its way, at worst",
                     stretchText<&KeptCurve::bump>, levelNumber<&KeptCurve::bump>},
    AssignmentColumn{
        "measured", "Measured",
        "The day on which its loudness was measured, and whether the instrument was edited since",
        measuredText},
    AssignmentColumn{"note", "Note", "A person’s words about it", noteText, nullptr, setNote},
};

}  // namespace

std::span<const AssignmentColumn> assignmentColumns() {
    return columns;
}

const AssignmentColumn* findAssignmentColumn(std::string_view key) {
    const auto* found = std::find_if(columns.begin(), columns.end(),
                                     [key](const AssignmentColumn& each) { return each.key == key; });
    return found == columns.end() ? nullptr : found;
}

std::optional<std::string> typeInto(Ensemble& ensemble, const AssignmentColumn& column,
                                    const AssignmentId& id, std::string_view typed) {
    const auto row = assignmentAt(ensemble, id);
    if (!row) return "it is not there any more";
    if (column.text(ensemble, *row) == typed) return std::nullopt;
    if (column.set == nullptr) return "it is only read here";
    return column.set(ensemble, id, typed);
}

SortKey sortKeyOf(const Ensemble& ensemble, const AssignmentColumn& column, const Assignment& row) {
    SortKey key;
    if (column.number != nullptr) key.number = column.number(ensemble, row);
    if (!key.number) key.text = text::folded(column.text(ensemble, row));
    return key;
}

bool standsBefore(const SortKey& one, const SortKey& other) {
    if (one.number && other.number) return *one.number < *other.number;
    if (one.number.has_value() != other.number.has_value()) return one.number.has_value();
    return one.text < other.text;
}

}  // namespace mellow
