#include "core/engine/program/ear.h"

#include <algorithm>

#include "core/model/law.h"

namespace mellow::engine {

double placeOf(const Ear& ear, int raw) {
    return raw > ear.max ? decode(ear.scale, raw - ear.max - 1, midi::max7) : decode(ear.scale, raw, ear.max);
}

int rawOf(const Ear& ear, const midi::PairReading& reading) {
    // Behind the values of two bytes lie those of one, for controls that turned out to send no more.
    const int value = ear.rest > 0 ? reading.fromMiddle : reading.value;
    return reading.fine ? value : ear.max + 1 + value;
}

bool isOfPair(const Source& source, midi::PairKind kind, int number) {
    const SourceKind wanted = kind == midi::PairKind::control ? SourceKind::cc14
                              : kind == midi::PairKind::rpn   ? SourceKind::rpn
                                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

}  // namespace mellow::engine
