// An ear: a place at which a chain listens. One for its source, one for each `combine`, one for its fan's
// chooser. Messages find the ears that want them through lists by channel and kind of message, so the cost of
// an event does not grow with the ensemble.
#pragma once

#include <cstdint>
#include <utility>

#include "core/engine/program/numbering.h"
#include "core/midi/message_key.h"
#include "core/midi/pairs.h"
#include "core/model/ensemble.h"
#include "core/model/scale.h"

namespace mellow::engine {

/// True of sources that two controls make up.
constexpr bool isPair(SourceKind kind) {
    return kind == SourceKind::cc14 || kind == SourceKind::rpn || kind == SourceKind::nrpn;
}

enum class Role : std::uint8_t { main, combine, chooser };

/// A place at which a chain listens.
struct Ear {
    std::uint32_t chain = 0;
    Role role = Role::main;
    PortId port = everyPort;
    int channel = -1;  ///< 0..15; −1: any
    Scale scale = Scale::edge;
    int max = 127;  ///< 0: it has positions only
    double rest = 0;
    std::uint32_t step = 0;     ///< of a combine: of State::steps
    std::pair<int, int> place;  ///< of a combine: its branch in the chain (−1: the trunk) and its step there
    std::uint32_t tieLine = none;  ///< place in Plan::tieLines
    Handover handover = Handover::jump;
    std::uint32_t hands = none;  ///< of one that hands over: its first of State::hands
    SourceKind kind = SourceKind::cc;
    const Source* source = nullptr;  ///< resolved; of its chain's body
};

/// The raw value at which an ear's tables hold a reading of two bytes.
int rawOf(const Ear& ear, const midi::PairReading& reading);
/// True of a source that listens to a value of two bytes.
bool isOfPair(const Source& source, midi::PairKind kind, int number);
/// The position of a raw value, as tables hold them.
double placeOf(const Ear& ear, int raw);

}  // namespace mellow::engine
