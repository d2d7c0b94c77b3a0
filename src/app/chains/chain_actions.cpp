#include "app/chains/chain_actions.h"

#include <algorithm>

#include "core/model/edit.h"

namespace mellow::app {

namespace {

/// Runs act(list, index, selected index field) on the list that holds what is selected inside a chain.
template<class Act>
void onSelectedList(Ensemble& ensemble, const Selected& selected, Act&& act) {
    Chain* chain = chainOf(ensemble, selected);
    if (chain == nullptr) return;
    if (selected.part == Part::step) act(chain->steps, selected.index);
    if (selected.part == Part::branch) act(chain->branches, selected.index);
    if (selected.part == Part::branchStep) {
        if (Branch* branch = branchOf(ensemble, selected)) act(branch->steps, selected.inner);
    }
}

template<class List>
bool holds(const List& list, int index) {
    return index >= 0 && index < static_cast<int>(list.size());
}

template<class List>
std::size_t placeOf(const List& list, std::string_view id) {
    return static_cast<std::size_t>(
        std::find_if(list.begin(), list.end(), [id](const auto& each) { return each.id == id; }) -
        list.begin());
}

bool exists(const Ensemble& ensemble, const Selected& selected) {
    switch (selected.part) {
        case Part::instrument:
            return instrumentOf(ensemble, selected) != nullptr;
        case Part::source:
            return chainOf(ensemble, selected) != nullptr;
        case Part::branch:
            return branchOf(ensemble, selected) != nullptr;
        case Part::step:
        case Part::branchStep:
            return stepOf(ensemble, selected) != nullptr;
    }
    return false;
}

Selected firstOf(const Instrument& instrument) {
    if (instrument.chains.empty()) return {instrument.id, {}, Part::instrument, 0, 0};
    return {instrument.id, instrument.chains.front().id, Part::source, 0, 0};
}

/// What stands nearest to something that is not there any more.
Selected nearest(const Ensemble& ensemble, Selected gone) {
    const Instrument* instrument = instrumentOf(ensemble, gone);
    if (instrument == nullptr)
        return ensemble.instruments.empty() ? Selected{} : firstOf(ensemble.instruments.front());
    const Chain* chain = chainOf(ensemble, gone);
    if (chain == nullptr) return firstOf(*instrument);
    const Selected source{gone.instrument, gone.chain, Part::source, 0, 0};
    if (gone.part == Part::step) {
        gone.index = static_cast<int>(chain->steps.size()) - 1;
        return gone.index < 0 ? source : gone;
    }
    if (branchOf(ensemble, gone) == nullptr) gone.index = static_cast<int>(chain->branches.size()) - 1;
    gone.part = Part::branch;
    gone.inner = 0;
    return gone.index < 0 ? source : gone;
}

}  // namespace

ChainActions::ChainActions(Document& document, Selection& selection, QObject* parent)
    : QObject(parent), document_(document), selection_(selection) {
    connect(&document_, &Document::changed, this, &ChainActions::followDocument);
}

void ChainActions::edit(const QString& text, const std::function<void(Ensemble&)>& change) {
    document_.edit(text, change);
}

void ChainActions::addInstrument() {
    const Instrument instrument = newInstrument(document_.ensemble());
    edit(tr("Add an instrument"), [&](Ensemble& e) { e.instruments.push_back(instrument); });
    selection_.set({instrument.id, {}, Part::instrument, 0, 0});
}

void ChainActions::addChain() {
    const Instrument* instrument = instrumentOf(document_.ensemble(), selection_.now());
    if (instrument == nullptr) return;
    const Chain chain = newChain(*instrument);
    const std::string owner = instrument->id;
    edit(tr("Add a chain"), [&](Ensemble& e) { instrumentOf(e, selection_.now())->chains.push_back(chain); });
    selection_.set({owner, chain.id, Part::source, 0, 0});
}

void ChainActions::addBranch() {
    const Chain* chain = chainOf(document_.ensemble(), selection_.now());
    if (chain == nullptr) return;
    const int index = static_cast<int>(chain->branches.size());
    edit(tr("Add a target"), [&](Ensemble& e) {
        const Instrument* instrument = instrumentOf(e, selection_.now());
        Chain* changed = chainOf(e, selection_.now());
        changed->branches.push_back(newBranch(*instrument, *changed));
    });
    const Selected now = selection_.now();
    selection_.set({now.instrument, now.chain, Part::branch, index, 0});
}

void ChainActions::addStep(const StepKind& kind) {
    const Selected now = selection_.now();
    Selected then = now;
    edit(tr("Add a step"), [&](Ensemble& e) {
        Chain* chain = chainOf(e, now);
        if (chain == nullptr) return;
        Branch* branch =
            now.part == Part::branch || now.part == Part::branchStep ? branchOf(e, now) : nullptr;
        auto& steps = branch != nullptr ? branch->steps : chain->steps;
        const bool behind = now.part == Part::step || now.part == Part::branchStep;
        const int selected = now.part == Part::step ? now.index : now.inner;
        const int place = behind && holds(steps, selected) ? selected + 1 : static_cast<int>(steps.size());
        steps.insert(steps.begin() + place, makeStep(kind));
        then.part = branch != nullptr ? Part::branchStep : Part::step;
        (branch != nullptr ? then.inner : then.index) = place;
    });
    selection_.set(then);
}

void ChainActions::remove() {
    const Selected now = selection_.now();
    if (now.part == Part::instrument) return removeInstrument();
    if (now.part == Part::source) {
        edit(tr("Remove the chain"), [&](Ensemble& e) {
            Instrument* instrument = instrumentOf(e, now);
            if (instrument != nullptr)
                std::erase_if(instrument->chains, [&](const Chain& chain) { return chain.id == now.chain; });
        });
        return;
    }
    edit(now.part == Part::branch ? tr("Remove the branch") : tr("Remove the step"), [&](Ensemble& e) {
        onSelectedList(e, now, [](auto& list, int index) {
            if (holds(list, index)) list.erase(list.begin() + index);
        });
    });
}

void ChainActions::duplicate() {
    const Selected now = selection_.now();
    if (now.part == Part::instrument) return duplicateInstrument();
    Selected then = now;
    if (now.part == Part::source) {
        edit(tr("Duplicate the chain"), [&](Ensemble& e) {
            if (Instrument* instrument = instrumentOf(e, now))
                then.chain = duplicateChain(*instrument, now.chain);
        });
    } else {
        edit(now.part == Part::branch ? tr("Duplicate the branch") : tr("Duplicate the step"),
             [&](Ensemble& e) {
                 onSelectedList(e, now, [](auto& list, int index) {
                     if (!holds(list, index)) return;
                     auto copy = list[static_cast<std::size_t>(index)];
                     list.insert(list.begin() + index + 1, std::move(copy));
                 });
             });
        ++(now.part == Part::branchStep ? then.inner : then.index);
    }
    selection_.set(then);
}

void ChainActions::move(int by) {
    const Selected now = selection_.now();
    if (now.part == Part::instrument) return moveInstrument(by);
    Selected then = now;
    if (now.part == Part::source) {
        edit(tr("Move the chain"), [&](Ensemble& e) {
            Instrument* instrument = instrumentOf(e, now);
            if (instrument == nullptr) return;
            const std::size_t place = placeOf(instrument->chains, now.chain);
            moveWithin(instrument->chains, place, place + static_cast<std::size_t>(by));
        });
        return;
    }
    edit(now.part == Part::branch ? tr("Move the branch") : tr("Move the step"), [&](Ensemble& e) {
        onSelectedList(e, now, [&](auto& list, int index) {
            if (!holds(list, index) || !holds(list, index + by)) return;
            moveWithin(list, static_cast<std::size_t>(index), static_cast<std::size_t>(index + by));
            (now.part == Part::branchStep ? then.inner : then.index) += by;
        });
    });
    selection_.set(then);
}

void ChainActions::toggle() {
    edit(tr("Switch on or off"), [this](Ensemble& e) {
        const auto flip = [](auto* thing) {
            if (thing != nullptr) thing->on = !thing->on;
        };
        switch (selection_.now().part) {
            case Part::instrument:
                return flip(instrumentOf(e, selection_.now()));
            case Part::source:
                return flip(chainOf(e, selection_.now()));
            case Part::branch:
                return flip(branchOf(e, selection_.now()));
            case Part::step:
            case Part::branchStep:
                return flip(stepOf(e, selection_.now()));
        }
    });
}

void ChainActions::removeInstrument() {
    const std::string id = selection_.now().instrument;
    edit(tr("Remove the instrument"), [&](Ensemble& e) {
        std::erase_if(e.instruments, [&](const Instrument& instrument) { return instrument.id == id; });
    });
}

void ChainActions::duplicateInstrument() {
    std::string copy;
    edit(tr("Duplicate the instrument"),
         [&](Ensemble& e) { copy = mellow::duplicateInstrument(e, selection_.now().instrument); });
    if (!copy.empty()) selection_.set({copy, {}, Part::instrument, 0, 0});
}

void ChainActions::moveInstrument(int by) {
    edit(tr("Move the instrument"), [&](Ensemble& e) {
        const std::size_t place = placeOf(e.instruments, selection_.now().instrument);
        moveWithin(e.instruments, place, place + static_cast<std::size_t>(by));
    });
}

void ChainActions::followDocument() {
    const Ensemble& ensemble = document_.ensemble();
    if (displaced_ && selection_.now() == inItsPlace_ && exists(ensemble, *displaced_)) {
        selection_.set(*std::exchange(displaced_, std::nullopt));
        return;
    }
    if (exists(ensemble, selection_.now())) return;
    displaced_ = selection_.now().instrument.empty() ? std::nullopt : std::optional(selection_.now());
    inItsPlace_ = nearest(ensemble, selection_.now());
    selection_.set(inItsPlace_);
}

}  // namespace mellow::app
