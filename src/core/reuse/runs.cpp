#include "core/reuse/runs.h"

#include <algorithm>
#include <optional>
#include <utility>

#include "core/model/edit.h"

namespace mellow::reuse {

namespace {

constexpr int mostRows = 128;

/// The control that is so many behind the first.
std::optional<Source> controlBehind(const Ensemble& ensemble, const RunWish& wish, int place) {
    Source source = wish.first;
    if (source.kind == SourceKind::control) {
        const Controller* controller = findById(ensemble.controllers, source.controller);
        if (controller == nullptr) return std::nullopt;
        const std::size_t at =
            placeOf(controller->controls, source.control) + static_cast<std::size_t>(place);
        if (at >= controller->controls.size()) return std::nullopt;
        source.control = controller->controls[at].id;
        return source;
    }
    if (place == 0) return source;
    if (!row(source.kind).numbered) return std::nullopt;
    const int banks = wish.bank > 0 ? place / wish.bank : 0;
    const int inBank = wish.bank > 0 ? place % wish.bank : place;
    source.number += banks * (wish.nextBank - wish.first.number) + inBank;
    if (source.number < 0 || source.number > row(source.kind).highestNumber) return std::nullopt;
    return source;
}

}  // namespace

std::vector<RunRow> run(const Ensemble& ensemble, const Instrument& instrument, const RunWish& wish) {
    std::vector<RunRow> rows;
    const std::size_t first = placeOf(instrument.parameters, wish.firstParameter);
    for (int i = 0; i < std::clamp(wish.count, 0, mostRows); ++i) {
        const std::size_t at = first + static_cast<std::size_t>(i);
        const auto source = controlBehind(ensemble, wish, i);
        if (!source || at >= instrument.parameters.size()) break;
        rows.push_back({*source, instrument.parameters[at].id, false});
    }
    return rows;
}

std::vector<std::string> makeRun(Ensemble& ensemble, const std::string& instrument,
                                 const std::vector<RunRow>& rows) {
    std::vector<std::string> ids;
    Instrument* owner = findById(ensemble.instruments, instrument);
    if (owner == nullptr) return ids;
    for (const RunRow& each : rows) {
        const Parameter* parameter = findById(owner->parameters, each.parameter);
        if (parameter == nullptr) continue;
        Chain chain;
        chain.source = each.source;
        chain.name = nameOf(*parameter);
        chain.id = newId(owner->chains, chain.name);
        chain.branches.push_back(wholeBranch(*parameter));
        if (each.falls) std::swap(chain.branches.front().low, chain.branches.front().high);
        ids.push_back(chain.id);
        owner->chains.push_back(std::move(chain));
    }
    return ids;
}

std::string makeTwoKnobs(Ensemble& ensemble, const std::string& instrument, const Source& chooses,
                         const Source& sets, const std::vector<std::string>& parameters) {
    Instrument* owner = findById(ensemble.instruments, instrument);
    if (owner == nullptr) return {};
    Chain chain;
    chain.source = sets;
    chain.fan.mode = FanMode::chosen;
    chain.fan.by = chooses;
    // What is chosen is not to jump to where the knob stood for another.
    chain.handover = Handover::meet;
    for (const std::string& id : parameters) {
        if (const Parameter* parameter = findById(owner->parameters, id))
            chain.branches.push_back(wholeBranch(*parameter));
    }
    if (chain.branches.empty()) return {};
    chain.name = "Two knobs";
    chain.id = newId(owner->chains, chain.name);
    owner->chains.push_back(chain);
    return chain.id;
}

}  // namespace mellow::reuse
