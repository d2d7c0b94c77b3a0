// Branches that send one message. Sharing is normal; it is worth knowing, at each of the chains. Where what
// is sent is a mix, it is told once. That a surface of the desk moves what some other control moves too is
// what a desk is for, and is not told.
#include <algorithm>
#include <array>
#include <map>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

/// A branch that leads to a parameter.
struct Comer {
    ChainAt at;
    std::size_t branch = 0;
    const Parameter* parameter = nullptr;

    [[nodiscard]] std::string name() const {
        return nameOf(at.chain) + ", branch " + std::to_string(branch + 1);
    }
};
struct Meeting {
    const Parameter* parameter = nullptr;
    std::vector<Comer> comers;
};
using Sent = std::tuple<MessageKind, int, std::string>;

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
        for (const Sent& sent : order_) {
            Meeting& meeting = meetings_[sent];
            const bool isMix = meeting.parameter->mix != Mix::latest;
            for (std::size_t c = 0; c < meeting.comers.size(); ++c) {
                // At the first branch of each chain, all of which come one after another; of a mix at the
                // second branch alone.
                const bool isOfTheSame =
                    c > 0 && &meeting.comers[c].at.chain == &meeting.comers[c - 1].at.chain;
                if (isMix ? c == 1 : !isOfTheSame) findings.push_back(findingOf(meeting, c));
            }
        }
    }

 private:
    static Finding findingOf(const Meeting& meeting, std::size_t c) {
        static constexpr std::array<std::string_view, 6> heard{
            "the latest one moved is heard", "the highest of them is heard",
            "the lowest of them is heard",   "their sum is heard",
            "their product is heard",        "their average is heard"};
        const Comer& comer = meeting.comers[c];
        return about(comer.at, comer.branch, Severity::note, Stops::nothing,
                     "it meets " + othersThan(meeting, c),
                     std::string(heard.at(static_cast<std::size_t>(meeting.parameter->mix))) +
                         "; remove one, or mix them otherwise, if that is not wanted",
                     {removeBranch(comer.at, comer.branch)});
    }

    /// "swell, branch 1 and one more branch on Expression", with the name there where it is another.
    static std::string othersThan(const Meeting& meeting, std::size_t c) {
        const Comer& first = meeting.comers[c == 0 ? 1 : 0];
        const std::size_t others = meeting.comers.size() - 2;
        const std::string more = others == 0   ? std::string()
                                 : others == 1 ? " and one more branch"
                                               : " and " + std::to_string(others) + " more branches";
        const Comer& comer = meeting.comers[c];
        const std::string& there = nameOf(*first.parameter);
        const std::string& here = nameOf(*comer.parameter);
        const std::string as = there == here ? std::string() : ", which is the same message as " + there;
        return first.name() + more + " on " + here + as;
    }

    void meet(const ChainAt& at, std::size_t b, const Parameter& parameter) {
        const MessageRow& kind = row(parameter.message.kind);
        const Sent sent{parameter.message.kind, kind.numbered ? parameter.message.number : 0,
                        parameter.message.address};
        Meeting& meeting = meetings_.try_emplace(sent, Meeting{&parameter, {}}).first->second;
        if (meeting.comers.size() == 1) order_.push_back(sent);
        meeting.comers.push_back({at, b, &parameter});
    }

    const Instrument& instrument_;
    bool desk_;
    std::map<Sent, Meeting> meetings_;
    std::vector<Sent> order_;  ///< those that meet, by where the second comes
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
