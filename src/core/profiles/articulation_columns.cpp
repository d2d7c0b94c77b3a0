// An instrument's articulations as a table: what each is called, what selects it, on which keys it sounds,
// and what else it answers to.
#include <algorithm>
#include <array>
#include <cctype>

#include "core/midi/names.h"
#include "core/model/edit.h"
#include "core/profiles/columns.h"
#include "core/profiles/merging.h"
#include "core/profiles/select_text.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::profiles {

namespace {

using Complaint = std::optional<std::string>;

std::string nameCell(const Articulation& articulation) {
    return nameOf(articulation);
}
Complaint setName(Articulation& articulation, std::string_view typed) {
    articulation.name = std::string(typed);
    return std::nullopt;
}

std::string selectCell(const Articulation& articulation) {
    return selectText(articulation.select);
}
Complaint setSelect(Articulation& articulation, std::string_view typed) {
    auto select = parseSelect(typed);
    if (!select)
        return text::quoted(typed) +
               " selects nothing; write it as “C1”, “CC 32 = 5”, “Program 3” or “Channel 2”, several with +";
    articulation.select = std::move(*select);
    return std::nullopt;
}

std::string keysCell(const Articulation& articulation) {
    const Articulation usual;
    if (articulation.lowKey == usual.lowKey && articulation.highKey == usual.highKey) return {};
    return midi::keyToType(articulation.lowKey) + " to " + midi::keyToType(articulation.highKey);
}
Complaint setKeys(Articulation& articulation, std::string_view typed) {
    if (typed.find_first_not_of(" \t") == std::string_view::npos) {
        articulation.lowKey = Articulation{}.lowKey;
        articulation.highKey = Articulation{}.highKey;
        return std::nullopt;
    }
    for (const std::string_view between : {" to ", "..", "–", " - ", "-"}) {
        const auto at = typed.find(between, 1);
        if (at == std::string_view::npos) continue;
        const auto low = parseKey(typed.substr(0, at));
        const auto high = parseKey(typed.substr(at + between.size()));
        if (!low || !high) continue;
        articulation.lowKey = std::min(*low, *high);
        articulation.highKey = std::max(*low, *high);
        return std::nullopt;
    }
    return text::quoted(typed) + " names no range of keys; write it as “C2 to C6” or “36 to 84”";
}

std::string answersCell(const Articulation& articulation) {
    std::string text;
    for (const std::string& name : articulation.answersTo) text += (text.empty() ? "" : ", ") + name;
    return text;
}
Complaint setAnswers(Articulation& articulation, std::string_view typed) {
    articulation.answersTo.clear();
    while (!typed.empty()) {
        const auto end = std::min(typed.find(','), typed.size());
        std::string_view name = typed.substr(0, end);
        while (name.starts_with(' ')) name.remove_prefix(1);
        while (name.ends_with(' ')) name.remove_suffix(1);
        if (!name.empty()) articulation.answersTo.emplace_back(name);
        typed.remove_prefix(std::min(end + 1, typed.size()));
    }
    return std::nullopt;
}

constexpr std::array<std::string_view, 3> nameWords{"name", "articulation", "technique"};
constexpr std::array<std::string_view, 5> selectWords{"selectedby", "select", "keyswitch", "switch", "key"};
constexpr std::array<std::string_view, 3> keysWords{"keys", "range", "soundson"};
constexpr std::array<std::string_view, 3> answersWords{"answersto", "also", "alias"};

constexpr std::array all{
    Column<Articulation>{"Name", "What it is called", nameWords, nameCell, setName},
    Column<Articulation>{"Selected by",
                         "A key switch such as C1, CC 32 = 5, Program 3 or Channel 2; several with +",
                         selectWords, selectCell, setSelect},
    Column<Articulation>{"Sounds on", "The keys on which it sounds; empty: all", keysWords, keysCell,
                         setKeys},
    Column<Articulation>{"Answers to", "Other names by which tiles choose it, separated by commas",
                         answersWords, answersCell, setAnswers},
};

/// Letters only, in lower case, as titles are compared.
std::string lettersOf(std::string_view text) {
    std::string folded;
    for (const char c : text) {
        if (std::isalpha(static_cast<unsigned char>(c)) != 0)
            folded += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    }
    return folded;
}

/// Which column each cell of a first row is the title of; −1: none.
std::vector<int> byTitles(const Row& cells) {
    std::vector<int> places;
    for (const std::string& cell : cells) {
        const std::string word = lettersOf(cell);
        const auto isIt = [&](const Column<Articulation>& column) {
            return lettersOf(column.title) == word ||
                   std::find(column.alsoCalled.begin(), column.alsoCalled.end(), word) !=
                       column.alsoCalled.end();
        };
        const auto found = std::find_if(all.begin(), all.end(), isIt);
        places.push_back(found == all.end() ? -1 : static_cast<int>(found - all.begin()));
    }
    return places;
}

/// Without titles: the first column that selects something in most rows, and the first other one as the name.
std::vector<int> byLooks(const Table& table) {
    std::vector<int> places;
    std::vector<std::size_t> selects;
    for (const Row& row : table) {
        selects.resize(std::max(selects.size(), row.size()));
        for (std::size_t c = 0; c < row.size(); ++c)
            selects[c] += !row[c].empty() && parseSelect(row[c]) ? 1 : 0;
    }
    places.assign(selects.size(), -1);
    const auto most = std::max_element(selects.begin(), selects.end());
    if (most != selects.end() && *most > 0) places[static_cast<std::size_t>(most - selects.begin())] = 1;
    const auto name = std::find(places.begin(), places.end(), -1);
    if (name != places.end()) *name = 0;
    return places;
}

}  // namespace

std::span<const Column<Articulation>> articulationColumns() {
    return all;
}

template<>
Understood understood<Articulation>(const Table& table) {
    Understood how;
    if (table.empty()) return how;
    how.places = byTitles(table.front());
    how.titled = std::count_if(how.places.begin(), how.places.end(), [](int p) { return p >= 0; }) >= 2;
    if (!how.titled) how.places = byLooks(table);
    return how;
}

template<>
Said<Articulation> thingsIn<Articulation>(const Table& table, const Understood& how) {
    Said<Articulation> said;
    for (std::size_t r = how.titled ? 1 : 0; r < table.size(); ++r) {
        Articulation articulation;
        std::string complaint;
        for (std::size_t c = 0; c < table[r].size() && c < how.places.size(); ++c) {
            if (how.places[c] < 0) continue;
            const auto& column = all.at(static_cast<std::size_t>(how.places[c]));
            if (const auto wrong = column.set(articulation, table[r][c])) complaint = *wrong;
        }
        if (complaint.empty() && articulation.name.empty()) complaint = "there is no name";
        if (!complaint.empty()) {
            said.complain(r, complaint);
            continue;
        }
        said.things.push_back(std::move(articulation));
        said.rows.push_back(r);
    }
    return said;
}

int merge(std::vector<Articulation>& list, std::vector<Articulation> things) {
    return mergeInto(list, std::move(things),
                     [](const Articulation& each) { return text::lowered(nameOf(each)); });
}

void renumber(std::vector<Articulation>& list, const std::vector<std::size_t>& rows) {
    if (rows.empty() || rows.front() >= list.size() || list[rows.front()].select.empty()) return;
    const Select first = list[rows.front()].select.front();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (rows[i] >= list.size()) continue;
        Select next = first;
        (next.kind == SelectKind::note ? next.number : next.value) += static_cast<int>(i);
        if (!flawOf(next).empty()) continue;
        auto& select = list[rows[i]].select;
        if (select.empty()) {
            select.push_back(next);
        } else {
            select.front() = next;
        }
    }
}

}  // namespace mellow::profiles
