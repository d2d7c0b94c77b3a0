// A tie line that nobody writes stands still; one that nobody reads is written in vain.
#include <set>

#include "core/checks/rules.h"

namespace mellow::checks {

void loneTieLine(const Whole& whole, Findings& findings) {
    std::set<std::string> written;
    std::set<std::string> read;
    forEachRunning(whole, [&](const ChainAt& at) {
        for (const std::string& id : tieLinesWritten(at.chain)) written.insert(id);
        for (const std::string& id : tieLinesRead(at.chain)) read.insert(id);
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
                            {"Tie line " + nameAmong(whole.ensemble().tieLines, line), what, mend}});
    }
}

}  // namespace mellow::checks
