// The kinds of source and of message that the ensemble format knows, one table each.
//
// A row says what the kind is called in the document and on screen, how fine its values are, and whether this
// version can run it. A kind that is not `available` is loaded, kept, saved and named in checks, and its
// chain stays silent: so a document from a version that can do more is never damaged by one that can do less.
#pragma once

#include <span>
#include <string_view>

namespace mellow {

enum class SourceKind {
    cc,
    cc14,
    bend,
    pressure,
    keyPressure,
    velocity,
    releaseVelocity,
    key,
    keyNumber,
    program,
    rpn,
    nrpn,
    relative,
    control,
    tieLine,
    lfo,
    envelope,
    walk,
    osc
};

enum class MessageKind { cc, cc14, bend, pressure, keyPressure, velocity, note, program, rpn, nrpn, osc };

template<class Kind>
struct KindRow {
    Kind kind;
    std::string_view name;   ///< in the document
    std::string_view label;  ///< on screen
    int max;                 ///< the highest raw value: 127 or 16383
    bool numbered;           ///< has a `number`
    bool available;          ///< this version runs it
};

std::span<const KindRow<SourceKind>> sourceKinds();
std::span<const KindRow<MessageKind>> messageKinds();

const KindRow<SourceKind>& row(SourceKind kind);
const KindRow<MessageKind>& row(MessageKind kind);

/// nullptr when the format knows no such name.
const KindRow<SourceKind>* findSourceKind(std::string_view name);
const KindRow<MessageKind>* findMessageKind(std::string_view name);

}  // namespace mellow
