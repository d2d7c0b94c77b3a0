#include "core/steps/typed.h"

#include <algorithm>
#include <cctype>
#include <cmath>

#include "core/text/calculation.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

/// Letters of any alphabet, with hyphens among them.
bool isLetters(std::string_view word) {
    if (word.starts_with('-') || word.starts_with(text::minus)) return false;
    return std::all_of(word.begin(), word.end(), [](char each) {
        const auto byte = static_cast<unsigned char>(each);
        return byte > 127 || std::isalpha(byte) != 0 || each == '-';
    });
}

bool hasDigit(std::string_view word) {
    return std::any_of(word.begin(), word.end(),
                       [](char each) { return std::isdigit(static_cast<unsigned char>(each)) != 0; });
}

std::vector<std::string_view> wordsOf(std::string_view text) {
    std::vector<std::string_view> words;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find(' ', at), text.size());
        if (end > at) words.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return words;
}

/// Puts one typed number where a field wants it.
bool take(FieldValue& value, const Field& field, const std::string& typed) {
    const auto number = text::calculated(typed, field.unit);
    if (!number || !std::isfinite(*number)) return false;
    const double meant = field.unit == "%" ? *number / 100 : *number;
    if (meant < field.low || meant > field.high) return false;
    value = field.type == Field::Type::whole ? std::round(meant) : meant;
    return true;
}

bool isNumber(const Field& field) {
    return field.type == Field::Type::number || field.type == Field::Type::whole;
}

}  // namespace

TypedStep typedStep(std::string_view typed) {
    TypedStep step;
    for (const std::string_view word : wordsOf(typed)) {
        const bool isWord = step.values.empty() && isLetters(word);
        std::string& text = isWord ? step.words : step.rest;
        if (!text.empty()) text += ' ';
        text += word;
        if (isWord) continue;
        if (!step.values.empty() && !hasDigit(word)) {
            step.values.back() += ' ';
            step.values.back() += word;
        } else {
            step.values.emplace_back(word);
        }
    }
    return step;
}

std::optional<Step> stepAsTyped(const StepKind& kind, const TypedStep& typed) {
    Step step = makeStep(kind);
    if (typed.rest.empty()) return step;
    std::size_t taken = 0;
    for (std::size_t i = 0; i < kind.fields.size(); ++i) {
        if (kind.fields[i].type == Field::Type::text) {
            step.values[i] = typed.rest;
            return flawOf(step).empty() ? std::optional(step) : std::nullopt;
        }
        if (!isNumber(kind.fields[i]) || taken == typed.values.size()) continue;
        if (!take(step.values[i], kind.fields[i], typed.values[taken++])) return std::nullopt;
    }
    if (taken < typed.values.size() || !flawOf(step).empty()) return std::nullopt;
    return step;
}

}  // namespace mellow
