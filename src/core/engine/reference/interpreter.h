// The reference interpreter: the signal rules, read aloud.
//
// It walks the model for every message, looks everything up by name, tabulates nothing, and keeps its memory
// in maps. It is slow on purpose: each line should be checkable against a sentence of the rules by somebody
// who has never seen the engine. Tests play random ensembles and streams through both and want the same
// bytes. The arithmetic of single steps is shared (core/steps) and has tests of its own; everything else is
// not.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <tuple>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::reference {

struct Sent {
    std::int64_t time = 0;   ///< microseconds
    std::string instrument;  ///< id
    std::string port;
    std::vector<std::uint8_t> bytes;
    bool operator==(const Sent&) const = default;
};

class Interpreter {
 public:
    explicit Interpreter(Ensemble ensemble);

    /// One whole message; times never fall. Returns what it sends, the clock's part first.
    std::vector<Sent> process(std::int64_t time, const std::string& port,
                              const std::vector<std::uint8_t>& bytes);
    /// The clock alone, up to and including `until`.
    std::vector<Sent> advance(std::int64_t until);
    std::vector<Sent> silenceAll();
    /// Plays an edited ensemble from here on. Chains that were edited after their source spoke run once.
    std::vector<Sent> edit(Ensemble ensemble);

 private:
    using ChainId = std::pair<std::string, std::string>;
    using InputKey = std::tuple<std::string, int, int>;
    struct ChainMemory {
        bool spoken = false;
        int raw = 0;
        std::vector<StepState> trunk;
        std::vector<std::vector<StepState>> branches;
    };
    struct Held {
        InputKey input;
        std::string instrument;
        std::string port;
        int channel = 0;
        int key = 0;
        int count = 0;
    };

    void playInstrument(const Instrument& instrument, const std::string& port,
                        const std::vector<std::uint8_t>& bytes, Cue cue);
    void runChain(const Instrument& instrument, const Chain& chain, Cue cue);
    /// With a position that came, or without one: then only what the clock or the cue moves goes on.
    void goOn(const Instrument& instrument, const Chain& chain, const double* position, bool tick, Cue cue);
    void runBranch(const Instrument& instrument, const Branch& branch, std::vector<StepState>& memory,
                   const double* position, bool tick, Cue cue);
    void sendTo(const Instrument& instrument, const Parameter& parameter, int value);
    void passOn(const Instrument& instrument, std::vector<std::uint8_t> bytes);
    void noteOff(const std::string& port, const std::vector<std::uint8_t>& bytes);
    void release(Held& held, const std::vector<std::uint8_t>& bytes);
    void deliver(const std::string& instrument, const std::string& port, std::vector<std::uint8_t> bytes);
    [[nodiscard]] bool runs(const Instrument& instrument, const Chain& chain) const;
    [[nodiscard]] bool runs(const Instrument& instrument) const;

    Ensemble ensemble_;
    std::map<std::string, bool> instrumentRuns_;
    std::map<ChainId, bool> chainRuns_;
    std::map<ChainId, ChainMemory> memory_;
    std::map<std::tuple<std::string, int, std::string>, int> lastSent_;  ///< port, channel, message → value
    std::vector<std::tuple<std::string, int, std::string>> lanes_;  ///< port, channel, instrument, ever used
    std::vector<Held> held_;
    std::map<std::pair<std::string, int>, int> pedals_;  ///< port, channel → last CC 64
    std::vector<Sent> out_;
    std::int64_t now_ = -1;

    void prepare();
};

}  // namespace mellow::reference
