// Each edit is a few lines on plain structs. What repeats is keeping references whole: when something is
// removed, branches that lead to it go, those of shared chains included; when something is copied, the copy
// gets an id of its own and stands behind the original.
#include "core/model/edit.h"

#include <algorithm>
#include <cctype>
#include <functional>
#include <set>
#include <utility>

#include "core/midi/message.h"
#include "core/model/edit_hands.h"
#include "core/model/fresh_name.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow {

namespace {

Parameter controlParameter(std::string id, std::string name, int number) {
    Parameter parameter;
    parameter.id = std::move(id);
    parameter.name = std::move(name);
    parameter.message.number = number;
    return parameter;
}

Parameter kindParameter(std::string id, std::string name, MessageKind kind) {
    Parameter parameter;
    parameter.id = std::move(id);
    parameter.name = std::move(name);
    parameter.message.kind = kind;
    return parameter;
}

bool listensTo(const Instrument& instrument, int control) {
    return std::any_of(instrument.chains.begin(), instrument.chains.end(), [control](const Chain& chain) {
        return chain.source.kind == SourceKind::cc && chain.source.number == control;
    });
}

}  // namespace

int freeChannel(const Ensemble& ensemble, const std::string& port) {
    std::set<int> taken;
    for (const Instrument& instrument : ensemble.instruments) {
        if (instrument.output.port == port) taken.insert(instrument.output.channel);
    }
    for (int channel = 1; channel <= 16; ++channel) {
        // Channel 10 is the practice rack's drums.
        if (channel != 10 && !taken.contains(channel)) return channel;
    }
    return 1;
}

std::string idFrom(std::string_view name) {
    std::string id;
    for (const char c : name) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte < 0x80 && std::isalnum(byte) != 0) {
            id += static_cast<char>(std::tolower(byte));
        } else if (!id.empty() && id.back() != '-') {
            id += '-';
        }
    }
    while (!id.empty() && id.back() == '-') id.pop_back();
    return id.empty() ? "item" : id;
}

namespace {

/// A name that nothing of a list has: the wanted one, or with the next number behind it: "Player", "Player
/// 2".
template<class List>
std::string countedName(const List& list, std::string wanted) {
    const std::size_t digits = wanted.find_last_not_of("0123456789");
    if (digits != std::string::npos && digits > 0 && digits + 1 < wanted.size() && wanted[digits] == ' ')
        wanted.resize(digits);
    const auto taken = [&list](const std::string& name) {
        return std::any_of(list.begin(), list.end(),
                           [&name](const auto& each) { return nameOf(each) == name; });
    };
    return freshName(wanted, taken);
}

}  // namespace

Instrument newInstrument(const Ensemble& ensemble) {
    Instrument instrument;
    instrument.id = newId(ensemble.instruments, "instrument");
    instrument.name = countedName(ensemble.instruments, "New instrument");
    instrument.output.port = "practice-rack";
    instrument.output.channel = freeChannel(ensemble, instrument.output.port);
    instrument.parameters = {controlParameter("expression", "Expression", 11),
                             controlParameter("volume", "Volume", 7),
                             controlParameter("modulation", "Modulation", 1),
                             controlParameter("place", "Pan", 10),
                             kindParameter("bend", "Pitch bend", MessageKind::bend),
                             kindParameter("pressure", "Channel pressure", MessageKind::pressure)};
    Parameter tone = controlParameter("tone", "Tone", 74);
    tone.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
    instrument.parameters.insert(instrument.parameters.begin() + 1, tone);
    return instrument;
}

namespace {

bool leadsTo(const Chain& chain, const Parameter& parameter) {
    return std::any_of(chain.branches.begin(), chain.branches.end(),
                       [&parameter](const Branch& branch) { return branch.target == parameter.id; });
}

}  // namespace

const Parameter* nextParameter(const Instrument& instrument) {
    for (const Parameter& parameter : instrument.parameters) {
        const auto leads = [&parameter](const Chain& chain) { return leadsTo(chain, parameter); };
        if (std::none_of(instrument.chains.begin(), instrument.chains.end(), leads)) return &parameter;
    }
    return nullptr;
}

Chain newChain(const Instrument& instrument) {
    Chain chain;
    for (const int control : {1, 2, 11, 4, 64, 67}) {
        chain.source.number = control;
        if (!listensTo(instrument, control)) break;
    }
    chain.name = midi::controlName(chain.source.number);
    chain.id = newId(instrument.chains, chain.name);
    if (const Parameter* parameter = nextParameter(instrument))
        chain.branches.push_back(wholeBranch(*parameter));
    return chain;
}

Branch wholeBranch(const Parameter& parameter) {
    const Range range = rangeOf(parameter);
    Branch branch;
    branch.target = parameter.id;
    if (range.law == Law::decibel) {
        branch.low = std::string("-inf");
        branch.high = range.high;
    } else if (range.law == Law::choices) {
        branch.low = range.choices.empty() ? std::string() : range.choices.front();
        branch.high = range.choices.empty() ? std::string() : range.choices.back();
    } else {
        branch.low = range.low;
        branch.high = range.high;
    }
    return branch;
}

Branch newBranch(const Instrument& instrument, const Chain& chain) {
    for (const Parameter& parameter : instrument.parameters) {
        if (!leadsTo(chain, parameter)) return wholeBranch(parameter);
    }
    return instrument.parameters.empty() ? Branch{} : wholeBranch(instrument.parameters.front());
}

std::string FreshIds::make(std::string_view name) {
    const std::string base = idFrom(name);
    if (taken_.insert(base).second) return base;
    for (int& number = next_.try_emplace(base, 2).first->second;; ++number) {
        std::string id = base + "-" + std::to_string(number);
        if (taken_.insert(id).second) return id;
    }
}

std::vector<std::string> changeLaw(Parameter& parameter, Law law) {
    std::vector<std::string> lost;
    Display& display = parameter.display;
    const Range before = rangeOf(parameter);
    display.law = law;
    if (law == Law::log && rangeOf(parameter).low <= 0) {
        display.low = 1;
        lost.push_back("A log range begins above 0: it begins at " + levelText(rangeOf(parameter), 1.0) +
                       " now, not at " + levelText(before, before.low) + ".");
    }
    if (law == Law::log && rangeOf(parameter).high <= *display.low) {
        display.high.reset();
        lost.push_back("A log range ends above its beginning: it ends at " +
                       levelText(rangeOf(parameter), rangeOf(parameter).high) + " now, not at " +
                       levelText(before, before.high) + ".");
    }
    if (law == Law::decibel) {
        constexpr double highestTop = 60;
        const bool otherUnit = !display.unit.empty() && display.unit != "dB";
        if (display.low)
            lost.push_back("Decibels reach down to silence, so " + levelText(before, *display.low) +
                           " is not their low end.");
        if (display.high && (otherUnit || *display.high > highestTop)) {
            lost.push_back(levelText(before, *display.high) + " is no top of decibels: they end at 0 dB.");
            display.high.reset();
        }
        if (otherUnit) display.unit.clear();
    }
    if (law == Law::choices && (display.low || display.high))
        lost.emplace_back("Choices have no range; write their names, lowest first.");
    if (parameter.rest && !rawPosition(rangeOf(parameter), *parameter.rest)) {
        lost.push_back("It rested at " + levelText(before, *parameter.rest) +
                       ", which the law does not know: it rests at the usual place now.");
        parameter.rest.reset();
    }
    return lost;
}

Parameter newParameter(const Instrument& instrument) {
    Parameter parameter = controlParameter(newId(instrument.parameters, "parameter"), "New parameter", 20);
    const auto used = [&](int number) {
        return std::any_of(instrument.parameters.begin(), instrument.parameters.end(),
                           [number](const Parameter& other) {
                               return other.message.kind == MessageKind::cc && other.message.number == number;
                           });
    };
    while (used(parameter.message.number) && parameter.message.number < 119) ++parameter.message.number;
    return parameter;
}

std::string duplicateInstrument(Ensemble& ensemble, std::string_view id) {
    const std::size_t place = placeOf(ensemble.instruments, id);
    if (place == ensemble.instruments.size()) return {};
    Instrument copy = std::as_const(ensemble.instruments)[place];
    copy.name = countedName(ensemble.instruments, nameOf(copy));
    copy.id = newId(ensemble.instruments, copy.name);
    copy.output.channel = freeChannel(ensemble, copy.output.port);
    ensemble.instruments.insert(ensemble.instruments.begin() + static_cast<std::ptrdiff_t>(place) + 1, copy);
    return copy.id;
}

std::string duplicateChain(std::vector<Chain>& chains, std::string_view id) {
    const Chain* original = findById(chains, id);
    if (original == nullptr) return {};
    Chain copy = *original;
    copy.name = countedName(chains, nameOf(copy));
    copy.id = newId(chains, copy.name);
    const auto place = original - chains.data();
    chains.insert(chains.begin() + place + 1, copy);
    return copy.id;
}

namespace {

template<class Leads>
void removeBranches(std::vector<Chain>& chains, Leads&& leads) {
    for (Chain& chain : chains)
        std::erase_if(chain.branches, [&](const Branch& branch) { return leads(branch.target); });
}

}  // namespace

void removeParameter(Ensemble& ensemble, Instrument& instrument, std::string_view id) {
    removeBranches(instrument.chains, [id](const std::string& target) { return target == id; });
    const std::string fromAfar = instrument.id + "/" + std::string(id);
    removeBranches(ensemble.sharedChains, [&](const std::string& target) { return target == fromAfar; });
    std::erase_if(instrument.parameters, [id](const Parameter& parameter) { return parameter.id == id; });
}

void removeInstrument(Ensemble& ensemble, std::string_view id) {
    const std::string gone(id);
    removeBranches(ensemble.sharedChains, [&](const std::string& target) {
        const Target led = targetOf(ensemble, nullptr, target);
        return led.instrument != nullptr && led.instrument->id == gone;
    });
    erase_if(ensemble.instruments, [&](const Instrument& instrument) { return instrument.id == gone; });
    erase_if(ensemble.measurements, [&](const KeptCurve& curve) { return curve.instrument == gone; });
    forgetForHand(ensemble, gone);
}

void removeTieLine(Ensemble& ensemble, std::string_view id) {
    const std::string target = std::string(tieLineTarget) + std::string(id);
    const auto leads = [&](const std::string& to) { return to == target; };
    removeBranches(ensemble.sharedChains, leads);
    for (Instrument& instrument : ensemble.instruments) removeBranches(instrument.chains, leads);
    std::erase_if(ensemble.tieLines, [id](const TieLine& line) { return line.id == id; });
}

std::vector<std::string> targetsFor(const Ensemble& ensemble, const Instrument* instrument) {
    std::vector<std::string> targets;
    for (const Instrument& each : ensemble.instruments) {
        if (instrument != nullptr && &each != instrument) continue;
        for (const Parameter& parameter : each.parameters)
            targets.push_back((instrument == nullptr ? each.id + "/" : "") + parameter.id);
    }
    for (const TieLine& line : ensemble.tieLines) targets.push_back(std::string(tieLineTarget) + line.id);
    if (instrument == nullptr && !ensemble.handOrder.empty()) targets.emplace_back(handTarget);
    return targets;
}

std::optional<Branch> wholeBranch(const Ensemble& ensemble, const Instrument* instrument,
                                  const std::string& target) {
    const Target led = targetOf(ensemble, instrument, target);
    if (!led.exists()) return std::nullopt;
    Branch branch = led.parameter != nullptr ? wholeBranch(*led.parameter) : Branch{};
    if (led.tieLine != nullptr) branch.high = 1.0;
    if (led.hand != nullptr && !ensemble.handOrder.empty()) {
        branch.low = ensemble.handOrder.front();
        branch.high = ensemble.handOrder.back();
    }
    branch.target = target;
    return branch;
}

Branch newSharedBranch(const Ensemble& ensemble, const Chain& chain) {
    for (const std::string& target : targetsFor(ensemble, nullptr)) {
        const auto leads = [&](const Branch& branch) { return branch.target == target; };
        if (std::none_of(chain.branches.begin(), chain.branches.end(), leads))
            return *wholeBranch(ensemble, nullptr, target);
    }
    return {};
}

Chain newSharedChain(const Ensemble& ensemble) {
    Chain chain;
    chain.name = "New shared chain";
    chain.id = newId(ensemble.sharedChains, chain.name);
    chain.source.number = 1;
    if (!ensemble.tieLines.empty()) {
        chain.branches.push_back(
            *wholeBranch(ensemble, nullptr, std::string(tieLineTarget) + ensemble.tieLines.front().id));
    } else if (!targetsFor(ensemble, nullptr).empty()) {
        chain.branches.push_back(newSharedBranch(ensemble, chain));
    }
    return chain;
}

TieLine newTieLine(const Ensemble& ensemble) {
    TieLine line;
    line.name = "New tie line";
    line.id = newId(ensemble.tieLines, line.name);
    return line;
}

Source ccSource(const Ensemble& ensemble, const Chain& chain) {
    std::set<int> used;
    forEachSource(chain, [&](const Source& source) {
        const Source heard = resolved(ensemble, source);
        if (heard.kind == SourceKind::cc) used.insert(heard.number);
    });
    Source source = makeSource(SourceKind::cc);
    for (const int number : {2, 11, 1, 4, 16, 17, 18, 19}) {
        source.number = number;
        if (!used.contains(number)) break;
    }
    return source;
}

void giveReferences(const Ensemble& ensemble, Source& source) {
    if (source.kind == SourceKind::tieLine && findById(ensemble.tieLines, source.tieLine) == nullptr &&
        !ensemble.tieLines.empty())
        source.tieLine = ensemble.tieLines.front().id;
    if (source.kind == SourceKind::desk) {
        const DeskElement* element = Directory(ensemble).deskElement(elementOf(source));
        if (element != nullptr && isSource(*element)) return;
        forEachElement(ensemble.desk, [&](const DeskElement& each) {
            if (!isSource(each) || (element != nullptr && isSource(*element))) return;
            element = &each;
            source.values[0] = each.id;
        });
    }
    if (source.kind != SourceKind::control) return;
    const auto hasControls = [](const Controller& controller) { return !controller.controls.empty(); };
    const Controller* controller = findById(ensemble.controllers, source.controller);
    if (controller == nullptr || !hasControls(*controller)) {
        const auto found =
            std::find_if(ensemble.controllers.begin(), ensemble.controllers.end(), hasControls);
        if (found == ensemble.controllers.end()) return;
        controller = &*found;
    }
    source.controller = controller->id;
    if (findById(controller->controls, source.control) == nullptr)
        source.control = controller->controls.front().id;
}

namespace {

/// Gives the thing at a place a new id. The old one, or nothing where an earlier thing has that too or the
/// place is none.
template<class List>
std::optional<std::string> renew(List& list, std::size_t place) {
    const List& read = list;
    if (place >= read.size()) return std::nullopt;
    const std::string old = read[place].id;
    const bool isFirst = placeOf(read, old) == place;
    const std::string id = newId(read, nameOf(read[place]));
    list[place].id = id;
    return isFirst ? std::optional(old) : std::nullopt;
}

template<class Visit>
void forEachSourceOf(Ensemble& ensemble, Visit&& visit) {
    forEachChain(ensemble, [&visit](Chain& chain, const Instrument*) { forEachWritten(chain, visit); });
}

}  // namespace

void renewInstrument(Ensemble& ensemble, std::size_t place) {
    const auto old = renew(ensemble.instruments, place);
    if (!old) return;
    const std::string id = std::as_const(ensemble.instruments)[place].id;
    for (Chain& chain : ensemble.sharedChains) {
        for (Branch& branch : chain.branches) {
            if (branch.target.starts_with(*old + "/")) branch.target.replace(0, old->size(), id);
        }
    }
    for (std::size_t i = 0; i < ensemble.measurements.size(); ++i) {
        if (std::as_const(ensemble.measurements)[i].instrument == *old)
            ensemble.measurements[i].instrument = id;
    }
    renameForHand(ensemble, *old, id);
}

void renewParameter(Ensemble& ensemble, std::size_t instrument, std::size_t place) {
    if (instrument >= ensemble.instruments.size()) return;
    Instrument& owner = ensemble.instruments[instrument];
    const auto old = renew(owner.parameters, place);
    if (!old) return;
    const std::string& id = owner.parameters[place].id;
    const auto follow = [](std::vector<Chain>& chains, const std::string& before, const std::string& now) {
        for (Chain& chain : chains) {
            for (Branch& branch : chain.branches) {
                if (branch.target == before) branch.target = now;
            }
        }
    };
    follow(owner.chains, *old, id);
    follow(ensemble.sharedChains, owner.id + "/" + *old, owner.id + "/" + id);
}

void renewTieLine(Ensemble& ensemble, std::size_t place) {
    const auto old = renew(ensemble.tieLines, place);
    if (!old) return;
    const std::string& id = ensemble.tieLines[place].id;
    const std::string before = std::string(tieLineTarget) + *old;
    forEachChain(ensemble, [&](Chain& chain, const Instrument*) {
        for (Branch& branch : chain.branches) {
            if (branch.target == before) branch.target = std::string(tieLineTarget) + id;
        }
        forEachWritten(chain, [&](Source& source) {
            if (source.kind == SourceKind::tieLine && source.tieLine == *old) source.tieLine = id;
        });
    });
}

void renewController(Ensemble& ensemble, std::size_t place) {
    const auto old = renew(ensemble.controllers, place);
    if (!old) return;
    const std::string& id = ensemble.controllers[place].id;
    forEachSourceOf(ensemble, [&](Source& source) {
        if (source.controller == *old) source.controller = id;
    });
}

void renewControl(Ensemble& ensemble, std::size_t controller, std::size_t place) {
    if (controller >= ensemble.controllers.size()) return;
    Controller& owner = ensemble.controllers[controller];
    const auto old = renew(owner.controls, place);
    if (!old) return;
    const std::string& id = owner.controls[place].id;
    forEachSourceOf(ensemble, [&](Source& source) {
        if (source.controller == owner.id && source.control == *old) source.control = id;
    });
}

}  // namespace mellow
