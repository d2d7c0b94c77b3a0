// Searching assignments as one types: words in any order, each found in what some column says, and conditions
// on reaches ("> 5 kHz", "< 20").
//
// A word is found where a cell's word begins with it, so that "cc 1" does not find CC 11; "cc 11", "ch 3",
// "falls", "unused", "off" are words like others. What is typed in quotes is one word, with its spaces.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/assignments/assignments.h"

namespace mellow {

struct AssignmentSearch {
    struct Condition {
        char compare = '>';  ///< '>' or '<': some end of the reach is above or below
        std::string typed;   ///< a number, which a range takes in its own unit, or does not
    };
    std::vector<std::string> words;  ///< in lower case
    std::vector<Condition> conditions;
    [[nodiscard]] bool isEmpty() const { return words.empty() && conditions.empty(); }
};

/// What was typed; any text is a search.
AssignmentSearch assignmentSearch(std::string_view typed);

bool isFound(const AssignmentSearch& search, const Ensemble& ensemble, const Assignment& assignment);

/// The same in two parts, for whoever searches again and again: all that a row's columns say, folded, a line
/// each; and whether a search finds that.
std::string searchText(const Ensemble& ensemble, const Assignment& assignment);
/// beside: words that it is found by as well.
bool isFound(const AssignmentSearch& search, std::string_view searchText, std::string_view beside,
             const Assignment& assignment);

}  // namespace mellow
