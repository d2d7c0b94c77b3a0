// Notes that an instrument takes and that lie outside the keys on which one of its articulations sounds.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

std::string keys(int low, int high) {
    return std::to_string(low) + " to " + std::to_string(high);
}

/// The keys that sound in every articulation, as a hand plays them.
void narrow(Instrument& instrument) {
    for (const Articulation& articulation : instrument.articulations) {
        if (articulation.lowKey > articulation.highKey) continue;
        const int transpose = instrument.input.transpose;
        const int low = std::max(instrument.input.lowKey, articulation.lowKey - transpose);
        const int high = std::min(instrument.input.highKey, articulation.highKey - transpose);
        if (low > high) continue;
        instrument.input.lowKey = low;
        instrument.input.highKey = high;
    }
}

void look(const InstrumentAt& at, Findings& findings) {
    const Input& input = at.instrument.input;
    const int low = std::clamp(input.lowKey + input.transpose, 0, midi::max7);
    const int high = std::clamp(input.highKey + input.transpose, 0, midi::max7);
    for (const Articulation& articulation : at.instrument.articulations) {
        const std::string name = text::quoted(nameOf(articulation));
        if (articulation.lowKey > articulation.highKey) {
            findings.push_back(
                about(at.place, Severity::trouble, Stops::nothing,
                      name + " sounds on keys " + keys(articulation.lowKey, articulation.highKey) +
                          ", which are none",
                      "let the first be the lower one",
                      {mendInstrument(at, "Turn them round", [id = articulation.id](Instrument& instrument) {
                          Articulation* found = findById(instrument.articulations, id);
                          if (found != nullptr) std::swap(found->lowKey, found->highKey);
                      })}));
            continue;
        }
        if (low >= articulation.lowKey && high <= articulation.highKey) continue;
        findings.push_back(about(at.place, Severity::note, Stops::nothing,
                                 "it plays keys " + keys(low, high) + ", and " + name + " sounds on " +
                                     keys(articulation.lowKey, articulation.highKey),
                                 "play only keys that sound",
                                 {mendInstrument(at, "Play only keys that sound", narrow)}));
    }
}

}  // namespace

extern const Rule keysWithoutSound{.instrument = look};

}  // namespace mellow::checks
