// An instrument whose input filter lets no note through: keys from high to low, or a transposition that leads
// all of them off the keyboard.
#include <algorithm>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

constexpr long highestKey = 127;

std::string keys(long low, long high) {
    return std::to_string(low) + " to " + std::to_string(high);
}

}  // namespace

void nothingPassesIn(const Whole& whole, Findings& findings) {
    const auto& instruments = whole.ensemble().instruments;
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const Input& input = instruments[i].input;
        const auto tell = [&](Severity severity, std::string what, std::string mend) {
            findings.push_back(about(whole, i, severity, Stops::nothing, std::move(what), std::move(mend)));
        };
        if (input.lowKey > input.highKey) {
            tell(Severity::trouble,
                 "its keys go from " + keys(input.lowKey, input.highKey) + ", so no note reaches it",
                 "let the first be the lower one");
            continue;
        }
        if (input.lowKey < 0 || input.highKey > highestKey)
            tell(input.lowKey > highestKey || input.highKey < 0 ? Severity::trouble : Severity::note,
                 "its keys go from " + keys(input.lowKey, input.highKey) + ", and a keyboard has 0 to 127",
                 "keep them inside");
        const long low = std::max<long>(input.lowKey, -input.transpose);
        const long high = std::min<long>(input.highKey, highestKey - input.transpose);
        if (low > high)
            tell(Severity::trouble,
                 "transposed by " + std::to_string(input.transpose) +
                     " none of its keys is left from 0 to 127",
                 "transpose by less");
    }
}

}  // namespace mellow::checks
