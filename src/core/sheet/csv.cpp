#include "core/sheet/csv.h"

#include <charconv>
#include <map>

#include "core/profiles/delimited.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::sheet {

namespace {

constexpr std::string_view idTitle = "Row";
constexpr std::string_view ofShared = "shared:";
constexpr std::string_view ofControl = "control:";
constexpr std::string_view ofParameter = "parameter:";

/// An id as part of a longer one: what would part it, or not come back from a spreadsheet, is written by its
/// number.
std::string part(std::string_view id) {
    static constexpr std::string_view digits = "0123456789ABCDEF";
    std::string safe;
    for (const char c : id) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte > ' ' && c != '/' && c != ':' && c != '%' && c != '"' && c != '\'' && byte != 0x7F) {
            safe += c;
        } else {
            safe += {'%', digits[byte / 16], digits[byte % 16]};
        }
    }
    return safe;
}

std::string whole(std::string_view part) {
    std::string id;
    for (std::size_t i = 0; i < part.size(); ++i) {
        unsigned byte = 0;
        const bool coded = part[i] == '%' && i + 2 < part.size() &&
                           std::from_chars(&part[i + 1], &part[i + 1] + 2, byte, 16).ptr == &part[i + 1] + 2;
        id += coded ? static_cast<char>(byte) : part[i];
        if (coded) i += 2;
    }
    return id;
}

std::vector<std::string> partsOf(std::string_view text) {
    std::vector<std::string> parts;
    for (;;) {
        const auto end = text.find('/');
        parts.push_back(whole(text.substr(0, end)));
        if (end == std::string_view::npos) return parts;
        text.remove_prefix(end + 1);
    }
}

/// The place of a branch as it is counted, from 1; 0: the chain leads nowhere.
bool readBranch(const std::string& text, AssignmentId& id) {
    int place = 0;
    const char* const end = text.data() + text.size();
    const auto [at, error] = std::from_chars(text.data(), end, place);
    if (error != std::errc() || at != end || place < 0) return false;
    id.branch = place - 1;
    return true;
}

profiles::Table tableOf(const Sheet& sheet, const Wish& wish) {
    profiles::Table table(1);
    table.front().emplace_back(idTitle);
    for (const AssignmentColumn& column : assignmentColumns()) table.front().emplace_back(column.title);
    for (const Group& group : sheet.arranged(wish).groups) {
        for (const int row : group.rows) {
            auto& cells = table.emplace_back();
            cells.push_back(printId(idOf(sheet.rows()[static_cast<std::size_t>(row)])));
            for (const AssignmentColumn& column : assignmentColumns())
                cells.push_back(sheet.text(column, row));
        }
    }
    return table;
}

/// Which column of ours stands where in a table; the first that is no column of ours is nullptr.
struct Heads {
    std::optional<std::size_t> id;
    std::vector<const AssignmentColumn*> columns;
};

Heads headsOf(const profiles::Row& first) {
    Heads heads;
    for (std::size_t i = 0; i < first.size(); ++i) {
        const AssignmentColumn* found = nullptr;
        for (const AssignmentColumn& column : assignmentColumns()) {
            if (text::folded(first[i]) == text::folded(column.title)) found = &column;
        }
        heads.columns.push_back(found);
        if (text::folded(first[i]) == text::folded(idTitle)) heads.id = i;
    }
    return heads;
}

/// A row of the table that is typed in.
void typeRow(const Ensemble& ensemble, const Assignment& row, const Heads& heads, const profiles::Row& cells,
             Proposal& made) {
    Item item{idOf(row), rowName(ensemble, row), {}, {}, {}};
    for (std::size_t i = 0; i < cells.size() && i < heads.columns.size(); ++i) {
        const AssignmentColumn* column = heads.columns[i];
        if (column == nullptr) continue;
        const std::string says = column->text(ensemble, row);
        // What a table makes of it: without spaces at its ends, for instance.
        const profiles::Table there = profiles::parseTable(profiles::printCsv({{std::string("x"), says}}));
        if (cells[i] == says || (!there.empty() && there[0].size() > 1 && there[0][1] == cells[i])) continue;
        if (const Complaint complaint = typeInto(made.after, *column, item.id, cells[i])) {
            item.complaint = std::string(column->title) + ": " + *complaint;
            continue;
        }
        item.cells.push_back({column, says, cells[i]});
    }
    if (!item.cells.empty()) ++made.changed;
    if (item.complaint) ++made.refused;
    if (!item.cells.empty() || item.complaint) made.items.push_back(std::move(item));
}

}  // namespace

std::string printId(const AssignmentId& id) {
    if (!id.chain.empty()) {
        const std::string rest = part(id.chain) + "/" + std::to_string(id.branch + 1);
        return id.owner == sharedOwner ? std::string(ofShared) + rest : part(id.owner) + "/" + rest;
    }
    if (!id.controller.empty()) return std::string(ofControl) + part(id.controller) + "/" + part(id.control);
    return std::string(ofParameter) + part(id.instrument) + "/" + part(id.parameter);
}

std::optional<AssignmentId> parseId(std::string_view text) {
    const auto take = [&text](std::string_view before) {
        const bool has = text.starts_with(before);
        if (has) text.remove_prefix(before.size());
        return has;
    };
    AssignmentId id;
    if (take(ofControl) || text.starts_with(ofParameter)) {
        const bool isParameter = take(ofParameter);
        const std::vector<std::string> parts = partsOf(text);
        if (parts.size() != 2) return std::nullopt;
        (isParameter ? id.instrument : id.controller) = parts[0];
        (isParameter ? id.parameter : id.control) = parts[1];
        return id;
    }
    const bool isShared = take(ofShared);
    std::vector<std::string> parts = partsOf(text);
    if (isShared) parts.insert(parts.begin(), sharedOwner);
    if (parts.size() != 3 || parts[1].empty() || !readBranch(parts[2], id)) return std::nullopt;
    id.owner = parts[0];
    id.chain = parts[1];
    return id;
}

std::string printCsv(const Sheet& sheet, const Wish& wish) {
    return profiles::printCsv(tableOf(sheet, wish));
}

Result<Proposal> readCsv(const Ensemble& ensemble, std::string_view text) {
    const profiles::Table table = profiles::parseTable(text);
    const Heads heads = table.empty() ? Heads{} : headsOf(table.front());
    if (!heads.id) {
        return Problem{"the first row", "it names no column “Row”, by which rows are found again",
                       "export the sheet as CSV, and change that"};
    }
    Proposal made;
    made.after = ensemble;
    for (std::size_t i = 1; i < table.size(); ++i) {
        const std::string where = "line " + std::to_string(i + 1);
        const std::string& name = table[i].size() > *heads.id ? table[i][*heads.id] : std::string();
        const auto id = parseId(name);
        const auto row = id ? assignmentAt(ensemble, *id) : std::nullopt;
        if (!row) {
            made.remarks.push_back(where + ": there is no row " + text::quoted(name) + " here");
            continue;
        }
        typeRow(ensemble, *row, heads, table[i], made);
    }
    return made;
}

}  // namespace mellow::sheet
