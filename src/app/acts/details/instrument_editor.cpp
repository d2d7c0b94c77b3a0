// The editor of an instrument: its name, where it plays, what it listens to, and what passes.
#include <algorithm>

#include "app/acts/details/editors.h"
#include "app/acts/details/port_offers.h"
#include "core/model/fresh_name.h"
#include "io/sound/practice_rack.h"
#include "io/sound/practice_sound.h"

namespace mellow::app {

namespace {

bool isInHand(const Ensemble& e, const std::string& id) {
    return !e.inHand || std::find(e.inHand->begin(), e.inHand->end(), id) != e.inHand->end();
}

/// Takes an instrument into hand or out of it. All in hand is written as no list at all.
void setInHand(Ensemble& e, const std::string& id, bool in) {
    std::vector<std::string> ids;
    for (const Instrument& instrument : e.instruments) {
        if (instrument.id == id ? in : isInHand(e, instrument.id)) ids.push_back(instrument.id);
    }
    if (ids.size() == e.instruments.size()) {
        e.inHand.reset();
    } else {
        e.inHand = std::move(ids);
    }
}

/// Whether a name is a word, or that with a number that tells it from others.
bool isCalledAfter(const std::string& name, const std::string& word) {
    if (name.compare(0, word.size(), word) != 0) return false;
    const std::string rest = name.substr(word.size());
    return rest.empty() || (rest.size() > 1 && rest[0] == ' ' &&
                            rest.find_first_not_of("0123456789", 1) == std::string::npos);
}

/// An instrument that nobody has named is called after what it has now. before: what it had.
void nameAfter(Ensemble& e, Instrument& instrument, const std::string& before, const std::string& now) {
    const bool made = isCalledAfter(instrument.name, "New instrument") ||
                      (!before.empty() && isCalledAfter(instrument.name, before));
    if (!made || now.empty() || now == before) return;
    const auto isTaken = [&](const std::string& name) {
        return std::any_of(e.instruments.begin(), e.instruments.end(), [&](const Instrument& each) {
            return each.id != instrument.id && each.name == name;
        });
    };
    instrument.name = freshName(now, isTaken);
}

std::string soundName(int program) {
    const auto& names = io::soundNames();
    return program >= 0 && program < static_cast<int>(names.size()) ? names[static_cast<std::size_t>(program)]
                                                                    : std::string();
}

/// A port inside the program says nothing about who is behind it.
std::string speakingPort(const std::string& port) {
    return port == io::practiceRackPort ? std::string() : port;
}

template<class At>
void addHandAndName(Form& form, At at) {
    form.text(
        Form::tr("Name"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->name) : QString(); },
        [at](Ensemble& e, const QString& name) {
            if (at(e)) at(e)->name = name.toStdString();
        });
    addSwitch(form, Form::tr("Instrument is on"), at);
    form.flag(
            Form::tr("In hand"), [at](const Ensemble& e) { return at(e) && isInHand(e, at(e)->id); },
            [at](Ensemble& e, bool in) {
                if (at(e)) setInHand(e, at(e)->id, in);
            })
        ->setToolTip(
            Form::tr("The hands play it now: it gets notes, and its chains that work only in hand move"));
}

template<class At>
void addOutput(Form& form, At at, const Workspace& workspace) {
    QLineEdit* port = portField(
        form, workspace, Form::tr("Plays to"), false,
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->output.port) : QString(); },
        [at](Ensemble& e, const std::string& name) {
            if (!at(e) || name.empty()) return;
            const std::string before = speakingPort(at(e)->output.port);
            at(e)->output.port = name;
            nameAfter(e, *at(e), before, speakingPort(name));
        });
    port->setToolTip(
        Form::tr("practice-rack, a port that is there, or a name of your own that you connect in Gear"));
    form.number(
        Form::tr("Channel"), {}, {1, 16, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->output.channel : 1; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->output.channel = static_cast<int>(value);
        });
    QComboBox* sound = form.choice(
        Form::tr("Rack sound"),
        [](const Ensemble&) {
            QStringList names;
            for (const char* name : io::soundNames()) names << QString::fromLatin1(name);
            return names;
        },
        [at](const Ensemble& e) { return at(e) ? io::practiceSound(*at(e)) : 0; },
        [at](Ensemble& e, int program) {
            if (!at(e)) return;
            const std::string before = soundName(io::practiceSound(*at(e)));
            io::setPracticeSound(*at(e), program);
            nameAfter(e, *at(e), before, soundName(program));
        });
    form.onlyWhen(sound, [at](const Ensemble& e) {
        return at(e) && at(e)->output.port == io::practiceRackPort && at(e)->output.channel != 10;
    });
}

template<class At>
void addInput(Form& form, At at, const Workspace& workspace) {
    form.section(Form::tr("Listens to"));
    QLineEdit* port = portField(
        form, workspace, Form::tr("Port"), true,
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->input.port) : QString(); },
        [at](Ensemble& e, const std::string& name) {
            if (at(e)) at(e)->input.port = name.empty() ? std::string(anyPort) : name;
        });
    port->setToolTip(Form::tr("any, practice-keys, a port that is there, or a name of your own"));
    form.choice(
        Form::tr("Channel"),
        [](const Ensemble&) {
            QStringList names{Form::tr("Any")};
            for (int channel = 1; channel <= 16; ++channel) names << QString::number(channel);
            return names;
        },
        [at](const Ensemble& e) { return at(e) ? at(e)->input.channel.value_or(0) : 0; },
        [at](Ensemble& e, int index) {
            if (at(e)) at(e)->input.channel = index == 0 ? std::nullopt : std::optional(index);
        });
    form.choice(
            Form::tr("Zone"),
            [](const Ensemble&) {
                return QStringList{Form::tr("None: all channels"), Form::tr("The lower zone’s"),
                                   Form::tr("The upper zone’s")};
            },
            [at](const Ensemble& e) {
                return at(e) && at(e)->input.zone ? static_cast<int>(*at(e)->input.zone) + 1 : 0;
            },
            [at](Ensemble& e, int index) {
                if (!at(e)) return;
                at(e)->input.zone.reset();
                if (index > 0) at(e)->input.zone = static_cast<midi::Zone>(index - 1);
            })
        ->setToolTip(
            Form::tr("Of a keyboard with a channel for each finger (MPE): what one of its zones plays"));
    form.number(
        Form::tr("Lowest key"), {}, {0, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->input.lowKey : 0; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->input.lowKey = static_cast<int>(value);
        });
    form.number(
        Form::tr("Highest key"), {}, {0, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->input.highKey : 127; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->input.highKey = static_cast<int>(value);
        });
    form.number(
        Form::tr("Softest"), {}, {1, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->input.lowVelocity : 1; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->input.lowVelocity = static_cast<int>(value);
        });
    form.number(
        Form::tr("Hardest"), {}, {1, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->input.highVelocity : 127; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->input.highVelocity = static_cast<int>(value);
        });
    form.number(
        Form::tr("Transpose"), {}, {-127, 127, 1, true, false},
        [at](const Ensemble& e) { return at(e) ? at(e)->input.transpose : 0; },
        [at](Ensemble& e, double value) {
            if (at(e)) at(e)->input.transpose = static_cast<int>(value);
        });
}

template<class At>
void addPass(Form& form, At at) {
    form.section(Form::tr("Passes on"));
    const auto passFlag = [&](const QString& label, bool Pass::*member) {
        form.flag(
            label, [at, member](const Ensemble& e) { return at(e) && at(e)->pass.*member; },
            [at, member](Ensemble& e, bool on) {
                if (at(e)) at(e)->pass.*member = on;
            });
    };
    passFlag(Form::tr("Notes"), &Pass::notes);
    passFlag(Form::tr("What no chain takes"), &Pass::unmatched);
    passFlag(Form::tr("SysEx"), &Pass::sysex);
    passFlag(Form::tr("Clock"), &Pass::clock);
    form.flag(
            Form::tr("Fingers keep their channels"),
            [at](const Ensemble& e) { return at(e) && at(e)->output.keepChannels; },
            [at](Ensemble& e, bool on) {
                if (at(e)) at(e)->output.keepChannels = on;
            })
        ->setToolTip(Form::tr(
            "For an instrument that knows a channel for each finger (MPE): what passes stays on it"));
}

}  // namespace

Form* makeInstrumentEditor(const Workspace& context) {
    auto* form = new Form(context.document);
    const Selection& selection = context.selection;
    const auto at = [&selection](auto& ensemble) { return instrumentOf(ensemble, selection.now()); };
    addHandAndName(*form, at);
    addOutput(*form, at, context);
    addInput(*form, at, context);
    addPass(*form, at);
    return form;
}

}  // namespace mellow::app
