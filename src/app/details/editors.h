// The editors of the details panel: a form for each thing that can be selected.
#pragma once

#include "app/details/form.h"
#include "app/live.h"
#include "app/selection.h"

namespace mellow::app {

/// What editors need of the window.
struct EditorContext {
    Document& document;
    Selection& selection;
    Live& live;
};

QString toQt(std::string_view text);
/// "1 chain", "3 chains": a count with the right one of two words.
QString counted(std::size_t count, const QString& one, const QString& many);
/// A list of names as one line, separated by commas, and back.
QString joined(const std::vector<std::string>& names);
std::vector<std::string> parted(const QString& text);
/// A word of the document as people read it: "rampUp" becomes "Ramp up".
QString choiceLabel(std::string_view word);

Form* makeInstrumentEditor(const EditorContext& context);
Form* makeSourceEditor(const EditorContext& context);
/// What chooses the branch of the selected chain, whose fan has a chooser.
Form* makeChooserEditor(const EditorContext& context);
/// Tie lines, and how controllers hand over.
Form* makeSharedEditor(const EditorContext& context);
/// kind: of the step that is selected; the form is made from its fields.
Form* makeStepEditor(const EditorContext& context, const StepKind& kind);
Form* makeBranchEditor(const EditorContext& context);
/// The parameter by its place in the selected instrument.
Form* makeParameterEditor(const EditorContext& context, int place);

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
