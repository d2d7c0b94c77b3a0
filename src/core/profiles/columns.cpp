#include "core/profiles/columns.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>

#include "core/model/edit.h"
#include "core/model/ensemble_words.h"
#include "core/model/law.h"
#include "core/profiles/merging.h"
#include "core/profiles/message_text.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::profiles {

namespace {

using Complaint = std::optional<std::string>;
using Names = std::span<const std::string_view>;

std::string letters(std::string_view text) {
    std::string folded;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (std::isalpha(byte) != 0) folded += static_cast<char>(std::tolower(byte));
    }
    return folded;
}

// Both have a name and a message.

template<class Thing>
std::string nameText(const Thing& thing) {
    return nameOf(thing);
}
template<class Thing>
Complaint setName(Thing& thing, std::string_view typed) {
    thing.name = std::string(typed);
    return std::nullopt;
}

template<class Thing>
std::string messageCell(const Thing& thing) {
    return messageText(thing.message);
}

bool isKindOf(const Parameter&, MessageKind kind) {
    return kind != MessageKind::relative;
}
bool isKindOf(const ControllerControl&, MessageKind) {
    return true;
}

template<class Thing>
Complaint setMessage(Thing& thing, std::string_view typed) {
    auto message = parseMessage(typed);
    if (!message)
        return text::quoted(typed) + " names no message; write it as “CC 74”, “NRPN 300” or “Pitch bend”";
    if (!isKindOf(thing, message->kind)) return text::quoted(typed) + " is no message of an instrument";
    thing.message = std::move(*message);
    return std::nullopt;
}

// Of parameters. Numbers stand to the last digit, since the table is a file too.

std::string exact(double value) {
    std::array<char, 32> digits{};
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), value).ptr;
    return {digits.data(), end};
}

template<bool high>
std::string boundText(const Parameter& parameter) {
    const Range range = rangeOf(parameter);
    if (range.law == Law::choices) return {};
    if (range.law == Law::decibel && !high) return "-inf";
    return exact(high ? range.high : range.low);
}
template<bool high>
Complaint setBound(Parameter& parameter, std::string_view typed) {
    std::optional<double>& bound = high ? parameter.display.high : parameter.display.low;
    if (typed.empty()) {
        bound.reset();
        return std::nullopt;
    }
    const auto number = text::parse(typed, parameter.display.unit);
    const Law law = parameter.display.law.value_or(Law::linear);
    // Decibels reach down to silence and choices have no bounds; what a table says of those is no news.
    if ((law == Law::decibel && !high) || law == Law::choices) return std::nullopt;
    if (!number || !std::isfinite(*number)) return text::quoted(typed) + " is no number";
    Parameter changed = parameter;
    (high ? changed.display.high : changed.display.low) = *number;
    parameter = std::move(changed);
    return std::nullopt;
}

std::string unitText(const Parameter& parameter) {
    return parameter.display.unit;
}
Complaint setUnit(Parameter& parameter, std::string_view typed) {
    parameter.display.unit = std::string(typed);
    return std::nullopt;
}

constexpr std::array<std::string_view, 4> lawLabels{"even", "log", "decibel", "choices"};

std::string lawText(const Parameter& parameter) {
    return std::string(lawLabels[static_cast<std::size_t>(parameter.display.law.value_or(Law::linear))]);
}
Complaint setLaw(Parameter& parameter, std::string_view typed) {
    const std::string word = letters(typed);
    if (word.empty()) {
        parameter.display.law.reset();
        return std::nullopt;
    }
    for (std::size_t law = 0; law < lawLabels.size(); ++law) {
        const bool same = word == lawLabels[law] || word == letters(lawWords[law]) ||
                          (word == "db" && law == static_cast<std::size_t>(Law::decibel)) ||
                          (word == "logarithmic" && law == static_cast<std::size_t>(Law::log));
        if (!same) continue;
        parameter.display.law = static_cast<Law>(law);
        return std::nullopt;
    }
    return text::quoted(typed) + " is no law; write even, log, decibel or choices";
}

std::string choicesText(const Parameter& parameter) {
    std::string text;
    for (const std::string& choice : parameter.display.choices) text += (text.empty() ? "" : " | ") + choice;
    return text;
}
Complaint setChoices(Parameter& parameter, std::string_view typed) {
    std::vector<std::string> choices;
    const char separator = typed.find('|') != std::string_view::npos ? '|' : ',';
    std::string choice;
    const auto end = [&] {
        const auto first = choice.find_first_not_of(' ');
        if (first != std::string::npos)
            choices.push_back(choice.substr(first, choice.find_last_not_of(' ') - first + 1));
        choice.clear();
    };
    for (const char c : typed) {
        if (c == separator) {
            end();
        } else {
            choice += c;
        }
    }
    end();
    if (!choices.empty()) {
        parameter.display.law = Law::choices;
    } else if (parameter.display.law == Law::choices) {
        parameter.display.law.reset();
    }
    parameter.display.choices = std::move(choices);
    return std::nullopt;
}

std::string restText(const Parameter& parameter) {
    if (!parameter.rest) return {};
    const auto* number = std::get_if<double>(&*parameter.rest);
    return number != nullptr ? exact(*number) : std::get<std::string>(*parameter.rest);
}
Complaint setRest(Parameter& parameter, std::string_view typed) {
    if (typed.empty()) {
        parameter.rest.reset();
        return std::nullopt;
    }
    const auto level = parseLevel(rangeOf(parameter), typed);
    if (!level) return text::quoted(typed) + " is no value of this parameter";
    parameter.rest = *level;
    return std::nullopt;
}

// Of controls.

std::string controlRestText(const ControllerControl& control) {
    return control.rest == Rest::middle ? "middle" : "low";
}
Complaint setControlRest(ControllerControl& control, std::string_view typed) {
    const std::string word = letters(typed);
    if (word == "middle" || word == "centre" || word == "center") {
        control.rest = Rest::middle;
    } else if (word.empty() || word == "low" || word == "bottom") {
        control.rest.reset();
    } else {
        return text::quoted(typed) + " is no rest; write low or middle";
    }
    return std::nullopt;
}

constexpr std::array<std::string_view, 4> nameNames{"parameter", "control", "label", "title"};
constexpr std::array<std::string_view, 8> messageNames{"cc",       "number", "controlchange", "controller",
                                                       "ccnumber", "midi",   "midicc",        "kind"};
constexpr std::array<std::string_view, 3> lowNames{"min", "minimum", "from"};
constexpr std::array<std::string_view, 3> highNames{"max", "maximum", "to"};
constexpr std::array<std::string_view, 1> unitNames{"units"};
constexpr std::array<std::string_view, 2> lawNames{"curve", "scale"};
constexpr std::array<std::string_view, 3> choiceNames{"values", "options", "names"};
constexpr std::array<std::string_view, 4> restNames{"rest", "default", "init", "initial"};

template<class Thing>
Column<Thing> nameColumn() {
    return {"Name", "What it is called", nameNames, nameText<Thing>, setName<Thing>};
}
template<class Thing>
Column<Thing> messageColumn() {
    return {"Message", "Such as CC 74, NRPN 300, Pitch bend, Note 24; a number alone is a CC", messageNames,
            messageCell<Thing>, setMessage<Thing>};
}

bool isCalled(std::string_view title, Names others, std::string_view word) {
    return letters(title) == word || std::find(others.begin(), others.end(), word) != others.end();
}

/// Which column of the profile each column of a table is; −1: none.
template<class Thing>
std::vector<int> byTitles(const Row& titles) {
    std::vector<int> places;
    for (const std::string& title : titles) {
        int place = -1;
        for (std::size_t c = 0; c < columns<Thing>().size(); ++c) {
            const auto& column = columns<Thing>()[c];
            if (isCalled(column.title, column.alsoCalled, letters(title)) &&
                std::find(places.begin(), places.end(), static_cast<int>(c)) == places.end())
                place = static_cast<int>(c);
        }
        places.push_back(place);
    }
    return places;
}

std::size_t widthOf(const Table& table) {
    std::size_t width = 0;
    for (const Row& row : table) width = std::max(width, row.size());
    return width;
}

/// The columns of a thing, in the order in which a row's cells are put into it: a law and a unit are known
/// before what is read by them; bounds come last but for the rest, which is read by all of them.
constexpr std::array readingOrder{0, 1, 4, 5, 6, 2, 3, 7};

/// Whether the rows have the profile's own columns, in order, as far as they go.
template<class Thing>
bool isInOrder(const Table& table) {
    if (widthOf(table) < 2 || widthOf(table) > columns<Thing>().size()) return false;
    return std::all_of(table.begin(), table.end(), [](const Row& cells) {
        if (cells.size() < 2 || !parseMessage(cells[1])) return false;
        Thing thing;
        return std::all_of(readingOrder.begin(), readingOrder.end(), [&](int column) {
            const auto c = static_cast<std::size_t>(column);
            return c >= cells.size() || cells[c].empty() || !columns<Thing>()[c].set(thing, cells[c]);
        });
    });
}

/// The first column of messages in half of the rows, or else the one with most of them; and the first other
/// one that holds words.
std::vector<int> byLooks(const Table& table) {
    std::vector<int> places(widthOf(table), -1);
    std::vector<std::size_t> messages(places.size());
    std::vector<std::size_t> words(places.size());
    for (const Row& row : table) {
        for (std::size_t c = 0; c < row.size(); ++c) {
            if (row[c].empty()) continue;
            ++(parseMessage(row[c]) ? messages : words)[c];
        }
    }
    auto message = std::find_if(messages.begin(), messages.end(),
                                [&table](std::size_t count) { return 2 * count >= table.size(); });
    if (message == messages.end()) message = std::max_element(messages.begin(), messages.end());
    if (message == messages.end() || *message == 0) return places;
    const auto at = static_cast<std::size_t>(message - messages.begin());
    places[at] = 1;
    const auto isName = [&](std::size_t c) { return c != at && words[c] > 0; };
    for (std::size_t c = 0; c < places.size(); ++c) {
        if (!isName(c)) continue;
        places[c] = 0;
        break;
    }
    return places;
}

template<class Thing>
Understood understand(const Table& table) {
    Understood how;
    if (table.empty()) return how;
    how.places = byTitles<Thing>(table.front());
    const auto known = std::count_if(how.places.begin(), how.places.end(), [](int p) { return p >= 0; });
    how.titled = known >= 2;
    if (how.titled) {
        how.places.resize(widthOf(table), -1);
    } else if (isInOrder<Thing>(table) || widthOf(table) >= columns<Thing>().size()) {
        how.places.assign(widthOf(table), -1);
        for (std::size_t c = 0; c < std::min(columns<Thing>().size(), how.places.size()); ++c)
            how.places[c] = static_cast<int>(c);
    } else {
        how.places = byLooks(table);
    }
    return how;
}

template<class Thing>
Said<Thing> read(const Table& table, const Understood& how) {
    Said<Thing> said;
    FreshIds ids;
    for (std::size_t r = how.titled ? 1 : 0; r < table.size(); ++r) {
        const Row& cells = table[r];
        Thing thing;
        bool hasMessage = false;
        Complaint complaint;
        for (const int column : readingOrder) {
            if (column >= static_cast<int>(columns<Thing>().size())) continue;
            const auto at = std::find(how.places.begin(), how.places.end(), column);
            const auto c = static_cast<std::size_t>(at - how.places.begin());
            if (at == how.places.end() || c >= cells.size() || cells[c].empty()) continue;
            const auto refused = columns<Thing>()[static_cast<std::size_t>(column)].set(thing, cells[c]);
            if (refused && !complaint) complaint = refused;
            if (column == 1 && !refused) hasMessage = true;
        }
        if (complaint) said.complain(r, *complaint);
        if (!hasMessage) {
            if (!complaint) said.complain(r, "no cell of it names a message");
            continue;
        }
        if (thing.name.empty()) thing.name = messageText(thing.message);
        thing.id = ids.make(thing.name);
        said.things.push_back(std::move(thing));
        said.rows.push_back(r);
    }
    return said;
}

/// Things with one of these are the same: the name, and which message.
template<class Thing>
std::string keyOf(const Thing& thing) {
    return std::to_string(static_cast<int>(thing.message.kind)) + " " + std::to_string(thing.message.number) +
           " " + nameOf(thing);
}

template<class Thing>
void number(std::vector<Thing>& list, const std::vector<std::size_t>& rows) {
    if (rows.empty() || rows.front() >= list.size()) return;
    int next = list[rows.front()].message.number;
    for (const std::size_t place : rows) {
        if (place >= list.size()) return;
        Message& message = list[place].message;
        if (!row(message.kind).numbered) continue;
        if (next > row(message.kind).highestNumber) return;
        message.number = next++;
    }
}

}  // namespace

std::span<const Column<Parameter>> parameterColumns() {
    static const std::array all{
        nameColumn<Parameter>(),
        messageColumn<Parameter>(),
        Column<Parameter>{"From", "The value of its lowest position", lowNames, boundText<false>,
                          setBound<false>},
        Column<Parameter>{"To", "The value of its highest position", highNames, boundText<true>,
                          setBound<true>},
        Column<Parameter>{"Unit", "Such as Hz, ms or %", unitNames, unitText, setUnit},
        Column<Parameter>{"Law", "even, log, decibel or choices", lawNames, lawText, setLaw},
        Column<Parameter>{"Choices", "Named choices, lowest first, with | between them", choiceNames,
                          choicesText, setChoices},
        Column<Parameter>{"Rests at", "Its resting value; empty for the usual one", restNames, restText,
                          setRest},
    };
    return all;
}

std::span<const Column<ControllerControl>> controlColumns() {
    static const std::array all{
        nameColumn<ControllerControl>(),
        messageColumn<ControllerControl>(),
        Column<ControllerControl>{"Rests at", "low, or middle for what springs back to its middle", restNames,
                                  controlRestText, setControlRest},
    };
    return all;
}

template<>
Understood understood<Parameter>(const Table& table) {
    return understand<Parameter>(table);
}
template<>
Understood understood<ControllerControl>(const Table& table) {
    return understand<ControllerControl>(table);
}
template<>
Said<Parameter> thingsIn<Parameter>(const Table& table, const Understood& how) {
    return read<Parameter>(table, how);
}
template<>
Said<ControllerControl> thingsIn<ControllerControl>(const Table& table, const Understood& how) {
    return read<ControllerControl>(table, how);
}

int merge(std::vector<Parameter>& list, std::vector<Parameter> things) {
    return mergeInto(list, std::move(things), keyOf<Parameter>);
}
int merge(std::vector<ControllerControl>& list, std::vector<ControllerControl> things) {
    return mergeInto(list, std::move(things), keyOf<ControllerControl>);
}

void renumber(std::vector<Parameter>& list, const std::vector<std::size_t>& rows) {
    number(list, rows);
}
void renumber(std::vector<ControllerControl>& list, const std::vector<std::size_t>& rows) {
    number(list, rows);
}

}  // namespace mellow::profiles
