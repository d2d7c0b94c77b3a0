// The kinds of source and of message that the ensemble format knows, one table each.
//
// A row says what the kind is called in the document and on screen, how fine its values are, what else it can
// be set to, and for most sources which messages it hears and which of their bytes is the value. What needs
// more than one message (pairs, registers, encoders, held keys) is put together by the engine.
#pragma once

#include <array>
#include <initializer_list>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "core/midi/message.h"
#include "core/model/field.h"

namespace mellow {

/// Every kind of source, in the order in which menus list them. A kind is a file of core/sources/ that
/// defines NAMESource, and its name here.
#define MELLOW_SOURCES(SOURCE) \
    SOURCE(cc)                 \
    SOURCE(cc14)               \
    SOURCE(bend)               \
    SOURCE(pressure)           \
    SOURCE(keyPressure)        \
    SOURCE(velocity)           \
    SOURCE(releaseVelocity)    \
    SOURCE(key)                \
    SOURCE(keyNumber)          \
    SOURCE(zoneNote)           \
    SOURCE(program)            \
    SOURCE(rpn)                \
    SOURCE(nrpn)               \
    SOURCE(relative)           \
    SOURCE(control)            \
    SOURCE(tieLine)            \
    SOURCE(lfo)                \
    SOURCE(envelope)           \
    SOURCE(walk)               \
    SOURCE(osc)                \
    SOURCE(desk)

/// Every kind of message that a parameter sends or a control of a controller has, likewise: files of
/// core/messages/ that define NAMEMessage. The last is a control's only: no instrument listens to an encoder.
#define MELLOW_MESSAGES(MESSAGE) \
    MESSAGE(cc)                  \
    MESSAGE(cc14)                \
    MESSAGE(bend)                \
    MESSAGE(pressure)            \
    MESSAGE(keyPressure)         \
    MESSAGE(velocity)            \
    MESSAGE(note)                \
    MESSAGE(program)             \
    MESSAGE(rpn)                 \
    MESSAGE(nrpn)                \
    MESSAGE(osc)                 \
    MESSAGE(articulation)        \
    MESSAGE(relative)

#define MELLOW_ENUMERATOR(name) name,
enum class SourceKind { MELLOW_SOURCES(MELLOW_ENUMERATOR) };
enum class MessageKind { MELLOW_MESSAGES(MELLOW_ENUMERATOR) };
#undef MELLOW_ENUMERATOR

/// What moves a source of a kind.
enum class Origin {
    message,    ///< a control's message, at any time
    note,       ///< a note's coming or going
    generator,  ///< the clock
    tieLine,
};

struct Source;
struct Message;
struct Parameter;

/// The kinds of message (midi/message_key.h) that a source listens to: four at most.
class MessageKeys {
 public:
    MessageKeys() = default;
    MessageKeys(std::initializer_list<int> keys) {
        for (const int key : keys) keys_.at(count_++) = static_cast<std::size_t>(key < 0 ? 0 : key);
    }
    [[nodiscard]] const std::size_t* begin() const { return keys_.data(); }
    [[nodiscard]] const std::size_t* end() const { return keys_.data() + count_; }

 private:
    std::array<std::size_t, 4> keys_{};
    std::size_t count_ = 0;
};

struct SourceRow {
    SourceKind kind;
    std::string_view name;   ///< in the document
    std::string_view label;  ///< on screen
    int max;                 ///< the highest raw value, 127 or 16383; 0: it has positions and no raw values
    bool numbered;           ///< has a `number`
    int highestNumber = midi::max7;
    Origin origin;
    std::span<const Field> fields;  ///< what else it can be set to
    std::string_view help;          ///< one sentence for the musician
    /// The kinds of message that concern a source. Null: none.
    MessageKeys (*hears)(const Source&) = nullptr;
    /// The raw value that one of them carries for a source, or −1 where it is not meant. note: the key of a
    /// note message, as the instrument takes it. Null: a message alone does not say.
    int (*value)(const Source&, midi::Bytes message, int note) = nullptr;
    bool consumes = true;  ///< what it hears goes no further, unless its chain keeps the original
};

/// What is wrong with a message, and an edit that cures it.
struct MessageFlaw {
    std::string what;       ///< "velocity 0 is outside 1 to 127"
    std::string_view cure;  ///< as a button says it
    void (*mend)(Parameter&);
};

struct MessageRow {
    MessageKind kind;
    std::string_view name;   ///< in the document
    std::string_view label;  ///< on screen
    int max;                 ///< the highest raw value: 127 or 16383
    bool numbered;           ///< has a `number`
    int highestNumber = midi::max7;
    std::string_view part = {};          ///< the key that it has beside its number (model/ensemble_keys.h)
    std::span<const Field> fields = {};  ///< what else it can be set to
    bool stays = true;                   ///< a value holds until another is sent
    /// The source that a control which sends such a message is. Null: no control sends one.
    Source (*heard)(const Message&);
    /// The message in a person's words. Null: its label and number.
    std::string (*phrase)(const Message&) = nullptr;
    /// What is wrong with its part. Null: nothing can be.
    std::optional<MessageFlaw> (*flaw)(const Message&) = nullptr;
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
