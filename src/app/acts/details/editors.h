// The editors of the details panel: a form for each thing that can be selected.
#pragma once

#include "app/acts/details/form.h"
#include "app/acts/workspace.h"
#include "app/ground/words.h"

namespace mellow::app {

Form* makeInstrumentEditor(const Workspace& context);
Form* makeSourceEditor(const Workspace& context);
/// What chooses the branch of the selected chain, whose fan has a chooser.
Form* makeChooserEditor(const Workspace& context);
/// Tie lines, and how controllers hand over.
Form* makeSharedEditor(const Workspace& context);
/// kind: of the step that is selected; the form is made from its fields.
Form* makeStepEditor(const Workspace& context, const StepKind& kind);
Form* makeBranchEditor(const Workspace& context);
/// The parameter by its place in the selected instrument.
Form* makeParameterEditor(const Workspace& context, int place);

/// A switch for something that has `on`; at(ensemble) gives it, or nullptr.
template<class At>
void addSwitch(Form& form, const QString& label, At at) {
    form.flag(
        label, [at](const Ensemble& e) { return at(e) != nullptr && at(e)->on; },
        [at](Ensemble& e, bool on) {
            if (at(e) != nullptr) at(e)->on = on;
        });
}

/// A choice of handover for something that may have one; at(ensemble) gives it, or nullptr. none: what it is
/// called when the thing has none of its own.
template<class At>
void addHandover(Form& form, const QString& none, At at) {
    form.choice(
            Form::tr("Handover"),
            [none](const Ensemble&) {
                return QStringList{none, Form::tr("Jump to the control"), Form::tr("Wait until they meet"),
                                   Form::tr("Glide together")};
            },
            [at](const Ensemble& e) {
                return at(e) != nullptr && at(e)->handover ? static_cast<int>(*at(e)->handover) + 1 : 0;
            },
            [at](Ensemble& e, int index) {
                if (at(e) == nullptr) return;
                at(e)->handover = index == 0 ? std::nullopt : std::optional(static_cast<Handover>(index - 1));
            })
        ->setToolTip(
            Form::tr("What happens where the control stands elsewhere than the value it takes over"));
}

}  // namespace mellow::app
