// What a control is, told by the shape of what it sends.
//
// A byte says too little: 127 may be a button, the end of a fader, or a step of an endless knob. What comes
// in a row says more. A control that sends nothing but 0 and 127 is a button, momentary when it lets go soon
// after; one that repeats small numbers and never travels is an encoder, and which numbers they are tells its
// encoding; one whose number and the number 32 above it come together is a pair of fourteen bits. Data entry
// behind the selection of a register is that register's. Everything else is a control of seven bits.
#pragma once

#include <array>
#include <bitset>
#include <cstdint>
#include <map>
#include <optional>

#include "core/midi/message.h"
#include "core/midi/pairs.h"

namespace mellow::midi {

enum class Shape : std::uint8_t {
    unknown,  ///< too little has come
    sevenBits,
    fourteenBits,
    momentary,  ///< a button that lets go
    latching,   ///< a button that stays
    twosComplement,
    offset,
    sign,  ///< encoders
    notes,
};

/// A control of a port: the number of a control change or register, or another kind of message.
struct ControlKey {
    enum class Kind : std::uint8_t {
        control,
        bend,
        pressure,
        keyPressure,
        program,
        note,
        rpn,
        nrpn
    } kind = Kind::control;
    std::uint8_t channel = 0;  ///< 0..15
    std::uint16_t number = 0;  ///< of a control change or a register
    auto operator<=>(const ControlKey&) const = default;
};

struct HeardControl {
    ControlKey key;
    Shape shape = Shape::unknown;
    int value = 0;  ///< the newest: 0..127, of fourteen bits and bends 0..16383; of a note its key
    int low = 0;    ///< the lowest and highest that came
    int high = 0;
    std::int64_t first = 0;   ///< when it was first heard, microseconds
    std::int64_t time = 0;    ///< of the newest
    std::uint32_t count = 0;  ///< messages
};

/// What the controls of one port have sent.
class Shapes {
 public:
    /// A message that came, in order of time.
    void see(std::int64_t time, Bytes message);

    /// The control that moved last; nullptr before any has.
    [[nodiscard]] const HeardControl* latest() const { return latest_; }
    /// All that were seen, in order. The low half of a pair is not among them.
    [[nodiscard]] const std::map<ControlKey, HeardControl>& all() const { return controls_; }

 private:
    /// What is remembered of a control change to tell its shape.
    struct Trace {
        std::bitset<128> values;
        int last = -1;
        std::int64_t lastTime = 0;
        std::uint32_t repeats = 0;  ///< the same value twice in a row
        std::uint32_t count = 0;
        std::uint32_t pairs = 0;  ///< low bytes that came right behind a high byte
        std::uint32_t quick = 0;  ///< releases soon after the press
        std::uint32_t slow = 0;
    };
    void seeControl(std::int64_t time, const ControlKey& key, int value);
    bool seeRegister(std::int64_t time, std::uint8_t channel, int control, int value);
    HeardControl& note(std::int64_t time, const ControlKey& key, int value);
    [[nodiscard]] static Shape shapeOf(const Trace& trace);

    std::map<ControlKey, HeardControl> controls_;
    std::map<ControlKey, Trace> traces_;
    std::array<Selection, 16> selected_{};  ///< registers, by channel
    std::array<int, 16> dataHigh_{};        ///< the high byte of data entry
    const HeardControl* latest_ = nullptr;
};

}  // namespace mellow::midi
