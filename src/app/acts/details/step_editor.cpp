// The editor of a step, made from its kind's field descriptions: a kind that is added needs nothing here.
#include "app/acts/details/editors.h"
#include "app/acts/details/source_fields.h"

#include "core/describe/sentence.h"

namespace mellow::app {

Form* makeStepEditor(const Workspace& context, const StepKind& kind) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection, &kind](auto& ensemble) {
        auto* step = stepOf(ensemble, selection.now());
        return step != nullptr && step->kind == &kind ? step : nullptr;
    };
    form->help(toQt(kind.help));
    for (std::size_t i = 0; i < kind.fields.size(); ++i) {
        QWidget* field = addField(
            *form, kind.fields[i],
            [at, i](auto& e) {
                auto* step = at(e);
                using Value = decltype(&step->values[i]);
                return step != nullptr ? &step->values[i] : Value{};
            },
            true);
        if (kind.fields[i].type == Field::Type::text) field->setObjectName(QStringLiteral("stepText"));
    }
    if (kind.namesSource) {
        form->section(Form::tr("Second source"));
        addSource(*form, Form::tr("Source"), [at](auto& e) {
            auto* step = at(e);
            using Pointer = decltype(&*step->with);
            return step != nullptr && step->with ? &*step->with : Pointer{};
        });
    }
    addSwitch(*form, Form::tr("Step is on"), at);
    return form;
}

}  // namespace mellow::app
