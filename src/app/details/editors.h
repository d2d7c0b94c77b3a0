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
/// A list of names as one line, separated by commas, and back.
QString joined(const std::vector<std::string>& names);
std::vector<std::string> parted(const QString& text);

Form* makeInstrumentEditor(const EditorContext& context);
Form* makeSourceEditor(const EditorContext& context);
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

}  // namespace mellow::app
