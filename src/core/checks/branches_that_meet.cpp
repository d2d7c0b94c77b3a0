// Two branches of one instrument that lead to one parameter. Sharing is normal; it is worth knowing.
#include <array>
#include <map>

#include "core/checks/rules.h"

namespace mellow::checks {

void branchesThatMeet(const Whole& whole, Findings& findings) {
    static constexpr std::array<std::string_view, 6> rules{
        "the latest one moved is heard", "the highest of them is heard",
        "the lowest of them is heard",   "their sum is heard",
        "their product is heard",        "their average is heard"};
    struct Meeting {
        std::string first;
        std::optional<Finding> finding;  ///< at the second branch
        std::size_t others = 0;
    };
    std::map<const Parameter*, Meeting> meetings;
    std::vector<const Parameter*> order;
    forEachChain(whole, [&](const ChainAt& at) {
        if (!at.chain.on) return;
        for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
            const Parameter* parameter = targetOf(at, at.chain.branches[b]).parameter;
            if (parameter == nullptr || !at.chain.branches[b].on) continue;
            const auto [meeting, isNew] = meetings.try_emplace(
                parameter, Meeting{nameOf(at.chain) + ", branch " + std::to_string(b + 1), {}, 0});
            if (isNew) continue;
            if (meeting->second.finding) {
                ++meeting->second.others;
                continue;
            }
            order.push_back(parameter);
            meeting->second.finding = about(at, b, Severity::note, Stops::nothing, "",
                                            std::string(rules.at(static_cast<std::size_t>(parameter->mix))) +
                                                "; remove one, or mix them otherwise, if that is not wanted");
        }
    });
    for (const Parameter* parameter : order) {
        Meeting& meeting = meetings[parameter];
        const std::string more = meeting.others == 0 ? std::string()
                                 : meeting.others == 1
                                     ? " and one more branch"
                                     : " and " + std::to_string(meeting.others) + " more branches";
        meeting.finding->problem.what = "it meets " + meeting.first + more + " on " + nameOf(*parameter);
        findings.push_back(std::move(*meeting.finding));
    }
}

}  // namespace mellow::checks
