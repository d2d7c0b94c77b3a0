// The editor of what belongs to the whole ensemble: its tempo, tie lines, and how controllers hand over.
#include "app/acts/details/editors.h"
#include "app/acts/details/port_offers.h"
#include "core/model/edit.h"

namespace mellow::app {

namespace {

template<class List>
auto* placeIn(List& list, std::size_t place) {
    using Pointer = decltype(&list.front());
    return place < list.size() ? &list[place] : Pointer{};
}

void addTempo(Form& form, const Workspace& workspace) {
    form.section(Form::tr("Tempo"));
    form.number(
            Form::tr("BPM"), QString(), {20, 400, 1, false, false},
            [](const Ensemble& e) { return e.tempo.bpm; }, [](Ensemble& e, double bpm) { e.tempo.bpm = bpm; })
        ->setToolTip(
            Form::tr("Beats a minute, for cycles in beats, until what the tempo follows has spoken"));
    form.choice(
            Form::tr("Follows"),
            [](const Ensemble&) {
                return QStringList{Form::tr("Nothing"), Form::tr("MIDI clock"), Form::tr("Transport")};
            },
            [](const Ensemble& e) { return static_cast<int>(e.tempo.follow); },
            [](Ensemble& e, int follow) { e.tempo.follow = static_cast<Follow>(follow); })
        ->setObjectName(QStringLiteral("tempoFollows"));
    QLineEdit* port = portField(
        form, workspace, Form::tr("Clock from"), true,
        [](const Ensemble& e) { return QString::fromStdString(e.tempo.port); },
        [](Ensemble& e, const std::string& name) {
            e.tempo.port = name.empty() ? std::string(anyPort) : name;
        });
    port->setToolTip(Form::tr("any, or the name of the port that the clock comes in through"));
    form.onlyWhen(port, [](const Ensemble& e) { return e.tempo.follow == Follow::clock; });
}

void addTieLine(Form& form, std::size_t place) {
    const auto at = [place](auto& e) { return placeIn(e.tieLines, place); };
    form.section(Form::tr("Tie line %1").arg(place + 1));
    form.text(
        Form::tr("Name"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(nameOf(*at(e))) : QString(); },
        [at](Ensemble& e, const QString& name) {
            if (at(e)) at(e)->name = name.toStdString();
        });
    form.number(
            Form::tr("Rests at"), QStringLiteral("share"), {0, 1, 0.01, false, false},
            [at](const Ensemble& e) { return at(e) ? at(e)->rest : 0; },
            [at](Ensemble& e, double value) {
                if (at(e)) at(e)->rest = value;
            })
        ->setToolTip(Form::tr("Where it stands before any chain has written it"));
    form.act(Form::tr("Remove"), Form::tr("Remove the tie line and the branches that lead to it"),
             QStringLiteral("removeTieLine%1").arg(place), [at](Ensemble& e) {
                 if (at(e)) removeTieLine(e, std::string(at(e)->id));
             });
}

void addController(Form& form, const Workspace& workspace, std::size_t place) {
    const auto at = [place](auto& e) { return placeIn(e.controllers, place); };
    form.section(Form::tr("Controller %1").arg(place + 1));
    form.text(
        Form::tr("Name"),
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(nameOf(*at(e))) : QString(); },
        [at](Ensemble& e, const QString& name) {
            if (at(e)) at(e)->name = name.toStdString();
        });
    QLineEdit* port = portField(
        form, workspace, Form::tr("Port"), true,
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->port) : QString(); },
        [at](Ensemble& e, const std::string& name) {
            if (at(e)) at(e)->port = name.empty() ? std::string(anyPort) : name;
        });
    port->setToolTip(Form::tr("any, practice-keys, the name of a port, or osc.udp://:PORT"));
    QLineEdit* feedback = portField(
        form, workspace, Form::tr("Motors, lights"), false,
        [at](const Ensemble& e) { return at(e) ? QString::fromStdString(at(e)->feedback) : QString(); },
        [at](Ensemble& e, const std::string& name) {
            if (at(e)) at(e)->feedback = name;
        });
    feedback->setToolTip(
        Form::tr("The port by which its motors and lights are told where its controls stand; empty: none"));
    addHandover(form, Form::tr("As usual"), at);
}

}  // namespace

Form* makeSharedEditor(const Workspace& context) {
    auto* form = new Form(context.document);
    const Ensemble& ensemble = context.document.ensemble();
    form->help(Form::tr("A tie line is an inner signal: chains lead to it, and chains follow it."));
    for (std::size_t i = 0; i < ensemble.tieLines.size(); ++i) addTieLine(*form, i);
    form->act(Form::tr("+ Tie line"), Form::tr("Add a tie line"), QStringLiteral("addTieLine"),
              [](Ensemble& e) { e.tieLines.push_back(newTieLine(e)); });
    addTempo(*form, context);
    for (std::size_t i = 0; i < ensemble.controllers.size(); ++i) addController(*form, context, i);
    return form;
}

}  // namespace mellow::app
