// What a rule is, and what rules share.
//
// A rule says how much it looks at, since that is how long what it said stays true. A chain rule looks at a
// chain, its instrument without the other chains, and what the chain refers to; an instrument rule at an
// instrument with its chains, and at shared chains; a whole rule at everything. What a chain has to do with
// others (tie lines, halves of pairs) is kept beside it as a Digest, so that whole rules need not read
// chains.
//
// A new rule is a file beside this one that defines a Rule, and its name in registry.cpp. Where something was
// found is put into words when all is collected, so rules leave Problem::where alone for what has a place.
#pragma once

#include <span>

#include "core/checks/check.h"
#include "core/model/resolve.h"
#include "core/steps/step.h"

namespace mellow::checks {

/// A chain and where it stands; instrument is null for a shared chain.
struct ChainAt {
    const Directory& directory;
    const Instrument* instrument;
    const Chain& chain;
    Place place;
};

/// An instrument and where it stands.
struct InstrumentAt {
    const Directory& directory;
    const Instrument& instrument;
    std::size_t place;
};

/// What a chain has to do with others.
struct Digest {
    std::vector<std::string> writes;  ///< ids of tie lines
    std::vector<std::string> reads;
    std::vector<std::pair<SourceKind, int>> controls;  ///< cc and cc14 that it listens to, by number
};
Digest digestOf(const ChainAt& at);

/// All of an ensemble, as whole rules look at it.
class Whole {
 public:
    explicit Whole(const Directory& directory) : directory_(directory) {}
    virtual ~Whole() = default;

    [[nodiscard]] const Directory& directory() const { return directory_; }
    [[nodiscard]] const Ensemble& ensemble() const { return directory_.ensemble(); }
    /// None: the shared chains.
    using Owner = std::optional<std::size_t>;
    [[nodiscard]] virtual const Digest& digest(Owner owner, std::size_t chain) const = 0;
    /// Whether a chain runs, as far as that is known: rules that stop what they find are asked before.
    [[nodiscard]] virtual bool runs(Owner owner, std::size_t chain) const = 0;
    /// Whether some chain listens to a 14-bit control.
    [[nodiscard]] virtual bool somePairsAreHeard() const = 0;

 private:
    const Directory& directory_;
};

struct Rule {
    /// Of a chain. Those that stop what they find are asked of every chain, others as `everyChain` says.
    void (*chain)(const ChainAt&, Findings&) = nullptr;
    /// Of an instrument with its chains.
    void (*instrument)(const InstrumentAt&, Findings&) = nullptr;
    /// Of the whole.
    void (*whole)(const Whole&, Findings&) = nullptr;
    bool stops = false;       ///< what its chain and instrument functions find may stop
    bool everyChain = false;  ///< the chain function is asked of chains that do not run, too
};

/// All of them, in the order in which they speak about one place.
std::span<const Rule* const> rules();

/// "Glass harmonium, Swell" and, with a branch, ", branch 2".
std::string placeName(const ChainAt& at, std::optional<std::size_t> branch = std::nullopt);

/// A finding about a chain, or one of its branches.
Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend, std::vector<Mend> mends = {});
/// A finding about an instrument.
Finding about(std::size_t instrument, Severity severity, Stops stops, std::string what, std::string mend,
              std::vector<Mend> mends = {});

// Edits that find their thing again, or do nothing where another stands in its place now.

/// An edit of a chain.
Mend mendChain(const ChainAt& at, std::string name, std::function<void(Chain&)> edit);
/// An edit of a branch, by its place.
Mend mendBranch(const ChainAt& at, std::size_t branch, std::string name, std::function<void(Branch&)> edit);
/// An edit of an instrument, by its place.
Mend mendInstrument(const InstrumentAt& at, std::string name, std::function<void(Instrument&)> edit);
Mend mendInstrument(const Directory& directory, std::size_t instrument, std::string name,
                    std::function<void(Instrument&)> edit);
/// An edit of the parameter that a branch leads to.
Mend mendParameter(const ChainAt& at, const Branch& branch, std::string name,
                   std::function<void(Parameter&)> edit);
/// An edit of each source of a chain.
Mend mendSources(const ChainAt& at, std::string name, std::function<void(Source&)> edit);
Mend switchOff(const ChainAt& at);
Mend removeBranch(const ChainAt& at, std::size_t branch);
/// A reach over all that the target of a branch can do.
Mend wholeReach(const ChainAt& at, std::size_t branch);

Target targetOf(const ChainAt& at, const Branch& branch);
/// The target's name, with its instrument where a shared chain leads there.
std::string targetName(const ChainAt& at, const Branch& branch);

/// Calls visit(ChainAt) for every shared chain, then for every chain of every instrument, in document order.
template<class Visit>
void forEachChain(const Directory& directory, Visit&& visit) {
    const Ensemble& ensemble = directory.ensemble();
    const auto all = [&](const Instrument* instrument, std::optional<std::size_t> place,
                         const std::vector<Chain>& chains) {
        for (std::size_t c = 0; c < chains.size(); ++c)
            visit(ChainAt{directory, instrument, chains[c], Place{place, c, std::nullopt}});
    };
    all(nullptr, std::nullopt, ensemble.sharedChains);
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i)
        all(&ensemble.instruments[i], i, ensemble.instruments[i].chains);
}

/// Positions at which a source can stand: all of them, or enough of one that has no raw values.
inline constexpr int placesWithoutRaw = 1024;
std::vector<double> placesOf(const Directory& directory, const Source& source);
/// How many they are, and one of them by its number.
class SourcePlaces {
 public:
    SourcePlaces(const Directory& directory, const Source& source);
    [[nodiscard]] int count() const { return max_ + 1; }
    [[nodiscard]] double operator[](int place) const { return decode(scale_, place, max_); }

 private:
    Scale scale_;
    int max_;
};

/// True when a second source decides too what comes out of steps, so that looking at one says nothing.
bool isBlurred(const std::vector<Step>& steps);

}  // namespace mellow::checks
