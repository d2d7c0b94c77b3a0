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

void look(const InstrumentAt& at, Findings& findings) {
    const Input& input = at.instrument.input;
    const auto tell = [&](Severity severity, std::string what, std::string mend, Mend cure) {
        findings.push_back(
            about(at.place, severity, Stops::nothing, std::move(what), std::move(mend), {std::move(cure)}));
    };
    if (input.lowKey > input.highKey) {
        tell(Severity::trouble,
             "its keys go from " + keys(input.lowKey, input.highKey) + ", so no note reaches it",
             "let the first be the lower one",
             mendInstrument(at, "Turn them round", [](Instrument& instrument) {
                 std::swap(instrument.input.lowKey, instrument.input.highKey);
             }));
        return;
    }
    if (input.lowVelocity > input.highVelocity)
        tell(Severity::trouble,
             "its velocities go from " + keys(input.lowVelocity, input.highVelocity) +
                 ", so no note reaches it",
             "let the first be the lower one",
             mendInstrument(at, "Turn them round", [](Instrument& instrument) {
                 std::swap(instrument.input.lowVelocity, instrument.input.highVelocity);
             }));
    if (input.lowKey < 0 || input.highKey > highestKey)
        tell(input.lowKey > highestKey || input.highKey < 0 ? Severity::trouble : Severity::note,
             "its keys go from " + keys(input.lowKey, input.highKey) + ", and a keyboard has 0 to 127",
             "keep them inside", mendInstrument(at, "Use all keys", [](Instrument& instrument) {
                 instrument.input.lowKey = Input{}.lowKey;
                 instrument.input.highKey = Input{}.highKey;
             }));
    const long low = std::max<long>(input.lowKey, -static_cast<long>(input.transpose));
    const long high = std::min<long>(input.highKey, highestKey - static_cast<long>(input.transpose));
    if (low > high)
        tell(Severity::trouble,
             "transposed by " + std::to_string(input.transpose) + " none of its keys is left from 0 to 127",
             "transpose by less", mendInstrument(at, "Do not transpose", [](Instrument& instrument) {
                 instrument.input.transpose = 0;
             }));
}

}  // namespace

extern const Rule nothingPassesIn{.instrument = look};

}  // namespace mellow::checks
