// The compiler goes through the document once and appends to the plan's lists: parts, then chains with their
// ears, branches and hearings. What the previous plan has of an instrument that did not change is copied and
// its places are moved (takeOver, moveTo). When all is there, it is indexed: where branches meet, in which
// order chains run, who hears what; and the state that playing needs is allocated.
#include "core/engine/compile.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <numeric>
#include <unordered_map>

#include "core/checks/check.h"
#include "core/engine/dispatch.h"
#include "core/engine/running_order.h"
#include "core/engine/tabulate.h"
#include "core/model/resolve.h"

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

template<class List, class Thing>
std::uint32_t placeIn(List& list, const Thing& wanted) {
    const auto found = std::find(list.begin(), list.end(), wanted);
    if (found != list.end()) return static_cast<std::uint32_t>(found - list.begin());
    list.push_back(wanted);
    return static_cast<std::uint32_t>(list.size() - 1);
}

class Compiler {
 public:
    Compiler(const Ensemble& ensemble, const Plan* previous, const Names* ports)
        : ensemble_(ensemble),
          directory_(Directory::indexed(ensemble)),
          previous_(previous),
          program_(new Program),
          tabulator_(chainsOf(ensemble)) {
        auto now = std::make_shared<const Surroundings>(
            Surroundings{ensemble.controllers, ensemble.tieLines, ensemble.inHand, ensemble.tempo});
        if (previous != nullptr) {
            numbering() = previous->numbering;
            sameSurroundings_ = previous->surroundings != nullptr && *now == *previous->surroundings;
        }
        if (ports != nullptr) numbering().ports = *ports;
        plan().surroundings = std::move(now);
        numbering().ports.intern(anyPort);
        plan().follows = ensemble.tempo.follow;
        plan().clockPort = port(ensemble.tempo.port);
        if (ensemble.tempo.bpm > 0) plan().bpm = ensemble.tempo.bpm;
        reserveRoom();
    }

    std::unique_ptr<Program> run() {
        for (const TieLine& line : ensemble_.tieLines) numbering().tieLines.intern(line.id);
        findUnchanged();
        for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
            if (!stopped_.instruments[i]) addPart(ensemble_.instruments[i]);
        }
        addChains({nullptr, none}, ensemble_.sharedChains, stopped_.shared, plan().sharedBodies);
        for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
            if (!stopped_.instruments[i]) addInstrument(i);
        }
        indexBranches();
        if (!ensemble_.tieLines.empty()) findRunningOrder(plan());
        listReceivers();
        for (PlanChain& chain : plan().chains) chooseWay(chain);
        giveHands();
        indexDispatch(plan());
        allocateState();
        return std::move(program_);
    }

 private:
    /// Whose chains are added.
    struct Owner {
        std::shared_ptr<const Instrument> instrument;  ///< null: the shared chains'
        std::uint32_t part = none;
    };

    Plan& plan() { return program_->plan; }
    Numbering& numbering() { return program_->plan.numbering; }

    PortId port(std::string_view name) { return static_cast<PortId>(numbering().ports.intern(name)); }

    bool inHand(const Instrument& instrument) const {
        if (!ensemble_.inHand) return true;
        const auto& ids = *ensemble_.inHand;
        return std::find(ids.begin(), ids.end(), instrument.id) != ids.end();
    }

    static std::size_t chainsOf(const Ensemble& ensemble) {
        std::size_t chains = ensemble.sharedChains.size();
        for (const Instrument& instrument : ensemble.instruments) chains += instrument.chains.size();
        return chains;
    }

    /// Room for what nearly all ensembles need: a place to listen for each chain.
    void reserveRoom() {
        const std::size_t chains = chainsOf(ensemble_);
        std::size_t branches = 0;
        const auto count = [&](const std::vector<Chain>& list) {
            for (const Chain& chain : list) branches += chain.branches.size();
        };
        count(ensemble_.sharedChains);
        for (const Instrument& instrument : ensemble_.instruments) count(instrument.chains);
        plan().chains.reserve(chains);
        plan().branches.reserve(branches);
        plan().outlets.reserve(branches);
        plan().ears.reserve(chains);
        plan().hearings.reserve(chains);
    }

    /// Finds instruments that are as they were, and what cannot run.
    void findUnchanged() {
        records_.resize(ensemble_.instruments.size(), nullptr);
        std::vector<const std::vector<bool>*> known(ensemble_.instruments.size(), nullptr);
        for (std::size_t i = 0; i < ensemble_.instruments.size() && sameSurroundings_; ++i) {
            records_[i] = earlierRecord(i);
            if (records_[i] != nullptr) known[i] = &records_[i]->stoppedAlone;
        }
        stopped_ = stoppedBy(directory_, known);
        for (std::size_t i = 0; i < records_.size(); ++i) {
            if (records_[i] != nullptr && records_[i]->stopped != stopped_.chains[i]) records_[i] = nullptr;
        }
    }

    /// What the previous plan has of an instrument, if it is the same.
    const Record* earlierRecord(std::size_t i) {
        const auto& records = previous_->records;
        const Instrument& instrument = ensemble_.instruments[i];
        const auto number = numbering().instruments.find(instrument.id);
        if (!number) return nullptr;
        if (recordOf_.empty()) {
            recordOf_.resize(numbering().instruments.size(), nullptr);
            for (std::size_t r = 0; r < records.size(); ++r)
                recordOf_[previous_->parts[r].name] = &records[r];
        }
        const Record* record = recordOf_[*number];
        const bool same =
            record != nullptr && (record->written.get() == &instrument || *record->written == instrument);
        return same ? record : nullptr;
    }

    void addPart(const Instrument& instrument) {
        PlanInstrument part;
        part.name = numbering().instruments.intern(instrument.id);
        part.inputPort = port(instrument.input.port);
        part.inputChannels = instrument.input.channel
                                 ? static_cast<std::uint16_t>(1 << (*instrument.input.channel - 1))
                                 : 0xFFFF;
        part.lowKey = instrument.input.lowKey;
        part.highKey = instrument.input.highKey;
        part.transpose = instrument.input.transpose;
        part.pass = instrument.pass;
        part.inHand = inHand(instrument);
        part.lane = lane({port(instrument.output.port),
                          static_cast<std::uint8_t>(instrument.output.channel - 1), part.name});
        partOf_.emplace(instrument.id, static_cast<std::uint32_t>(plan().parts.size()));
        plan().turns.push_back(static_cast<std::uint32_t>(plan().parts.size()));
        plan().parts.push_back(part);
    }

    /// The number of a lane, new or old.
    std::uint32_t lane(const Lane& wanted) {
        auto& lanes = numbering().lanes;
        const auto key = [](const Lane& each) { return std::uint32_t{each.port} << 4 | each.channel; };
        if (laneNumbers_.empty()) {
            for (std::uint32_t i = 0; i < lanes.size(); ++i) laneNumbers_.try_emplace(key(lanes[i]), i);
        }
        const auto [number, isNew] =
            laneNumbers_.try_emplace(key(wanted), static_cast<std::uint32_t>(lanes.size()));
        if (isNew) lanes.push_back(wanted);
        return number->second;
    }

    /// Who hears each channel, once it is known in which order they pass on.
    void listReceivers() {
        for (const std::uint32_t place : plan().turns) {
            const PlanInstrument& part = plan().parts[place];
            for (std::size_t channel = 0; channel < 16 && part.inHand; ++channel) {
                if ((part.inputChannels >> channel & 1) == 0) continue;
                plan().receivers[channel].push_back(place);
                if (part.pass.unmatched) plan().passers[channel].push_back(place);
            }
        }
    }

    void addInstrument(std::size_t i) {
        const std::uint32_t part = static_cast<std::uint32_t>(plan().records.size());
        Record record;
        record.written = ensemble_.instruments.share(i);
        record.stoppedAlone = std::move(stopped_.alone[i]);
        record.stopped = std::move(stopped_.chains[i]);
        record.from = extent();
        if (records_[i] != nullptr) {
            record.bodies = records_[i]->bodies;
            takeOver(*records_[i], part);
        } else {
            Bodies bodies;
            addChains({record.written, part}, record.written->chains, record.stopped, bodies);
            record.bodies = std::make_shared<const Bodies>(std::move(bodies));
        }
        record.to = extent();
        plan().parts[part].endRank = record.to.chains;
        plan().records.push_back(std::move(record));
    }

    Extent extent() {
        const auto count = [](const auto& things) { return static_cast<std::uint32_t>(things.size()); };
        return {count(plan().chains), count(plan().branches), count(plan().ears), stateCount_,
                count(plan().hearings)};
    }

    /// Copies what the previous plan has of an instrument to its places in this one.
    void takeOver(const Record& record, std::uint32_t part) {
        const Extent& from = record.from;
        const Extent here = extent();
        const auto copy = [](const auto& things, std::uint32_t first, std::uint32_t end, auto& to) {
            const auto begin = things.begin();
            to.insert(to.end(), begin + first, begin + end);
        };
        copy(previous_->chains, from.chains, record.to.chains, plan().chains);
        copy(previous_->branches, from.branches, record.to.branches, plan().branches);
        copy(previous_->outlets, from.branches, record.to.branches, plan().outlets);
        copy(previous_->ears, from.ears, record.to.ears, plan().ears);
        copy(previous_->hearings, from.hearings, record.to.hearings, plan().hearings);
        stateCount_ += record.to.states - from.states;
        const auto partBefore = static_cast<std::uint32_t>(&record - previous_->records.data());
        if (here != from || partBefore != part) moveTo(here, from, part);
    }

    /// Corrects the places in what was added last, which came from elsewhere.
    void moveTo(const Extent& here, const Extent& from, std::uint32_t part) {
        const auto move = [](std::uint32_t& place, std::uint32_t was, std::uint32_t is) {
            if (place != none) place = place - was + is;
        };
        for (std::size_t i = here.chains; i < plan().chains.size(); ++i) {
            PlanChain& chain = plan().chains[i];
            chain.part = part;
            move(chain.firstState, from.states, here.states);
            move(chain.firstBranch, from.branches, here.branches);
            move(chain.firstEar, from.ears, here.ears);
        }
        for (std::size_t i = here.branches; i < plan().branches.size(); ++i) {
            PlanBranch& branch = plan().branches[i];
            move(branch.chain, from.chains, here.chains);
            move(branch.firstState, from.states, here.states);
            if (branch.part != none) branch.part = part;
        }
        for (std::size_t i = here.ears; i < plan().ears.size(); ++i) {
            Ear& ear = plan().ears[i];
            move(ear.chain, from.chains, here.chains);
            if (ear.role == Role::combine) move(ear.step, from.states, here.states);
        }
        for (std::size_t i = here.hearings; i < plan().hearings.size(); ++i) {
            move(plan().hearings[i].chain, from.chains, here.chains);
            move(plan().hearings[i].ear, from.ears, here.ears);
        }
    }

    void addChains(const Owner& owner, const std::vector<Chain>& chains, const std::vector<bool>& stopped,
                   Bodies& bodies) {
        for (std::size_t c = 0; c < chains.size(); ++c) {
            if (!stopped[c]) addChain(owner, chains[c], bodies);
        }
    }

    std::uint32_t reserveStates(std::size_t count) {
        return std::exchange(stateCount_, stateCount_ + static_cast<std::uint32_t>(count));
    }

    void addChain(const Owner& owner, const Chain& chain, Bodies& bodies) {
        PlanChain compiled;
        compiled.key = numbering().chainKeys->intern(
            (owner.instrument == nullptr ? sharedOwner : owner.instrument->id) + "/" + chain.id);
        const PlanChain* earlier = previous_ == nullptr ? nullptr : previous_->chainWithKey(compiled.key);
        targets_.clear();
        for (const Branch& branch : chain.branches)
            targets_.push_back(targetOf(directory_, owner.instrument.get(), branch.target));
        compiled.part = owner.part;
        compiled.asleep =
            owner.part != none && chain.active == Active::inHand && !plan().parts[owner.part].inHand;
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

    static std::uint64_t newVersion() {
        static std::atomic<std::uint64_t> versions{0};
        return ++versions;
    }

    static bool doesTheSame(const ChainBody& a, const ChainBody& b) {
        const auto equal = [](const auto* one, const auto* other) {
            return one == other || (one != nullptr && other != nullptr && *one == *other);
        };
        const auto sameLed = [&equal](const ChainBody::Led& one, const ChainBody::Led& other) {
            return one.lane == other.lane && equal(one.target, other.target);
        };
        return std::equal(a.led.begin(), a.led.end(), b.led.begin(), b.led.end(), sameLed) &&
               std::equal(a.sources.begin(), a.sources.end(), b.sources.begin(), b.sources.end(), equal) &&
               definitionOf(*a.written) == definitionOf(*b.written);
    }

    /// The part that a target belongs to; none: it is switched off, or a tie line.
    /// own: the part of the chain that leads there; an instrument's chains lead nowhere else.
    std::uint32_t partOf(std::uint32_t own, const Target& target) const {
        if (target.tieLine != nullptr) return none;
        if (own != none) return own;
        const auto part = partOf_.find(target.instrument->id);
        return part == partOf_.end() ? none : part->second;
    }

    std::uint32_t laneOf(std::uint32_t own, const Target& target) const {
        const std::uint32_t part = partOf(own, target);
        return target.tieLine != nullptr ? 0 : part == none ? none : program_->plan.parts[part].lane;
    }

    /// True when nothing has changed that a chain is compiled from.
    bool isUnchanged(const ChainBody& origin, const Owner& owner, const Chain& chain) const {
        if (*origin.written != chain) return false;
        for (std::size_t b = 0; b < targets_.size(); ++b) {
            const Parameter* parameter = targets_[b].parameter;
            const ChainBody::Led& led = origin.led[b];
            if (led.lane != laneOf(owner.part, targets_[b])) return false;
            if ((parameter == nullptr) != (led.target == nullptr)) return false;
            if (parameter != nullptr && *led.target != *parameter) return false;
        }
        if (sameSurroundings_) return true;
        bool refers = false;
        forEachSource(chain, [&refers](const Source& source) {
            refers = refers || !source.controller.empty() || source.kind == SourceKind::tieLine;
        });
        return !refers;
    }

    std::shared_ptr<ChainBody> freshBody(const Owner& owner, const Chain& chain) {
        auto body = std::make_shared<ChainBody>();
        body->written = keep(*body, owner, chain);
        const Chain& written = *body->written;
        body->steps = StepRun(written.steps);
        body->branches.reserve(written.branches.size());
        body->led.reserve(written.branches.size());
        for (std::size_t b = 0; b < written.branches.size(); ++b) {
            const Target& target = targets_[b];
            body->branches.push_back(target.parameter != nullptr
                                         ? prepareBranch(*target.parameter, written.branches[b])
                                         : prepareTieLineBranch(*target.tieLine, written.branches[b]));
            body->led.push_back({target.parameter, laneOf(owner.part, target)});
        }
        forEachSource(written, [&](const Source& source) { body->sources.push_back(heard(*body, source)); });
        body->hearsCues = anyStep(*body, [](const StepKind& kind) { return kind.hear != nullptr; });
        body->ticks = anyStep(*body, [](const StepKind& kind) { return kind.tick != nullptr; });
        return body;
    }

    /// Keeps what a chain is compiled from as it is now, and returns the chain.
    const Chain* keep(ChainBody& body, const Owner& owner, const Chain& chain) const {
        if (owner.instrument != nullptr) {
            body.instrument = owner.instrument;
            return &chain;
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
    const Source* heard(ChainBody& body, const Source& source) const {
        if (source.kind != SourceKind::control) return &source;
        body.copies.push_back(std::make_unique<const Source>(resolved(directory_, source)));
        return body.copies.back().get();
    }

    /// Gives a chain's steps, ears and branches their places in the plan.
    void placeParts(PlanChain& chain, const ChainBody& body) {
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
    Ear& addEar(Role role) {
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
    void addCombineEars(std::span<const Step> steps, std::uint32_t firstState, int branch) {
        for (std::size_t i = 0; i < steps.size(); ++i) {
            if (!steps[i].with) continue;
            Ear& ear = addEar(Role::combine);
            ear.step = firstState + static_cast<std::uint32_t>(i);
            ear.place = {branch, static_cast<int>(i)};
        }
    }

    /// Gives a branch its place in the plan and at its target.
    void placeBranch(const PlanChain& chain, const BranchBody& body, const Target& target) {
        PlanBranch branch;
        branch.body = &body;
        branch.kind = body.kind;
        branch.on = body.on;
        branch.part = partOf(chain.part, target);
        if (target.tieLine != nullptr) {
            branch.tieLine = numbering().tieLines.intern(target.tieLine->id);
        } else if (branch.part == none) {
            branch.on = false;  // The instrument is switched off, and gets nothing.
        } else {
            branch.lane = plan().parts[branch.part].lane;
            placeTarget(branch, target);
        }
        branch.chain = static_cast<std::uint32_t>(plan().chains.size());
        branch.firstState = reserveStates(body.steps.size());
        plan().outlets.push_back(outletOf(branch));
        branch.copies = plan().outlets.back().plain;
        plan().branches.push_back(branch);
    }

    void placeTarget(PlanBranch& branch, const Target& target) {
        const auto name = [&target] { return target.instrument->id + "/" + target.parameter->id; };
        switch (branch.kind) {
            case MessageKind::rpn:
            case MessageKind::nrpn: {
                const auto kind =
                    branch.kind == MessageKind::rpn ? midi::PairKind::rpn : midi::PairKind::nrpn;
                branch.place =
                    placeIn(numbering().registers, Register{branch.lane, kind, branch.body->number});
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

    Outlet outletOf(const PlanBranch& branch) {
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
        made.plain = !branch.body->repeats &&
                     (branch.body->kind == MessageKind::bend || branch.body->kind == MessageKind::pressure ||
                      (branch.body->kind == MessageKind::cc && !selectsOrClears(branch.body->number)));
        made.slot = branch.lane * slotsPerLane + slot % slotsPerLane;
        made.instrument = plan().parts[branch.part].name;
        made.port = where.port;
        made.size = static_cast<std::uint8_t>(midi::dataLength(static_cast<std::uint8_t>(status)) + 1);
        made.status = static_cast<std::uint8_t>(status | where.channel);
        return made;
    }

    static bool selectsOrClears(int control) {
        return control == midi::dataEntry || control == midi::dataEntryLow ||
               (control >= 96 && control <= 101) || control == midi::resetAllControllers;
    }

    /// What branches mean for others: where they meet by a rule, what they hold sounding, and where a control
    /// cannot merely be copied since its lane gets it as half of a pair too.
    void indexBranches() {
        plan().mixes.resize(numbering().mixes.size());
        std::vector<bool> paired;
        for (const PlanBranch& branch : plan().branches) {
            if (branch.mix != none) plan().hasMixes = true;
            if (branch.kind == MessageKind::note && branch.on) plan().noteCauses.push_back(branch.place);
            if (branch.kind == MessageKind::velocity && branch.on)
                plan().parts[branch.part].drivesVelocity = true;
            if (branch.kind != MessageKind::cc14 || branch.part == none) continue;
            paired.resize(numbering().lanes.size() * 32);
            paired[branch.lane * 32 + static_cast<std::uint32_t>(branch.body->number)] = true;
        }
        if (plan().hasMixes) findMixes();
        for (std::size_t b = 0; b < plan().branches.size(); ++b) {
            const PlanBranch& branch = plan().branches[b];
            const bool half = !paired.empty() && branch.kind == MessageKind::cc && branch.part != none &&
                              branch.body->number < 64 &&
                              paired[branch.lane * 32 + static_cast<std::uint32_t>(branch.body->number % 32)];
            plan().outlets[b].plain = branch.copies && !half;
        }
    }

    /// In document order, as branches lie, those of shared chains first.
    void findMixes() {
        for (std::uint32_t b = 0; b < plan().branches.size(); ++b) {
            const PlanBranch& branch = plan().branches[b];
            if (branch.mix == none) continue;
            plan().mixes[branch.mix].rule = branch.body->mix;
            plan().mixes[branch.mix].branches.push_back(b);
        }
    }

    /// Folds what can be folded: the trunk as far as it is stateless, and the whole chain where all of it is.
    void tabulate(const PlanChain& chain, ChainBody& body) {
        const Ear& ear = plan().ears[chain.firstEar];
        if (ear.max == 0 || ear.handover != Handover::jump) return;
        body.trunk = tabulator_.trunk(ear, body.steps);
        if (body.trunk == nullptr || body.trunk->firstLive < body.steps.size() || chain.chosen) return;
        body.table = tabulator_.table(
            *body.trunk,
            std::span(std::as_const(plan().branches)).subspan(chain.firstBranch, chain.branchCount));
    }

    void useTables(PlanChain& chain, const ChainBody& body) {
        if (body.trunk != nullptr) {
            chain.firstLive = static_cast<std::uint32_t>(body.trunk->firstLive);
            chain.places = body.trunk->places.data();
        }
        if (body.table != nullptr) {
            chain.table = body.table->payloads.data();
            chain.silent = body.table->silent;
            // Its steps remember nothing, but a second source does, even of a branch that leads nowhere.
            if (chain.earCount > 1) return;
            stateCount_ = chain.firstState;
            chain.stateCount = 0;
        }
    }

    /// Once it is known what its outlets have to be careful about.
    void chooseWay(PlanChain& chain) {
        if (chain.ticks && !chain.asleep)
            plan().timedChains.push_back(static_cast<std::uint32_t>(&chain - plan().chains.data()));
        chain.way = Way::evaluated;
        if (chain.table == nullptr) return;
        const auto outlets = std::span(plan().outlets).subspan(chain.firstBranch, chain.branchCount);
        const bool plain =
            std::all_of(outlets.begin(), outlets.end(), [](const Outlet& outlet) { return outlet.plain; });
        const bool alike = chain.part != none;
        chain.way = plain && alike && !chain.silent ? Way::tabulated : Way::carefully;
    }

    /// True when a step of the trunk or of a branch is of a kind for which has(kind) holds.
    template<class Has>
    static bool anyStep(const ChainBody& body, Has&& has) {
        const auto any = [&has](std::span<const Step> steps) {
            return std::any_of(steps.begin(), steps.end(),
                               [&has](const Step& step) { return has(*step.kind); });
        };
        return any(body.steps) || std::any_of(body.branches.begin(), body.branches.end(),
                                              [&any](const BranchBody& branch) { return any(branch.steps); });
    }

    /// Ears that hand over remember the controls that move them.
    void giveHands() {
        for (Ear& ear : plan().ears) {
            const bool follows = ear.handover != Handover::jump && row(ear.kind).origin == Origin::message;
            ear.hands = follows ? handsPerEar * handsCount_++ : none;
        }
    }

    void allocateState() {
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
        state.pending.assign(plan().chains.size() / 64 + 1, 0);
        state.matches.resize(plan().parts.size());
        if (plan().hasMixes) state.deferred.reserve(2 * plan().branches.size() + plan().parts.size() + 16);
        state.chainLive = std::make_unique<ChainLive[]>(plan().chains.size());
        state.branchLive = std::make_unique<BranchLive[]>(plan().branches.size());
        for (std::size_t c = 0; c < plan().chains.size(); ++c) {
            const PlanChain& chain = plan().chains[c];
            if (!chain.chosen) continue;
            const double rest = plan().ears[chain.firstEar + chain.earCount - 1].rest;
            state.chainLive[c].fed.store(static_cast<int>(chosenBranch(chain, rest)),
                                         std::memory_order_relaxed);
        }
    }

    const Ensemble& ensemble_;
    const Directory directory_;
    const Plan* previous_;
    std::unique_ptr<Program> program_;
    bool sameSurroundings_ = false;
    Stopped stopped_;
    std::vector<const Record*> recordOf_;  ///< of the previous plan, by the instrument's number
    std::vector<const Record*> records_;   ///< of instruments that are as they were
    std::map<std::string, std::uint32_t, std::less<>> partOf_;
    std::unordered_map<std::uint32_t, std::uint32_t> laneNumbers_;
    std::uint32_t stateCount_ = 0;
    std::uint32_t handsCount_ = 0;
    Tabulator tabulator_;
    // For the chain at hand.
    std::vector<Target> targets_;
    const Source* const* nextSource_ = nullptr;
};

}  // namespace

std::unique_ptr<Program> compile(const Ensemble& ensemble, const Plan* previous, const Names* ports) {
    return Compiler(ensemble, previous, ports).run();
}

}  // namespace mellow::engine
