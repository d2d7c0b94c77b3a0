// A chain becomes part of a plan: its body is made, or taken from the previous plan where nothing that it is
// made of has changed; its ears, steps and branches get their places; and what can be folded is (tabulate.h).
// A chain that does the same as before keeps its version, so that playing knows that all its memory still
// fits.
#include <algorithm>
#include <atomic>
#include <functional>
#include <span>

#include "core/engine/compiling/compiler.h"
#include "core/engine/compiling/dispatch.h"
#include "core/midi/controls.h"

namespace mellow::engine {

namespace {

/// A chain as far as it is played: what is switched off in it can be edited unheard.
Chain definitionOf(Chain chain) {
    chain.steps = stepsThatAreOn(chain.steps);
    for (Branch& branch : chain.branches) {
        branch.steps = branch.on ? stepsThatAreOn(branch.steps) : std::vector<Step>{};
    }
    return chain;
}

/// Whom a target can choose that is the hand.
std::vector<std::string> handsOf(const Target& target) {
    return target.hand == nullptr ? std::vector<std::string>() : target.hand->handOrder;
}

template<class List, class Thing>
std::uint32_t placeIn(List& list, const Thing& wanted) {
    const auto found = std::find(list.begin(), list.end(), wanted);
    if (found != list.end()) return static_cast<std::uint32_t>(found - list.begin());
    list.push_back(wanted);
    return static_cast<std::uint32_t>(list.size() - 1);
}

}  // namespace

std::uint32_t Compiler::reserveStates(std::size_t count) {
    return std::exchange(stateCount_, stateCount_ + static_cast<std::uint32_t>(count));
}

void Compiler::addChain(const Owner& owner, const Chain& chain, Bodies& bodies) {
    PlanChain compiled;
    compiled.key = numbering().chainKeys->intern(
        (owner.instrument == nullptr ? sharedOwner : owner.instrument->id) + "/" + chain.id);
    const PlanChain* earlier = previous_ == nullptr ? nullptr : previous_->chainWithKey(compiled.key);
    targets_.clear();
    for (const Branch& branch : chain.branches)
        targets_.push_back(targetOf(directory_, owner.instrument.get(), branch.target));
    compiled.part = owner.part;
    compiled.onlyInHand = owner.part != none && chain.active == Active::inHand;
    compiled.keepOriginal = chain.keepOriginal;
    compiled.chosen = chain.fan.mode == FanMode::chosen;
    if (earlier != nullptr && isUnchanged(*earlier->body, owner, chain)) {
        compiled.version = earlier->version;
        bodies.push_back(earlier->body->shared_from_this());
        placeParts(compiled, *bodies.back());
    } else {
        auto body = freshBody(owner, chain);
        placeParts(compiled, *body);
        tabulate(compiled, *body);
        const bool same = earlier != nullptr && doesTheSame(*earlier->body, *body);
        compiled.version = same ? earlier->version : newVersion();
        bodies.push_back(std::move(body));
    }
    useTables(compiled, *bodies.back());
    plan().chains.push_back(compiled);
}

std::uint64_t Compiler::newVersion() {
    static std::atomic<std::uint64_t> versions{0};
    return ++versions;
}

bool Compiler::doesTheSame(const ChainBody& a, const ChainBody& b) {
    const auto equal = [](const auto* one, const auto* other) {
        return one == other || (one != nullptr && other != nullptr && *one == *other);
    };
    // Where a branch leads that is off, and was, nobody hears.
    const auto sameLed = [&](std::size_t i) {
        const ChainBody::Led& one = a.led[i];
        const ChainBody::Led& other = b.led[i];
        if (!a.written->branches[i].on && !b.written->branches[i].on) return true;
        return one.lane == other.lane && equal(one.target, other.target) && one.hands == other.hands;
    };
    if (a.led.size() != b.led.size()) return false;
    for (std::size_t i = 0; i < a.led.size(); ++i) {
        if (!sameLed(i)) return false;
    }
    return std::equal(a.sources.begin(), a.sources.end(), b.sources.begin(), b.sources.end(), equal) &&
           definitionOf(*a.written) == definitionOf(*b.written);
}

/// The part that a target belongs to; none: it is switched off, or a tie line.
/// own: the part of the chain that leads there; an instrument's chains lead nowhere else.
std::uint32_t Compiler::partOf(std::uint32_t own, const Target& target) const {
    if (target.parameter == nullptr) return none;
    if (own != none) return own;
    const auto part = partOf_.find(target.instrument->id);
    return part == partOf_.end() ? none : part->second;
}

std::uint32_t Compiler::laneOf(std::uint32_t own, const Target& target) const {
    const std::uint32_t part = partOf(own, target);
    return target.parameter == nullptr ? 0 : part == none ? none : program_->plan.parts[part].lane;
}

/// True when nothing has changed that a chain is compiled from.
bool Compiler::isUnchanged(const ChainBody& origin, const Owner& owner, const Chain& chain) const {
    if (*origin.written != chain) return false;
    for (std::size_t b = 0; b < targets_.size(); ++b) {
        const Parameter* parameter = targets_[b].parameter;
        const ChainBody::Led& led = origin.led[b];
        if (led.lane != laneOf(owner.part, targets_[b])) return false;
        if ((parameter == nullptr) != (led.target == nullptr)) return false;
        if (parameter != nullptr && *led.target != *parameter) return false;
        if (led.hands != handsOf(targets_[b])) return false;
    }
    if (sameSurroundings_) return true;
    bool refers = false;
    forEachSource(chain, [&refers](const Source& source) {
        refers = refers || !source.controller.empty() || source.kind == SourceKind::tieLine ||
                 source.kind == SourceKind::desk;
    });
    return !refers;
}

std::shared_ptr<ChainBody> Compiler::freshBody(const Owner& owner, const Chain& chain) {
    auto body = std::make_shared<ChainBody>();
    body->written = keep(*body, owner, chain);
    const Chain& written = *body->written;
    body->steps = StepRun(written.steps);
    body->branches.reserve(written.branches.size());
    body->led.reserve(written.branches.size());
    for (std::size_t b = 0; b < written.branches.size(); ++b) {
        const Target& target = targets_[b];
        body->branches.push_back(prepareBranch(target, written.branches[b]));
        body->led.push_back({target.parameter, laneOf(owner.part, target), handsOf(target)});
    }
    forEachSource(written, [&](const Source& source) { body->sources.push_back(heard(*body, source)); });
    body->hearsCues = anyStep(*body, [](const StepKind& kind) { return kind.hear != nullptr; });
    body->ticks = anyStep(*body, [](const StepKind& kind) { return kind.tick != nullptr; });
    return body;
}

/// Keeps what a chain is compiled from as it is now, and returns the chain.
const Chain* Compiler::keep(ChainBody& body, const Owner& owner, const Chain& chain) const {
    if (owner.instrument != nullptr) {
        body.instrument = owner.instrument;
        const std::span<const Chain> own = owner.instrument->chains;
        const std::less<const Chain*> before;
        const bool isWritten = !before(&chain, own.data()) && before(&chain, own.data() + own.size());
        if (isWritten) return &chain;
    }
    for (const Target& target : targets_) {
        if (target.instrument != nullptr)
            body.others.push_back(
                ensemble_.instruments.share(placeOf(ensemble_.instruments, target.instrument->id)));
    }
    auto copy = std::make_shared<const Chain>(chain);
    body.others.push_back(copy);
    return copy.get();
}

/// A source as it is heard: where it is the control of a controller, what that sends.
const Source* Compiler::heard(ChainBody& body, const Source& source) const {
    if (source.kind != SourceKind::control) return &source;
    body.copies.push_back(std::make_unique<const Source>(resolved(directory_, source)));
    return body.copies.back().get();
}

/// Gives a chain's steps, ears and branches their places in the plan.
void Compiler::placeParts(PlanChain& chain, const ChainBody& body) {
    chain.body = &body;
    chain.ticks = body.ticks;
    chain.firstState = stateCount_;
    chain.firstEar = static_cast<std::uint32_t>(plan().ears.size());
    chain.firstBranch = static_cast<std::uint32_t>(plan().branches.size());
    chain.branchCount = static_cast<std::uint32_t>(body.branches.size());
    nextSource_ = body.sources.data();
    addEar(Role::main).handover = handoverOf(directory_, *body.written);
    addCombineEars(body.steps, reserveStates(body.steps.size()), -1);
    for (std::size_t b = 0; b < body.branches.size(); ++b) {
        placeBranch(chain, body.branches[b], targets_[b]);
        addCombineEars(body.branches[b].steps, plan().branches.back().firstState, static_cast<int>(b));
    }
    if (chain.chosen) addEar(Role::chooser);
    chain.earCount = static_cast<std::uint32_t>(plan().ears.size()) - chain.firstEar;
    chain.stateCount = stateCount_ - chain.firstState;
    addHearings(plan(), chain);
}

/// An ear for the chain's next source.
Ear& Compiler::addEar(Role role) {
    Ear& ear = plan().ears.emplace_back();
    ear.source = *nextSource_++;
    ear.kind = ear.source->kind;
    ear.chain = static_cast<std::uint32_t>(plan().chains.size());
    ear.role = role;
    const std::string* from = portOf(directory_, *ear.source);
    ear.port = from == nullptr ? everyPort : port(*from);
    ear.channel = ear.source->channel ? *ear.source->channel - 1 : -1;
    ear.scale = scaleOf(*ear.source);
    ear.max = maxOf(*ear.source);
    ear.rest = restOf(directory_, *ear.source);
    if (ear.kind == SourceKind::tieLine) ear.tieLine = numbering().tieLines.intern(ear.source->tieLine);
    return ear;
}

/// branch: the steps' place in the chain; −1: the trunk.
void Compiler::addCombineEars(std::span<const Step> steps, std::uint32_t firstState, int branch) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        if (!steps[i].with) continue;
        Ear& ear = addEar(Role::combine);
        ear.step = firstState + static_cast<std::uint32_t>(i);
        ear.place = {branch, static_cast<int>(i)};
    }
}

/// Gives a branch its place in the plan and at its target.
void Compiler::placeBranch(const PlanChain& chain, const BranchBody& body, const Target& target) {
    PlanBranch branch;
    branch.body = &body;
    branch.kind = body.kind;
    branch.on = body.on;
    branch.part = partOf(chain.part, target);
    if (target.tieLine != nullptr) {
        branch.tieLine = numbering().tieLines.intern(target.tieLine->id);
    } else if (target.hand != nullptr) {
        branch.hand = true;
    } else if (branch.part == none) {
        branch.on = false;  // The instrument is switched off, and gets nothing.
    } else {
        branch.lane = plan().parts[branch.part].lane;
        placeTarget(branch, target);
    }
    branch.chain = static_cast<std::uint32_t>(plan().chains.size());
    branch.firstState = reserveStates(body.steps.size());
    plan().outlets.push_back(outletOf(branch));
    plan().branches.push_back(branch);
}

void Compiler::placeTarget(PlanBranch& branch, const Target& target) {
    const auto name = [&target] { return target.instrument->id + "/" + target.parameter->id; };
    switch (branch.kind) {
        case MessageKind::rpn:
        case MessageKind::nrpn: {
            const auto kind = branch.kind == MessageKind::rpn ? midi::PairKind::rpn : midi::PairKind::nrpn;
            branch.place = placeIn(numbering().registers, Register{branch.lane, kind, branch.body->number});
            for (const std::uint32_t other : plan().parts[branch.part].lanes)
                placeIn(numbering().registers, Register{other, kind, branch.body->number});
            break;
        }
        case MessageKind::osc:
            branch.place = placeIn(numbering().oscPlaces, OscPlace{numbering().lanes[branch.lane].port,
                                                                   target.parameter->message.address});
            break;
        case MessageKind::note:
            branch.place = numbering().noteCauses.intern(name());
            break;
        default:
            break;
    }
    if (branch.body->mix != Mix::latest && branch.on) branch.mix = numbering().mixes.intern(name());
}

Outlet Compiler::outletOf(const PlanBranch& branch) {
    Outlet made;
    if (branch.part == none) return made;
    const Lane& where = numbering().lanes[branch.lane];
    int status = midi::controlChange;
    std::uint32_t slot = static_cast<std::uint32_t>(branch.body->number);
    if (branch.body->kind == MessageKind::bend) {
        status = midi::pitchBend;
        slot = bendSlot;
    } else if (branch.body->kind == MessageKind::pressure) {
        status = midi::channelPressure;
        slot = pressureSlot;
    }
    const bool copied =
        !branch.body->repeats && !plan().parts[branch.part].changesChannel() &&
        (branch.body->kind == MessageKind::bend || branch.body->kind == MessageKind::pressure ||
         (branch.body->kind == MessageKind::cc && !selectsOrClears(branch.body->number)));
    made.leaves = copied ? Leaves::copied : Leaves::carefully;
    made.slot = branch.lane * slotsPerLane + slot % slotsPerLane;
    made.instrument = plan().parts[branch.part].name;
    made.port = where.port;
    made.size = static_cast<std::uint8_t>(midi::dataLength(static_cast<std::uint8_t>(status)) + 1);
    made.status = static_cast<std::uint8_t>(status | where.channel);
    return made;
}

bool Compiler::selectsOrClears(int control) {
    return midi::isDataEntry(control) || midi::selectsRegister(control) || midi::isBankSelect(control) ||
           control == midi::resetAllControllers;
}

/// Folds what can be folded: the trunk as far as it is stateless, and the whole chain where all of it is.
void Compiler::tabulate(const PlanChain& chain, ChainBody& body) {
    const Ear& ear = plan().ears[chain.firstEar];
    if (ear.max == 0 || ear.handover != Handover::jump) return;
    body.trunk = tabulator_.trunk(ear, body.steps);
    if (body.trunk == nullptr || body.trunk->firstLive < body.steps.size() || chain.chosen) return;
    body.table = tabulator_.table(
        *body.trunk, std::span(std::as_const(plan().branches)).subspan(chain.firstBranch, chain.branchCount));
}

/// True where a value goes on from the trunk to all branches alike, and nothing waits for it on the way.
bool Compiler::isStraight(const PlanChain& chain) const {
    const auto branches = std::span(program_->plan.branches).subspan(chain.firstBranch, chain.branchCount);
    return !chain.chosen && std::all_of(branches.begin(), branches.end(), [](const PlanBranch& branch) {
        const BranchWindow* window = branch.body->window;
        const bool mayStaySilent = window != nullptr && window->outside != Outside::clamp;
        return branch.on && branch.tieLine == none && !branch.hand && (branch.mix == none || !mayStaySilent);
    });
}

void Compiler::useTables(PlanChain& chain, const ChainBody& body) {
    chain.way = isStraight(chain) ? Way::straight : Way::evaluated;
    if (body.trunk != nullptr) {
        chain.firstLive = static_cast<std::uint32_t>(body.trunk->firstLive);
        chain.places = body.trunk->places.data();
    }
    if (body.table != nullptr) {
        chain.table = body.table->payloads.data();
        // What would move with the clock stands in a branch that is off.
        chain.ticks = false;
        // Its steps remember nothing, but a second source does, even of a branch that leads nowhere.
        if (chain.earCount > 1) return;
        stateCount_ = chain.firstState;
        chain.stateCount = 0;
    }
}

}  // namespace mellow::engine
