#include "core/sheet/numbers.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/assignments/users.h"
#include "core/describe/sentence.h"
#include "core/midi/names.h"
#include "core/model/resolve.h"

namespace mellow::sheet {

namespace {

bool isAt(const Instrument& instrument, const Outlet& outlet) {
    return instrument.output.port == outlet.port && instrument.output.channel == outlet.channel;
}

/// The control numbers that a parameter's message uses.
std::vector<int> controlsOf(const Message& message) {
    const auto number = message.number;
    if (number < 0 || number >= midi::controlCount) return {};
    if (message.kind == MessageKind::cc) return {number};
    if (message.kind == MessageKind::cc14 && number < midi::pairCount)
        return {number, number + midi::pairCount};
    return {};
}

/// Chains that send the same, those that the desk moves apart from the others: that a surface moves what a
/// control moves too is what a desk is for.
class Senders {
 public:
    void add(const Assignment& row) {
        if (row.leads() == nullptr || !row.chain->on || !row.leads()->on) return;
        (row.chain->source.kind == SourceKind::desk ? desk_ : others_).insert(row.chain);
        isMix_ = isMix_ || row.target.parameter->mix != Mix::latest;
    }
    [[nodiscard]] bool any() const { return !desk_.empty() || !others_.empty(); }
    [[nodiscard]] bool meet() const { return !isMix_ && (desk_.size() > 1 || others_.size() > 1); }

 private:
    std::set<const Chain*> desk_;
    std::set<const Chain*> others_;
    bool isMix_ = false;
};

/// Whether a control's message comes out of an instrument as it is.
bool passes(const Ensemble& ensemble, const Instrument& instrument, const Controller& controller,
            const Source& source) {
    const bool hears = instrument.input.port == anyPort || instrument.input.port == controller.port;
    if (!instrument.on || !instrument.pass.unmatched || !hears) return false;
    const auto takes = [&](const Instrument* owner, const Chain& chain) {
        if (!chain.on || chain.keepOriginal) return false;
        const Source own = resolved(ensemble, chain.source);
        return row(own.kind).consumes && isSameControl(own, source) &&
               isHeardFrom(ensemble, owner, own, controller.port);
    };
    const auto isTaken = [&](const Instrument* owner, const std::vector<Chain>& chains) {
        return std::any_of(chains.begin(), chains.end(),
                           [&](const Chain& chain) { return takes(owner, chain); });
    };
    return !isTaken(nullptr, ensemble.sharedChains) && !isTaken(&instrument, instrument.chains);
}

void addPassed(const Ensemble& ensemble, const Instrument& instrument, NumberField& field) {
    for (const Controller& controller : ensemble.controllers) {
        for (const ControllerControl& control : controller.controls) {
            const std::vector<int> numbers = controlsOf(control.message);
            if (numbers.empty() || !passes(ensemble, instrument, controller, sourceOf(control.message)))
                continue;
            for (const int number : numbers)
                field.controls.at(static_cast<std::size_t>(number)).passing.push_back(nameOf(control));
        }
    }
}

Use useOf(const Senders& senders, bool passed) {
    if (senders.meet()) return Use::met;
    if (senders.any()) return passed ? Use::both : Use::sent;
    return passed ? Use::passed : Use::free;
}

}  // namespace

std::vector<Outlet> outletsOf(const Ensemble& ensemble) {
    std::vector<Outlet> all;
    for (const Instrument& instrument : ensemble.instruments) {
        Outlet outlet{instrument.output.port, instrument.output.channel};
        if (std::find(all.begin(), all.end(), outlet) == all.end()) all.push_back(std::move(outlet));
    }
    return all;
}

NumberField numbersOf(const Ensemble& ensemble, const Outlet& outlet) {
    NumberField field;
    std::array<Senders, midi::controlCount> senders;
    std::map<std::tuple<MessageKind, int, std::string>, std::pair<OtherUse, Senders>> others;
    for (const Assignment& row : assignmentsOf(ensemble)) {
        const Parameter* parameter = row.target.parameter;
        if (parameter == nullptr || !isAt(*row.target.instrument, outlet)) continue;
        const std::vector<int> numbers = controlsOf(parameter->message);
        for (const int number : numbers) {
            NumberUse& use = field.controls.at(static_cast<std::size_t>(number));
            use.listened = true;
            use.rows.push_back(idOf(row));
            senders.at(static_cast<std::size_t>(number)).add(row);
        }
        if (!numbers.empty()) continue;
        const std::string words = describe::targetMessage(parameter->message);
        auto& [other, otherSenders] = others[{parameter->message.kind, parameter->message.number, words}];
        other.message = words;
        other.rows.push_back(idOf(row));
        otherSenders.add(row);
    }
    for (const Instrument& instrument : ensemble.instruments) {
        if (isAt(instrument, outlet)) addPassed(ensemble, instrument, field);
    }
    for (std::size_t i = 0; i < field.controls.size(); ++i)
        field.controls[i].use = useOf(senders[i], !field.controls[i].passing.empty());
    for (auto& [key, both] : others) {
        both.first.met = both.second.meet();
        field.others.push_back(std::move(both.first));
    }
    return field;
}

FreeNumbers::Taken FreeNumbers::takenAt(const Outlet& outlet) const {
    Taken taken{};
    NumberField field;
    for (const Instrument& instrument : ensemble_.instruments) {
        if (!isAt(instrument, outlet)) continue;
        addPassed(ensemble_, instrument, field);
        for (const Parameter& parameter : instrument.parameters) {
            for (const int number : controlsOf(parameter.message))
                taken.at(static_cast<std::size_t>(number)) = true;
        }
    }
    for (std::size_t i = 0; i < taken.size(); ++i) {
        taken[i] = taken[i] || !field.controls[i].passing.empty() ||
                   !midi::controlMeaning(static_cast<int>(i)).empty() ||
                   midi::isChannelMode(static_cast<int>(i));
    }
    return taken;
}

int FreeNumbers::take(const Outlet& outlet, int after) {
    const auto key = std::pair(outlet.port, outlet.channel);
    auto found = taken_.find(key);
    if (found == taken_.end()) found = taken_.emplace(key, takenAt(outlet)).first;
    for (int step = 1; step <= midi::controlCount; ++step) {
        const int number = (std::clamp(after, -1, midi::controlCount - 1) + step) % midi::controlCount;
        bool& taken = found->second.at(static_cast<std::size_t>(number));
        if (taken) continue;
        taken = true;
        return number;
    }
    return -1;
}

}  // namespace mellow::sheet
