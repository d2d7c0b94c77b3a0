// The sum is read by muParser, which is given nothing but digits, operators and brackets; what comes of it is
// read as if it had been typed.
#include "core/text/calculation.h"

#include <muParser.h>

#include <charconv>
#include <cmath>
#include <string>

#include "core/text/numbers.h"

namespace mellow::text {

namespace {

constexpr std::size_t longest = 200;
constexpr std::string_view ofSums = "0123456789.+-*/() ";
constexpr std::string_view operators = "+-*/(";

std::optional<double> valueOf(const std::string& sum) {
    try {
        mu::Parser parser;
        parser.SetExpr(sum);
        const double value = parser.Eval();
        return std::isfinite(value) ? std::optional(value) : std::nullopt;
    } catch (const mu::ParserError&) {
        return std::nullopt;
    }
}

std::string withPlainSigns(std::string_view typed) {
    std::string text;
    for (std::size_t i = 0; i < typed.size(); ++i) {
        if (typed.substr(i).starts_with(minus)) {
            text += '-';
            i += std::string_view(minus).size() - 1;
        } else {
            text += typed[i] == ',' ? '.' : typed[i];
        }
    }
    return text;
}

}  // namespace

std::optional<double> calculated(std::string_view typed, std::string_view unit) {
    if (const auto number = parse(typed, unit)) return number;
    if (typed.size() > longest) return std::nullopt;
    const std::string text = withPlainSigns(typed);
    const std::size_t end = std::min(text.find_first_not_of(ofSums), text.size());
    const std::string sum = text.substr(0, end);
    if (sum.find_first_of(operators) == std::string::npos) return std::nullopt;
    const auto value = valueOf(sum);
    if (!value) return std::nullopt;
    char digits[64];
    const auto [last, error] = std::to_chars(std::begin(digits), std::end(digits), *value);
    if (error != std::errc()) return std::nullopt;
    return parse(std::string(digits, last) + " " + text.substr(end), unit);
}

}  // namespace mellow::text
