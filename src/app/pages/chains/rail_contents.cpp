#include "app/pages/chains/rail_contents.h"

#include <algorithm>
#include <cmath>

#include "app/ground/words.h"
#include "core/describe/sentence.h"
#include "core/midi/message.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

/// A place on a source's travel in words: its raw value, or per cent where it has none.
QString placeText(const Source& source, double position) {
    const int max = maxOf(source);
    if (max == 0) return QString::number(std::lround(position * 100)) + QStringLiteral(" %");
    const int raw = encode(scaleOf(source), clampPosition(position), max);
    return QString::number(source.kind == SourceKind::bend ? raw - midi::bendCentre : raw);
}

}  // namespace

const Step* firstWindow(const Chain& chain) {
    const bool there =
        !chain.steps.empty() && chain.steps.front().on && chain.steps.front().kind->name == "window";
    return there ? &chain.steps.front() : nullptr;
}

bool trails(const std::vector<Step>& steps) {
    bool smooths = false;
    for (const Step& step : steps) {
        if (!step.on) continue;
        if (step.kind->recalls) return false;
        smooths = smooths || step.kind->name == "smooth";
    }
    return smooths;
}

RailContent sourceContent(const Ensemble& ensemble, const Chain& chain, const ChainReading& reading) {
    const Source source = resolved(ensemble, chain.source);
    const Step* window = firstWindow(chain);
    // Grips stand where the window's share of the travel is, whatever the source's scale.
    const auto shareText = [&source](double share) {
        const int max = maxOf(source);
        return max == 0 ? placeText(source, share)
                        : QString::number(std::lround(share * max) -
                                          (source.kind == SourceKind::bend ? midi::bendCentre : 0));
    };
    RailContent content;
    content.name = QString::fromStdString(describe::sourceName(ensemble, chain.source));
    content.traces = row(source.kind).origin == Origin::generator;
    content.top = placeText(source, 1);
    content.bottom = placeText(source, 0);
    content.low = window != nullptr ? numberOf(*window, 0) : 0.0;
    content.high = window != nullptr ? numberOf(*window, 1) : 1.0;
    content.lowText = shareText(content.low);
    content.highText = shareText(content.high);
    content.value = reading.position;
    content.hasValue = reading.spoken;
    content.goal = reading.control;
    content.active = reading.runs;
    content.valueText = reading.spoken ? placeText(source, reading.position) : QStringLiteral("–");
    content.tip =
        Rail::tr("The part of the travel in use. Drag the grips; double-click a number to type it.");
    return content;
}

RailContent targetContent(const Ensemble& ensemble, const Instrument* instrument, const Chain& chain,
                          std::size_t index, const ChainReading& reading) {
    const Branch& branch = chain.branches[index];
    const Target target = targetOf(ensemble, instrument, branch.target);
    RailContent content;
    const bool fed = reading.fed < 0 || reading.fed == static_cast<int>(index);
    content.active = reading.runs && target.exists() && branch.on && fed;
    if (!target.exists()) {
        content.name = Rail::tr("%1 (missing)").arg(QString::fromStdString(branch.target));
        content.valueText = QStringLiteral("–");
        return content;
    }
    const Range range = rangeOf(target);
    content.name = QString::fromStdString(nameOf(target, instrument == nullptr));
    content.top = QString::fromStdString(displayText(range, 1));
    content.bottom = QString::fromStdString(displayText(range, 0));
    content.low = clampPosition(rawPosition(range, branch.low).value_or(0));
    content.high = clampPosition(rawPosition(range, branch.high).value_or(0));
    content.lowText = QString::fromStdString(levelText(range, branch.low));
    content.highText = QString::fromStdString(levelText(range, branch.high));
    const double value = index < reading.values.size() ? reading.values[index] : -1;
    content.hasValue = value >= 0 && branch.on;
    content.value = value >= 0 ? value
                               : content.low + settledPosition(branch.steps, reading.result) *
                                                   (content.high - content.low);
    const double goal =
        content.low + settledPosition(branch.steps, reading.result) * (content.high - content.low);
    const bool ownWay = trails(branch.steps) && !branch.window && content.hasValue;
    constexpr double seen = 0.012;
    if (ownWay && std::abs(goal - content.value) > seen) content.goal = goal;
    content.steps = branch.steps;
    if (branch.window) content.window = {branch.window->low, branch.window->high};
    content.valueText = !branch.on  ? Rail::tr("off")
                        : value < 0 ? QStringLiteral("–")
                                    : QString::fromStdString(displayText(range, content.value));
    content.tip = QString::fromStdString(describe::branchPhrase(ensemble, instrument, branch)) +
                  (target.parameter == nullptr
                       ? Rail::tr(" · tie line")
                       : QStringLiteral(" · ") +
                             QString::fromStdString(describe::targetMessage(target.parameter->message))) +
                  Rail::tr("\nDrag the grips, or the lit span between them; past each other turns it round.");
    return content;
}

std::optional<std::pair<double, double>> gripsBefore(const Range& range, const Branch& was,
                                                     const Branch& now) {
    if (was.target != now.target || (was.low == now.low && was.high == now.high)) return std::nullopt;
    return std::pair(clampPosition(rawPosition(range, was.low).value_or(0)),
                     clampPosition(rawPosition(range, was.high).value_or(1)));
}

}  // namespace mellow::app
