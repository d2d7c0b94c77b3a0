// The editor of a chain: its name, what moves it, and how its fan works.
#include "app/acts/details/editors.h"
#include "app/acts/details/source_fields.h"
#include "core/model/edit.h"

namespace mellow::app {

QStringList channelNames() {
    QStringList names{Form::tr("Any")};
    for (int channel = 1; channel <= 16; ++channel) names << QString::number(channel);
    return names;
}

Form* makeSourceEditor(const Workspace& context) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection](auto& ensemble) { return chainOf(ensemble, selection.now()); };
    form->text(
        Form::tr("Name"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->name) : QString(); },
        [at](Ensemble& e, const QString& name) {
            if (at(e)) at(e)->name = name.toStdString();
        });
    form->section(Form::tr("Source"));
    addSource(*form, Form::tr("Source"),
              [at](auto& e) { return at(e) != nullptr ? &at(e)->source : nullptr; });
    form->flag(
        Form::tr("Pass the original on too"),
        [at](const Ensemble& e) { return at(e) && at(e)->keepOriginal; },
        [at](Ensemble& e, bool on) {
            if (at(e)) at(e)->keepOriginal = on;
        });
    form->section(Form::tr("How it works"));
    addSwitch(*form, Form::tr("Chain is on"), at);
    QComboBox* active = form->choice(
        Form::tr("Active"),
        [](const Ensemble&) {
            return QStringList{Form::tr("Always"), Form::tr("Only in hand")};
        },
        [at](const Ensemble& e) { return at(e) ? static_cast<int>(at(e)->active) : 0; },
        [at](Ensemble& e, int index) {
            if (at(e)) at(e)->active = static_cast<Active>(index);
        });
    form->onlyWhen(active, [&selection](const Ensemble&) { return !isShared(selection.now()); });
    addHandover(*form, Form::tr("As its controller"), at);
    form->choice(
        Form::tr("Fan"),
        [](const Ensemble&) {
            return QStringList{Form::tr("All at once"), Form::tr("One, chosen by…")};
        },
        [at](const Ensemble& e) { return at(e) ? static_cast<int>(at(e)->fan.mode) : 0; },
        [at](Ensemble& e, int index) {
            if (!at(e)) return;
            at(e)->fan.mode = static_cast<FanMode>(index);
            at(e)->fan.by = index == 0 ? std::nullopt : std::optional(ccSource(e, *at(e)));
        });
    return form;
}

Form* makeChooserEditor(const Workspace& context) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    form->section(Form::tr("What chooses the branch"));
    addSource(*form, Form::tr("Source"), [&selection](auto& e) {
        auto* chain = chainOf(e, selection.now());
        using Pointer = decltype(&*chain->fan.by);
        return chain != nullptr && chain->fan.by ? &*chain->fan.by : Pointer{};
    });
    return form;
}

}  // namespace mellow::app
