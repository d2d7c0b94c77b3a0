// Following one reference is one lookup; what is here is what it then means. A control of a controller
// becomes the message that it sends, with the chain's own channel and rest before the control's; a shared
// chain's target is split at whichever slash makes it name something.
#include "core/model/resolve.h"

namespace mellow {

Source sourceOf(const Message& message) {
    const auto heard = row(message.kind).heard;
    return heard == nullptr ? makeSource(SourceKind::desk) : heard(message);
}

Source resolved(const Directory& directory, const Source& source) {
    if (source.kind != SourceKind::control) return source;
    const Controller* controller = directory.controller(source.controller);
    const ControllerControl* control =
        controller == nullptr ? nullptr : findById(controller->controls, source.control);
    if (control == nullptr) return source;
    Source made = sourceOf(control->message);
    made.channel = source.channel;
    made.controller = source.controller;
    made.rest = source.rest ? source.rest : control->rest;
    return made;
}

double restOf(const Directory& directory, const Source& source) {
    if (source.kind == SourceKind::tieLine) {
        const TieLine* line = directory.tieLine(source.tieLine);
        return line == nullptr ? 0 : clampPosition(line->rest);
    }
    if (source.kind == SourceKind::desk) {
        const DeskElement* element = directory.deskElement(elementOf(source));
        return element == nullptr ? 0 : clampPosition(restOf(*element, axisOf(source)));
    }
    return scaleOf(source) == Scale::centred ? 0.5 : 0;
}

const std::string* portOf(const Directory& directory, const Source& source) {
    const Controller* controller = directory.controller(source.controller);
    return controller == nullptr || controller->port == anyPort ? nullptr : &controller->port;
}

bool isHeardFrom(const Directory& directory, const Instrument* owner, const Source& source,
                 const std::string& port) {
    if (const std::string* wanted = portOf(directory, source)) return *wanted == port;
    return owner == nullptr || owner->input.port == anyPort || owner->input.port == port;
}

Handover handoverOf(const Directory& directory, const Chain& chain) {
    if (chain.handover) return *chain.handover;
    const Controller* controller = directory.controller(chain.source.controller);
    return controller != nullptr && controller->handover ? *controller->handover : Handover::jump;
}

Target targetOf(const Directory& directory, const Instrument* instrument, std::string_view target) {
    if (const auto line = tieLineOf(target)) return {nullptr, nullptr, directory.tieLine(*line)};
    if (instrument == nullptr) {
        if (target == handTarget) return {nullptr, nullptr, nullptr, &directory.ensemble()};
        // An id may hold a slash itself, so each place of one is tried.
        for (std::size_t at = target.find('/'); at != std::string_view::npos; at = target.find('/', at + 1)) {
            const Instrument* named = directory.instrument(target.substr(0, at));
            if (named == nullptr) continue;
            if (const auto* parameter = findById(named->parameters, target.substr(at + 1)))
                return {named, parameter, nullptr};
        }
        return {};
    }
    return {instrument, findById(instrument->parameters, target), nullptr};
}

Range rangeOf(const Target& target) {
    if (target.parameter != nullptr) return rangeOf(*target.parameter);
    Range range;
    range.high = 1;
    if (target.hand != nullptr) {
        range.law = Law::choices;
        range.choices = target.hand->handOrder;
        range.fewestChoices = 1;
    }
    return range;
}

std::string nameOf(const Target& target, bool withInstrument) {
    if (target.tieLine != nullptr) return nameOf(*target.tieLine);
    if (target.hand != nullptr) return "Hand";
    if (target.parameter == nullptr) return {};
    const std::string& name = nameOf(*target.parameter);
    return withInstrument ? nameOf(*target.instrument) + " " + name : name;
}

std::vector<const Instrument*> instrumentsOf(const Ensemble& ensemble, std::string_view entry) {
    std::vector<const Instrument*> found;
    const Instrument* alone = findById(ensemble.instruments, entry);
    if (alone != nullptr) return {alone};
    const Section* section = findById(ensemble.sections, entry);
    if (section == nullptr) return found;
    for (const Instrument& instrument : ensemble.instruments) {
        const auto& ids = section->instruments;
        if (std::find(ids.begin(), ids.end(), instrument.id) != ids.end()) found.push_back(&instrument);
    }
    return found;
}

std::string handName(const Ensemble& ensemble, const std::string& entry) {
    if (const Instrument* instrument = findById(ensemble.instruments, entry)) return nameOf(*instrument);
    const Section* section = findById(ensemble.sections, entry);
    return section != nullptr ? nameOf(*section) : entry;
}

std::vector<std::string> tieLinesWritten(const Chain& chain) {
    std::vector<std::string> ids;
    for (const Branch& branch : chain.branches) {
        const auto line = tieLineOf(branch.target);
        if (branch.on && line) ids.push_back(*line);
    }
    return ids;
}

std::vector<std::string> tieLinesRead(const Chain& chain) {
    std::vector<std::string> ids;
    forEachSource(chain, [&ids](const Source& source) {
        if (source.kind == SourceKind::tieLine) ids.push_back(source.tieLine);
    });
    return ids;
}

}  // namespace mellow
