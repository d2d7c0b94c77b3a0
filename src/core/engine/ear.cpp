#include "core/engine/ear.h"

#include <algorithm>

#include "core/model/law.h"

namespace mellow::engine {

double placeOf(const Ear& ear, int raw) {
    return raw > ear.max ? decode(ear.scale, raw - ear.max - 1, midi::max7) : decode(ear.scale, raw, ear.max);
}

int rawOf(const Ear& ear, const midi::PairReading& reading) {
    // Behind the values of two bytes lie those of one, for controls that turned out to send no more.
    if (!reading.fine) return ear.max + 1 + reading.value;
    if (ear.max != pitchRangeMax) return reading.value;
    return (reading.value >> 7) * centsASemitone + std::min(reading.value & midi::max7, centsASemitone - 1);
}

int steppedRaw(const Ear& ear, int raw, int step, bool coarse) {
    const int firstCoarse = ear.max + 1;
    if (coarse) {
        const int half = ear.max == pitchRangeMax ? centsASemitone : midi::max7 + 1;
        const int high = raw < 0              ? encode(ear.scale, ear.rest, midi::max7)
                         : raw >= firstCoarse ? raw - firstCoarse
                                              : raw / half;
        return firstCoarse + std::clamp(high + step, 0, midi::max7);
    }
    const int fine = raw < 0              ? encode(ear.scale, ear.rest, ear.max)
                     : raw >= firstCoarse ? rawOf(ear, {{}, (raw - firstCoarse) << 7, true})
                                          : raw;
    return std::clamp(fine + step, 0, ear.max);
}

bool isOfPair(const Source& source, midi::PairKind kind, int number) {
    const SourceKind wanted = kind == midi::PairKind::control ? SourceKind::cc14
                              : kind == midi::PairKind::rpn   ? SourceKind::rpn
                                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

}  // namespace mellow::engine
