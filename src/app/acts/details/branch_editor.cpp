// The editor of a branch: where it leads, its reach in the target's own units, its window, its own steps. The
// reach's fields change their unit and law with the target, so they are asked for anew whenever the target
// is.
#include "app/acts/details/editors.h"

#include <cmath>
#include <limits>

#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr double silence = -std::numeric_limits<double>::infinity();

/// Every target that the selected chain can lead to, as the document names them.
std::vector<std::string> targetsOf(const Ensemble& e, const Selected& selected) {
    return targetsFor(e, instrumentOf(e, selected));
}

QString targetLabel(const Ensemble& e, const Selected& selected, const std::string& target) {
    const Instrument* instrument = instrumentOf(e, selected);
    const Target led = targetOf(e, instrument, target);
    const QString name = QString::fromStdString(nameOf(led, instrument == nullptr));
    return led.tieLine != nullptr ? Form::tr("%1 (tie line)").arg(name) : name;
}

/// target(ensemble): what the branch leads to.
template<class At, class TargetAt>
void addReach(Form& form, At at, TargetAt target) {
    // Reach in the target's own units; a list of choices has no numbers and is set in the lever view.
    for (const bool high : {false, true}) {
        const auto level = [high](auto& branch) -> auto& {
            return high ? branch.high : branch.low;
        };
        NumberField* field = form.number(
            high ? Form::tr("Reach to") : Form::tr("Reach from"), {}, {-1e9, 1e9, 1, false, false},
            [at, level](const Ensemble& e) {
                if (!at(e)) return 0.0;
                const auto* number = std::get_if<double>(&level(*at(e)));
                return number != nullptr ? *number : silence;
            },
            [at, level](Ensemble& e, double value) {
                if (at(e)) level(*at(e)) = std::isfinite(value) ? Level(value) : Level(std::string("-inf"));
            });
        form.onlyWhen(field, [target, field](const Ensemble& e) {
            const Target found = target(e);
            const Range range = found.exists() ? rangeOf(found) : Range{};
            if (!found.exists() || range.law == Law::choices) return false;
            field->setUnit(QString::fromStdString(range.unit));
            const bool decibel = range.law == Law::decibel;
            const double low = decibel ? silence : std::min(range.low, range.high);
            const double highest = decibel ? range.high : std::max(range.low, range.high);
            const double width = decibel ? 60 : highest - low;
            field->setBounds(low, highest,
                             std::pow(10.0, std::floor(std::log10(std::max(width, 1e-6) / 50))));
            return true;
        });
    }
}

template<class At>
void addWindow(Form& form, At at) {
    form.flag(
        Form::tr("Use only a part"), [at](const Ensemble& e) { return at(e) && at(e)->window.has_value(); },
        [at](Ensemble& e, bool on) {
            if (!at(e)) return;
            at(e)->window = on ? std::optional(BranchWindow{0.5, 1, Outside::clamp, {}}) : std::nullopt;
        });
    const auto hasWindow = [at](const Ensemble& e) { return at(e) && at(e)->window.has_value(); };
    for (const bool high : {false, true}) {
        const auto bound = [high](auto& window) -> auto& {
            return high ? window.high : window.low;
        };
        NumberField* field = form.number(
            high ? Form::tr("To") : Form::tr("From"), QStringLiteral("share"), {0, 1, 0.01, false, false},
            [at, bound, hasWindow](const Ensemble& e) { return hasWindow(e) ? bound(*at(e)->window) : 0.0; },
            [at, bound, hasWindow](Ensemble& e, double value) {
                if (hasWindow(e)) bound(*at(e)->window) = value;
            });
        form.onlyWhen(field, hasWindow);
    }
    QComboBox* outside = form.choice(
        Form::tr("Outside"),
        [](const Ensemble&) {
            return QStringList{Form::tr("Stay at the nearer end"), Form::tr("Send nothing"),
                               Form::tr("Go to rest")};
        },
        [at, hasWindow](const Ensemble& e) {
            return hasWindow(e) ? static_cast<int>(at(e)->window->outside) : 0;
        },
        [at, hasWindow](Ensemble& e, int index) {
            if (hasWindow(e)) at(e)->window->outside = static_cast<Outside>(index);
        });
    form.onlyWhen(outside, hasWindow);
}

}  // namespace

Form* makeBranchEditor(const Workspace& context) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection](auto& ensemble) { return branchOf(ensemble, selection.now()); };
    const auto target = [&selection, at](const Ensemble& e) {
        const Branch* branch = at(e);
        return branch == nullptr ? Target{} : targetOf(e, instrumentOf(e, selection.now()), branch->target);
    };
    form->choice(
        Form::tr("Target"),
        [&selection](const Ensemble& e) {
            QStringList names;
            for (const std::string& each : targetsOf(e, selection.now()))
                names << targetLabel(e, selection.now(), each);
            return names;
        },
        [&selection, at](const Ensemble& e) {
            const auto targets = targetsOf(e, selection.now());
            const auto found =
                at(e) ? std::find(targets.begin(), targets.end(), at(e)->target) : targets.end();
            return found == targets.end() ? -1 : static_cast<int>(found - targets.begin());
        },
        [&selection, at](Ensemble& e, int index) {
            const auto targets = targetsOf(e, selection.now());
            if (!at(e) || index < 0 || index >= static_cast<int>(targets.size())) return;
            const auto fresh =
                wholeBranch(e, instrumentOf(e, selection.now()), targets[static_cast<std::size_t>(index)]);
            at(e)->target = fresh->target;
            at(e)->low = fresh->low;
            at(e)->high = fresh->high;
        });
    addReach(*form, at, target);
    addWindow(*form, at);
    addSwitch(*form, Form::tr("Branch is on"), at);
    return form;
}

}  // namespace mellow::app
