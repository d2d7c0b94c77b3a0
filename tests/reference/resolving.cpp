// Lists are walked for each question. What can run is one condition after another, and what cannot leaves its
// chain out. The order of turns is found by asking, after each, which of those that wait have nobody before
// them any more.
#include "reference/resolving.h"

#include <algorithm>
#include <set>

#include "reference/arithmetic.h"
#include "reference/steps.h"

namespace mellow::reference {

namespace {

template<class List>
const typename List::value_type* withId(const List& list, std::string_view id) {
    for (const auto& each : list) {
        if (each.id == id) return &each;
    }
    return nullptr;
}

constexpr std::string_view tieLinePrefix = "tieLine:";

std::set<std::string> linesRead(const Chain& chain) {
    std::set<std::string> lines;
    forEachEar(chain, [&](const Ear&, const Source& source) {
        if (source.kind == SourceKind::tieLine) lines.insert(source.tieLine);
    });
    return lines;
}

std::set<std::string> linesWritten(const Chain& chain) {
    std::set<std::string> lines;
    for (const Branch& branch : chain.branches) {
        if (branch.on && branch.target.starts_with(tieLinePrefix))
            lines.insert(branch.target.substr(tieLinePrefix.size()));
    }
    return lines;
}

bool meet(const std::set<std::string>& a, const std::set<std::string>& b) {
    return std::any_of(a.begin(), a.end(), [&](const std::string& each) { return b.contains(each); });
}

bool isWithin(int value, int low, int high) {
    return value >= low && value <= high;
}

bool sourceIsSound(const Source& source) {
    const bool fourteen = source.kind == SourceKind::rpn || source.kind == SourceKind::nrpn;
    const bool anyProgram = source.kind == SourceKind::program && source.number == -1;
    const int highest = source.kind == SourceKind::cc14 ? 31 : fourteen ? 16383 : 127;
    if (row(source.kind).numbered && !anyProgram && !isWithin(source.number, 0, highest)) return false;
    if (source.channel && !isWithin(*source.channel, 1, 16)) return false;
    const auto within = [&](const char* key, double high) {
        return number(source, key) >= 0 && number(source, key) <= high;
    };
    const auto isSeed = [&] {
        return within("seed", 1e9) && number(source, "seed") == static_cast<int>(number(source, "seed"));
    };
    if (source.kind == SourceKind::lfo)
        return within("hz", 1000) && within("beats", 1024) && within("phase", 1) && isSeed();
    if (source.kind == SourceKind::envelope)
        return within("attack", 60000) && within("hold", 60000) && within("decay", 60000) &&
               within("release", 60000) && within("sustain", 1);
    if (source.kind == SourceKind::walk)
        return within("stepsPerSecond", 1000) && within("size", 1) && isSeed();
    if (source.kind == SourceKind::zoneNote) return number(source, "range") >= 0.01 && within("range", 96);
    if (source.kind == SourceKind::osc) return std::get<std::string>(source.values[0]).starts_with("/");
    return true;
}

bool isKnown(const Ensemble& ensemble, const Source& source) {
    const Controller* controller = withId(ensemble.controllers, source.controller);
    if (!source.controller.empty() && controller == nullptr) return false;
    if (source.kind == SourceKind::control)
        return controller != nullptr && withId(controller->controls, source.control) != nullptr;
    if (source.kind == SourceKind::desk) {
        const DeskElement* element = elementWith(ensemble, std::get<std::string>(source.values[0]));
        return element != nullptr && element->kind != ElementKind::articulations &&
               element->kind != ElementKind::keys;
    }
    return source.kind != SourceKind::tieLine || withId(ensemble.tieLines, source.tieLine) != nullptr;
}

bool branchIsSound(const Branch& branch, const End& end) {
    if (end.tieLine != nullptr)
        return std::holds_alternative<double>(branch.low) && std::holds_alternative<double>(branch.high);
    if (end.hand != nullptr)
        return entryPosition(*end.hand, branch.low) && entryPosition(*end.hand, branch.high);
    const Parameter& parameter = *end.parameter;
    const Message& message = parameter.message;
    const bool fourteen = message.kind == MessageKind::rpn || message.kind == MessageKind::nrpn;
    const int highest = message.kind == MessageKind::cc14 ? 31 : fourteen ? 16383 : 127;
    if (row(message.kind).numbered && !isWithin(message.number, 0, highest)) return false;
    if (message.bank && (!isWithin((*message.bank)[0], 0, 127) || !isWithin((*message.bank)[1], 0, 127)))
        return false;
    if (message.kind == MessageKind::note && !isWithin(message.velocity, 1, 127)) return false;
    if (message.kind == MessageKind::osc && !message.address.starts_with("/")) return false;
    return isSound(parameter) && (!parameter.rest || rawPosition(parameter, *parameter.rest)) &&
           rawPosition(parameter, branch.low) && rawPosition(parameter, branch.high);
}

/// A chain that can run as far as can be told without the others. Its branches have been looked at.
bool chainIsSound(const Ensemble& ensemble, const Chain& chain) {
    bool sound = chain.on && (chain.fan.mode == FanMode::all || !chain.branches.empty());
    forEachEar(chain, [&](const Ear&, const Source& source) {
        sound = sound && isKnown(ensemble, source) && sourceIsSound(source);
    });
    const auto all = [](const std::vector<Step>& steps) {
        return std::all_of(steps.begin(), steps.end(), [](const Step& step) { return isSound(step); });
    };
    sound = sound && all(chain.steps);
    return sound;
}

/// The chains that are on of instruments that are on: those that go in a circle come back to themselves.
bool goesInACircle(const std::vector<const Chain*>& on, const Chain& chain) {
    std::vector<const Chain*> reached{&chain};
    for (std::size_t i = 0; i < reached.size(); ++i) {
        for (const Chain* next : on) {
            if (!meet(linesWritten(*reached[i]), linesRead(*next))) continue;
            if (next == &chain) return true;
            if (std::find(reached.begin(), reached.end(), next) == reached.end()) reached.push_back(next);
        }
    }
    return false;
}

/// Puts chains that read what later ones write behind those, and lets instruments wait for their chains.
std::vector<Turn> inOrder(const std::vector<Turn>& document) {
    std::vector<Turn> order;
    std::vector<Turn> waiting;
    const auto writesFor = [](const Turn& reader) {
        return [lines = linesRead(*reader.chain)](const Turn& turn) {
            return turn.chain != nullptr && meet(linesWritten(*turn.chain), lines);
        };
    };
    for (std::size_t i = 0; i < document.size(); ++i) {
        waiting.push_back(document[i]);
        for (bool goesOn = true; goesOn;) {
            goesOn = false;
            const auto isStillToCome = [&](auto&& is) {
                return std::any_of(waiting.begin(), waiting.end(), is) ||
                       std::any_of(document.begin() + static_cast<std::ptrdiff_t>(i) + 1, document.end(), is);
            };
            const auto chainIsReady = [&](const Turn& turn) {
                return turn.chain != nullptr && !isStillToCome(writesFor(turn));
            };
            const auto passes = [&](const Turn& turn) {
                const auto isOfIt = [&](const Turn& other) {
                    return other.chain != nullptr && other.instrument == turn.instrument;
                };
                return turn.chain == nullptr && std::none_of(waiting.begin(), waiting.end(), isOfIt);
            };
            auto next = std::find_if(waiting.begin(), waiting.end(), chainIsReady);
            if (next == waiting.end()) next = std::find_if(waiting.begin(), waiting.end(), passes);
            if (next == waiting.end()) break;
            order.push_back(*next);
            waiting.erase(next);
            goesOn = true;
        }
    }
    return order;
}

}  // namespace

End endOf(const Ensemble& ensemble, const Instrument* owner, const std::string& target) {
    if (target.starts_with(tieLinePrefix))
        return {nullptr, nullptr, withId(ensemble.tieLines, target.substr(tieLinePrefix.size()))};
    if (owner != nullptr) return {owner, withId(owner->parameters, target), nullptr};
    if (target == "hand") return {nullptr, nullptr, nullptr, &ensemble.handOrder};
    for (std::size_t slash = 0; slash < target.size(); ++slash) {
        if (target[slash] != '/') continue;
        const Instrument* instrument = withId(ensemble.instruments, target.substr(0, slash));
        const Parameter* parameter =
            instrument == nullptr ? nullptr : withId(instrument->parameters, target.substr(slash + 1));
        if (parameter != nullptr) return {instrument, parameter, nullptr};
    }
    return {};
}

Source heard(const Ensemble& ensemble, const Source& source) {
    if (source.kind != SourceKind::control) return source;
    const Controller* controller = withId(ensemble.controllers, source.controller);
    const ControllerControl* control =
        controller == nullptr ? nullptr : withId(controller->controls, source.control);
    if (control == nullptr) return source;
    static const std::map<MessageKind, SourceKind> kinds{{MessageKind::cc, SourceKind::cc},
                                                         {MessageKind::cc14, SourceKind::cc14},
                                                         {MessageKind::bend, SourceKind::bend},
                                                         {MessageKind::pressure, SourceKind::pressure},
                                                         {MessageKind::keyPressure, SourceKind::keyPressure},
                                                         {MessageKind::velocity, SourceKind::velocity},
                                                         {MessageKind::note, SourceKind::key},
                                                         {MessageKind::program, SourceKind::program},
                                                         {MessageKind::rpn, SourceKind::rpn},
                                                         {MessageKind::nrpn, SourceKind::nrpn},
                                                         {MessageKind::osc, SourceKind::osc},
                                                         {MessageKind::relative, SourceKind::relative}};
    const Message& message = control->message;
    Source made = source;
    made.kind = kinds.at(message.kind);
    made.number = message.kind == MessageKind::program ? -1 : message.number;
    made.control.clear();
    made.values.clear();
    if (message.kind == MessageKind::osc) made.values.emplace_back(message.address);
    if (message.kind == MessageKind::relative) made.values = message.values;
    if (!source.rest) made.rest = control->rest;
    return made;
}

std::optional<std::string> portOf(const Ensemble& ensemble, const Source& source) {
    const Controller* controller = withId(ensemble.controllers, source.controller);
    if (controller == nullptr || controller->port == "any") return std::nullopt;
    return controller->port;
}

double restOf(const Ensemble& ensemble, const Source& source) {
    if (source.kind == SourceKind::tieLine) {
        const TieLine* line = withId(ensemble.tieLines, source.tieLine);
        return line == nullptr ? 0 : clamped(line->rest);
    }
    if (source.kind == SourceKind::desk) {
        const DeskElement* element = elementWith(ensemble, std::get<std::string>(source.values[0]));
        const bool touch =
            element != nullptr && element->kind == ElementKind::pad && std::get<int>(source.values[1]) == 2;
        return element == nullptr || touch ? 0 : clamped(element->rest);
    }
    return rawsOf(source).centred ? 0.5 : 0;
}

Handover handoverOf(const Ensemble& ensemble, const Chain& chain) {
    if (chain.handover) return *chain.handover;
    const Controller* controller = withId(ensemble.controllers, chain.source.controller);
    if (controller != nullptr && controller->handover) return *controller->handover;
    return Handover::jump;
}

bool isGenerator(const Source& source) {
    return source.kind == SourceKind::lfo || source.kind == SourceKind::envelope ||
           source.kind == SourceKind::walk;
}

bool isOfControl(const Source& source) {
    switch (source.kind) {
        case SourceKind::velocity:
        case SourceKind::releaseVelocity:
        case SourceKind::key:
        case SourceKind::keyNumber:
        case SourceKind::zoneNote:
        case SourceKind::tieLine:
            return false;
        default:
            return !isGenerator(source);
    }
}

bool Running::has(const Chain& chain) const {
    return std::any_of(turns.begin(), turns.end(), [&](const Turn& turn) { return turn.chain == &chain; });
}

Running runningOf(const Ensemble& ensemble) {
    Running running;
    std::vector<const Instrument*> instruments;
    for (const Instrument& instrument : ensemble.instruments) {
        const bool channels = isWithin(instrument.output.channel, 1, 16) &&
                              (!instrument.input.channel || isWithin(*instrument.input.channel, 1, 16));
        const bool isFirst = !running.instruments.contains(instrument.id);
        running.instruments.try_emplace(instrument.id, instrument.on && channels);
        if (isFirst && instrument.on && channels) instruments.push_back(&instrument);
    }
    std::vector<const Chain*> on;
    const auto add = [&on](const std::vector<Chain>& chains) {
        for (const Chain& chain : chains) {
            if (chain.on) on.push_back(&chain);
        }
    };
    add(ensemble.sharedChains);
    for (const Instrument& instrument : ensemble.instruments) {
        if (instrument.on) add(instrument.chains);
    }
    std::vector<Turn> document;
    const auto place = [&](const Instrument* owner, const std::vector<Chain>& chains) {
        std::set<std::string> seen;
        for (const Chain& chain : chains) {
            const bool first = seen.insert(chain.id).second;
            if (first && chainIsSound(ensemble, chain) && !goesInACircle(on, chain))
                document.push_back({owner, &chain});
        }
    };
    place(nullptr, ensemble.sharedChains);
    for (const Instrument* instrument : instruments) {
        place(instrument, instrument->chains);
        document.push_back({instrument, nullptr});
    }
    running.turns = inOrder(document);
    return running;
}

std::optional<double> entryPosition(const std::vector<std::string>& order, const Level& level) {
    const auto* entry = std::get_if<std::string>(&level);
    for (std::size_t k = 0; entry != nullptr && k < order.size(); ++k) {
        if (order[k] != *entry) continue;
        return order.size() == 1 ? 0 : static_cast<double>(k) / static_cast<double>(order.size() - 1);
    }
    return std::nullopt;
}

Ensemble withArticulationChoices(Ensemble ensemble) {
    for (Instrument& instrument : ensemble.instruments) {
        for (Parameter& parameter : instrument.parameters) {
            if (parameter.message.kind != MessageKind::articulation) continue;
            parameter.display = {};
            parameter.display.law = Law::choices;
            for (const Articulation& articulation : instrument.articulations)
                parameter.display.choices.push_back(articulation.name.empty() ? articulation.id
                                                                              : articulation.name);
        }
    }
    return ensemble;
}

bool isSound(const Articulation& articulation) {
    for (const Select& select : articulation.select) {
        const bool data = isWithin(select.value, 0, 127);
        bool sound = true;
        if (select.kind == SelectKind::note)
            sound = isWithin(select.number, 0, 127) && isWithin(select.velocity, 1, 127);
        if (select.kind == SelectKind::cc) sound = isWithin(select.number, 0, 127) && data;
        if (select.kind == SelectKind::channel) sound = isWithin(select.value, 1, 16);
        if (select.kind == SelectKind::program)
            sound = data && (!select.bank ||
                             (isWithin((*select.bank)[0], 0, 127) && isWithin((*select.bank)[1], 0, 127)));
        if (!sound) return false;
    }
    return true;
}

const DeskElement* elementWith(const Ensemble& ensemble, const std::string& id) {
    for (const DeskPage& page : ensemble.desk.pages) {
        for (const DeskElement& element : page.elements) {
            if (element.id == id) return &element;
        }
    }
    return nullptr;
}

bool handCanMove(const Ensemble& ensemble) {
    if (!ensemble.sections.empty() || !ensemble.handOrder.empty()) return true;
    for (const Instrument& instrument : ensemble.instruments) {
        if (!ensemble.inHand) break;
        const auto& ids = *ensemble.inHand;
        if (std::find(ids.begin(), ids.end(), instrument.id) != ids.end()) continue;
        for (const Chain& chain : instrument.chains) {
            if (chain.active == Active::inHand) return true;
        }
    }
    for (const Chain& chain : ensemble.sharedChains) {
        for (const Branch& branch : chain.branches) {
            if (chain.on && branch.on && branch.target == "hand") return true;
        }
    }
    return false;
}

Ensemble withoutFaultyBranches(Ensemble ensemble) {
    const Ensemble before = ensemble;
    const auto isFaulty = [&before](const Instrument* owner, const Branch& branch) {
        const End end = endOf(before, owner, branch.target);
        if (end.parameter == nullptr && end.tieLine == nullptr && end.hand == nullptr) return true;
        if (!branchIsSound(branch, end)) return true;
        return std::any_of(branch.steps.begin(), branch.steps.end(), [&before](const Step& step) {
            return !isSound(step) ||
                   (step.with && !(isKnown(before, *step.with) && sourceIsSound(*step.with)));
        });
    };
    const auto lookAt = [&isFaulty](const Instrument* owner, Chain& chain) {
        for (Branch& branch : chain.branches) {
            if (!isFaulty(owner, branch)) continue;
            branch.on = false;
            branch.steps.clear();
        }
    };
    for (Chain& chain : ensemble.sharedChains) lookAt(nullptr, chain);
    for (std::size_t i = 0; i < before.instruments.size(); ++i) {
        for (Chain& chain : ensemble.instruments[i].chains) lookAt(&before.instruments[i], chain);
    }
    return ensemble;
}

Ensemble withoutOffSteps(Ensemble ensemble) {
    const auto drop = [](Chain& chain) {
        const auto isOff = [](const Step& step) { return !step.on; };
        std::erase_if(chain.steps, isOff);
        for (Branch& branch : chain.branches)
            std::erase_if(branch.steps, [&](const Step& step) { return !branch.on || isOff(step); });
    };
    std::for_each(ensemble.sharedChains.begin(), ensemble.sharedChains.end(), drop);
    for (Instrument& instrument : ensemble.instruments)
        std::for_each(instrument.chains.begin(), instrument.chains.end(), drop);
    return ensemble;
}

}  // namespace mellow::reference
