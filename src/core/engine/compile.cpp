#include "core/engine/compile.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <numeric>

#include "core/checks/check.h"
#include "core/engine/order.h"
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

bool isPair(SourceKind kind) {
    return kind == SourceKind::cc14 || kind == SourceKind::rpn || kind == SourceKind::nrpn;
}

/// The kinds of message that concern a source.
std::vector<std::size_t> listenKeysOf(const Source& source) {
    const auto number = static_cast<std::size_t>(std::max(0, source.number));
    switch (source.kind) {
        case SourceKind::cc:
        case SourceKind::relative:
            return {number};
        case SourceKind::cc14:
            return {number, number + 32};
        case SourceKind::bend:
            return {bendKey};
        case SourceKind::pressure:
            return {pressureKey};
        case SourceKind::keyPressure:
            return {keyPressureKey};
        case SourceKind::velocity:
        case SourceKind::keyNumber:
            return {noteOnKey};
        case SourceKind::releaseVelocity:
            return {noteOffKey};
        case SourceKind::key:
        case SourceKind::envelope:
            return {noteOnKey, noteOffKey};
        case SourceKind::lfo:
            return cycleRestarts(source) ? std::vector{noteOnKey} : std::vector<std::size_t>{};
        case SourceKind::program:
            return {programKey};
        case SourceKind::rpn:
        case SourceKind::nrpn:
            return {midi::dataEntry, midi::dataEntryLow, midi::dataIncrement, midi::dataDecrement};
        default:
            return {};
    }
}

/// True of controls that mean something beyond their value: pedals, and what selects and enters data.
bool meansMore(std::size_t key) {
    return key == midi::sustain || key == midi::sostenuto || key == midi::legatoPedal ||
           key == midi::dataEntry || key == midi::dataEntryLow || (key >= 96 && key <= 101) ||
           key > pressureKey;
}

class Compiler {
 public:
    Compiler(const Ensemble& ensemble, const Plan* previous)
        : ensemble_(ensemble), previous_(previous), stopped_(stoppedBy(ensemble)), program_(new Program) {
        if (previous != nullptr) {
            numbering() = previous->numbering;
            plan().chains.reserve(previous->chains.size());
            plan().branches.reserve(previous->branches.size());
            plan().outlets.reserve(previous->outlets.size());
            plan().ears.reserve(previous->ears.size());
            plan().tables.reserve(previous->tables.size());
            plan().positions.reserve(previous->positions.size());
        }
        numbering().ports.intern(anyPort);
    }

    std::unique_ptr<Program> run() {
        for (const TieLine& line : ensemble_.tieLines) numbering().tieLines.intern(line.id);
        for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
            if (!stopped_.instruments[i]) addPart(ensemble_.instruments[i]);
        }
        addChains(nullptr, none, ensemble_.sharedChains, stopped_.shared);
        for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
            if (stopped_.instruments[i]) continue;
            const std::uint32_t part = partOf_.at(ensemble_.instruments[i].id);
            addChains(&ensemble_.instruments[i], part, ensemble_.instruments[i].chains, stopped_.chains[i]);
            plan().parts[part].endChain = static_cast<std::uint32_t>(plan().chains.size());
        }
        findMixes();
        for (PlanChain& chain : plan().chains) chooseWay(chain);
        indexListeners();
        indexTheRest();
        allocateState();
        return std::move(program_);
    }

 private:
    Plan& plan() { return program_->plan; }
    Numbering& numbering() { return program_->plan.numbering; }

    PortId port(std::string_view name) { return static_cast<PortId>(numbering().ports.intern(name)); }

    bool inHand(const Instrument& instrument) const {
        if (!ensemble_.inHand) return true;
        const auto& ids = *ensemble_.inHand;
        return std::find(ids.begin(), ids.end(), instrument.id) != ids.end();
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
        part.lane = placeIn(numbering().lanes,
                            Lane{port(instrument.output.port),
                                 static_cast<std::uint8_t>(instrument.output.channel - 1), part.name});
        const auto place = static_cast<std::uint32_t>(plan().parts.size());
        for (std::size_t channel = 0; channel < 16 && part.inHand; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            plan().receivers[channel].push_back(place);
            if (part.pass.unmatched) plan().passers[channel].push_back(place);
        }
        partOf_.emplace(instrument.id, place);
        plan().parts.push_back(part);
    }

    void addChains(const Instrument* instrument, std::uint32_t part, const std::vector<Chain>& chains,
                   const std::vector<bool>& stopped) {
        std::vector<bool> runs(stopped.size());
        std::transform(stopped.begin(), stopped.end(), runs.begin(), [](bool stops) { return !stops; });
        if (!ensemble_.tieLines.empty()) {
            for (const std::size_t c : runningOrder(chains, runs)) addChain(instrument, part, chains[c]);
            return;
        }
        for (std::size_t c = 0; c < chains.size(); ++c) {
            if (runs[c]) addChain(instrument, part, chains[c]);
        }
    }

    std::uint32_t reserveStates(std::size_t count) {
        const auto first = static_cast<std::uint32_t>(stateCount_);
        stateCount_ += count;
        return first;
    }

    void addChain(const Instrument* instrument, std::uint32_t part, const Chain& chain) {
        const std::uint32_t key = numbering().chainKeys->intern(
            (instrument == nullptr ? sharedOwner : instrument->id) + "/" + chain.id);
        const PlanChain* earlier = previous_ == nullptr ? nullptr : previous_->chainWithKey(key);
        targets_.clear();
        for (const Branch& branch : chain.branches)
            targets_.push_back(targetOf(ensemble_, instrument, branch.target));
        PlanChain compiled;
        if (earlier != nullptr && isUnchanged(*earlier->body, chain)) {
            compiled = *earlier;
            compiled.part = part;
            reuse(compiled, *earlier);
        } else {
            compiled = freshChain(part, chain);
            compiled.key = key;
            const bool same = earlier != nullptr && doesTheSame(*earlier->body, *compiled.body);
            compiled.version = same ? earlier->version : newVersion();
        }
        compiled.asleep = part != none && chain.active == Active::inHand && !plan().parts[part].inHand;
        plan().chains.push_back(std::move(compiled));
    }

    static std::uint64_t newVersion() {
        static std::atomic<std::uint64_t> versions{0};
        return ++versions;
    }

    static bool doesTheSame(const ChainBody& a, const ChainBody& b) {
        return a.lanes == b.lanes && a.sources == b.sources && a.played == b.played && a.targets == b.targets;
    }

    std::uint32_t laneOf(const Target& target) const {
        if (target.tieLine != nullptr) return 0;
        const auto part = partOf_.find(target.instrument->id);
        return part == partOf_.end() ? none : program_->plan.parts[part->second].lane;
    }

    /// True when nothing has changed that a chain is compiled from.
    bool isUnchanged(const ChainBody& origin, const Chain& chain) const {
        if (origin.written != chain) return false;
        for (std::size_t b = 0; b < targets_.size(); ++b) {
            if (origin.lanes[b] != laneOf(targets_[b])) return false;
            if (targets_[b].parameter != nullptr && origin.targets[b] != *targets_[b].parameter) return false;
        }
        if (handoverOf(ensemble_, chain) != Handover::jump) return false;
        std::size_t ear = 0;
        bool same = true;
        const auto compare = [&](const Source& source) {
            const bool refers = !source.controller.empty() || source.kind == SourceKind::tieLine;
            same = same && !refers && ear < origin.sources.size();
            ++ear;
        };
        forEachSource(chain, compare);
        return same;
    }

    /// Takes over what was made of a chain, at new places.
    void reuse(PlanChain& chain, const PlanChain& earlier) {
        placeParts(chain);
        const auto copy = [](const auto& from, std::size_t first, std::size_t count, auto& to) {
            const auto begin = from.begin() + static_cast<std::ptrdiff_t>(first);
            const std::size_t at = to.size();
            to.insert(to.end(), begin, begin + static_cast<std::ptrdiff_t>(count));
            return at;
        };
        chain.table = copy(previous_->tables, earlier.table, earlier.tableSize, plan().tables);
        chain.positions =
            copy(previous_->positions, earlier.positions, earlier.positionCount, plan().positions);
    }

    PlanChain freshChain(std::uint32_t part, const Chain& chain) {
        auto body = std::make_shared<ChainBody>();
        body->written = chain;
        body->played = definitionOf(chain);
        body->steps = body->played.steps;
        prepare(body->steps);
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            const Target& target = targets_[b];
            body->branches.push_back(target.parameter != nullptr
                                         ? prepareBranch(*target.parameter, chain.branches[b])
                                         : prepareTieLineBranch(chain.branches[b]));
            body->targets.push_back(target.parameter != nullptr ? *target.parameter : Parameter{});
            body->lanes.push_back(laneOf(target));
        }
        forEachSource(chain,
                      [&](const Source& source) { body->sources.push_back(resolved(ensemble_, source)); });
        body->hearsCues = anyStep(*body, [](const StepKind& kind) { return kind.hear != nullptr; });
        body->ticks = anyStep(*body, [](const StepKind& kind) { return kind.tick != nullptr; });
        PlanChain compiled;
        compiled.body = std::move(body);
        compiled.part = part;
        compiled.keepOriginal = chain.keepOriginal;
        compiled.chosen = chain.fan.mode == FanMode::chosen;
        placeParts(compiled);
        tabulate(compiled);
        return compiled;
    }

    /// Gives a chain's steps, ears and branches their places in the plan.
    void placeParts(PlanChain& chain) {
        const ChainBody& body = *chain.body;
        chain.firstState = static_cast<std::uint32_t>(stateCount_);
        chain.firstEar = static_cast<std::uint32_t>(plan().ears.size());
        chain.firstBranch = static_cast<std::uint32_t>(plan().branches.size());
        chain.branchCount = static_cast<std::uint32_t>(body.branches.size());
        nextSource_ = body.sources.data();
        addEar(Role::main).handover = handoverOf(ensemble_, body.written);
        addCombineEars(body.steps, reserveStates(body.steps.size()), -1);
        for (std::size_t b = 0; b < body.branches.size(); ++b) {
            placeBranch(body.branches[b], targets_[b]);
            addCombineEars(body.branches[b].steps, plan().branches.back().firstState, static_cast<int>(b));
        }
        if (chain.chosen) addEar(Role::chooser);
        chain.earCount = static_cast<std::uint32_t>(plan().ears.size()) - chain.firstEar;
        chain.stateCount = static_cast<std::uint32_t>(stateCount_) - chain.firstState;
    }

    /// An ear for the chain's next source.
    Ear& addEar(Role role) {
        Ear& ear = plan().ears.emplace_back();
        ear.source = nextSource_++;
        ear.chain = static_cast<std::uint32_t>(plan().chains.size());
        ear.role = role;
        const std::string* from = portOf(ensemble_, *ear.source);
        ear.port = from == nullptr ? everyPort : port(*from);
        ear.channel = ear.source->channel ? *ear.source->channel - 1 : -1;
        ear.scale = scaleOf(*ear.source);
        ear.max = maxOf(*ear.source);
        ear.rest = restOf(ensemble_, *ear.source);
        if (ear.source->kind == SourceKind::tieLine)
            ear.tieLine = numbering().tieLines.intern(ear.source->tieLine);
        return ear;
    }

    /// branch: the steps' place in the chain; −1: the trunk.
    void addCombineEars(const std::vector<Step>& steps, std::uint32_t firstState, int branch) {
        for (std::size_t i = 0; i < steps.size(); ++i) {
            if (!steps[i].with) continue;
            Ear& ear = addEar(Role::combine);
            ear.step = firstState + static_cast<std::uint32_t>(i);
            ear.place = {branch, static_cast<int>(i)};
        }
    }

    /// Gives a branch its place in the plan and at its target.
    void placeBranch(const BranchBody& body, const Target& target) {
        PlanBranch branch;
        branch.body = &body;
        branch.on = body.on;
        if (target.tieLine != nullptr) {
            branch.tieLine = numbering().tieLines.intern(target.tieLine->id);
        } else if (const auto part = partOf_.find(target.instrument->id); part == partOf_.end()) {
            branch.on = false;  // It is switched off, and gets nothing.
        } else {
            branch.part = part->second;
            branch.lane = plan().parts[part->second].lane;
            placeTarget(branch, target);
        }
        branch.chain = static_cast<std::uint32_t>(plan().chains.size());
        branch.firstState = reserveStates(body.steps.size());
        plan().outlets.push_back(outletOf(branch));
        plan().branches.push_back(branch);
    }

    void placeTarget(PlanBranch& branch, const Target& target) {
        switch (branch.body->kind) {
            case MessageKind::rpn:
            case MessageKind::nrpn: {
                const auto kind =
                    branch.body->kind == MessageKind::rpn ? midi::PairKind::rpn : midi::PairKind::nrpn;
                branch.place =
                    placeIn(numbering().registers, Register{branch.lane, kind, branch.body->number});
                break;
            }
            case MessageKind::osc:
                branch.place = placeIn(numbering().oscPlaces, OscPlace{numbering().lanes[branch.lane].port,
                                                                       target.parameter->message.address});
                break;
            case MessageKind::note:
                branch.place =
                    numbering().noteCauses.intern(target.instrument->id + "/" + target.parameter->id);
                if (branch.on) plan().noteCauses.push_back(branch.place);
                break;
            case MessageKind::velocity:
                if (branch.on) plan().parts[branch.part].drivesVelocity = true;
                break;
            default:
                break;
        }
        if (target.parameter->mix == Mix::latest || !branch.on) return;
        const auto [mix, isNew] = mixOf_.try_emplace({branch.part, target.parameter->id},
                                                     static_cast<std::uint32_t>(plan().mixes.size()));
        if (isNew) plan().mixes.push_back({target.parameter->mix, {}});
        branch.mix = mix->second;
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

    /// Branches that meet by a rule, those of shared chains first, then as the document has them. A chain
    /// that writes to a lane's control of which the other half is sent as a pair cannot merely copy either.
    void findMixes() {
        std::vector<std::uint32_t> order(plan().mixes.empty() ? 0 : plan().branches.size());
        std::iota(order.begin(), order.end(), 0);
        const auto documentPlace = [this](std::uint32_t b) { return documentPlaceOf(b); };
        std::stable_sort(order.begin(), order.end(),
                         [&](auto a, auto b) { return documentPlace(a) < documentPlace(b); });
        for (const std::uint32_t b : order) {
            const PlanBranch& branch = plan().branches[b];
            if (branch.mix != none) plan().mixes[branch.mix].branches.push_back(b);
        }
        std::vector<bool> paired(numbering().lanes.size() * 32);
        for (const PlanBranch& branch : plan().branches) {
            if (branch.body->kind == MessageKind::cc14 && branch.part != none)
                paired[branch.lane * 32 + static_cast<std::uint32_t>(branch.body->number)] = true;
        }
        for (std::size_t b = 0; b < plan().branches.size(); ++b) {
            const PlanBranch& branch = plan().branches[b];
            const bool half = branch.body->kind == MessageKind::cc && branch.part != none &&
                              branch.body->number < 64 &&
                              paired[branch.lane * 32 + static_cast<std::uint32_t>(branch.body->number % 32)];
            if (half) plan().outlets[b].plain = false;
        }
    }

    /// Chains were put into running order; ears tell them apart, so the document's order is looked up.
    std::pair<std::size_t, std::size_t> documentPlaceOf(std::uint32_t b) {
        if (placeOfBranch_.empty()) {
            placeOfBranch_.resize(plan().branches.size());
            std::map<std::uint32_t, std::size_t> placeOfKey;
            const auto note = [&](const std::string& owner, const std::vector<Chain>& chains) {
                for (const Chain& chain : chains) {
                    if (const auto key = numbering().chainKeys->find(owner + "/" + chain.id))
                        placeOfKey.try_emplace(*key, placeOfKey.size());
                }
            };
            note(sharedOwner, ensemble_.sharedChains);
            for (const Instrument& instrument : ensemble_.instruments) note(instrument.id, instrument.chains);
            for (const PlanChain& chain : plan().chains) {
                for (std::uint32_t i = 0; i < chain.branchCount; ++i)
                    placeOfBranch_[chain.firstBranch + i] = {placeOfKey.at(chain.key), i};
            }
        }
        return placeOfBranch_[b];
    }

    /// Folds what can be folded: the trunk as far as it is stateless, and the whole chain where all of it is.
    void tabulate(PlanChain& chain) {
        const Ear& ear = plan().ears[chain.firstEar];
        if (ear.max == 0 || ear.handover != Handover::jump) return;
        places_.clear();
        const int coarse = isPair(ear.source->kind) ? midi::max7 + 1 : 0;
        for (int raw = 0; raw <= ear.max; ++raw) places_.push_back(decode(ear.scale, raw, ear.max));
        for (int raw = 0; raw < coarse; ++raw) places_.push_back(decode(ear.scale, raw, midi::max7));
        while (chain.firstLive < chain.steps().size() && fold(chain.steps()[chain.firstLive], places_))
            ++chain.firstLive;
        const bool whole = chain.firstLive == chain.steps().size() && !chain.chosen;
        if (whole && tabulateBranches(chain)) return;
        chain.positions = plan().positions.size();
        chain.positionCount = places_.size();
        plan().positions.insert(plan().positions.end(), places_.begin(), places_.end());
    }

    /// Once it is known what its outlets have to be careful about.
    void chooseWay(PlanChain& chain) {
        if (chain.body->ticks && !chain.asleep)
            plan().timedChains.push_back(static_cast<std::uint32_t>(&chain - plan().chains.data()));
        if (chain.isEvaluated()) return;
        const auto outlets = std::span(plan().outlets).subspan(chain.firstBranch, chain.branchCount);
        const bool plain =
            std::all_of(outlets.begin(), outlets.end(), [](const Outlet& outlet) { return outlet.plain; });
        chain.way = plain && !chain.silent ? Way::tabulated : Way::carefully;
    }

    /// Takes positions through a step, if the step is a function of position alone wherever they are.
    static bool fold(const Step& step, std::span<double> positions) {
        if (step.kind->shape == nullptr) return false;
        if (step.kind->remembers()) {
            const auto isNone = [&step](double p) { return std::isnan(step.kind->shape(step, p)); };
            if (std::any_of(positions.begin(), positions.end(), isNone)) return false;
        }
        for (double& p : positions) p = shapePosition(step, p);
        return true;
    }

    /// Values lie by raw value, then branch, so that one event reads one short run of them.
    bool tabulateBranches(PlanChain& chain) {
        const std::size_t table = plan().tables.size();
        plan().tables.resize(table + places_.size() * chain.branchCount, noPayload);
        for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
            const PlanBranch& branch = plan().branches[chain.firstBranch + b];
            const bool foldable =
                branch.tieLine == none && branch.mix == none && branch.body->kind != MessageKind::osc;
            if (!foldable || !tabulateBranch(branch, plan().tables.data() + table + b, chain.branchCount)) {
                plan().tables.resize(table);
                return false;
            }
        }
        const auto payloads = std::span(plan().tables).subspan(table);
        chain.silent = std::find(payloads.begin(), payloads.end(), noPayload) != payloads.end();
        chain.table = table;
        chain.tableSize = payloads.size();
        chain.way = Way::carefully;
        return true;
    }

    bool tabulateBranch(const PlanBranch& branch, Payload* column, std::uint32_t stride) {
        if (!branch.on) return true;
        const BranchBody& body = *branch.body;
        if (!body.window && body.steps.empty()) {
            for (std::size_t i = 0; i < places_.size(); ++i)
                column[i * stride] = payloadOf(body, valueAt(body, reached(body, places_[i])));
            return true;
        }
        inside_.clear();
        insideAt_.clear();
        for (std::size_t i = 0; i < places_.size(); ++i) {
            if (const auto p = throughWindow(body, places_[i])) {
                inside_.push_back(*p);
                insideAt_.push_back(i);
            } else if (body.window->outside == Outside::rest) {
                column[i * stride] = payloadOf(body, valueAt(body, body.restRaw));
            }
        }
        const auto foldsInto = [this](const Step& step) { return fold(step, inside_); };
        if (!std::all_of(body.steps.begin(), body.steps.end(), foldsInto)) return false;
        for (std::size_t i = 0; i < inside_.size(); ++i)
            column[insideAt_[i] * stride] = payloadOf(body, valueAt(body, reached(body, inside_[i])));
        return true;
    }

    /// True when a step of the trunk or of a branch is of a kind for which has(kind) holds.
    template<class Has>
    static bool anyStep(const ChainBody& body, Has&& has) {
        const auto any = [&has](const std::vector<Step>& steps) {
            return std::any_of(steps.begin(), steps.end(),
                               [&has](const Step& step) { return has(*step.kind); });
        };
        return any(body.steps) || std::any_of(body.branches.begin(), body.branches.end(),
                                              [&any](const BranchBody& branch) { return any(branch.steps); });
    }

    /// Calls visit(list, listener) for each list of listeners that a chain belongs to. Where a message
    /// concerns several ears of a chain, they come one after another.
    template<class Visit>
    void forEachListOf(std::uint32_t index, Visit&& visit) {
        const PlanChain& chain = plan().chains[index];
        if (chain.asleep) return;
        const PlanInstrument* part = chain.part == none ? nullptr : &plan().parts[chain.part];
        Listener plain;
        plain.chain = index;
        plain.part = chain.part;
        plain.partPort = part == nullptr ? everyPort : part->inputPort;
        plain.keep = chain.keepOriginal;
        const int channels = part == nullptr ? 0xFFFF : part->inputChannels;
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((channels >> channel & 1) == 0) continue;
            for (std::uint32_t e = chain.firstEar; e < chain.firstEar + chain.earCount; ++e) {
                const Ear& ear = plan().ears[e];
                if (ear.channel >= 0 && ear.channel != static_cast<int>(channel)) continue;
                Listener listener = plain;
                listener.ear = e;
                listener.port = ear.port;
                for (const std::size_t key : listenKeysOf(*ear.source))
                    visit(channel * listenKeys + key, listener);
            }
            if (!chain.body->hearsCues) continue;
            visit(channel * listenKeys + noteOnKey, plain);
            visit(channel * listenKeys + midi::sustain, plain);
        }
    }

    /// Sorts chains by what they listen to, by counting, so that each list stays in order.
    void indexListeners() {
        auto& first = plan().firstListener;
        const auto chains = static_cast<std::uint32_t>(plan().chains.size());
        for (std::uint32_t c = 0; c < chains; ++c)
            forEachListOf(c, [&](std::size_t list, const Listener&) { ++first[list + 1]; });
        std::partial_sum(first.begin(), first.end(), first.begin());
        plan().listeners.resize(first.back());
        std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
        for (std::size_t list = 0; list < plan().plain.size(); ++list)
            plan().plain[list] = !meansMore(list % listenKeys);
        for (std::uint32_t c = 0; c < chains; ++c) {
            forEachListOf(c, [&](std::size_t list, const Listener& listener) {
                plan().listeners[next[list]++] = listener;
                const bool looksUp = plan().chains[c].part != none && !plan().chains[c].isEvaluated() &&
                                     listener.ear != none && !isPair(plan().ears[listener.ear].source->kind);
                plan().plain[list] = plan().plain[list] && looksUp;
            });
        }
    }

    void indexTheRest() {
        std::map<std::string, std::vector<std::uint32_t>> byAddress;
        plan().tieLines.resize(numbering().tieLines.size());
        for (std::uint32_t e = 0; e < plan().ears.size(); ++e) {
            const Ear& ear = plan().ears[e];
            if (plan().chains[ear.chain].asleep) continue;
            const Source& source = *ear.source;
            if (source.kind == SourceKind::cc14)
                plan().pairsHeard[static_cast<std::size_t>(source.number)] = true;
            if (ear.tieLine != none) plan().tieLines[ear.tieLine].ears.push_back(e);
            if (source.kind == SourceKind::osc) byAddress[textOf(source, 0)].push_back(e);
            if (row(source.kind).origin == Origin::generator) plan().generators.push_back(e);
            if (source.kind == SourceKind::envelope) plan().notesCounted.push_back(e);
        }
        // Halves of pairs are followed on every channel, so that a later edit finds them known.
        for (std::size_t list = 0; list < plan().plain.size(); ++list) {
            const std::size_t key = list % listenKeys;
            if (key < 64 && plan().pairsHeard[key % 32]) plan().plain[list] = false;
        }
        for (auto& [address, ears] : byAddress) plan().oscListeners.push_back({address, std::move(ears)});
        std::sort(plan().noteCauses.begin(), plan().noteCauses.end());
        plan().chainOfKey.assign(numbering().chainKeys->size(), none);
        for (std::uint32_t c = 0; c < plan().chains.size(); ++c) plan().chainOfKey[plan().chains[c].key] = c;
    }

    void allocateState() {
        State& state = program_->state;
        state.steps.resize(stateCount_);
        state.chains.resize(plan().chains.size());
        state.ears.resize(plan().ears.size());
        for (std::size_t e = 0; e < plan().ears.size(); ++e) {
            const Ear& ear = plan().ears[e];
            state.ears[e].position = ear.rest;
            state.ears[e].moves = row(ear.source->kind).origin == Origin::generator;
            if (ear.role == Role::combine) state.steps[ear.step].other = ear.rest;
        }
        state.sent.assign(numbering().lanes.size() * slotsPerLane, noPayload);
        state.selections.resize(numbering().lanes.size());
        state.registers.assign(numbering().registers.size(), -1);
        state.osc.resize(numbering().oscPlaces.size());
        state.mixed.assign(plan().branches.size(), std::numeric_limits<double>::quiet_NaN());
        state.mixQueued.assign(plan().mixes.size(), none);
        state.tieLines.assign(plan().tieLines.size(), 0);
        state.velocities.assign(plan().parts.size(), -1);
        state.pending.assign(plan().chains.size() / 64 + 1, 0);
        state.matches.resize(plan().parts.size());
        if (!plan().mixes.empty())
            state.deferred.reserve(2 * plan().branches.size() + plan().parts.size() + 16);
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
    const Plan* previous_;
    const Stopped stopped_;
    std::unique_ptr<Program> program_;
    std::map<std::string, std::uint32_t, std::less<>> partOf_;
    std::map<std::pair<std::uint32_t, std::string>, std::uint32_t> mixOf_;
    std::vector<std::pair<std::size_t, std::size_t>> placeOfBranch_;
    std::size_t stateCount_ = 0;
    // For the chain at hand.
    std::vector<Target> targets_;
    const Source* nextSource_ = nullptr;
    std::vector<double> places_;
    std::vector<double> inside_;
    std::vector<std::size_t> insideAt_;
};

}  // namespace

std::unique_ptr<Program> compile(const Ensemble& ensemble, const Plan* previous) {
    return Compiler(ensemble, previous).run();
}

}  // namespace mellow::engine
