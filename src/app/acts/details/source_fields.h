// What editors are made of where a description says what there is to edit: the fields of a kind, and a
// source, which chains, combine steps and choosers have alike.
#pragma once

#include "app/acts/details/editors.h"
#include "core/model/edit.h"

namespace mellow::app {

/// A row for a field. at(ensemble) gives its value, const or not as the ensemble is, or nullptr where the
/// thing is not there (any more). slider: numbers get one. Returns the widget; nullptr for points, which are
/// drawn in the picture.
template<class At>
QWidget* addField(Form& form, const Field& field, At at, bool slider);

/// Rows for a source. at(ensemble) gives it, or nullptr.
template<class At>
void addSource(Form& form, const QString& label, At at);

QStringList channelNames();

// How it is done.

template<class At>
QWidget* addField(Form& form, const Field& field, At at, bool slider) {
    QWidget* made = nullptr;
    switch (field.type) {
        case Field::Type::number:
        case Field::Type::whole: {
            const bool share = field.unit == "%";
            const bool counts = field.type == Field::Type::whole;
            const bool whole = counts || field.unit == "ms";
            const double step = share ? 0.01 : counts ? 1 : whole ? 10 : 0.05;
            made = form.number(
                toQt(field.label), share ? QStringLiteral("share") : toQt(field.unit),
                {field.low, field.high, step, whole, slider},
                [at, &field](const Ensemble& e) {
                    return at(e) != nullptr ? std::get<double>(*at(e)) : field.start;
                },
                [at](Ensemble& e, double value) {
                    if (at(e) != nullptr) *at(e) = value;
                });
            break;
        }
        case Field::Type::choice: {
            QStringList labels;
            for (const std::string_view choice : field.choices) labels << choiceLabel(choice);
            made = form.choice(
                toQt(field.label), [labels](const Ensemble&) { return labels; },
                [at](const Ensemble& e) { return at(e) != nullptr ? std::get<int>(*at(e)) : 0; },
                [at](Ensemble& e, int choice) {
                    if (at(e) != nullptr) *at(e) = choice;
                });
            break;
        }
        case Field::Type::names:
            made = form.text(
                toQt(field.label),
                [at](const Ensemble& e) {
                    return at(e) != nullptr ? joined(std::get<std::vector<std::string>>(*at(e))) : QString();
                },
                [at](Ensemble& e, const QString& text) {
                    if (at(e) != nullptr) *at(e) = parted(text);
                });
            made->setToolTip(toQt(field.help) + Form::tr(" Names separated by commas."));
            return made;
        case Field::Type::text:
            made = form.text(
                toQt(field.label),
                [at](const Ensemble& e) {
                    return at(e) != nullptr ? QString::fromStdString(std::get<std::string>(*at(e)))
                                            : QString();
                },
                [at](Ensemble& e, const QString& text) {
                    if (at(e) != nullptr) *at(e) = text.toStdString();
                });
            break;
        case Field::Type::points:
            form.help(toQt(field.help));
            return nullptr;
    }
    made->setToolTip(toQt(field.help));
    return made;
}

/// True where an ensemble's source is of a kind for which is(row) holds.
template<class At, class Is>
auto sourceIs(At at, Is is) {
    return [at, is](const Ensemble& e) { return at(e) != nullptr && is(row(at(e)->kind)); };
}

/// A choice among things with ids; the id is what is kept.
template<class At, class List, class Id>
QComboBox* addReference(Form& form, const QString& label, const QString& nobody, At at, List list, Id id) {
    return form.choice(
        label,
        [list, nobody](const Ensemble& e) {
            QStringList names;
            if (!nobody.isEmpty()) names << nobody;
            for (const auto& each : list(e)) names << QString::fromStdString(nameOf(each));
            return names;
        },
        [at, list, id, nobody](const Ensemble& e) {
            const int first = nobody.isEmpty() ? 0 : 1;
            if (at(e) == nullptr) return -1;
            const auto& all = list(e);
            for (std::size_t i = 0; i < all.size(); ++i) {
                if (all[i].id == id(*at(e))) return static_cast<int>(i) + first;
            }
            return first == 1 && id(*at(e)).empty() ? 0 : -1;
        },
        [at, list, id, nobody](Ensemble& e, int index) {
            const int place = index - (nobody.isEmpty() ? 0 : 1);
            const auto& all = list(e);
            if (at(e) == nullptr || place >= static_cast<int>(all.size())) return;
            id(*at(e)) = place < 0 ? std::string() : all[static_cast<std::size_t>(place)].id;
        });
}

inline bool isHeard(const SourceRow& kind) {
    return kind.origin == Origin::message || kind.origin == Origin::note;
}

template<class At>
void addSourceKind(Form& form, const QString& label, At at) {
    form.choice(
        label,
        [](const Ensemble&) {
            QStringList names;
            for (const SourceRow& kind : sourceKinds()) names << toQt(kind.label);
            return names;
        },
        [at](const Ensemble& e) { return at(e) != nullptr ? static_cast<int>(at(e)->kind) : -1; },
        [at](Ensemble& e, int index) {
            if (at(e) == nullptr) return;
            const Source before = *at(e);
            Source made = makeSource(static_cast<SourceKind>(index));
            if (row(made.kind).numbered && made.number != anyNumber)
                made.number = std::clamp(before.number, 0, row(made.kind).highestNumber);
            made.channel = before.channel;
            made.controller = before.controller;
            giveReferences(e, made);
            *at(e) = made;
        });
}

template<class At>
void addSourceNumber(Form& form, At at) {
    NumberField* number = form.number(
        Form::tr("Number"), {}, {0, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) != nullptr ? at(e)->number : 0; },
        [at](Ensemble& e, double value) {
            if (at(e) != nullptr) at(e)->number = static_cast<int>(value);
        });
    form.onlyWhen(number, [at, number](const Ensemble& e) {
        if (at(e) == nullptr || !row(at(e)->kind).numbered || at(e)->kind == SourceKind::program)
            return false;
        number->setBounds(0, row(at(e)->kind).highestNumber, 1);
        return true;
    });
    QComboBox* program = form.choice(
        Form::tr("Number"),
        [](const Ensemble&) {
            QStringList names{Form::tr("Whatever it is")};
            for (int i = 0; i < 128; ++i) names << QString::number(i);
            return names;
        },
        [at](const Ensemble& e) { return at(e) != nullptr ? at(e)->number + 1 : 0; },
        [at](Ensemble& e, int index) {
            if (at(e) != nullptr) at(e)->number = index - 1;
        });
    form.onlyWhen(program, sourceIs(at, [](const SourceRow& r) { return r.kind == SourceKind::program; }));
}

/// Where it comes from: a tie line, a controller, a channel.
template<class At>
void addSourceOrigin(Form& form, At at) {
    QComboBox* line = addReference(
        form, Form::tr("Tie line"), {}, at, [](const Ensemble& e) -> auto& { return e.tieLines; },
        [](auto& source) -> auto& { return source.tieLine; });
    form.onlyWhen(line, sourceIs(at, [](const SourceRow& r) { return r.kind == SourceKind::tieLine; }));
    QComboBox* controller = addReference(
        form, Form::tr("From"), Form::tr("Any controller"), at,
        [](const Ensemble& e) -> auto& { return e.controllers; },
        [](auto& source) -> auto& { return source.controller; });
    form.onlyWhen(controller, sourceIs(at, isHeard));
    QComboBox* control = addReference(
        form, Form::tr("Control"), {}, at,
        [at](const Ensemble& e) -> const std::vector<ControllerControl>& {
            static const std::vector<ControllerControl> nothing;
            const Controller* owner = at(e) == nullptr ? nullptr : findById(e.controllers, at(e)->controller);
            return owner == nullptr ? nothing : owner->controls;
        },
        [](auto& source) -> auto& { return source.control; });
    form.onlyWhen(control, sourceIs(at, [](const SourceRow& r) { return r.kind == SourceKind::control; }));
    QComboBox* channel = form.choice(
        Form::tr("Channel"), [](const Ensemble&) { return channelNames(); },
        [at](const Ensemble& e) { return at(e) != nullptr ? at(e)->channel.value_or(0) : 0; },
        [at](Ensemble& e, int index) {
            if (at(e) != nullptr) at(e)->channel = index == 0 ? std::nullopt : std::optional(index);
        });
    form.onlyWhen(channel,
                  sourceIs(at, [](const SourceRow& r) { return isHeard(r) && r.kind != SourceKind::osc; }));
}

/// What its kind can be set to.
template<class At>
void addSourceFields(Form& form, At at) {
    for (const SourceRow& kind : sourceKinds()) {
        for (std::size_t i = 0; i < kind.fields.size(); ++i) {
            const auto value = [at, i, wanted = kind.kind](auto& e) {
                using Value = decltype(&at(e)->values[i]);
                return at(e) != nullptr && at(e)->kind == wanted ? &at(e)->values[i] : Value{};
            };
            QWidget* made = addField(form, kind.fields[i], value, false);
            form.onlyWhen(
                made, sourceIs(at, [wanted = kind.kind](const SourceRow& r) { return r.kind == wanted; }));
        }
    }
}

template<class At>
void addSourceRest(Form& form, At at) {
    QComboBox* rest = form.choice(
        Form::tr("Rests"),
        [](const Ensemble&) {
            return QStringList{Form::tr("As usual"), Form::tr("At the low end"), Form::tr("In the middle")};
        },
        [at](const Ensemble& e) {
            return at(e) == nullptr || !at(e)->rest ? 0 : *at(e)->rest == Rest::low ? 1 : 2;
        },
        [at](Ensemble& e, int index) {
            if (at(e) == nullptr) return;
            at(e)->rest = index == 0 ? std::nullopt : std::optional(index == 1 ? Rest::low : Rest::middle);
        });
    form.onlyWhen(rest, sourceIs(at, isHeard));
}

template<class At>
void addSource(Form& form, const QString& label, At at) {
    addSourceKind(form, label, at);
    addSourceNumber(form, at);
    addSourceOrigin(form, at);
    addSourceFields(form, at);
    addSourceRest(form, at);
}

}  // namespace mellow::app
