// The compiler at work on one ensemble: what its passes share. compile.cpp says which they are.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/checks/check.h"
#include "core/engine/compiling/compile.h"
#include "core/engine/compiling/tabulate.h"
#include "core/model/resolve.h"

namespace mellow::engine {

class Compiler {
 public:
    Compiler(const Ensemble& ensemble, const Plan* previous, const Names* ports);
    std::unique_ptr<Program> run(const std::vector<Unled>& besides);

 private:
    /// Whose chains are added.
    struct Owner {
        std::shared_ptr<const Instrument> instrument;  ///< null: the shared chains'
        std::uint32_t part = none;
    };
    Plan& plan() { return program_->plan; }
    Numbering& numbering() { return program_->plan.numbering; }
    PortId port(std::string_view name) { return static_cast<PortId>(numbering().ports.intern(name)); }
    bool inHand(const Instrument& instrument) const;
    static std::size_t chainsOf(const Ensemble& ensemble);
    /// Room for what nearly all ensembles need: a place to listen for each chain.
    void reserveRoom();
    /// Finds instruments that are as they were, and what cannot run.
    void findUnchanged();
    /// What the previous plan has of an instrument, if it is the same.
    const Record* earlierRecord(std::size_t i);
    void addZones(const Controller& controller);
    void addPart(const Instrument& instrument);
    void addArticulations(const Instrument& instrument, PlanInstrument& part);
    /// The number of a lane, new or old.
    std::uint32_t lane(const Lane& wanted);
    /// Who hears each channel, once it is known in which order they pass on.
    void listReceivers();
    void addInstrument(std::size_t i);
    void addBesides(const std::vector<Unled>& besides);
    Extent extent();
    /// Copies what the previous plan has of an instrument to its places in this one.
    void takeOver(const Record& record, std::uint32_t part);
    /// Corrects the places in what was added last, which came from elsewhere.
    void moveTo(const Extent& here, const Extent& from, std::uint32_t part);
    void addChains(const Owner& owner, const std::vector<Chain>& chains, const StoppedChains& stopped,
                   Bodies& bodies);
    std::uint32_t reserveStates(std::size_t count);
    void addChain(const Owner& owner, const Chain& chain, Bodies& bodies);
    static std::uint64_t newVersion();
    static bool doesTheSame(const ChainBody& a, const ChainBody& b);
    /// The part that a target belongs to; none: it is switched off, or a tie line.
    /// own: the part of the chain that leads there; an instrument's chains lead nowhere else.
    std::uint32_t partOf(std::uint32_t own, const Target& target) const;
    std::uint32_t laneOf(std::uint32_t own, const Target& target) const;
    /// True when nothing has changed that a chain is compiled from.
    bool isUnchanged(const ChainBody& origin, const Owner& owner, const Chain& chain) const;
    std::shared_ptr<ChainBody> freshBody(const Owner& owner, const Chain& chain);
    /// Keeps what a chain is compiled from as it is now, and returns the chain.
    const Chain* keep(ChainBody& body, const Owner& owner, const Chain& chain) const;
    /// A source as it is heard: where it is the control of a controller, what that sends.
    const Source* heard(ChainBody& body, const Source& source) const;
    /// Gives a chain's steps, ears and branches their places in the plan.
    void placeParts(PlanChain& chain, const ChainBody& body);
    /// An ear for the chain's next source.
    Ear& addEar(Role role);
    /// branch: the steps' place in the chain; −1: the trunk.
    void addCombineEars(std::span<const Step> steps, std::uint32_t firstState, int branch);
    /// Gives a branch its place in the plan and at its target.
    void placeBranch(const PlanChain& chain, const BranchBody& body, const Target& target);
    void placeTarget(PlanBranch& branch, const Target& target);
    Outlet outletOf(const PlanBranch& branch);
    static bool selectsOrClears(int control);
    /// What branches mean for others: where they meet by a rule, what they hold sounding, and where a control
    /// cannot merely be copied since its lane gets it as half of a pair too.
    void indexBranches();
    /// In document order, as branches lie, those of shared chains first.
    void findMixes();
    /// Folds what can be folded: the trunk as far as it is stateless, and the whole chain where all of it is.
    void tabulate(const PlanChain& chain, ChainBody& body);
    bool isStraight(const PlanChain& chain) const;
    void useTables(PlanChain& chain, const ChainBody& body);
    /// Once it is known what its outlets have to be careful about.
    void chooseWay(PlanChain& chain);
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
    /// Whom each entry of the hand's order means.
    void indexHands();
    /// Who listens to which element of the desk.
    void indexDesk();
    [[nodiscard]] std::vector<Choice> whoAnswers(const std::string& name) const;
    /// Ears that hand over remember the controls that move them.
    void giveHands();
    void allocateState();
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

}  // namespace mellow::engine
