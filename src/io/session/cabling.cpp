// Ports of all classes stay joined to the patchbay, whichever clock drives it.
#include "io/session/cabling.h"

#include <algorithm>

namespace mellow::io {

Cabling::Cabling(Player& player, const Options& options)
    : player_(player), patchbay_(player), jack_(options.server, options.name) {
    ports_ = {&rack_, &osc_};
    if (options.jack) ports_.push_back(&jackPorts_);
    if (options.alsa) ports_.push_back(&alsa_);
    for (Ports* ports : ports_) patchbay_.add(*ports);
}

void Cabling::onChange(const std::function<void()>& tell) {
    for (Ports* ports : ports_) ports->onChange(tell);
}

void Cabling::want(const PortNames& wishes) {
    wishes_ = wishes;
    wantAll();
}

void Cabling::wantAll() {
    PortNames names = wishes_;
    const bool open = std::any_of(names.inputs.begin(), names.inputs.end(), isOscPort);
    if ((learnsOsc_ || deskIsOpen_) && !open) names.inputs.emplace_back(usualOscPort);
    patchbay_.want(names);
}

void Cabling::learnOsc(bool on) {
    if (std::exchange(learnsOsc_, on) != on) wantAll();
}

void Cabling::openDesk(bool on) {
    if (std::exchange(deskIsOpen_, on) != on) wantAll();
}

std::vector<PortState> Cabling::present() const {
    std::vector<PortState> all;
    for (const Ports* ports : ports_) {
        for (PortState& state : ports->present()) all.push_back(std::move(state));
    }
    return all;
}

std::vector<Problem> Cabling::problems() const {
    std::vector<Problem> all;
    for (const Ports* ports : ports_) {
        for (Problem& problem : ports->problems()) all.push_back(std::move(problem));
    }
    return all;
}

std::vector<std::string> Cabling::status() const {
    std::vector<std::string> phrases;
    for (const Problem& problem : osc_.problems()) phrases.push_back(problem.sentence());
    for (const Ports* ports : std::initializer_list<const Ports*>{&alsa_, &rack_}) {
        if (std::string phrase = ports->status(); !phrase.empty()) phrases.push_back(std::move(phrase));
    }
    return phrases;
}

std::vector<Wire> Cabling::wires() const {
    std::vector<Wire> all = jackPorts_.wires();
    const std::vector<Wire> leads = alsa_.leads();
    all.insert(all.end(), leads.begin(), leads.end());
    return all;
}

void Cabling::rememberWires(const std::vector<Wire>& wires) {
    std::vector<Wire> byJack;
    for (const Wire& wire : wires) {
        if (wire.by == "JACK") {
            byJack.push_back(wire);
        } else {
            alsa_.lead(wire);
        }
    }
    jackPorts_.rememberWires(byJack);
}

std::optional<float> Cabling::wireLoad(std::string_view port) {
    const Pacer* pacer = patchbay_.pacer(player_.ports().of(port));
    if (pacer == nullptr || pacer->rate() <= 0) return std::nullopt;
    return pacer->load();
}

void Cabling::heed(const MachineTable& table) {
    setFilter(practiceKeysPort, table.filter(practiceKeysPort));
    for (const PortState& port : present()) {
        if (port.input) setFilter(port.name, table.filter(port.name));
        if (!port.input) setRate(port.name, table.rate(port.name));
    }
}

}  // namespace mellow::io
