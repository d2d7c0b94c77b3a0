// What articulations can be sent, who answers to a name, and the choices that follow their names.
#include "core/model/articulation.h"

#include <algorithm>

#include "core/midi/message.h"
#include "core/model/ensemble.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

/// A number of a message, and what it may be.
struct Limit {
    int Select::*member;
    const char* name;
    int low;
    int high;
};

std::vector<Limit> limitsOf(SelectKind kind) {
    switch (kind) {
        case SelectKind::note:
            return {{&Select::number, "key", 0, midi::max7}, {&Select::velocity, "velocity", 1, midi::max7}};
        case SelectKind::cc:
            return {{&Select::number, "number", 0, midi::max7}, {&Select::value, "value", 0, midi::max7}};
        case SelectKind::program:
            return {{&Select::value, "program", 0, midi::max7}};
        case SelectKind::channel:
            return {{&Select::value, "channel", 1, 16}};
    }
    return {};
}

std::vector<std::string> namesOf(const std::vector<Articulation>& articulations) {
    std::vector<std::string> names;
    names.reserve(articulations.size());
    for (const Articulation& each : articulations) names.push_back(nameOf(each));
    return names;
}

}  // namespace

std::string flawOf(const Select& select) {
    for (const Limit& limit : limitsOf(select.kind)) {
        const int value = select.*limit.member;
        if (value < limit.low || value > limit.high)
            return std::string(limit.name) + " " + std::to_string(value) + " is outside " +
                   std::to_string(limit.low) + " to " + std::to_string(limit.high);
    }
    const auto isData = [](int value) { return value >= 0 && value <= midi::max7; };
    if (select.kind == SelectKind::program && select.bank &&
        !std::all_of(select.bank->begin(), select.bank->end(), isData))
        return "its bank is outside 0 to 127";
    return {};
}

bool canBeSent(const Articulation& articulation) {
    return std::all_of(articulation.select.begin(), articulation.select.end(),
                       [](const Select& select) { return flawOf(select).empty(); });
}

void keepInside(Select& select) {
    for (const Limit& limit : limitsOf(select.kind))
        select.*limit.member = std::clamp(select.*limit.member, limit.low, limit.high);
    if (!select.bank) return;
    for (int& half : *select.bank) half = std::clamp(half, 0, midi::max7);
}

bool answers(const Articulation& articulation, std::string_view name) {
    const auto isIt = [name](const std::string& own) { return text::sameButForCase(own, name); };
    return isIt(nameOf(articulation)) ||
           std::any_of(articulation.answersTo.begin(), articulation.answersTo.end(), isIt);
}

bool areArticulationsNamed(const Instrument& instrument) {
    return std::all_of(instrument.parameters.begin(), instrument.parameters.end(),
                       [&](const Parameter& each) {
                           if (each.message.kind != MessageKind::articulation) return true;
                           const auto& choices = each.display.choices;
                           return each.display.law == Law::choices &&
                                  std::equal(choices.begin(), choices.end(), instrument.articulations.begin(),
                                             instrument.articulations.end(),
                                             [](const std::string& choice, const Articulation& articulation) {
                                                 return choice == nameOf(articulation);
                                             });
                       });
}

void nameArticulations(std::vector<Parameter>& parameters, const std::vector<Articulation>& articulations) {
    for (Parameter& parameter : parameters) {
        if (parameter.message.kind != MessageKind::articulation) continue;
        parameter.display.law = Law::choices;
        parameter.display.choices = namesOf(articulations);
    }
}

void nameArticulations(Instrument& instrument) {
    nameArticulations(instrument.parameters, instrument.articulations);
}

}  // namespace mellow
