#include "core/describe/heard.h"

#include "core/midi/names.h"

namespace mellow::describe {

namespace {

using Kind = midi::ControlKey::Kind;
using midi::Shape;

bool isButton(Shape shape) {
    return shape == Shape::momentary || shape == Shape::latching;
}

bool isEncoder(Shape shape) {
    return shape == Shape::twosComplement || shape == Shape::offset || shape == Shape::sign;
}

}  // namespace

std::string controlName(const midi::HeardControl& control) {
    switch (control.key.kind) {
        case Kind::control:
            return midi::controlMessage(control.key.number, false);
        case Kind::bend:
            return "Pitch bend";
        case Kind::pressure:
            return "Channel pressure";
        case Kind::keyPressure:
            return "Key pressure";
        case Kind::program:
            return "Program";
        case Kind::note:
            return "Keys";
        case Kind::rpn:
            return "RPN " + std::to_string(control.key.number);
        case Kind::nrpn:
            return "NRPN " + std::to_string(control.key.number);
    }
    return {};
}

std::string shapeName(const midi::HeardControl& control) {
    switch (control.shape) {
        case Shape::sevenBits:
            return "7 bits";
        case Shape::fourteenBits:
            return control.key.kind != Kind::control
                       ? "14 bits"
                       : "14-bit pair " + std::to_string(control.key.number) + " + " +
                             std::to_string(control.key.number + midi::pairCount);
        case Shape::momentary:
            return "button, momentary";
        case Shape::latching:
            return "button, latching";
        case Shape::twosComplement:
            return "encoder, two's complement";
        case Shape::offset:
            return "encoder, offset by 64";
        case Shape::sign:
            return "encoder, sign bit";
        case Shape::notes:
            return "notes";
        case Shape::unknown:
            return "not clear yet";
    }
    return {};
}

std::string heard(const midi::HeardControl& control, std::int64_t now) {
    constexpr std::int64_t still = 300000;  // µs
    std::string text = controlName(control);
    if (control.key.kind == Kind::note) {
        text = "Key " + midi::keyName(control.value);
    } else if (isButton(control.shape)) {
        text += control.value > 0 ? " down" : " up";
    } else if (isEncoder(control.shape)) {
        text += " turned";
    } else {
        text += " at " + std::to_string(control.value);
    }
    text += " on channel " + std::to_string(control.key.channel + 1);
    if (now - control.time <= still && !isButton(control.shape)) text += ", moving";
    if (control.shape != Shape::notes && control.shape != Shape::unknown) text += ", " + shapeName(control);
    return text;
}

}  // namespace mellow::describe
