#include "app/details/editors.h"

#include "core/text/sentence.h"

namespace mellow::app {

namespace {

/// The kinds that this version runs, and the present one if it is not among them.
std::vector<SourceKind> kindsFor(const Chain* chain) {
    std::vector<SourceKind> kinds;
    for (const auto& each : sourceKinds()) {
        if (each.available || (chain != nullptr && chain->source.kind == each.kind))
            kinds.push_back(each.kind);
    }
    return kinds;
}

QStringList channelNames() {
    QStringList names{Form::tr("Any")};
    for (int channel = 1; channel <= 16; ++channel) names << QString::number(channel);
    return names;
}

}  // namespace

Form* makeSourceEditor(const EditorContext& context) {
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
    form->choice(
        Form::tr("Message"),
        [at](const Ensemble& e) {
            QStringList names;
            for (const SourceKind kind : kindsFor(at(e))) {
                names << toQt(row(kind).label) +
                             (row(kind).available ? QString() : Form::tr(" (not available yet)"));
            }
            return names;
        },
        [at](const Ensemble& e) {
            const auto kinds = kindsFor(at(e));
            const auto found =
                std::find(kinds.begin(), kinds.end(), at(e) ? at(e)->source.kind : SourceKind::cc);
            return static_cast<int>(found - kinds.begin());
        },
        [at](Ensemble& e, int index) {
            if (!at(e)) return;
            Source& source = at(e)->source;
            source.kind = kindsFor(at(e)).at(static_cast<std::size_t>(index));
            source.extras.clear();
            source.rest.reset();
        });
    NumberField* number = form->number(
        Form::tr("Number"), {}, {0, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->source.number : 0; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->source.number = static_cast<int>(value);
        });
    form->onlyWhen(number, [at](const Ensemble& e) { return at(e) && row(at(e)->source.kind).numbered; });
    form->choice(
        Form::tr("Channel"), [](const Ensemble&) { return channelNames(); },
        [at](const Ensemble& e) { return at(e) ? at(e)->source.channel.value_or(0) : 0; },
        [at](Ensemble& e, int index) {
            if (!at(e)) return;
            at(e)->source.channel = index == 0 ? std::nullopt : std::optional(index);
        });
    form->choice(
        Form::tr("From"),
        [](const Ensemble& e) {
            QStringList names{Form::tr("Any controller")};
            for (const Controller& controller : e.controllers)
                names << QString::fromStdString(nameOf(controller));
            return names;
        },
        [at](const Ensemble& e) {
            for (std::size_t i = 0; at(e) && i < e.controllers.size(); ++i) {
                if (e.controllers[i].id == at(e)->source.controller) return static_cast<int>(i) + 1;
            }
            return at(e) && !at(e)->source.controller.empty() ? -1 : 0;
        },
        [at](Ensemble& e, int index) {
            if (at(e))
                at(e)->source.controller =
                    index <= 0 ? std::string() : e.controllers[static_cast<std::size_t>(index - 1)].id;
        });
    form->choice(
        Form::tr("Rests"),
        [](const Ensemble&) {
            return QStringList{Form::tr("As usual"), Form::tr("At the low end"), Form::tr("In the middle")};
        },
        [at](const Ensemble& e) {
            return !at(e) || !at(e)->source.rest ? 0 : *at(e)->source.rest == Rest::low ? 1 : 2;
        },
        [at](Ensemble& e, int index) {
            if (!at(e)) return;
            at(e)->source.rest =
                index == 0 ? std::nullopt : std::optional(index == 1 ? Rest::low : Rest::middle);
        });
    form->flag(
        Form::tr("Pass the original on too"),
        [at](const Ensemble& e) { return at(e) && at(e)->keepOriginal; },
        [at](Ensemble& e, bool on) {
            if (at(e)) at(e)->keepOriginal = on;
        });
    addSwitch(*form, Form::tr("Chain is on"), at);
    return form;
}

}  // namespace mellow::app
