// The editor of a parameter: its message, how its range is shown, and where it rests.
#include <algorithm>

#include "app/acts/details/editors.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "core/reuse/carrying.h"
#include "core/sheet/numbers.h"

namespace mellow::app {

namespace {

QStringList lawLabels() {
    return {Form::tr("Even (linear)"), Form::tr("Log"), Form::tr("Decibel"), Form::tr("Choices")};
}

QStringList mixLabels() {
    return {Form::tr("The latest moved"), Form::tr("The highest"),   Form::tr("The lowest"),
            Form::tr("Their sum"),        Form::tr("Their product"), Form::tr("Their average")};
}

template<class At>
void addMessage(Form& form, At at) {
    form.choice(
        Form::tr("Message"),
        [](const Ensemble&) {
            QStringList names;
            for (const MessageRow& kind : messageKinds()) names << toQt(kind.label);
            return names;
        },
        [at](const Ensemble& e) { return at(e) ? static_cast<int>(at(e)->message.kind) : -1; },
        [at](Ensemble& e, int index) {
            if (!at(e)) return;
            Message& message = at(e)->message;
            const int number = message.number;
            message = {};
            message.kind = static_cast<MessageKind>(index);
            if (row(message.kind).numbered)
                message.number = std::clamp(number, 0, row(message.kind).highestNumber);
            if (message.kind == MessageKind::osc) message.address = "/" + at(e)->id;
        });
    NumberField* number = form.number(
        Form::tr("Number"), {}, {0, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->message.number : 0; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->message.number = static_cast<int>(value);
        });
    form.onlyWhen(number, [at, number](const Ensemble& e) {
        if (!at(e) || !row(at(e)->message.kind).numbered) return false;
        number->setBounds(0, row(at(e)->message.kind).highestNumber, 1);
        return true;
    });
}

/// The next control number that nobody has where an instrument plays.
template<class At, class InstrumentAt>
void addFreeNumber(Form& form, At at, InstrumentAt instrument) {
    QPushButton* free = form.act(
        Form::tr("Next free number"), Form::tr("Take the next control number that nobody has on this output"),
        QStringLiteral("nextFreeNumber"), [at, instrument](Ensemble& e) {
            const Instrument* of = instrument(std::as_const(e));
            if (of == nullptr || !at(std::as_const(e))) return;
            const sheet::Outlet outlet{of->output.port, of->output.channel};
            const int number = sheet::FreeNumbers(e).take(outlet, at(std::as_const(e))->message.number);
            if (number >= 0) at(e)->message.number = number;
        });
    form.onlyWhen(free, [at](const Ensemble& e) { return at(e) && at(e)->message.kind == MessageKind::cc; });
}

/// What some kinds of message have beside a number.
template<class At>
void addMessageParts(Form& form, At at) {
    const auto has = [at](std::string_view part) {
        return [at, part](const Ensemble& e) { return at(e) && row(at(e)->message.kind).part == part; };
    };
    NumberField* velocity = form.number(
        Form::tr("Velocity"), {}, {1, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->message.velocity : 100; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->message.velocity = static_cast<int>(value);
        });
    form.onlyWhen(velocity, has("velocity"));
    QLineEdit* bank = form.text(
        Form::tr("Bank"),
        [at](const Ensemble& e) {
            if (!at(e) || !at(e)->message.bank) return QString();
            return QStringLiteral("%1, %2").arg((*at(e)->message.bank)[0]).arg((*at(e)->message.bank)[1]);
        },
        [at](Ensemble& e, const QString& typed) {
            if (!at(e)) return;
            const std::vector<std::string> parts = parted(typed);
            at(e)->message.bank.reset();
            if (parts.size() == 2)
                at(e)->message.bank = {QString::fromStdString(parts[0]).toInt(),
                                       QString::fromStdString(parts[1]).toInt()};
        });
    bank->setToolTip(Form::tr("CC 0 and CC 32 that go before the program, such as 0, 3; empty for none"));
    form.onlyWhen(bank, has("bank"));
    QLineEdit* address = form.text(
        Form::tr("Address"),
        [at](const Ensemble& e) {
            return at(e) ? QString::fromStdString(at(e)->message.address) : QString();
        },
        [at](Ensemble& e, const QString& typed) {
            if (at(e)) at(e)->message.address = typed.toStdString();
        });
    address->setToolTip(Form::tr("Such as /drone/cutoff; the instrument plays to osc.udp://HOST:PORT"));
    form.onlyWhen(address, has("address"));
}

/// owner: the id of the parameter's instrument; tell: says what a law cannot say.
template<class At>
void addDisplay(Form& form, At at, const std::function<std::string(const Ensemble&)>& owner,
                const std::function<void(const QString&)>& tell) {
    form.choice(
        Form::tr("Law"), [](const Ensemble&) { return lawLabels(); },
        [at](const Ensemble& e) {
            return at(e) ? static_cast<int>(at(e)->display.law.value_or(Law::linear)) : 0;
        },
        [at, owner, &tell](Ensemble& e, int index) {
            if (!at(e)) return;
            const Parameter before = *at(e);
            QStringList lost;
            for (const std::string& sentence : changeLaw(*at(e), static_cast<Law>(index)))
                lost << QString::fromStdString(sentence);
            const Parameter now = *at(e);
            reuse::carryReaches(e, owner(e), before, now);
            if (!lost.isEmpty()) tell(lost.join(u' '));
        });
    const auto lawIs = [at](std::initializer_list<Law> laws) {
        return [at, wanted = std::vector<Law>(laws)](const Ensemble& e) {
            const Law law = at(e) ? at(e)->display.law.value_or(Law::linear) : Law::linear;
            return std::find(wanted.begin(), wanted.end(), law) != wanted.end();
        };
    };
    // A reach that lies outside then goes to the same place in the new range.
    const auto bound = [at, owner](Ensemble& e, std::optional<double> Display::*end, double value) {
        auto* changed = at(e);
        if (changed == nullptr) return;
        const Parameter before = *changed;
        changed->display.*end = value;
        const Parameter now = *changed;
        reuse::carryReaches(e, owner(e), before, now);
    };
    NumberField* low = form.number(
        Form::tr("Shown from"), {}, {-1e6, 1e6, 1, false, false},
        [at](const Ensemble& e) { return at(e) ? rangeOf(*at(e)).low : 0; },
        [bound](Ensemble& e, double value) { bound(e, &Display::low, value); });
    form.onlyWhen(low, lawIs({Law::linear, Law::log}));
    NumberField* high = form.number(
        Form::tr("Shown to"), {}, {-1e6, 1e6, 1, false, false},
        [at](const Ensemble& e) { return at(e) ? rangeOf(*at(e)).high : 127; },
        [bound](Ensemble& e, double value) { bound(e, &Display::high, value); });
    form.onlyWhen(high, lawIs({Law::linear, Law::log, Law::decibel}));
    QLineEdit* unit = form.text(
        Form::tr("Unit"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->display.unit) : QString(); },
        [at](Ensemble& e, const QString& text) {
            if (at(e)) at(e)->display.unit = text.toStdString();
        });
    form.onlyWhen(unit, lawIs({Law::linear, Law::log}));
    QLineEdit* choices = form.text(
        Form::tr("Choices"),
        [at](const Ensemble& e) { return at(e) ? joined(at(e)->display.choices) : QString(); },
        [at](Ensemble& e, const QString& text) {
            if (at(e)) at(e)->display.choices = parted(text);
        });
    choices->setToolTip(Form::tr("Names separated by commas, lowest first"));
    form.onlyWhen(choices, lawIs({Law::choices}));
}

template<class At>
void addRest(Form& form, At at) {
    QLineEdit* rest = form.text(
        Form::tr("Rests at"),
        [at](const Ensemble& e) {
            return at(e) ? QString::fromStdString(displayText(rangeOf(*at(e)), restPosition(*at(e))))
                         : QString();
        },
        [at](Ensemble& e, const QString& typed) {
            if (!at(e)) return;
            if (typed.isEmpty()) at(e)->rest.reset();
            if (const auto level = parseLevel(rangeOf(*at(e)), typed.toStdString())) at(e)->rest = *level;
        });
    rest->setToolTip(
        Form::tr("Where a branch that goes to rest outside its part sends it; empty for the usual place"));
    QComboBox* middle = form.choice(
        Form::tr("Scale"),
        [](const Ensemble&) {
            return QStringList{Form::tr("As usual"), Form::tr("From end to end"),
                               Form::tr("Around its middle")};
        },
        [at](const Ensemble& e) { return !at(e) || !at(e)->centred ? 0
                                         : *at(e)->centred         ? 2
                                                                   : 1; },
        [at](Ensemble& e, int index) {
            if (at(e)) at(e)->centred = index == 0 ? std::nullopt : std::optional(index == 2);
        });
    middle->setToolTip(Form::tr("Around its middle, the value 64 or 8192 is exactly half way"));
    form.choice(
            Form::tr("Where chains meet"), [](const Ensemble&) { return mixLabels(); },
            [at](const Ensemble& e) { return at(e) ? static_cast<int>(at(e)->mix) : 0; },
            [at](Ensemble& e, int index) {
                if (at(e)) at(e)->mix = static_cast<Mix>(index);
            })
        ->setToolTip(Form::tr("What is sent where several branches lead to this parameter"));
    form.flag(
            Form::tr("Locked"), [at](const Ensemble& e) { return at(e) && at(e)->locked; },
            [at](Ensemble& e, bool on) {
                if (at(e)) at(e)->locked = on;
            })
        ->setToolTip(Form::tr("It stays where it is when values are drawn or put to rest"));
    form.flag(
        Form::tr("Send repeats too"), [at](const Ensemble& e) { return at(e) && at(e)->repeats; },
        [at](Ensemble& e, bool on) {
            if (at(e)) at(e)->repeats = on;
        });
}

}  // namespace

Form* makeParameterEditor(const Workspace& context, int place) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection, place](auto& ensemble) {
        auto* instrument = instrumentOf(ensemble, selection.now());
        using ParameterPointer = decltype(&instrument->parameters.front());
        const bool there =
            instrument != nullptr && place >= 0 && place < static_cast<int>(instrument->parameters.size());
        return there ? &instrument->parameters[static_cast<std::size_t>(place)] : ParameterPointer{};
    };
    form->text(
        Form::tr("Name"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->name) : QString(); },
        [at](Ensemble& e, const QString& name) {
            if (at(e)) at(e)->name = name.toStdString();
        });
    addMessage(*form, at);
    addFreeNumber(*form, at, [&selection](const Ensemble& e) { return instrumentOf(e, selection.now()); });
    addMessageParts(*form, at);
    addDisplay(
        *form, at,
        [&selection](const Ensemble& e) {
            const Instrument* instrument = instrumentOf(e, selection.now());
            return instrument == nullptr ? std::string() : instrument->id;
        },
        context.tell);
    addRest(*form, at);
    return form;
}

}  // namespace mellow::app
