// Messages taken apart, and whom they reach: what every part of the reference interpreter asks of bytes.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::reference {

using Bytes = std::vector<std::uint8_t>;

inline constexpr const char* parameterPort = "\n";  ///< stands for a parameter where a note's cause is a key

template<class List>
const typename List::value_type* withId(const List& list, std::string_view id) {
    for (const auto& each : list) {
        if (each.id == id) return &each;
    }
    return nullptr;
}

inline bool fits(const std::string& filter, const std::string& port) {
    return filter == "any" || port == "any" || filter == port;
}

inline int kind(const Bytes& bytes) {
    return bytes[0] >= 0xF0 ? bytes[0] : bytes[0] & 0xF0;
}
inline int channel(const Bytes& bytes) {
    return (bytes[0] & 0x0F) + 1;
}
inline bool isControl(const Bytes& bytes) {
    return kind(bytes) == 0xB0;
}
inline bool isOn(const Bytes& bytes) {
    return kind(bytes) == 0x90 && bytes[2] > 0;
}
inline bool isOff(const Bytes& bytes) {
    return kind(bytes) == 0x80 || (kind(bytes) == 0x90 && bytes[2] == 0);
}
inline bool isSelect(int control) {
    return control >= 98 && control <= 101;
}
inline bool isData(int control) {
    return control == 6 || control == 38 || control == 96 || control == 97;
}

/// The key that an instrument makes of an incoming one; a shared chain takes it as it is.
inline std::optional<int> keyFor(const Instrument* instrument, int key) {
    if (instrument == nullptr) return key;
    if (key < instrument->input.lowKey || key > instrument->input.highKey) return std::nullopt;
    const int moved = key + instrument->input.transpose;
    if (moved < 0 || moved > 127) return std::nullopt;
    return moved;
}

/// Whether an instrument plays only part of the velocities, and whether one is of that part.
inline bool isLayer(const Instrument& instrument) {
    return instrument.input.lowVelocity > 1 || instrument.input.highVelocity < 127;
}
inline bool isOfLayer(const Instrument& instrument, int velocity) {
    return velocity >= instrument.input.lowVelocity && velocity <= instrument.input.highVelocity;
}

inline bool samePair(const Source& source, int pairKind, int number) {
    const SourceKind wanted = pairKind == 0   ? SourceKind::cc14
                              : pairKind == 1 ? SourceKind::rpn
                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

}  // namespace mellow::reference
