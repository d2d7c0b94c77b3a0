#include "app/details/editors.h"

#include <cmath>
#include <limits>

#include "core/model/edit.h"
#include "core/model/law.h"

namespace mellow::app {

namespace {

constexpr double silence = -std::numeric_limits<double>::infinity();

struct Target {
    const Parameter* parameter = nullptr;
    Range range;
};

}  // namespace

Form* makeBranchEditor(const EditorContext& context) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection](auto& ensemble) { return branchOf(ensemble, selection.now()); };
    const auto target = [&selection](const Ensemble& e) {
        Target found;
        const Instrument* instrument = instrumentOf(e, selection.now());
        const Branch* branch = branchOf(e, selection.now());
        if (instrument != nullptr && branch != nullptr)
            found.parameter = findById(instrument->parameters, branch->target);
        if (found.parameter != nullptr) found.range = rangeOf(*found.parameter);
        return found;
    };
    form->choice(
        Form::tr("Target"),
        [&selection](const Ensemble& e) {
            QStringList names;
            const Instrument* instrument = instrumentOf(e, selection.now());
            for (const Parameter& parameter :
                 instrument == nullptr ? std::vector<Parameter>{} : instrument->parameters) {
                names << QString::fromStdString(nameOf(parameter));
            }
            return names;
        },
        [&selection, at](const Ensemble& e) {
            const Instrument* instrument = instrumentOf(e, selection.now());
            for (std::size_t i = 0; at(e) && i < instrument->parameters.size(); ++i) {
                if (instrument->parameters[i].id == at(e)->target) return static_cast<int>(i);
            }
            return -1;
        },
        [&selection, at](Ensemble& e, int index) {
            const Instrument* instrument = instrumentOf(e, selection.now());
            if (!at(e) || index < 0) return;
            const Parameter& parameter = instrument->parameters[static_cast<std::size_t>(index)];
            Branch fresh = wholeBranch(parameter);
            Branch& branch = *at(e);
            branch.target = fresh.target;
            branch.low = fresh.low;
            branch.high = fresh.high;
        });
    // Reach in the target's own units; a list of choices has no numbers and is set in the lever view.
    for (const bool high : {false, true}) {
        const auto level = [high](auto& branch) -> auto& {
            return high ? branch.high : branch.low;
        };
        NumberField* field = form->number(
            high ? Form::tr("Reach to") : Form::tr("Reach from"), {}, {-1e9, 1e9, 1, false, false},
            [at, level](const Ensemble& e) {
                if (!at(e)) return 0.0;
                const auto* number = std::get_if<double>(&level(*at(e)));
                return number != nullptr ? *number : silence;
            },
            [at, level](Ensemble& e, double value) {
                if (at(e)) level(*at(e)) = std::isfinite(value) ? Level(value) : Level(std::string("-inf"));
            });
        form->onlyWhen(field, [target, field](const Ensemble& e) {
            const Target found = target(e);
            if (found.parameter == nullptr || found.range.law == Law::choices) return false;
            field->setUnit(QString::fromStdString(found.range.unit));
            const bool decibel = found.range.law == Law::decibel;
            const double low = decibel ? silence : std::min(found.range.low, found.range.high);
            const double highest = decibel ? 0 : std::max(found.range.low, found.range.high);
            const double width = decibel ? 60 : highest - low;
            field->setBounds(low, highest,
                             std::pow(10.0, std::floor(std::log10(std::max(width, 1e-6) / 50))));
            return true;
        });
    }
    form->flag(
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
        NumberField* field = form->number(
            high ? Form::tr("To") : Form::tr("From"), QStringLiteral("share"), {0, 1, 0.01, false, false},
            [at, bound, hasWindow](const Ensemble& e) { return hasWindow(e) ? bound(*at(e)->window) : 0.0; },
            [at, bound, hasWindow](Ensemble& e, double value) {
                if (hasWindow(e)) bound(*at(e)->window) = value;
            });
        form->onlyWhen(field, hasWindow);
    }
    QComboBox* outside = form->choice(
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
    form->onlyWhen(outside, hasWindow);
    addSwitch(*form, Form::tr("Branch is on"), at);
    return form;
}

}  // namespace mellow::app
