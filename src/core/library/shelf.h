// The library: small open files that each hold a part, in one folder, found by typing.
//
// An item's file is a part as JSON (store/part_json.h) with a name and a sentence; it can be mailed, edited
// by hand, kept under version control. The shelf is read anew each time it is looked at, so that what arrives
// in the folder is there; a file that cannot be read is named and put aside, and the others are as they were.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/part.h"
#include "core/result.h"

namespace mellow::library {

/// The ending of an item's file.
inline constexpr std::string_view ending = ".lever-part";

enum class Kind { instrument, controller, chains, branches, steps, elements, parameters, mixed };

struct Item {
    std::filesystem::path path;  ///< empty: it came with the program
    Part part;
};

struct Shelf {
    std::vector<Item> items;  ///< by name
    std::vector<Problem> problems;
};

/// What a part is mostly made of.
Kind kindOf(const Part& part);
/// "2 chains, 3 parameters": what is in it.
std::string contents(const Part& part);

/// Everything in a folder, which need not exist.
Shelf read(const std::filesystem::path& folder);
/// Puts one more item on a shelf, in its place by name.
void add(Shelf& shelf, Item item);

/// The items in which every word of what is typed occurs, in name, sentence or contents; those whose name
/// begins with it first.
std::vector<std::size_t> find(const Shelf& shelf, std::string_view typed);

/// Writes a part into a folder, which is made where it is not there, under a name of its own; an item of the
/// same name is replaced only when `replace`. Error: it cannot be written, or has no name.
Result<std::filesystem::path> write(const std::filesystem::path& folder, const Part& part, bool replace);

}  // namespace mellow::library
