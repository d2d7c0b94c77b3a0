#include "core/model/edit.h"

#include <algorithm>
#include <cctype>
#include <set>

#include "core/checks/check.h"
#include "core/midi/message.h"
#include "core/model/law.h"

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

bool listensTo(const Instrument& instrument, int control) {
    return std::any_of(instrument.chains.begin(), instrument.chains.end(), [control](const Chain& chain) {
        return chain.source.kind == SourceKind::cc && chain.source.number == control;
    });
}

}  // namespace

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

Instrument newInstrument(const Ensemble& ensemble) {
    Instrument instrument;
    instrument.id = newId(ensemble.instruments, "instrument");
    instrument.name = "New instrument";
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

Chain newChain(const Instrument& instrument) {
    Chain chain;
    for (const int control : {1, 2, 11, 4, 64, 67}) {
        chain.source.number = control;
        if (!listensTo(instrument, control)) break;
    }
    chain.name = midi::controlName(chain.source.number);
    chain.id = newId(instrument.chains, chain.name);
    if (!instrument.parameters.empty()) chain.branches.push_back(newBranch(instrument, chain));
    return chain;
}

Branch wholeBranch(const Parameter& parameter) {
    const Range range = rangeOf(parameter);
    Branch branch;
    branch.target = parameter.id;
    if (range.law == Law::decibel) {
        branch.low = std::string("-inf");
        branch.high = 0.0;
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
    const auto reached = [&chain](const Parameter& parameter) {
        return std::any_of(chain.branches.begin(), chain.branches.end(),
                           [&](const Branch& branch) { return branch.target == parameter.id; });
    };
    for (const Parameter& parameter : instrument.parameters) {
        if (row(parameter.message.kind).available && !reached(parameter)) return wholeBranch(parameter);
    }
    return instrument.parameters.empty() ? Branch{} : wholeBranch(instrument.parameters.front());
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
    const Instrument* original = findById(ensemble.instruments, id);
    if (original == nullptr) return {};
    Instrument copy = *original;
    copy.name = nameOf(copy) + " copy";
    copy.id = newId(ensemble.instruments, copy.name);
    copy.output.channel = freeChannel(ensemble, copy.output.port);
    const auto place = original - ensemble.instruments.data();
    ensemble.instruments.insert(ensemble.instruments.begin() + place + 1, copy);
    return copy.id;
}

std::string duplicateChain(Instrument& instrument, std::string_view id) {
    const Chain* original = findById(instrument.chains, id);
    if (original == nullptr) return {};
    Chain copy = *original;
    copy.name = nameOf(copy) + " copy";
    copy.id = newId(instrument.chains, copy.name);
    const auto place = original - instrument.chains.data();
    instrument.chains.insert(instrument.chains.begin() + place + 1, copy);
    return copy.id;
}

void removeParameter(Instrument& instrument, std::string_view id) {
    for (Chain& chain : instrument.chains) {
        std::erase_if(chain.branches, [id](const Branch& branch) { return branch.target == id; });
    }
    std::erase_if(instrument.parameters, [id](const Parameter& parameter) { return parameter.id == id; });
}

}  // namespace mellow
