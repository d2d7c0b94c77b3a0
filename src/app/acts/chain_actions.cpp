// Each action takes the selection as it is, makes one edit of the document out of it, and then selects what a
// person would go on with: the new thing, the neighbour of what was removed. followDocument() is for what
// others do: after an undo the selection may name something that is gone, and moves to what is nearest.
#include "app/acts/chain_actions.h"

#include <algorithm>

#include "core/model/edit.h"
#include "core/steps/step.h"

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

bool exists(const Ensemble& ensemble, const Selected& selected) {
    switch (selected.part) {
        case Part::instrument:
            return chainsOf(ensemble, selected) != nullptr;
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

Selected firstOf(const std::string& owner, const std::vector<Chain>& chains) {
    if (chains.empty()) return {owner, {}, Part::instrument, 0, 0};
    return {owner, chains.front().id, Part::source, 0, 0};
}

/// What stands nearest to something that is not there any more.
Selected nearest(const Ensemble& ensemble, Selected gone) {
    const std::vector<Chain>* chains = chainsOf(ensemble, gone);
    if (chains == nullptr) {
        if (ensemble.instruments.empty()) return {};
        return firstOf(ensemble.instruments.front().id, ensemble.instruments.front().chains);
    }
    const Chain* chain = chainOf(ensemble, gone);
    if (chain == nullptr) return firstOf(gone.instrument, *chains);
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
    const Ensemble& ensemble = document_.ensemble();
    const Selected now = selection_.now();
    if (chainsOf(ensemble, now) == nullptr) return;
    const Chain chain = isShared(now) ? newSharedChain(ensemble) : newChain(*instrumentOf(ensemble, now));
    edit(tr("Add a chain"), [&](Ensemble& e) { chainsOf(e, now)->push_back(chain); });
    selection_.set({now.instrument, chain.id, Part::source, 0, 0});
}

namespace {

/// A step as it is when it is added: one that works at once.
Step working(Step step) {
    if (step == makeStep(*findStepKind("formula"))) step.values = {std::string("x")};
    return step;
}

}  // namespace

void ChainActions::addStep(const Step& step, Into into) {
    const Selected now = selection_.now();
    Selected then = now;
    edit(tr("Add a step"), [&](Ensemble& e) {
        Chain* chain = chainOf(e, now);
        if (chain == nullptr) return;
        Branch* branch = into == Into::branch ? branchOf(e, now) : nullptr;
        auto& steps = branch != nullptr ? branch->steps : chain->steps;
        const bool behind = now.part == (branch != nullptr ? Part::branchStep : Part::step);
        const int selected = now.part == Part::step ? now.index : now.inner;
        const int place = behind && holds(steps, selected) ? selected + 1 : static_cast<int>(steps.size());
        Step added = working(step);
        if (added.with) added.with = ccSource(e, *chain);
        steps.insert(steps.begin() + place, std::move(added));
        then.part = branch != nullptr ? Part::branchStep : Part::step;
        (branch != nullptr ? then.inner : then.index) = place;
    });
    selection_.set(then);
}

void ChainActions::remove() {
    const Selected now = selection_.now();
    const std::vector<Selected> all = selection_.everySelected();
    const int many = static_cast<int>(all.size());
    if (now.part == Part::instrument) {
        if (isShared(now)) return;
        edit(many > 1 ? tr("Remove %n instrument(s)", nullptr, many) : tr("Remove the instrument"),
             [&](Ensemble& e) {
                 for (const Selected& each : all) mellow::removeInstrument(e, each.instrument);
             });
        return;
    }
    if (now.part == Part::source) {
        edit(many > 1 ? tr("Remove %n chain(s)", nullptr, many) : tr("Remove the chain"), [&](Ensemble& e) {
            for (const Selected& each : all) {
                if (auto* chains = chainsOf(e, each))
                    std::erase_if(*chains, [&](const Chain& chain) { return chain.id == each.chain; });
            }
        });
        return;
    }
    if (now.part == Part::branch && many > 1) {
        edit(tr("Remove %n branch(es)", nullptr, many), [&](Ensemble& e) {
            Chain* chain = chainOf(e, now);
            if (chain == nullptr) return;
            for (int b = static_cast<int>(chain->branches.size()) - 1; b >= 0; --b) {
                const auto isThis = [b](const Selected& each) { return each.index == b; };
                if (std::any_of(all.begin(), all.end(), isThis))
                    chain->branches.erase(chain->branches.begin() + b);
            }
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
    if (now.part == Part::instrument) return isShared(now) ? void() : duplicateInstrument();
    Selected then = now;
    if (now.part == Part::source) {
        const std::vector<Selected> all = selection_.everySelected();
        std::vector<Selected> copies;
        edit(tr("Duplicate %n chain(s)", nullptr, static_cast<int>(all.size())), [&](Ensemble& e) {
            auto* chains = chainsOf(e, now);
            if (chains == nullptr) return;
            for (const Selected& each : all)
                copies.push_back({now.instrument, duplicateChain(*chains, each.chain), Part::source, 0, 0});
        });
        return copies.empty() ? void() : selection_.setTogether(copies.front(), copies);
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
    if (now.part == Part::instrument) return isShared(now) ? void() : moveInstrument(by);
    Selected then = now;
    if (now.part == Part::source) {
        std::vector<Selected> all = selection_.everySelected();
        edit(tr("Move %n chain(s)", nullptr, static_cast<int>(all.size())), [&](Ensemble& e) {
            auto* chains = chainsOf(e, now);
            if (chains == nullptr) return;
            std::vector<std::size_t> places;
            places.reserve(all.size());
            for (const Selected& each : all) places.push_back(placeOf(*chains, each.chain));
            std::sort(places.begin(), places.end());
            if (by > 0) std::reverse(places.begin(), places.end());
            // As a block: where the first has no room, nobody has.
            const auto end = static_cast<std::ptrdiff_t>(chains->size());
            const auto first = static_cast<std::ptrdiff_t>(places.front()) + by;
            if (first < 0 || first >= end) return;
            for (const std::size_t place : places)
                moveWithin(*chains, place, place + static_cast<std::size_t>(by));
        });
        return;
    }
    edit(now.part == Part::branch ? tr("Move the branch") : tr("Move the step"), [&](Ensemble& e) {
        onSelectedList(e, now, [&](auto& list, int index) {
            if (!holds(list, index) || !holds(list, index + by)) return;
            const int to = index + by;
            moveWithin(list, static_cast<std::size_t>(index), static_cast<std::size_t>(to));
            (now.part == Part::branchStep ? then.inner : then.index) += by;
        });
    });
    selection_.set(then);
}

namespace {

/// Whether what is selected is on; nullptr: it is gone.
bool* switchOf(Ensemble& e, const Selected& selected) {
    const auto of = [](auto* thing) { return thing == nullptr ? nullptr : &thing->on; };
    switch (selected.part) {
        case Part::instrument:
            return of(instrumentOf(e, selected));
        case Part::source:
            return of(chainOf(e, selected));
        case Part::branch:
            return of(branchOf(e, selected));
        case Part::step:
        case Part::branchStep:
            return of(stepOf(e, selected));
    }
    return nullptr;
}

}  // namespace

/// Several go where the one that is shown goes.
void ChainActions::toggle() {
    edit(tr("Switch on or off"), [this](Ensemble& e) {
        const bool* shown = switchOf(e, selection_.now());
        if (shown == nullptr) return;
        const bool on = !*shown;
        for (const Selected& each : selection_.everySelected()) {
            if (bool* is = switchOf(e, each)) *is = on;
        }
    });
}

void ChainActions::turnRound() {
    edit(tr("Turn round"), [this](Ensemble& e) {
        for (const Selected& each : selection_.everySelected()) {
            if (each.part == Part::branch || each.part == Part::branchStep) {
                if (Branch* branch = branchOf(e, each)) std::swap(branch->low, branch->high);
            } else if (Chain* chain = chainOf(e, each)) {
                for (Branch& branch : chain->branches) std::swap(branch.low, branch.high);
            }
        }
    });
}

void ChainActions::turnActive() {
    edit(tr("Active in hand or always"), [this](Ensemble& e) {
        const Chain* shown = chainOf(std::as_const(e), selection_.now());
        if (shown == nullptr) return;
        const Active active = shown->active == Active::inHand ? Active::always : Active::inHand;
        for (const Selected& each : selection_.everySelected()) {
            if (Chain* chain = chainOf(e, each)) chain->active = active;
        }
    });
}

void ChainActions::removeInstrument() {
    const std::string id = selection_.now().instrument;
    edit(tr("Remove the instrument"), [&](Ensemble& e) { mellow::removeInstrument(e, id); });
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
        selection_.amend(*std::exchange(displaced_, std::nullopt));
        return;
    }
    if (exists(ensemble, selection_.now())) return;
    displaced_ = selection_.now().instrument.empty() ? std::nullopt : std::optional(selection_.now());
    inItsPlace_ = nearest(ensemble, selection_.now());
    selection_.amend(inItsPlace_);
}

}  // namespace mellow::app
