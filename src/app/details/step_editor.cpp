// The editor of a step, made from its kind's field descriptions: a kind that is added needs nothing here.
#include "app/details/editors.h"
#include "app/details/source_fields.h"

#include "core/describe/sentence.h"

namespace mellow::app {

QString toQt(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<int>(text.size()));
}

QString counted(std::size_t count, const QString& one, const QString& many) {
    return QStringLiteral("%1 %2").arg(count).arg(count == 1 ? one : many);
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
        addField(
            *form, kind.fields[i],
            [at, i](auto& e) {
                auto* step = at(e);
                using Value = decltype(&step->values[i]);
                return step != nullptr ? &step->values[i] : Value{};
            },
            true);
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
