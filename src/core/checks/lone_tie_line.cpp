// A tie line that nobody writes stands still; one that nobody reads is written in vain.
#include <unordered_set>

#include "core/checks/rules.h"
#include "core/model/edit.h"

namespace mellow::checks {

namespace {

Mend removeIt(const std::string& id) {
    return {"Remove the tie line", [id](Ensemble& ensemble) { removeTieLine(ensemble, id); }};
}

Mend writeIt(const std::string& id) {
    return {"Let a shared chain write it", [id](Ensemble& ensemble) {
                const auto branch = wholeBranch(ensemble, nullptr, std::string(tieLineTarget) + id);
                if (!branch) return;
                Chain chain = newSharedChain(ensemble);
                chain.branches = {*branch};
                ensemble.sharedChains.push_back(std::move(chain));
            }};
}

void look(const Whole& whole, Findings& findings) {
    if (whole.ensemble().tieLines.empty()) return;
    std::unordered_set<std::string_view> written;
    std::unordered_set<std::string_view> read;
    forEachChain(whole.directory(), [&](const ChainAt& at) {
        if (!whole.runs(at.place.instrument, *at.place.chain)) return;
        const Digest& digest = whole.digest(at.place.instrument, *at.place.chain);
        written.insert(digest.writes.begin(), digest.writes.end());
        read.insert(digest.reads.begin(), digest.reads.end());
    });
    for (const TieLine& line : whole.ensemble().tieLines) {
        const bool isWritten = written.contains(line.id);
        const bool isRead = read.contains(line.id);
        if (isWritten && isRead) continue;
        const std::string what = !isWritten && !isRead ? "no chain writes it or reads it"
                                 : isRead              ? "chains read it, and none writes it"
                                                       : "chains write it, and none reads it";
        const std::string mend = !isWritten && !isRead ? "remove it, or let a chain lead to it"
                                 : isRead              ? "let a branch of some chain lead to it"
                                                       : "let some chain have it as its source";
        findings.push_back({isRead ? Severity::trouble : Severity::note,
                            Stops::nothing,
                            {},
                            {"Tie line " + nameAmong(whole.ensemble().tieLines, line), what, mend},
                            {isRead ? writeIt(line.id) : removeIt(line.id)}});
    }
}

}  // namespace

extern const Rule loneTieLine{.whole = look};

}  // namespace mellow::checks
