// Profiles as tables: what an instrument listens to and what a controller has, a row each.
//
// The same columns are the table on screen, what is pasted from a spreadsheet, and the CSV file. A column
// says how a cell reads and what typing into it does; a table of text becomes a profile by its first row
// where that names columns, in the words that charts use for them, and by what the cells hold where it does
// not.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"
#include "core/profiles/delimited.h"
#include "core/result.h"

namespace mellow::profiles {

template<class Thing>
struct Column {
    std::string_view title;
    std::string_view tip;
    std::span<const std::string_view> alsoCalled;  ///< in a first row, letters only, in lower case
    std::string (*text)(const Thing&);
    /// What is typed, put into the thing. The complaint, or nothing; then the thing is as before.
    std::optional<std::string> (*set)(Thing&, std::string_view typed);
};

std::span<const Column<Parameter>> parameterColumns();
std::span<const Column<ControllerControl>> controlColumns();
std::span<const Column<Articulation>> articulationColumns();

template<class Thing>
std::span<const Column<Thing>> columns();
template<>
inline std::span<const Column<Parameter>> columns<Parameter>() {
    return parameterColumns();
}
template<>
inline std::span<const Column<ControllerControl>> columns<ControllerControl>() {
    return controlColumns();
}
template<>
inline std::span<const Column<Articulation>> columns<Articulation>() {
    return articulationColumns();
}

/// How a table of text is understood.
struct Understood {
    std::vector<int> places;  ///< for each of its columns the profile's; −1: left out
    bool titled = false;      ///< its first row names columns
    bool operator==(const Understood&) const = default;
};
/// By its first row, where that names two columns or more. Otherwise the columns are the profile's, in order,
/// where every cell fits so; or else the first that holds messages is the message, and the first other one
/// the name.
template<class Thing>
Understood understood(const Table& table);

/// What a table of text says. Rows that name no message are left out, each with a complaint ("row 3: …").
template<class Thing>
struct Said {
    std::vector<Thing> things;
    std::vector<std::size_t> rows;  ///< of the table, from 0: where each thing stands
    std::vector<std::string> complaints;
    std::vector<std::size_t> complaintRows;

    void complain(std::size_t row, const std::string& words) {
        complaints.push_back("row " + std::to_string(row + 1) + ": " + words);
        complaintRows.push_back(row);
    }
};
template<class Thing>
Said<Thing> thingsIn(const Table& table, const Understood& how);
template<>
Understood understood<Parameter>(const Table& table);
template<>
Understood understood<ControllerControl>(const Table& table);
template<>
Understood understood<Articulation>(const Table& table);
template<>
Said<Parameter> thingsIn<Parameter>(const Table& table, const Understood& how);
template<>
Said<ControllerControl> thingsIn<ControllerControl>(const Table& table, const Understood& how);
template<>
Said<Articulation> thingsIn<Articulation>(const Table& table, const Understood& how);
template<class Thing>
Said<Thing> thingsIn(const Table& table) {
    return thingsIn<Thing>(table, understood<Thing>(table));
}

/// The titles, then a row for each.
template<class Thing>
Table tableOf(const std::vector<Thing>& things) {
    Table table(1);
    for (const auto& column : columns<Thing>()) table.front().emplace_back(column.title);
    for (const Thing& thing : things) {
        Row& row = table.emplace_back();
        for (const auto& column : columns<Thing>()) row.push_back(column.text(thing));
    }
    return table;
}

/// Adds things to a list, with ids of their own; what has the same name and message as one that is there
/// takes that one's place and id. Returns how many are new.
int merge(std::vector<Parameter>& list, std::vector<Parameter> things);
int merge(std::vector<ControllerControl>& list, std::vector<ControllerControl> things);
/// Of articulations by name alone.
int merge(std::vector<Articulation>& list, std::vector<Articulation> things);

/// Numbers from the first row's on, one more for each row, as far as their messages have numbers and these
/// can be. rows: places in the list.
void renumber(std::vector<Parameter>& list, const std::vector<std::size_t>& rows);
void renumber(std::vector<ControllerControl>& list, const std::vector<std::size_t>& rows);
/// Of articulations what selects each: key switches side by side, values or programs one after another.
void renumber(std::vector<Articulation>& list, const std::vector<std::size_t>& rows);

}  // namespace mellow::profiles
