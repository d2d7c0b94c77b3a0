// Compiling, as a row of passes (run()). The document is gone through once: instruments become parts, then
// chains are appended with their ears, branches and hearings, or taken over from the previous plan where an
// instrument is as it was (takeOver, moveTo). Then all of it is indexed: where branches meet, in which order
// chains run, who hears what; and the state that playing needs is allocated. Chains are made in
// compile_chain.cpp, the rest in compile_finish.cpp.
#include "core/engine/compiling/compile.h"

#include <algorithm>

#include "core/engine/compiling/compiler.h"
#include "core/engine/compiling/dispatch.h"
#include "core/engine/compiling/running_order.h"
#include "core/model/edit.h"

namespace mellow::engine {

namespace {

/// True where who is in hand is meant to change while one plays: some chain chooses it, or there are sections
/// or an order to choose from.
bool choosesHand(const Ensemble& ensemble) {
    if (!ensemble.sections.empty() || !ensemble.handOrder.empty()) return true;
    // Where somebody is out of hand whose chains stand still, they are to know where their sources stand when
    // an edit brings them back.
    const auto waits = [&ensemble](const Instrument& instrument) {
        const auto& ids = *ensemble.inHand;
        return std::find(ids.begin(), ids.end(), instrument.id) == ids.end() &&
               std::any_of(instrument.chains.begin(), instrument.chains.end(),
                           [](const Chain& chain) { return chain.active == Active::inHand; });
    };
    if (ensemble.inHand && std::any_of(ensemble.instruments.begin(), ensemble.instruments.end(), waits))
        return true;
    return std::any_of(ensemble.sharedChains.begin(), ensemble.sharedChains.end(), [](const Chain& chain) {
        return chain.on &&
               std::any_of(chain.branches.begin(), chain.branches.end(),
                           [](const Branch& branch) { return branch.on && branch.target == handTarget; });
    });
}

}  // namespace

Compiler::Compiler(const Ensemble& ensemble, const Plan* previous, const Names* ports)
    : ensemble_(ensemble),
      directory_(Directory::indexed(ensemble)),
      previous_(previous),
      program_(new Program) {
    auto now = std::make_shared<const Surroundings>(Surroundings{ensemble.controllers, ensemble.tieLines,
                                                                 ensemble.inHand, choosesHand(ensemble),
                                                                 ensemble.tempo, ensemble.desk});
    plan().handMoves = now->handMoves;
    if (previous != nullptr) {
        numbering() = previous->numbering;
        sameSurroundings_ = previous->surroundings != nullptr && *now == *previous->surroundings;
    }
    if (ports != nullptr) numbering().ports = *ports;
    plan().surroundings = std::move(now);
    numbering().ports.intern(anyPort);
    plan().follows = ensemble.tempo.follow;
    plan().clockPort = port(ensemble.tempo.port);
    plan().deskPort = port(deskPortName);
    for (const Controller& each : ensemble.controllers) addZones(each);
    if (ensemble.tempo.bpm > 0) plan().bpm = ensemble.tempo.bpm;
    reserveRoom();
}

std::unique_ptr<Program> Compiler::run(const std::vector<Unled>& besides) {
    for (const TieLine& line : ensemble_.tieLines) numbering().tieLines.intern(line.id);
    findUnchanged();
    for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
        if (!stopped_.instruments[i]) addPart(ensemble_.instruments[i]);
    }
    addChains({nullptr, none}, ensemble_.sharedChains, stopped_.shared, plan().sharedBodies);
    for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
        if (!stopped_.instruments[i]) addInstrument(i);
    }
    addBesides(besides);
    indexBranches();
    if (!ensemble_.tieLines.empty()) findRunningOrder(plan());
    listReceivers();
    for (PlanChain& chain : plan().chains) chooseWay(chain);
    giveHands();
    indexHands();
    indexDispatch(plan());
    indexDesk();
    allocateState();
    return std::move(program_);
}

bool Compiler::inHand(const Instrument& instrument) const {
    if (!ensemble_.inHand) return true;
    const auto& ids = *ensemble_.inHand;
    return std::find(ids.begin(), ids.end(), instrument.id) != ids.end();
}

std::size_t Compiler::chainsOf(const Ensemble& ensemble) {
    std::size_t chains = ensemble.sharedChains.size();
    for (const Instrument& instrument : ensemble.instruments) chains += instrument.chains.size();
    return chains;
}

/// Room for what nearly all ensembles need: a place to listen for each chain.
void Compiler::reserveRoom() {
    const std::size_t chains = chainsOf(ensemble_);
    // After an edit about as many as before; counting them would read the whole document.
    std::size_t branches = previous_ != nullptr ? previous_->branches.size() + 64 : 0;
    const auto count = [&](const std::vector<Chain>& list) {
        for (const Chain& chain : list) branches += chain.branches.size();
    };
    if (previous_ == nullptr) {
        count(ensemble_.sharedChains);
        for (const Instrument& instrument : ensemble_.instruments) count(instrument.chains);
    }
    plan().chains.reserve(chains);
    plan().branches.reserve(branches);
    plan().outlets.reserve(branches);
    plan().ears.reserve(chains);
    plan().hearings.reserve(chains);
}

/// Finds instruments that are as they were, and what cannot run.
void Compiler::findUnchanged() {
    records_.resize(ensemble_.instruments.size(), nullptr);
    std::vector<const StoppedChains*> known(ensemble_.instruments.size(), nullptr);
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
const Record* Compiler::earlierRecord(std::size_t i) {
    const auto& records = previous_->records;
    const Instrument& instrument = ensemble_.instruments[i];
    const auto number = numbering().instruments.find(instrument.id);
    if (!number) return nullptr;
    if (recordOf_.empty()) {
        recordOf_.resize(numbering().instruments.size(), nullptr);
        for (std::size_t r = 0; r < records.size(); ++r) recordOf_[previous_->parts[r].name] = &records[r];
    }
    const Record* record = recordOf_[*number];
    const bool same =
        record != nullptr && (record->written.get() == &instrument || *record->written == instrument);
    return same ? record : nullptr;
}

/// What a controller says of its zones by hand, in so far as that can be.
void Compiler::addZones(const Controller& controller) {
    const ZoneSettings& zones = controller.zones;
    if (zones.lower < 0 && zones.upper < 0) return;
    const auto can = [](double bend, double otherwise) {
        return bend > 0 && bend <= midi::widestBend ? bend : otherwise;
    };
    plan().zones.push_back({port(controller.port), std::min(zones.lower, midi::mostMembers),
                            std::min(zones.upper, midi::mostMembers), can(zones.noteBend, midi::memberBend),
                            can(zones.allBend, midi::managerBend)});
}

void Compiler::addPart(const Instrument& instrument) {
    PlanInstrument part;
    part.name = numbering().instruments.intern(instrument.id);
    part.inputPort = port(instrument.input.port);
    part.inputChannels =
        instrument.input.channel ? static_cast<std::uint16_t>(1 << (*instrument.input.channel - 1)) : 0xFFFF;
    part.lowKey = instrument.input.lowKey;
    part.highKey = instrument.input.highKey;
    part.transpose = instrument.input.transpose;
    part.pass = instrument.pass;
    part.zone = instrument.input.zone;
    part.onConnect = instrument.output.onConnect;
    part.inHand = inHand(instrument);
    part.highVelocity = instrument.input.highVelocity;
    // The off of a key that nobody struck has no velocity; it is of no layer.
    const bool isLayer = instrument.input.lowVelocity > 1 || part.highVelocity < midi::max7;
    part.lowVelocity = isLayer ? std::max(1, instrument.input.lowVelocity) : 0;
    part.lane = lane(
        {port(instrument.output.port), static_cast<std::uint8_t>(instrument.output.channel - 1), part.name});
    part.lanes.push_back(part.lane);
    addArticulations(instrument, part);
    for (std::uint8_t channel = 0; channel < 16 && instrument.output.keepChannels; ++channel)
        part.keptLanes.push_back(lane({numbering().lanes[part.lane].port, channel, part.name}));
    plan().zoned = plan().zoned || part.zone || !part.keptLanes.empty();
    partOf_.emplace(instrument.id, static_cast<std::uint32_t>(plan().parts.size()));
    plan().turns.push_back(static_cast<std::uint32_t>(plan().parts.size()));
    plan().parts.push_back(part);
}

/// What chooses each articulation; of one that cannot be sent as it is written nothing is.
void Compiler::addArticulations(const Instrument& instrument, PlanInstrument& part) {
    for (const Articulation& articulation : instrument.articulations) {
        PlanArticulation& planned = part.articulations.emplace_back();
        planned.key = numbering().articulations.intern(instrument.id + "/" + articulation.id);
        if (!canBeSent(articulation)) continue;
        for (const Select& select : articulation.select) {
            PlanSelect& each = planned.select.emplace_back();
            each.kind = select.kind;
            each.number = static_cast<std::uint8_t>(select.number);
            each.value =
                static_cast<std::uint8_t>(select.kind == SelectKind::note ? select.velocity : select.value);
            each.bank = select.bank;
            if (select.kind == SelectKind::channel) {
                --each.value;
                const std::uint32_t other = lane({numbering().lanes[part.lane].port, each.value, part.name});
                if (std::find(part.lanes.begin(), part.lanes.end(), other) == part.lanes.end())
                    part.lanes.push_back(other);
            }
            if (select.kind != SelectKind::note || !select.held) continue;
            each.cause = numbering().noteCauses.intern(instrument.id + "//" + std::to_string(select.number));
            plan().noteCauses.push_back(each.cause);
        }
    }
}

/// The number of a lane, new or old.
std::uint32_t Compiler::lane(const Lane& wanted) {
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

void Compiler::addInstrument(std::size_t i) {
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

Extent Compiler::extent() {
    const auto count = [](const auto& things) { return static_cast<std::uint32_t>(things.size()); };
    return {count(plan().chains), count(plan().branches), count(plan().ears), stateCount_,
            count(plan().hearings)};
}

/// Copies what the previous plan has of an instrument to its places in this one.
void Compiler::takeOver(const Record& record, std::uint32_t part) {
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
void Compiler::moveTo(const Extent& here, const Extent& from, std::uint32_t part) {
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

void Compiler::addChains(const Owner& owner, const std::vector<Chain>& chains, const StoppedChains& stopped,
                         Bodies& bodies) {
    for (std::size_t c = 0; c < chains.size(); ++c) {
        if (stopped[c].whole) continue;
        if (stopped[c].branches.empty()) {
            addChain(owner, chains[c], bodies);
        } else {
            addChain(owner, asItRuns(chains[c], stopped[c]), bodies);
        }
    }
}

/// Branches that belong to no chain, behind those that do.
void Compiler::addBesides(const std::vector<Unled>& besides) {
    Chain led;
    for (const Unled& each : besides) {
        const std::string target = each.instrument + "/" + each.parameter;
        const Parameter* parameter = targetOf(directory_, nullptr, target).parameter;
        if (parameter != nullptr) led.branches.push_back(wholeBranch(*parameter));
        if (parameter != nullptr) led.branches.back().target = target;
    }
    plan().firstBeside = static_cast<std::uint32_t>(plan().branches.size());
    if (led.branches.empty()) return;
    targets_.clear();
    for (const Branch& branch : led.branches)
        targets_.push_back(targetOf(directory_, nullptr, branch.target));
    auto body = freshBody({nullptr, none}, led);
    for (std::size_t b = 0; b < body->branches.size(); ++b) {
        placeBranch({}, body->branches[b], targets_[b]);
        PlanBranch& branch = plan().branches.back();
        branch.chain = none;
        branch.mix = none;
    }
    plan().sharedBodies.push_back(std::move(body));
}

std::unique_ptr<Program> compile(const Ensemble& ensemble, const Plan* previous, const Names* ports,
                                 const std::vector<Unled>& besides) {
    return Compiler(ensemble, previous, ports).run(besides);
}

}  // namespace mellow::engine
