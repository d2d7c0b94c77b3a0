#include "app/pages/chains/lever_edits.h"

#include <algorithm>
#include <cmath>

#include "core/midi/message.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/text/calculation.h"

namespace mellow::app {

void LeverEdits::moveSource(double low, double high, Gesture gesture) {
    workspace_.document.edit(
        tr("Move the window"),
        [&](Ensemble& e) {
            Chain* chain = chainOf(e, workspace_.selection.now());
            if (chain == nullptr) return;
            if (chain->steps.empty() || chain->steps.front().kind->name != "window")
                chain->steps.insert(chain->steps.begin(), makeStep(*findStepKind("window")));
            const auto round = [](double p) { return std::round(p * 1000) / 1000; };
            chain->steps.front().on = true;
            chain->steps.front().values = {round(low), round(high)};
        },
        gesture);
}

void LeverEdits::moveTarget(int index, std::optional<double> low, std::optional<double> high,
                            Gesture gesture) {
    workspace_.document.edit(
        tr("Move the reach"),
        [&](Ensemble& e) {
            const Instrument* instrument = instrumentOf(e, workspace_.selection.now());
            Chain* chain = chainOf(e, workspace_.selection.now());
            if (chain == nullptr || index >= static_cast<int>(chain->branches.size())) return;
            Branch& branch = chain->branches[static_cast<std::size_t>(index)];
            const Target target = targetOf(e, instrument, branch.target);
            if (!target.exists()) return;
            const Range range = rangeOf(target);
            if (low) branch.low = levelAt(range, *low);
            if (high) branch.high = levelAt(range, *high);
        },
        gesture);
}

void LeverEdits::typeSource(Rail::Grip grip, const QString& typed, const RailContent& shown) {
    const Chain* chain = chainOf(workspace_.document.ensemble(), workspace_.selection.now());
    if (chain == nullptr) return;
    const Source source = resolved(workspace_.document.ensemble(), chain->source);
    const int max = maxOf(source) == 0 ? 100 : maxOf(source);
    auto number = text::calculated(typed.toStdString(), "");
    const bool share = typed.contains(QLatin1Char('%'));
    if (!number || !std::isfinite(*number)) {
        workspace_.tell(
            tr("“%1” is no place on the source’s travel; type a value from 0 to %2, or a share such as 40%.")
                .arg(typed)
                .arg(max));
        return;
    }
    if (!share && source.kind == SourceKind::bend) *number += midi::bendCentre;
    const double position = std::clamp(share ? *number : *number / max, 0.0, 1.0);
    moveSource(grip == Rail::Grip::low ? position : shown.low,
               grip == Rail::Grip::high ? position : shown.high, 0);
}

void LeverEdits::typeTarget(int index, Rail::Grip grip, const QString& typed) {
    const Instrument* instrument = instrumentOf(workspace_.document.ensemble(), workspace_.selection.now());
    const Chain* chain = chainOf(workspace_.document.ensemble(), workspace_.selection.now());
    if (chain == nullptr || index >= static_cast<int>(chain->branches.size())) return;
    const Target target = targetOf(workspace_.document.ensemble(), instrument,
                                   chain->branches[static_cast<std::size_t>(index)].target);
    if (!target.exists()) return;
    const Range range = rangeOf(target);
    const auto level = parseLevel(range, typed.toStdString());
    if (!level) {
        workspace_.tell(tr("“%1” is no value of %2; type one from %3 to %4.")
                            .arg(typed, QString::fromStdString(nameOf(target, false)),
                                 QString::fromStdString(displayText(range, 0)),
                                 QString::fromStdString(displayText(range, 1))));
        return;
    }
    workspace_.document.edit(tr("Type the reach"), [&](Ensemble& e) {
        Chain* changed = chainOf(e, workspace_.selection.now());
        if (changed == nullptr) return;
        Branch& branch = changed->branches[static_cast<std::size_t>(index)];
        (grip == Rail::Grip::low ? branch.low : branch.high) = *level;
    });
}

}  // namespace mellow::app
