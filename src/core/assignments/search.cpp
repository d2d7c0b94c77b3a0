#include "core/assignments/search.h"

#include <algorithm>
#include <array>

#include "core/assignments/columns.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

/// Takes the next word off a text: up to a space, or between quotes.
std::string takeWord(std::string_view& text) {
    const auto start = text.find_first_not_of(' ');
    text.remove_prefix(std::min(start, text.size()));
    const char until = text.starts_with('"') ? '"' : ' ';
    if (until == '"') text.remove_prefix(1);
    const auto end = std::min(text.find(until), text.size());
    std::string word(text.substr(0, end));
    text.remove_prefix(std::min(end + (until == '"' ? 1 : 0), text.size()));
    return word;
}

bool isNumber(std::string_view word) {
    return text::parse(word, "").has_value() || text::parse(word, "Hz").has_value() ||
           text::parse(word, "ms").has_value() || text::parse(word, "dB").has_value();
}

/// Two words that are said as one: a kind and its number, so that "cc 1" is not CC 11 and not channel 1.
bool isKind(std::string_view word) {
    return word == "cc" || word == "ch" || word == "nrpn" || word == "rpn" || word == "key" || word == ">" ||
           word == "<";
}

/// Whether a word stands in a text where one of the text's words begins, and, where the word ends with a
/// digit, ends there, too.
bool stands(std::string_view word, std::string_view text) {
    const auto isDigit = [](char c) { return c >= '0' && c <= '9'; };
    const auto isLetter = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || static_cast<unsigned char>(c) > 127;
    };
    for (auto at = text.find(word); at != std::string_view::npos; at = text.find(word, at + 1)) {
        const std::size_t end = at + word.size();
        const bool begins = at == 0 || !isLetter(text[at - 1]) || !isLetter(word.front());
        const bool ends = !isDigit(word.back()) || end == text.size() || !isDigit(text[end]);
        if (begins && ends) return true;
    }
    return false;
}

bool fits(const AssignmentSearch::Condition& condition, const Assignment& row) {
    const Branch* branch = row.leads();
    if (branch == nullptr || !row.target.exists()) return false;
    const auto limit = text::parse(condition.typed, rangeOf(row.target).unit);
    if (!limit) return false;
    const std::array ends{&branch->low, &branch->high};
    return std::any_of(ends.begin(), ends.end(), [&](const Level* end) {
        const auto* value = std::get_if<double>(end);
        return value != nullptr && (condition.compare == '>' ? *value > *limit : *value < *limit);
    });
}

}  // namespace

AssignmentSearch assignmentSearch(std::string_view typed) {
    AssignmentSearch search;
    const std::string lower = text::folded(typed);
    std::vector<std::string> words;
    for (std::string_view rest = lower; rest.find_first_not_of(' ') != std::string_view::npos;) {
        if (std::string word = takeWord(rest); !word.empty()) words.push_back(std::move(word));
    }
    for (std::size_t i = 0; i < words.size(); ++i) {
        std::string word = words[i];
        const bool compares = word.starts_with('>') || word.starts_with('<');
        if (compares && word.size() == 1 && i + 1 < words.size()) word += words[++i];
        if (compares) {
            std::string number = word.substr(1);
            // A unit may stand apart: "> 5 kHz".
            if (i + 1 < words.size() && isNumber(number + words[i + 1])) number += words[++i];
            if (isNumber(number)) {
                search.conditions.push_back({word.front(), number});
                continue;
            }
        }
        if (isKind(word) && i + 1 < words.size() && text::parse(words[i + 1], "")) word += " " + words[++i];
        search.words.push_back(std::move(word));
    }
    return search;
}

std::string searchText(const Ensemble& ensemble, const Assignment& assignment) {
    std::string all;
    for (const AssignmentColumn& column : assignmentColumns()) {
        all += column.text(ensemble, assignment);
        all += '\n';
    }
    return text::folded(all);
}

bool isFound(const AssignmentSearch& search, std::string_view searchText, std::string_view beside,
             const Assignment& assignment) {
    const bool meets = std::all_of(search.conditions.begin(), search.conditions.end(),
                                   [&](const auto& condition) { return fits(condition, assignment); });
    return meets && std::all_of(search.words.begin(), search.words.end(), [&](const std::string& word) {
               return stands(word, searchText) || stands(word, beside);
           });
}

bool isFound(const AssignmentSearch& search, const Ensemble& ensemble, const Assignment& assignment) {
    return isFound(search, search.words.empty() ? std::string() : searchText(ensemble, assignment), {},
                   assignment);
}

}  // namespace mellow
