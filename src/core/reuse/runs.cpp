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
        const auto& controls = controller->controls;
        const std::size_t first = placeOf(controls, source.control);
        if (first >= controls.size()) return std::nullopt;
        int left = place;
        for (std::size_t at = first; at < controls.size(); ++at) {
            if (controls[at].message.kind != controls[first].message.kind) continue;
            if (left-- > 0) continue;
            source.control = controls[at].id;
            return source;
        }
        return std::nullopt;
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

std::string whyRunEnds(const Ensemble& ensemble, const Instrument& instrument, const RunWish& wish) {
    const std::vector<RunRow> rows = run(ensemble, instrument, wish);
    const auto many = static_cast<int>(rows.size());
    if (many >= std::min(wish.count, mostRows)) return {};
    const std::string only = "Only " + std::to_string(many) + ": ";
    const std::size_t first = placeOf(instrument.parameters, wish.firstParameter);
    if (first + rows.size() >= instrument.parameters.size())
        return only + "the parameters of " + nameOf(instrument) + " end there.";
    if (wish.first.kind == SourceKind::control) {
        const Controller* controller = findById(ensemble.controllers, wish.first.controller);
        return only + "the controls of " +
               (controller == nullptr ? wish.first.controller : nameOf(*controller)) +
               " that send such messages end there.";
    }
    return row(wish.first.kind).numbered ? only + "there are no higher numbers."
                                         : only + "there is no next one of these.";
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
