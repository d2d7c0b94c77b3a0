// Two branches that lead to one parameter. Sharing is normal; it is worth knowing. That a surface of the desk
// moves what some other control moves too is what a desk is for, and is not told.
#include <array>
#include <map>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

struct Meeting {
    std::string first;
    std::optional<Finding> finding;  ///< at the second branch
    std::size_t others = 0;
};

class Meetings {
 public:
    /// desk: of chains that the desk moves, or of all others.
    Meetings(const InstrumentAt& at, bool desk) : instrument_(at.instrument), desk_(desk) {}

    void look(const ChainAt& at) {
        if ((at.chain.source.kind == SourceKind::desk) != desk_) return;
        for (std::size_t b = 0; at.chain.on && b < at.chain.branches.size(); ++b) {
            const Branch& branch = at.chain.branches[b];
            if (!branch.on) continue;
            const Target target = targetOf(at, branch);
            if (target.parameter != nullptr && target.instrument == &instrument_)
                meet(at, b, *target.parameter);
        }
    }

    void tell(Findings& findings) {
        for (const Parameter* parameter : order_) {
            Meeting& meeting = meetings_[parameter];
            const std::string more = meeting.others == 0 ? std::string()
                                     : meeting.others == 1
                                         ? " and one more branch"
                                         : " and " + std::to_string(meeting.others) + " more branches";
            meeting.finding->problem.what = "it meets " + meeting.first + more + " on " + nameOf(*parameter);
            findings.push_back(std::move(*meeting.finding));
        }
    }

 private:
    void meet(const ChainAt& at, std::size_t b, const Parameter& parameter) {
        static constexpr std::array<std::string_view, 6> heard{
            "the latest one moved is heard", "the highest of them is heard",
            "the lowest of them is heard",   "their sum is heard",
            "their product is heard",        "their average is heard"};
        const auto [meeting, isNew] = meetings_.try_emplace(
            &parameter, Meeting{nameOf(at.chain) + ", branch " + std::to_string(b + 1), {}, 0});
        if (isNew) return;
        if (meeting->second.finding) {
            ++meeting->second.others;
            return;
        }
        order_.push_back(&parameter);
        meeting->second.finding = about(at, b, Severity::note, Stops::nothing, "",
                                        std::string(heard.at(static_cast<std::size_t>(parameter.mix))) +
                                            "; remove one, or mix them otherwise, if that is not wanted",
                                        {removeBranch(at, b)});
    }

    const Instrument& instrument_;
    bool desk_;
    std::map<const Parameter*, Meeting> meetings_;
    std::vector<const Parameter*> order_;
};

void lookAtMeetings(const InstrumentAt& at, bool desk, Findings& findings) {
    Meetings meetings(at, desk);
    const auto& shared = at.directory.ensemble().sharedChains;
    for (std::size_t c = 0; c < shared.size(); ++c)
        meetings.look({at.directory, nullptr, shared[c], Place{std::nullopt, c, std::nullopt}});
    const auto& chains = at.instrument.chains;
    for (std::size_t c = 0; c < chains.size(); ++c)
        meetings.look({at.directory, &at.instrument, chains[c], Place{at.place, c, std::nullopt}});
    meetings.tell(findings);
}

void look(const InstrumentAt& at, Findings& findings) {
    for (const bool desk : {false, true}) lookAtMeetings(at, desk, findings);
}

}  // namespace

extern const Rule branchesThatMeet{.instrument = look};

}  // namespace mellow::checks
