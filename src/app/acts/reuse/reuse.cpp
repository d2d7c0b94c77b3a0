#include "app/acts/reuse/reuse.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QMimeData>

#include "app/acts/reuse/give_dialog.h"
#include "app/acts/reuse/keep_dialog.h"
#include "app/acts/reuse/match_dialog.h"
#include "app/acts/reuse/profile_model.h"
#include "app/acts/reuse/table_dialog.h"
#include "app/document/library_folder.h"
#include "app/ground/words.h"
#include "app/widgets/finder.h"
#include "core/describe/sentence.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/profiles/columns.h"
#include "core/reuse/parts.h"
#include "core/store/part_json.h"
#include "core/text/printable.h"

namespace mellow::app {

namespace {

/// Runs act(list, place) on the list of steps that the selection lies in, with the place behind what is
/// selected; nothing where no chain is selected.
template<class Act>
void onSteps(Ensemble& ensemble, const Selected& selected, Act&& act) {
    Chain* chain = chainOf(ensemble, selected);
    if (chain == nullptr) return;
    Branch* branch = branchOf(ensemble, selected);
    const bool inBranch =
        branch != nullptr && (selected.part == Part::branch || selected.part == Part::branchStep);
    std::vector<Step>& steps = inBranch ? branch->steps : chain->steps;
    const int last = static_cast<int>(steps.size());
    const int place = selected.part == Part::step         ? selected.index + 1
                      : selected.part == Part::branchStep ? selected.inner + 1
                                                          : last;
    act(steps, std::clamp(place, 0, last), inBranch);
}

}  // namespace

Reuse::Reuse(Document& document, Selection& selection, CurveStore& curves, Tell tell, QWidget* window)
    : QObject(window),
      document_(document),
      selection_(selection),
      curves_(curves),
      tell_(std::move(tell)),
      window_(window) {}

void Reuse::carryCurves(mellow::Part& part) {
    const QStringList left = curves_.carryInto(part.measurements);
    if (!left.isEmpty()) tell_(tr("A measurement stays behind: %1.").arg(left.front()));
}

std::string Reuse::owner() const {
    return selection_.now().instrument;
}

/// In the order of their owner.
std::vector<std::string> Reuse::chosenChains() const {
    std::vector<std::string> ids;
    for (const Selected& each : selection_.everySelected()) ids.push_back(each.chain);
    return ids;
}

mellow::Part Reuse::selected() const {
    const Ensemble& ensemble = document_.ensemble();
    const Selected& now = selection_.now();
    switch (now.part) {
        case Part::instrument:
            if (!isShared(now)) return reuse::takeInstrument(ensemble, now.instrument);
            break;
        case Part::source:
            return reuse::takeChains(ensemble, now.instrument, chosenChains());
        case Part::branch: {
            std::vector<Branch> branches;
            for (const Selected& each : selection_.everySelected()) {
                if (const Branch* branch = branchOf(ensemble, each)) branches.push_back(*branch);
            }
            if (!branches.empty()) return reuse::takeBranches(ensemble, now.instrument, branches);
            break;
        }
        case Part::step:
        case Part::branchStep:
            if (const Step* step = stepOf(ensemble, now)) return reuse::takeSteps(ensemble, {*step});
            break;
    }
    if (!isShared(now)) return {};
    std::vector<std::string> all;
    for (const Chain& chain : ensemble.sharedChains) all.push_back(chain.id);
    return reuse::takeChains(ensemble, sharedOwner, all);
}

void Reuse::copy() {
    mellow::Part part = selected();
    if (part.isEmpty()) return tell_(tr("Select an instrument, a chain, a step or a branch to copy."));
    carryCurves(part);
    QGuiApplication::clipboard()->setText(toQt(store::printPart(part)));
}

void Reuse::paste() {
    const QString text = QGuiApplication::clipboard()->text();
    if (text.trimmed().isEmpty()) return tell_(tr("The clipboard holds no text to paste."));
    const auto part = store::parsePart(text.toStdString());
    if (part) return put(*part);
    // A table from a spreadsheet is parameters of the instrument.
    profiles::Table rows = profiles::parseTable(text.toStdString());
    const auto said = profiles::thingsIn<mellow::Parameter>(rows);
    if (said.things.empty())
        return tell_(tr("What the clipboard holds is no part of an ensemble and no table: %1.")
                         .arg(toQt(part.problem().sentence())));
    const Instrument* instrument = instrumentOf(document_.ensemble(), selection_.now());
    if (instrument != nullptr) return takeTable(instrument->id, std::move(rows));
    mellow::Part table;
    table.parameters = said.things;
    put(table);
}

/// What is understood of it is shown before.
void Reuse::takeTable(const std::string& instrument, profiles::Table table) {
    auto* model = new ProfileModel(document_, this);
    model->show(ProfilePlace::parameters(instrument));
    auto* dialog = TableDialog::takeIn(window_, tr("Paste parameters"), *model, std::move(table), tell_);
    connect(dialog, &QDialog::finished, model, &QObject::deleteLater);
}

void Reuse::put(const mellow::Part& part) {
    if (part.isEmpty()) return tell_(tr("There is nothing in it."));
    if (document_.isReadOnly()) return document_.edit({}, [](Ensemble&) {});
    if (!part.instruments.empty() || !part.controllers.empty()) {
        Selected then = selection_.now();
        mellow::Part put = part;
        if (const Outcome settled = curves_.settle(put.measurements); !settled)
            tell_(toQt(settled.problem().sentence()) + QLatin1Char('.'));
        document_.edit(tr("Paste %1").arg(toQt(text::printable(part.name, 40))), [&](Ensemble& e) {
            reuse::putControllers(e, part);
            const auto ids = reuse::putInstruments(e, put);
            if (!ids.empty()) then = {ids.front(), {}, Part::instrument, 0, 0};
            if (part.chains.empty()) return;
            reuse::putChains(e, sharedOwner, part, reuse::proposal(e, sharedOwner, part));
        });
        selection_.set(then);
        return;
    }
    if (!part.steps.empty()) return putSteps(part);
    if (!part.elements.empty()) return putElements(part);
    const Ensemble& ensemble = document_.ensemble();
    if (ensemble.instruments.empty() && !isShared(selection_.now())) return putWithInstrument(part);
    if (chainsOf(ensemble, selection_.now()) == nullptr)
        return tell_(tr("Select an instrument first: chains belong to one."));
    if (part.chains.empty() && part.branches.empty()) {
        document_.edit(tr("Paste parameters"), [&](Ensemble& e) {
            if (Instrument* instrument = instrumentOf(e, selection_.now()))
                profiles::merge(instrument->parameters, part.parameters);
        });
        return;
    }
    if (part.chains.empty() && chainOf(ensemble, selection_.now()) == nullptr)
        return tell_(tr("Select a chain first: a branch belongs to one."));
    const auto act = [this, part](const reuse::Matches& matches) {
        part.chains.empty() ? putBranches(part, matches) : putChains(part, matches);
    };
    const reuse::Matches matches = reuse::proposal(ensemble, owner(), part);
    if (reuse::isComplete(matches)) return act(matches);
    MatchTable table = parameterTable(part.parameters, reuse::targetsOf(ensemble, owner()), matches);
    table.canMake = owner() != sharedOwner;
    MatchDialog::ask(window_, tr("Targets of what is pasted"),
                     tr("Not every target is here. Say what each becomes."), tr("Paste"), {table},
                     [act](const std::vector<MatchTable>& tables) { act(tables.front().matches); });
}

/// Where there is no instrument yet, there comes one that has what the chains lead to.
void Reuse::putWithInstrument(const mellow::Part& part) {
    if (part.chains.empty() && part.parameters.empty())
        return tell_(tr("Select a chain first: a branch belongs to one."));
    Selected then;
    document_.edit(tr("Paste with a new instrument"), [&](Ensemble& e) {
        Instrument made = newInstrument(e);
        made.parameters.clear();
        if (part.chains.empty()) profiles::merge(made.parameters, part.parameters);
        then = {made.id, {}, Part::instrument, 0, 0};
        e.instruments.push_back(std::move(made));
        reuse::Matches matches = reuse::proposal(e, then.instrument, part);
        for (reuse::Match& match : matches) match.make = !match.to;
        const auto ids = reuse::putChains(e, then.instrument, part, matches);
        if (!ids.empty()) then = {then.instrument, ids.front(), Part::source, 0, 0};
    });
    selection_.set(then);
}

void Reuse::putChains(const mellow::Part& part, const reuse::Matches& matches) {
    Selected then = selection_.now();
    document_.edit(tr("Paste %n chain(s)", nullptr, static_cast<int>(part.chains.size())), [&](Ensemble& e) {
        const auto ids = reuse::putChains(e, owner(), part, matches, then.chain);
        if (!ids.empty()) then = {then.instrument, ids.front(), Part::source, 0, 0};
    });
    selection_.set(then);
}

void Reuse::putBranches(const mellow::Part& part, const reuse::Matches& matches) {
    Selected then = selection_.now();
    document_.edit(
        tr("Paste %n branch(es)", nullptr, static_cast<int>(part.branches.size())), [&](Ensemble& e) {
            std::vector<Branch> branches = reuse::putBranches(e, owner(), part, matches);
            Chain* chain = chainOf(e, then);
            if (chain == nullptr || branches.empty()) return;
            const int last = static_cast<int>(chain->branches.size());
            const bool onBranch = then.part == Part::branch || then.part == Part::branchStep;
            const int place = onBranch ? std::min(then.index + 1, last) : last;
            chain->branches.insert(chain->branches.begin() + place, branches.begin(), branches.end());
            then = {then.instrument, then.chain, Part::branch, place, 0};
        });
    selection_.set(then);
}

/// Onto the page of the desk that was shown last.
void Reuse::putElements(const mellow::Part& part) {
    std::string page = selection_.on<DeskPlace>().page;
    std::size_t made = 0;
    document_.edit(tr("Put %n element(s) on the desk", nullptr, static_cast<int>(part.elements.size())),
                   [&](Ensemble& e) {
                       if (e.desk.pages.empty())
                           e.desk.pages.push_back(newDeskPage(e, tr("New page").toStdString()));
                       if (findById(e.desk.pages, page) == nullptr) page = e.desk.pages.front().id;
                       made = reuse::putElements(e, page, part).size();
                   });
    selection_.amend(DeskPlace{page});
    if (made < part.elements.size())
        tell_(tr("There is no room for %n element(s) on this page of the desk.", nullptr,
                 static_cast<int>(part.elements.size() - made)));
}

void Reuse::putSteps(const mellow::Part& part) {
    Selected then = selection_.now();
    if (chainOf(document_.ensemble(), then) == nullptr)
        return tell_(tr("Select a chain first: a step belongs to one."));
    document_.edit(tr("Paste %n step(s)", nullptr, static_cast<int>(part.steps.size())), [&](Ensemble& e) {
        const std::vector<Step> made = reuse::putSteps(e, part);
        onSteps(e, then, [&](std::vector<Step>& steps, int place, bool inBranch) {
            steps.insert(steps.begin() + place, made.begin(), made.end());
            then.part = inBranch ? Part::branchStep : Part::step;
            (inBranch ? then.inner : then.index) = place;
        });
    });
    selection_.set(then);
}

void Reuse::give(QWidget* at) {
    const Ensemble& ensemble = document_.ensemble();
    const Selected now = selection_.now();
    if (chainOf(ensemble, now) == nullptr) return tell_(tr("Select the chain that others are to have."));
    if (ensemble.instruments.size() < (isShared(now) ? 1U : 2U))
        return tell_(tr("There is no other instrument to give it to."));
    GiveDialog::ask(at->window(), ensemble, now,
                    [this](const std::vector<std::string>& ids) { giveTo(ids); });
}

void Reuse::giveTo(const std::vector<std::string>& instruments) {
    const Ensemble& ensemble = document_.ensemble();
    const Selected now = selection_.now();
    const mellow::Part part = reuse::takeChains(ensemble, now.instrument, chosenChains());
    if (part.chains.empty() || instruments.empty()) return;
    const QString what = part.chains.size() > 1
                             ? tr("%n chain(s)", nullptr, static_cast<int>(part.chains.size()))
                             : QStringLiteral("“%1”").arg(nameToShow(nameOf(part.chains.front())));
    std::vector<MatchTable> tables;
    for (const std::string& id : instruments) {
        const Instrument* instrument = findById(ensemble.instruments, id);
        if (instrument == nullptr) continue;
        tables.push_back(
            parameterTable(part.parameters, instrument->parameters, reuse::proposal(ensemble, id, part)));
        tables.back().title = nameToShow(nameOf(*instrument));
        tables.back().id = id;
    }
    MatchDialog::ask(
        window_, tr("Give %1").arg(what),
        tr("Each target is looked for by its name, then by its message. Correct what is not "
           "right."),
        tr("Give"), tables, [this, part, what](const std::vector<MatchTable>& chosen) {
            document_.edit(
                tr("Give %1 to %n instrument(s)", nullptr, static_cast<int>(chosen.size())).arg(what),
                [&](Ensemble& e) {
                    for (const MatchTable& table : chosen) reuse::putChains(e, table.id, part, table.matches);
                });
        });
}

void Reuse::keep() {
    keep(selected());
}

void Reuse::keep(mellow::Part part) {
    if (part.isEmpty()) return tell_(tr("Select an instrument, a chain, a step or a branch to keep."));
    if (part.name.empty() && part.steps.size() == 1) part.name = describe::stepLabel(part.steps.front(), 0);
    if (part.about.empty() && part.chains.size() == 1) {
        // The chain says itself what it does.
        const Selected now = selection_.now();
        if (const Chain* chain = chainOf(document_.ensemble(), now))
            part.about = describe::chainSentence(document_.ensemble(),
                                                 instrumentOf(document_.ensemble(), now), *chain);
    }
    carryCurves(part);
    KeepDialog::ask(window_, std::move(part));
}

void Reuse::find(QWidget* at) {
    Finder::open(
        at, tr("From the library: type what it is"),
        [this, shelf = std::make_shared<library::Shelf>(wholeLibrary())](const QString& typed) {
            std::vector<Found> found;
            for (const std::size_t place : library::find(*shelf, typed.toStdString())) {
                const mellow::Part& part = shelf->items[place].part;
                found.push_back({nameToShow(part.name), toQt(library::contents(part)), toQt(part.about),
                                 [this, shelf, place] { put(shelf->items[place].part); }});
            }
            for (const Problem& problem : shelf->problems)
                found.push_back({toQt(problem.where), tr("cannot be read"), toQt(problem.sentence()),
                                 [this, problem] { tell_(toQt(problem.sentence())); }});
            return found;
        });
}

void Reuse::swapInstrument(QWidget* at) {
    const Selected now = selection_.now();
    if (instrumentOf(document_.ensemble(), now) == nullptr)
        return tell_(tr("Select the instrument whose place another is to take."));
    auto others = std::make_shared<std::vector<Instrument>>();
    for (const Instrument& instrument : document_.ensemble().instruments) {
        if (instrument.id != now.instrument) others->push_back(instrument);
    }
    const std::size_t here = others->size();
    for (const library::Item& item : wholeLibrary().items)
        others->insert(others->end(), item.part.instruments.begin(), item.part.instruments.end());
    Finder::open(at, tr("Swap for which instrument?"), [this, others, here](const QString& typed) {
        std::vector<Found> found;
        for (std::size_t i = 0; i < others->size(); ++i) {
            const Instrument& other = (*others)[i];
            if (!hasWords(nameToShow(nameOf(other)), typed)) continue;
            found.push_back({nameToShow(nameOf(other)),
                             i < here ? tr("of this ensemble") : tr("of the library"),
                             tr("%n parameter(s)", nullptr, static_cast<int>(other.parameters.size())),
                             [this, others, i] { swapInstrumentFor((*others)[i]); }});
        }
        return found;
    });
}

namespace {

QString leftWords(const std::vector<reuse::LeftOver>& left) {
    QStringList words;
    constexpr std::size_t most = 4;
    for (std::size_t i = 0; i < std::min(most, left.size()); ++i)
        words << Reuse::tr("%1 (in %2)").arg(toQt(left[i].what), toQt(left[i].where));
    if (left.size() > most) words << Reuse::tr("%n more", nullptr, static_cast<int>(left.size() - most));
    return words.join(QStringLiteral(", "));
}

}  // namespace

void Reuse::swapInstrumentFor(const Instrument& other) {
    const Ensemble& ensemble = document_.ensemble();
    const std::string id = selection_.now().instrument;
    const Instrument* instrument = findById(ensemble.instruments, id);
    if (instrument == nullptr) return;
    MatchTable table = parameterTable(instrument->parameters, other.parameters,
                                      reuse::matchParameters(instrument->parameters, other.parameters));
    // What no chain leads to is no matter.
    for (reuse::Match& match : table.matches) match.make = false;
    table.makeWord = tr("Keep it as it was");
    MatchDialog::ask(window_,
                     tr("Swap “%1” for “%2”").arg(nameToShow(nameOf(*instrument)), nameToShow(nameOf(other))),
                     tr("Its ports and chains stay. On the left what the chains lead to now, on the right "
                        "what they will lead to."),
                     tr("Swap"), {table}, [this, id, other](const std::vector<MatchTable>& tables) {
                         std::vector<reuse::LeftOver> left;
                         document_.edit(tr("Swap the instrument"), [&](Ensemble& e) {
                             left = reuse::swapInstrument(e, id, other, tables.front().matches);
                             if (Instrument* swapped = findById(e.instruments, id))
                                 swapped->name = nameOf(other);
                         });
                         if (!left.empty()) tell_(tr("Left over, and taken out: %1.").arg(leftWords(left)));
                     });
}

void Reuse::swapController(QWidget* at, const std::string& controller) {
    auto others = std::make_shared<std::vector<Controller>>();
    for (const Controller& each : document_.ensemble().controllers) {
        if (each.id != controller) others->push_back(each);
    }
    const std::size_t here = others->size();
    for (const library::Item& item : wholeLibrary().items)
        others->insert(others->end(), item.part.controllers.begin(), item.part.controllers.end());
    Finder::open(
        at, tr("Swap for which controller?"), [this, others, here, controller](const QString& typed) {
            std::vector<Found> found;
            for (std::size_t i = 0; i < others->size(); ++i) {
                const Controller& other = (*others)[i];
                if (!hasWords(nameToShow(nameOf(other)), typed)) continue;
                found.push_back(
                    {nameToShow(nameOf(other)), i < here ? tr("of this ensemble") : tr("of the library"),
                     tr("%n control(s)", nullptr, static_cast<int>(other.controls.size())),
                     [this, others, i, controller] { swapControllerFor(controller, (*others)[i]); }});
            }
            return found;
        });
}

void Reuse::swapControllerFor(const std::string& id, const Controller& other) {
    const Controller* controller = findById(document_.ensemble().controllers, id);
    if (controller == nullptr) return;
    const MatchTable table = controlTable(controller->controls, other.controls,
                                          reuse::matchControls(controller->controls, other.controls));
    MatchDialog::ask(
        window_, tr("Swap “%1” for “%2”").arg(nameToShow(nameOf(*controller)), nameToShow(nameOf(other))),
        tr("Every chain that follows a control on the left will follow the one on the right."), tr("Swap"),
        {table}, [this, id, other](const std::vector<MatchTable>& tables) {
            std::vector<reuse::LeftOver> left;
            document_.edit(tr("Swap the controller"), [&](Ensemble& e) {
                left = reuse::swapController(e, id, other, tables.front().matches);
            });
            if (!left.empty())
                tell_(tr("Left over, and still listening to their old messages: %1.").arg(leftWords(left)));
        });
}

}  // namespace mellow::app
