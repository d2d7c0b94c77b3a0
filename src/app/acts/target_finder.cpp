// What is typed is looked for in names and messages alike. Where it is neither, it is what one wants: "Rasp
// cc 21" makes a parameter of that name and message, "21" one of that number, "Rasp" one on the next free
// number.
#include "app/acts/target_finder.h"

#include <QCoreApplication>
#include <algorithm>

#include "app/ground/words.h"
#include "app/widgets/finder.h"
#include "core/describe/names.h"
#include "core/model/edit.h"
#include "core/model/resolve.h"
#include "core/profiles/message_text.h"

namespace mellow::app {

namespace {

/// The parameter that what is typed describes.
std::optional<Parameter> described(const Instrument& instrument, const QString& typed) {
    if (typed.isEmpty()) return std::nullopt;
    Parameter parameter = newParameter(instrument);
    const QStringList words = typed.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    // The message begins with the first word from which on all is one.
    for (qsizetype first = 0; first <= words.size(); ++first) {
        const QString name = words.mid(0, first).join(QLatin1Char(' '));
        const auto message = profiles::parseMessage(words.mid(first).join(QLatin1Char(' ')).toStdString());
        if (!message && first < words.size()) continue;
        if (message) parameter.message = *message;
        parameter.name = name.isEmpty() ? describe::madeName(parameter.message) : name.toStdString();
        break;
    }
    const MessageRow& kind = row(parameter.message.kind);
    const bool isTarget = parameter.message.kind != MessageKind::relative;
    if (!isTarget || (kind.numbered && parameter.message.number > kind.highestNumber)) return std::nullopt;
    parameter.id = newId(instrument.parameters, parameter.name);
    return parameter;
}

bool isReached(const Chain* chain, const std::string& target) {
    return chain != nullptr && std::any_of(chain->branches.begin(), chain->branches.end(),
                                           [&](const Branch& branch) { return branch.target == target; });
}

bool isReached(const std::vector<Chain>* chains, const std::string& target) {
    return chains != nullptr && std::any_of(chains->begin(), chains->end(),
                                            [&](const Chain& chain) { return isReached(&chain, target); });
}

class TargetSearch {
    Q_DECLARE_TR_FUNCTIONS(TargetSearch)

 public:
    TargetSearch(Workspace& workspace, TargetFor use)
        : workspace_(workspace), use_(use), selected_(workspace.selection.now()) {}

    std::vector<Found> operator()(const QString& typed) const {
        const Ensemble& ensemble = workspace_.document.ensemble();
        const Instrument* instrument = instrumentOf(ensemble, selected_);
        const Chain* chain = chainOf(ensemble, selected_);
        const std::vector<Chain>* chains = chainsOf(ensemble, selected_);
        // What nothing moves comes first, what this chain moves already last.
        std::vector<Found> fresh;
        std::vector<Found> moved;
        std::vector<Found> reached;
        for (const std::string& target : targetsFor(ensemble, instrument)) {
            const Target led = targetOf(ensemble, instrument, target);
            const QString name = nameToShow(nameOf(led, instrument == nullptr));
            const QString message = led.parameter != nullptr
                                        ? toQt(profiles::messageText(led.parameter->message))
                                        : tr("tie line");
            if (!hasWords(name + QLatin1Char(' ') + message, typed)) continue;
            const bool has = isReached(chain, target);
            const bool others = !has && isReached(chains, target);
            (has      ? reached
             : others ? moved
                      : fresh)
                .push_back({name,
                            has      ? tr("%1 · reached already").arg(message)
                            : others ? tr("%1 · another chain moves it").arg(message)
                                     : message,
                            {},
                            [this_ = *this, target] { this_.lead({target}); },
                            target});
        }
        fresh.insert(fresh.end(), moved.begin(), moved.end());
        if (const auto touched = workspace_.touched.last(); touched && typed.isEmpty())
            offerTouched(*touched, fresh);
        fresh.insert(fresh.end(), reached.begin(), reached.end());
        if (const auto made = instrument != nullptr ? described(*instrument, typed) : std::nullopt)
            fresh.push_back({tr("Make “%1”").arg(nameToShow(made->name)),
                             toQt(profiles::messageText(made->message)),
                             {},
                             [this_ = *this, made = *made] { this_.make(made); }});
        return fresh;
    }

 private:
    /// What was touched last stands first, unless the chain leads there already.
    void offerTouched(const TouchedParameter& touched, std::vector<Found>& found) const {
        if (!isShared(selected_) && touched.instrument != selected_.instrument) return;
        const std::string target =
            isShared(selected_) ? touched.instrument + "/" + touched.parameter : touched.parameter;
        const auto at = std::find_if(found.begin(), found.end(),
                                     [&target](const Found& each) { return each.key == target; });
        if (at == found.end()) return;
        at->detail = tr("%1 · touched last").arg(at->detail);
        std::rotate(found.begin(), at, at + 1);
    }

 public:
    /// Leads to all of them, as one edit; several that make a chain make one that leads to all.
    void lead(const std::vector<std::string>& targets) const {
        Selected then = selected_;
        // Several chains all lead there; one selected branch is led there alone.
        const std::vector<Selected> all = workspace_.selection.everySelected();
        workspace_.document.edit(tr("Lead to a target"), [&](Ensemble& e) {
            for (Selected each : all) {
                if (each != selected_) leadToAll(e, each, targets);
            }
            leadToAll(e, then, targets);
        });
        all.size() > 1 ? workspace_.selection.setTogether(selected_, all) : workspace_.selection.set(then);
    }

 private:
    void leadToAll(Ensemble& ensemble, Selected& selected, const std::vector<std::string>& targets) const {
        TargetFor use = use_;
        for (const std::string& target : targets) {
            leadTo(ensemble, selected, use, target);
            if (use == TargetFor::newChain) use = TargetFor::anotherBranch;
        }
    }
    void make(const Parameter& parameter) const {
        Selected then = selected_;
        workspace_.document.edit(tr("Make a target"), [&](Ensemble& e) {
            Instrument* instrument = instrumentOf(e, then);
            if (instrument == nullptr) return;
            instrument->parameters.push_back(parameter);
            leadTo(e, then, use_, parameter.id);
        });
        workspace_.selection.set(then);
    }

    Workspace& workspace_;
    TargetFor use_;
    Selected selected_;
};

}  // namespace

void findTarget(Workspace& workspace, QWidget* at, TargetFor use) {
    const TargetSearch search(workspace, use);
    TakeAll takeAll;
    if (use != TargetFor::selectedBranch)
        takeAll = [search](const std::vector<std::string>& targets) { search.lead(targets); };
    Finder::open(at, TargetSearch::tr("A target: a few letters of its name or number"), search, takeAll);
}

}  // namespace mellow::app
