// The editor of a step, made from its kind's field descriptions: a kind that is added needs nothing here.
#include "app/details/editors.h"

#include "core/text/sentence.h"

namespace mellow::app {

QString toQt(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<int>(text.size()));
}

QString joined(const std::vector<std::string>& names) {
    QStringList list;
    for (const std::string& name : names) list << QString::fromStdString(name);
    return list.join(QStringLiteral(", "));
}

std::vector<std::string> parted(const QString& text) {
    std::vector<std::string> names;
    for (const QString& name : text.split(QLatin1Char(','), Qt::SkipEmptyParts))
        names.push_back(name.trimmed().toStdString());
    return names;
}

Form* makeStepEditor(const EditorContext& context, const StepKind& kind) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection, &kind](auto& ensemble) {
        auto* step = stepOf(ensemble, selection.now());
        return step != nullptr && step->kind == &kind ? step : nullptr;
    };
    form->help(toQt(kind.help));
    for (std::size_t i = 0; i < kind.fields.size(); ++i) {
        const Field& field = kind.fields[i];
        if (field.type == Field::Type::number || field.type == Field::Type::whole) {
            const bool share = field.unit == "%";
            const bool counts = field.type == Field::Type::whole;
            const bool whole = counts || field.unit == "ms";
            const double step = share ? 0.01 : counts ? 1 : whole ? 10 : 0.05;
            NumberField* made = form->number(
                toQt(field.label), share ? QStringLiteral("share") : toQt(field.unit),
                {field.low, field.high, step, whole, true},
                [at, i, &field](const Ensemble& e) {
                    return at(e) != nullptr ? numberOf(*at(e), i) : field.start;
                },
                [at, i](Ensemble& e, double value) {
                    if (at(e) != nullptr) at(e)->values[i] = value;
                });
            made->setToolTip(toQt(field.help));
        } else if (field.type == Field::Type::choice) {
            QStringList labels;
            for (const std::string_view choice : field.choices) labels << toQt(choice);
            QComboBox* made = form->choice(
                toQt(field.label), [labels](const Ensemble&) { return labels; },
                [at, i](const Ensemble& e) { return at(e) != nullptr ? choiceOf(*at(e), i) : 0; },
                [at, i](Ensemble& e, int choice) {
                    if (at(e) != nullptr) at(e)->values[i] = choice;
                });
            made->setToolTip(toQt(field.help));
        } else if (field.type == Field::Type::names) {
            QLineEdit* made = form->text(
                toQt(field.label),
                [at, i](const Ensemble& e) {
                    return at(e) != nullptr ? joined(namesOf(*at(e), i)) : QString();
                },
                [at, i](Ensemble& e, const QString& text) {
                    if (at(e) != nullptr) at(e)->values[i] = parted(text);
                });
            made->setToolTip(toQt(field.help) + Form::tr(" Names separated by commas."));
        } else {
            form->help(toQt(field.help));
        }
    }
    addSwitch(*form, Form::tr("Step is on"), at);
    return form;
}

}  // namespace mellow::app
