// What leaves the engine, and where it goes.
#pragma once

#include <cstdint>
#include <string_view>

#include "core/engine/program/numbering.h"
#include "core/midi/message.h"

namespace mellow::engine {

using Time = std::int64_t;  ///< microseconds from the start

inline constexpr std::int32_t noChain = -1;

struct Output {
    Time time = 0;
    PortId port = everyPort;
    std::uint32_t instrument = 0;  ///< interned; see Numbering::instruments
    std::int32_t chain =
        noChain;               ///< the chain that sent it (place in Plan::chains), or noChain when it passed
    std::int32_t branch = -1;  ///< place in Plan::branches
    midi::Bytes bytes;         ///< valid during the call only; empty: it is OSC
    std::string_view address = {};  ///< of OSC
    float number = 0;               ///< of OSC, in display units
};

/// Where results go. A function and what it is called with, so that calling it costs no allocation.
struct Sink {
    void (*send)(void* self, const Output& output) = nullptr;
    void* self = nullptr;

    void operator()(const Output& output) const { send(self, output); }
};

/// A Sink that calls something callable, which must outlive it.
template<class Callable>
Sink sinkTo(Callable& callable) {
    return {[](void* self, const Output& output) { (*static_cast<Callable*>(self))(output); }, &callable};
}

/// Who sends.
struct Sender {
    std::uint32_t instrument = 0;  ///< interned
    std::int32_t chain = noChain;
    std::int32_t branch = -1;
};

}  // namespace mellow::engine
