// The kinds of source and of message that the ensemble format knows, one table each.
//
// A row says what the kind is called in the document and on screen, how fine its values are, and what else it
// can be set to. A kind that belongs here and nowhere else (which byte of which message carries the value) is
// the business of the engine, not of the table.
#pragma once

#include <span>
#include <string_view>

#include "core/model/field.h"

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

enum class MessageKind {
    cc,
    cc14,
    bend,
    pressure,
    keyPressure,
    velocity,
    note,
    program,
    rpn,
    nrpn,
    osc,
    relative  ///< of a controller's control only: no instrument listens to one
};

/// What moves a source of a kind.
enum class Origin {
    message,    ///< a control's message, at any time
    note,       ///< a note's coming or going
    generator,  ///< the clock
    tieLine,
};

struct SourceRow {
    SourceKind kind;
    std::string_view name;   ///< in the document
    std::string_view label;  ///< on screen
    int max;                 ///< the highest raw value, 127 or 16383; 0: it has positions and no raw values
    bool numbered;           ///< has a `number`
    Origin origin;
    std::span<const Field> fields;  ///< what else it can be set to
    std::string_view help;          ///< one sentence for the musician
};

struct MessageRow {
    MessageKind kind;
    std::string_view name;               ///< in the document
    std::string_view label;              ///< on screen
    int max;                             ///< the highest raw value: 127 or 16383
    bool numbered;                       ///< has a `number`
    std::span<const Field> fields = {};  ///< what else it can be set to
};

std::span<const SourceRow> sourceKinds();
/// The kinds that an instrument's parameter can have.
std::span<const MessageRow> messageKinds();
/// The kinds that a controller's control can have.
std::span<const MessageRow> controlKinds();

const SourceRow& row(SourceKind kind);
const MessageRow& row(MessageKind kind);

/// nullptr when the format knows no such name.
const SourceRow* findSourceKind(std::string_view name);

}  // namespace mellow
