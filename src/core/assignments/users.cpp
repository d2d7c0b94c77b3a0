#include "core/assignments/users.h"

#include "core/model/resolve.h"

namespace mellow {

namespace {

/// A control change is one control, whether it is read by seven bits, fourteen, or as steps.
SourceKind familyOf(SourceKind kind) {
    return kind == SourceKind::cc14 || kind == SourceKind::relative ? SourceKind::cc : kind;
}

}  // namespace

bool isSameControl(const Source& one, const Source& other) {
    if (familyOf(one.kind) != familyOf(other.kind)) return false;
    if (one.kind == SourceKind::osc) return textOf(one, 0) == textOf(other, 0);
    const bool anyOne = one.number == anyNumber || other.number == anyNumber;
    return !row(one.kind).numbered || anyOne || one.number == other.number;
}

std::vector<User> usersOf(const Ensemble& ensemble,
                          const std::function<bool(const Instrument* owner, const Source& source)>& fits) {
    std::vector<User> users;
    const auto look = [&](const Instrument* owner, const std::vector<Chain>& chains) {
        for (const Chain& chain : chains) {
            bool uses = false;
            forEachSource(chain, [&](const Source& written) {
                uses = uses || fits(owner, resolved(ensemble, written));
            });
            if (uses) users.push_back({owner, &chain});
        }
    };
    look(nullptr, ensemble.sharedChains);
    for (const Instrument& instrument : ensemble.instruments) look(&instrument, instrument.chains);
    return users;
}

std::vector<User> usersOf(const Ensemble& ensemble, const Source& source) {
    return usersOf(
        ensemble, [&source](const Instrument*, const Source& other) { return isSameControl(other, source); });
}

}  // namespace mellow
