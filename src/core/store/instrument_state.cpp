#include "core/store/instrument_state.h"

#include <span>

#include "core/files/sum.h"
#include "core/model/resolve.h"
#include "core/store/part_json.h"

namespace mellow::store {

namespace {

constexpr std::size_t digits = 16;

void forgetNames(Chain& chain) {
    chain.id.clear();
    chain.name.clear();
    chain.extras.clear();
    for (Branch& branch : chain.branches) branch.note.clear();
}

void forgetNames(Instrument& instrument) {
    instrument.id.clear();
    instrument.name.clear();
    instrument.extras.clear();
    instrument.input.port.clear();
    instrument.input.channel.reset();
    instrument.output = {};
    for (Parameter& parameter : instrument.parameters) {
        parameter.name.clear();
        parameter.locked = false;
    }
    for (Chain& chain : instrument.chains) forgetNames(chain);
}

/// Of the shared chains those branches that lead to an instrument, with its id left out.
std::vector<Chain> sharedChainsTo(const Ensemble& ensemble, const std::string& instrument) {
    const std::string beginning = instrument + "/";
    std::vector<Chain> chains;
    for (Chain chain : ensemble.sharedChains) {
        std::erase_if(chain.branches,
                      [&](const Branch& branch) { return !branch.target.starts_with(beginning); });
        if (chain.branches.empty()) continue;
        for (Branch& branch : chain.branches) branch.target.erase(0, beginning.size());
        forgetNames(chain);
        chains.push_back(std::move(chain));
    }
    return chains;
}

}  // namespace

std::string stateOf(const Ensemble& ensemble, const std::string& instrument) {
    const Instrument* found = findById(ensemble.instruments, instrument);
    if (found == nullptr) return {};
    Part part;
    part.instruments.push_back(*found);
    forgetNames(part.instruments.front());
    part.chains = sharedChainsTo(ensemble, instrument);
    part.tieLines.assign(ensemble.tieLines.begin(), ensemble.tieLines.end());
    for (TieLine& line : part.tieLines) line.name.clear();
    const std::string text = printPart(part);
    const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
    return files::sha256Of(std::span(bytes, text.size())).substr(0, digits);
}

bool isOutdated(const Ensemble& ensemble, const KeptCurve& kept) {
    return !kept.state.empty() && kept.state != stateOf(ensemble, kept.instrument);
}

std::string dayMeasured(const KeptCurve& kept, bool isOutdated) {
    constexpr std::size_t day = 10;  // of "2026-11-30T17:54:30Z"
    return kept.measured.substr(0, day) + (isOutdated ? ", edited since" : "");
}

}  // namespace mellow::store
