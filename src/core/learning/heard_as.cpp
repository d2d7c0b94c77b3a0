#include "core/learning/heard_as.h"

#include <algorithm>

#include "core/midi/controls.h"
#include "core/sources/fields.h"

namespace mellow {

namespace {

using Kind = midi::ControlKey::Kind;
using midi::Shape;

/// The place of an encoding among the choices of an encoder's first field.
std::optional<std::string_view> encodingOf(Shape shape) {
    switch (shape) {
        case Shape::twosComplement:
            return "twos";
        case Shape::offset:
            return "offset";
        case Shape::sign:
            return "sign";
        default:
            return std::nullopt;
    }
}

Source control(const midi::HeardControl& heard) {
    const auto encoding = encodingOf(heard.shape);
    const bool fine = heard.shape == Shape::fourteenBits;
    Source source = makeSource(encoding ? SourceKind::relative : fine ? SourceKind::cc14 : SourceKind::cc);
    if (encoding) {
        const auto& choices = row(SourceKind::relative).fields[0].choices;
        for (std::size_t i = 0; i < choices.size(); ++i) {
            if (choices[i] == *encoding) source.values[0] = static_cast<int>(i);
        }
    }
    return source;
}

}  // namespace

bool isHeardAs(const Source& source, const midi::HeardControl& heard) {
    if (source.channel && *source.channel != heard.key.channel + 1) return false;
    const bool sameNumber = source.number == heard.key.number;
    if (source.kind == SourceKind::zoneNote && heard.key.kind != Kind::note)
        return fingerTaken(sourceOf(heard)) == zoneNoteOf(source).takes;
    switch (heard.key.kind) {
        case Kind::control:
            return (source.kind == SourceKind::cc || source.kind == SourceKind::cc14 ||
                    source.kind == SourceKind::relative) &&
                   sameNumber;
        case Kind::bend:
            return source.kind == SourceKind::bend;
        case Kind::pressure:
            return source.kind == SourceKind::pressure;
        case Kind::keyPressure:
            return source.kind == SourceKind::keyPressure;
        case Kind::program:
            return source.kind == SourceKind::program;
        case Kind::rpn:
            return source.kind == SourceKind::rpn && sameNumber;
        case Kind::nrpn:
            return source.kind == SourceKind::nrpn && sameNumber;
        case Kind::note:
            return row(source.kind).origin == Origin::note || source.kind == SourceKind::key;
    }
    return false;
}

std::optional<Finger> fingerTaken(const Source& source) {
    if (source.kind == SourceKind::bend) return Finger::bend;
    if (source.kind == SourceKind::pressure) return Finger::pressure;
    const bool slides = source.kind == SourceKind::cc && source.number == midi::slideControl;
    return slides ? std::optional(Finger::slide) : std::nullopt;
}

Source sourceOf(const midi::HeardControl& heard) {
    const auto plain = [&heard] {
        switch (heard.key.kind) {
            case Kind::bend:
                return makeSource(SourceKind::bend);
            case Kind::pressure:
                return makeSource(SourceKind::pressure);
            case Kind::keyPressure:
                return makeSource(SourceKind::keyPressure);
            case Kind::program:
                return makeSource(SourceKind::program);
            case Kind::rpn:
                return makeSource(SourceKind::rpn);
            case Kind::nrpn:
                return makeSource(SourceKind::nrpn);
            case Kind::note:
                return makeSource(SourceKind::key);
            case Kind::control:
                break;
        }
        return control(heard);
    };
    Source source = plain();
    if (heard.key.kind == Kind::note) {
        source.number = heard.value;
    } else if (heard.key.kind == Kind::program) {
        source.number = anyNumber;
    } else if (row(source.kind).numbered) {
        source.number = heard.key.number;
    }
    return source;
}

Message messageOf(const Source& source, std::span<const MessageRow> kinds) {
    for (const MessageRow& kind : kinds) {
        Message message;
        message.kind = kind.kind;
        if (kind.numbered) message.number = source.number;
        message.values = startOf(kind.fields);
        if (source.kind == SourceKind::relative && message.values.size() == source.values.size())
            message.values = source.values;
        if (source.kind == SourceKind::osc) message.address = textOf(source, 0);
        if (kind.heard == nullptr) continue;
        const Source heard = kind.heard(message);
        if (heard.kind == source.kind && heard.number == source.number) return message;
    }
    Message message;
    message.number = std::max(source.number, 0);
    return message;
}

}  // namespace mellow
