#include "core/profiles/delimited.h"

#include <algorithm>
#include <map>

#include "core/text/numbers.h"
#include "core/text/utf8.h"

namespace mellow::profiles {

namespace {

std::string trimmed(const std::string& text) {
    constexpr std::string_view blank = " \t\r\n";
    const auto first = text.find_first_not_of(blank);
    if (first == std::string::npos) return {};
    return text.substr(first, text.find_last_not_of(blank) - first + 1);
}

/// A spreadsheet takes a cell that begins so for a formula, and works it out.
bool looksLikeFormula(std::string_view cell) {
    if (cell.empty() || std::string_view("=+-@\t\r").find(cell.front()) == std::string_view::npos)
        return false;
    const bool signedNumber = (cell.front() == '-' || cell.front() == '+') && cell.size() > 1 &&
                              (text::parse(cell, "") || cell == "-inf");
    return !signedNumber;
}

constexpr char guard = '\'';

std::string withoutGuard(std::string cell) {
    if (cell.size() > 1 && cell.front() == guard && looksLikeFormula(std::string_view(cell).substr(1)))
        cell.erase(0, 1);
    return cell;
}

Table split(std::string_view text, char separator) {
    Table table;
    Row row;
    std::string cell;
    bool quoted = false;
    const auto endCell = [&] {
        row.push_back(withoutGuard(trimmed(cell)));
        cell.clear();
    };
    const auto endRow = [&] {
        endCell();
        const bool blank =
            std::all_of(row.begin(), row.end(), [](const std::string& each) { return each.empty(); });
        if (!blank) table.push_back(std::move(row));
        row = {};
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted) {
            if (c != '"') {
                cell += c;
            } else if (i + 1 < text.size() && text[i + 1] == '"') {
                cell += text[++i];
            } else {
                quoted = false;
            }
        } else if (c == '"' && trimmed(cell).empty()) {
            quoted = true;
            cell.clear();
        } else if (c == separator) {
            endCell();
        } else if (c == '\n' || c == '\r') {
            endRow();
        } else {
            cell += c;
        }
    }
    endRow();
    return table;
}

/// How well a table looks like one: how many of its first rows have the commonest width above one.
std::size_t regularity(const Table& table) {
    constexpr std::size_t looked = 20;
    std::map<std::size_t, std::size_t> widths;
    for (std::size_t i = 0; i < std::min(looked, table.size()); ++i) ++widths[table[i].size()];
    std::size_t best = 0;
    for (const auto& [width, rows] : widths) {
        if (width > 1) best = std::max(best, rows * 100 + std::min<std::size_t>(width, 99));
    }
    return best;
}

bool isOfColumns(const Table& table) {
    return !table.empty() &&
           std::all_of(table.begin(), table.end(), [](const Row& row) { return row.size() > 1; });
}

std::string quotedWhere(const std::string& cell, std::string_view needs) {
    if (cell.find_first_of(needs) == std::string::npos) return cell;
    std::string text = "\"";
    for (const char c : cell) text += c == '"' ? std::string("\"\"") : std::string(1, c);
    return text + "\"";
}

std::string print(const Table& table, char separator, const char* lineEnd) {
    const std::string needs = std::string("\"\r\n") + separator;
    std::string text;
    for (const Row& row : table) {
        for (std::size_t i = 0; i < row.size(); ++i) {
            if (i > 0) text += separator;
            text += quotedWhere(looksLikeFormula(row[i]) ? guard + row[i] : row[i], needs);
        }
        text += lineEnd;
    }
    return text;
}

}  // namespace

Table parseTable(std::string_view written) {
    const text::Decoded decoded = text::toUtf8(written);
    std::string_view text = decoded.text;
    constexpr std::string_view mark = "\xEF\xBB\xBF";
    if (text.starts_with(mark)) text.remove_prefix(mark.size());
    // Cells that were copied have tabs in every row, whatever else stands in them.
    if (Table tabs = split(text, '\t'); isOfColumns(tabs)) return tabs;
    Table commas = split(text, ',');
    Table semicolons = split(text, ';');
    return regularity(semicolons) > regularity(commas) ? semicolons : commas;
}

std::string printCsv(const Table& table) {
    return print(table, ',', "\r\n");
}

std::string printCells(const Table& table) {
    return print(table, '\t', "\n");
}

}  // namespace mellow::profiles
