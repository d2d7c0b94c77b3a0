// The last passes: what chains mean for one another, and the state.
#include <algorithm>
#include <limits>

#include "core/engine/compiling/compiler.h"
#include "core/midi/controls.h"

namespace mellow::engine {

/// Who hears each channel, once it is known in which order they pass on.
void Compiler::listReceivers() {
    for (const std::uint32_t place : plan().turns) {
        const PlanInstrument& part = plan().parts[place];
        for (std::size_t channel = 0; channel < 16 && (part.inHand || plan().handMoves); ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            plan().receivers[channel].push_back(place);
            if (part.pass.unmatched) plan().passers[channel].push_back(place);
        }
    }
}

/// What branches mean for others: where they meet by a rule, what they hold sounding, and where a control
/// cannot merely be copied since its lane gets it as half of a pair too.
void Compiler::indexBranches() {
    plan().mixes.resize(numbering().mixes.size());
    std::vector<bool> paired;
    for (const PlanBranch& branch : plan().branches) {
        if (branch.mix != none) plan().hasMixes = true;
        if (branch.kind == MessageKind::note && branch.on) plan().noteCauses.push_back(branch.place);
        if (branch.kind == MessageKind::velocity && branch.on)
            plan().parts[branch.part].drivesVelocity = true;
        if (branch.kind != MessageKind::cc14 || branch.part == none) continue;
        paired.resize(numbering().lanes.size() * midi::pairCount);
        for (const std::uint32_t lane : plan().parts[branch.part].lanes)
            paired[lane * midi::pairCount + static_cast<std::uint32_t>(branch.body->number)] = true;
    }
    if (plan().hasMixes) findMixes();
    for (std::size_t b = 0; b < plan().branches.size(); ++b) {
        const PlanBranch& branch = plan().branches[b];
        const bool half = !paired.empty() && branch.kind == MessageKind::cc && branch.part != none &&
                          midi::isHalfOfAPair(branch.body->number) &&
                          paired[branch.lane * midi::pairCount +
                                 static_cast<std::uint32_t>(midi::pairOf(branch.body->number))];
        Leaves& leaves = plan().outlets[b].leaves;
        if (leaves != Leaves::carefully) leaves = half ? Leaves::asHalf : Leaves::copied;
    }
}

/// In document order, as branches lie, those of shared chains first.
void Compiler::findMixes() {
    for (std::uint32_t b = 0; b < plan().branches.size(); ++b) {
        PlanBranch& branch = plan().branches[b];
        if (branch.mix == none) continue;
        MixPoint& mix = plan().mixes[branch.mix];
        if (!mix.branches.empty()) {
            PlanBranch& before = plan().branches[mix.branches.back()];
            before.endsMix = before.chain != branch.chain;
        }
        branch.endsMix = true;
        mix.rule = branch.body->mix;
        mix.branches.push_back(b);
    }
}

/// Once it is known what its outlets have to be careful about.
void Compiler::chooseWay(PlanChain& chain) {
    if (chain.ticks && !plan().staysAsleep(chain))
        plan().timedChains.push_back(static_cast<std::uint32_t>(&chain - plan().chains.data()));
    if (chain.table == nullptr) return;
    const auto outlets = std::span(plan().outlets).subspan(chain.firstBranch, chain.branchCount);
    const bool copied = std::all_of(outlets.begin(), outlets.end(),
                                    [](const Outlet& outlet) { return outlet.leaves == Leaves::copied; });
    const bool plain = copied && chain.part != none && !chain.body->table->silent;
    chain.way = plain ? Way::tabulated : Way::carefully;
}

void Compiler::indexHands() {
    if (!plan().handMoves) return;
    for (const std::string& entry : ensemble_.handOrder) {
        auto& parts = plan().handOrder.emplace_back();
        for (const Instrument* instrument : instrumentsOf(ensemble_, entry)) {
            const auto part = partOf_.find(instrument->id);
            if (part != partOf_.end()) parts.push_back(part->second);
        }
    }
}

/// By address; of two elements with one id the first is meant.
void Compiler::indexDesk() {
    std::map<std::string, DeskListener> byAddress;
    forEachElement(ensemble_.desk, [&](const DeskElement& element) {
        if (directory_.deskElement(element.id) != &element) return;
        for (std::size_t axis = 0; axis < std::max<std::size_t>(axesOf(element), 1); ++axis) {
            DeskListener& listener = byAddress[addressOf(element, static_cast<Axis>(axis))];
            listener.ears.clear();
            listener.isSwitch = element.kind == ElementKind::button && element.latching;
            for (const std::string& name : element.names) listener.names.push_back(whoAnswers(name));
            if (isSource(element)) listener.names.clear();
        }
    });
    for (std::uint32_t e = 0; e < plan().ears.size(); ++e) {
        const Ear& ear = plan().ears[e];
        if (ear.kind != SourceKind::desk) continue;
        if (plan().staysAsleep(plan().chains[ear.chain]) && ear.handover == Handover::jump) continue;
        const DeskElement* element = directory_.deskElement(elementOf(*ear.source));
        const Axis axis = axesOf(*element) > 1 ? axisOf(*ear.source) : Axis::x;
        byAddress[addressOf(*element, axis)].ears.push_back(e);
    }
    for (auto& [address, listener] : byAddress) {
        listener.address = address;
        plan().desk.push_back(std::move(listener));
    }
}

/// Instruments that have an articulation of a name, in document order: the first that each has.
std::vector<Choice> Compiler::whoAnswers(const std::string& name) const {
    std::vector<Choice> choices;
    for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
        const auto& all = ensemble_.instruments[i].articulations;
        const auto found = std::find_if(all.begin(), all.end(),
                                        [&name](const Articulation& each) { return answers(each, name); });
        const auto part = partOf_.find(ensemble_.instruments[i].id);
        if (found == all.end() || part == partOf_.end() || stopped_.instruments[i]) continue;
        choices.push_back({part->second, static_cast<std::uint32_t>(found - all.begin())});
    }
    return choices;
}

/// Ears that hand over remember the controls that move them.
void Compiler::giveHands() {
    for (Ear& ear : plan().ears) {
        const bool follows = ear.handover != Handover::jump && row(ear.kind).origin == Origin::message;
        ear.hands = follows ? handsPerEar * handsCount_++ : none;
    }
}

void Compiler::allocateState() {
    State& state = program_->state;
    state.steps.resize(stateCount_);
    state.chains.resize(plan().chains.size());
    state.ears.resize(plan().ears.size());
    for (std::size_t e = 0; e < plan().ears.size(); ++e) {
        const Ear& ear = plan().ears[e];
        state.ears[e].position = ear.rest;
        state.ears[e].moves = row(ear.kind).origin == Origin::generator;
        if (ear.role == Role::combine) state.steps[ear.step].other = ear.rest;
    }
    state.sent.assign(numbering().lanes.size() * slotsPerLane, noPayload);
    state.selections.resize(numbering().lanes.size());
    state.registers.assign(numbering().registers.size(), -1);
    state.osc.resize(numbering().oscPlaces.size());
    state.mixed.assign(plan().branches.size(), std::numeric_limits<double>::quiet_NaN());
    state.mixQueued.assign(plan().mixes.size(), none);
    state.hands.resize(static_cast<std::size_t>(handsCount_) * handsPerEar);
    state.tieLines.assign(plan().tieLines.size(), std::numeric_limits<double>::quiet_NaN());
    state.notesOn.assign(numbering().noteCauses.size(), false);
    state.velocities.assign(plan().parts.size(), -1);
    state.parts.resize(plan().parts.size());
    state.partLive = std::make_unique<PartLive[]>(plan().parts.size());
    for (std::size_t p = 0; p < plan().parts.size(); ++p) {
        const PlanInstrument& part = plan().parts[p];
        const auto own = static_cast<std::uint16_t>(1 << numbering().lanes[part.lane].channel);
        state.parts[p] = {part.lane, part.inHand, -1, own};
        state.partLive[p].inHand.store(part.inHand, std::memory_order_relaxed);
    }
    state.deskLive = std::make_unique<std::atomic<float>[]>(plan().desk.size());
    for (std::size_t d = 0; d < plan().desk.size(); ++d)
        state.deskLive[d].store(-1, std::memory_order_relaxed);
    state.pending.assign(plan().chains.size() / 64 + 1, 0);
    state.late = state.pending;
    state.heldBack = state.pending;
    state.matches.resize(plan().parts.size());
    if (plan().hasMixes) state.deferred.reserve(2 * plan().branches.size() + plan().parts.size() + 16);
    state.chainLive = std::make_unique<ChainLive[]>(plan().chains.size());
    state.branchLive = std::make_unique<BranchLive[]>(plan().branches.size());
    for (std::size_t c = 0; c < plan().chains.size(); ++c) {
        const PlanChain& chain = plan().chains[c];
        if (!chain.chosen) continue;
        const double rest = plan().ears[chain.firstEar + chain.earCount - 1].rest;
        state.chainLive[c].fed.store(static_cast<int>(chosenBranch(chain, rest)), std::memory_order_relaxed);
    }
}

}  // namespace mellow::engine
