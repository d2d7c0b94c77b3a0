// The reference interpreter: the signal rules, read aloud.
//
// It walks the model for every message, looks everything up by name, tabulates nothing, and keeps its memory
// in maps. It is slow on purpose: each line should be checkable against a sentence of the rules by somebody
// who has never seen the engine. Tests play random ensembles and streams through both and want the same
// bytes. The arithmetic of single steps and generators is shared (core/steps, core/sources) and has tests of
// its own; everything else is not.
//
// Every event, and every grid point, is played in the same three parts: positions are updated, chains that
// were moved run in their order, and what they produced is sent at the end (Sending), since only then is it
// known where a mixed parameter is sent.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <tuple>
#include <vector>

#include "core/model/ensemble.h"
#include "core/sources/generator.h"

namespace mellow::reference {

struct Sent {
    std::int64_t time = 0;   ///< microseconds
    std::string instrument;  ///< id
    std::string port;
    std::vector<std::uint8_t> bytes;  ///< empty: it is OSC
    std::string address;              ///< of OSC
    float number = 0;                 ///< of OSC
    bool operator==(const Sent&) const = default;
};

class Interpreter {
 public:
    explicit Interpreter(Ensemble ensemble);

    /// One whole message; times never fall. Returns what it sends, the clock's part first.
    std::vector<Sent> process(std::int64_t time, const std::string& port,
                              const std::vector<std::uint8_t>& bytes);
    /// A number that came to an OSC address.
    std::vector<Sent> processOsc(std::int64_t time, const std::string& port, const std::string& address,
                                 double number);
    /// The clock alone, up to and including `until`.
    std::vector<Sent> advance(std::int64_t until);
    std::vector<Sent> silenceAll();
    /// Plays an edited ensemble from here on. Chains that were edited after something moved them run once.
    std::vector<Sent> edit(Ensemble ensemble);

 private:
    using Bytes = std::vector<std::uint8_t>;
    using ChainId = std::pair<std::string, std::string>;  ///< instrument ("" for shared chains) and chain
    using InputKey = std::tuple<std::string, int, int>;   ///< port, channel, key
    using Lane = std::pair<std::string, int>;             ///< port, channel
    using Register = std::pair<bool, int>;                ///< RPN or not, number

    /// What an ear is for: the source, the chooser, or a combine step of the trunk (branch −1) or a branch.
    struct Ear {
        enum class For { source, chooser, combine } what = For::source;
        int branch = -1;
        int step = 0;
        // NOLINTNEXTLINE(modernize-use-nullptr): the check takes the generated comparison for a 0.
        auto operator<=>(const Ear&) const = default;
    };
    struct EarMemory {
        double position = 0;
        int raw = -1;
        bool spoken = false;
        GeneratorState generator;
        std::optional<std::pair<std::string, int>> hand;  ///< the control that moved it last: port, channel
        double handPlace = 0;
        bool caught = false;
    };
    struct ChainMemory {
        bool spoken = false;
        std::map<Ear, EarMemory> ears;
        std::vector<StepState> trunk;
        std::vector<std::vector<StepState>> branches;
        std::vector<std::optional<double>> produced;  ///< one a branch
    };
    /// Why a chain is to run in the present event.
    struct Due {
        bool source = false;
        bool combine = false;
        bool tick = false;
        bool cue = false;
    };
    struct Held {
        InputKey input;
        std::string instrument;
        std::string port;
        int channel = 0;
        int key = 0;
        int count = 0;
    };
    struct Selected {
        bool rpn = false;
        int high = -1;
        int low = -1;
        bool any = false;
        bool operator==(const Selected&) const = default;
    };
    struct LaneMemory {
        std::map<std::string, int> last;  ///< by the name of the message
        std::map<int, int> pairs;
        std::map<Register, int> registers;
        Selected wire, player;
    };
    struct PairMemory {
        int high = 0;
        int alone = 0;
        std::optional<std::int64_t> waitingSince;
        std::uint64_t arrival = 0;
    };
    using PairId =
        std::tuple<std::string, int, int, int>;  ///< port, channel, kind (0 CC, 1 RPN, 2 NRPN), number
    struct Reading {
        PairId id;
        int value = 0;
        bool coarse = false;
    };
    /// Something to send, or an instrument's turn to pass on.
    struct Sending {
        const Instrument* passer = nullptr;
        const Instrument* instrument = nullptr;
        const Parameter* parameter = nullptr;
        const Chain* chain = nullptr;
        double q = 0;
    };

    void prepare();
    [[nodiscard]] bool runs(const Instrument& instrument) const;
    [[nodiscard]] bool runs(const Instrument* instrument, const Chain& chain) const;
    [[nodiscard]] bool inHand(const Instrument& instrument) const;
    [[nodiscard]] static ChainId idOf(const Instrument* instrument, const Chain& chain);
    ChainMemory& memoryOf(const Instrument* instrument, const Chain& chain);
    /// Calls visit(instrument or null, chain) in the order in which chains run.
    template<class Visit>
    void forEachChain(Visit&& visit);
    /// Calls visit(ear, source as written) for each ear of a chain.
    template<class Visit>
    static void forEachEar(const Chain& chain, Visit&& visit);

    void playGridPoint();
    void hear(const std::string& port, const Bytes& bytes, Cue cue);
    bool hearWith(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                  const std::string& port, const Bytes& bytes, int key);
    bool hearReadings(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                      const std::string& port, const Bytes& bytes);
    void followKeys(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                    const Bytes& bytes, bool changed, int keysDown);
    [[nodiscard]] int keysDown(const Instrument* instrument, const Source& source) const;
    void takeReading(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                     const Reading& reading);
    void high(const PairId& id, int value);
    void low(const PairId& id, int value);
    void speakRaw(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                  int raw, const std::string& port, int channel);
    void speak(const Instrument* instrument, const Chain& chain, const Ear& ear, double position);
    std::optional<double> handOver(const Chain& chain, EarMemory& memory, const Source& source, double place,
                                   const std::string& port, int channel);
    void play(const std::vector<const Instrument*>& passers);
    void runChain(const Instrument* instrument, const Chain& chain, const Due& due);
    void goOn(const Instrument* instrument, const Chain& chain, std::optional<double> position, bool tick,
              Cue cue, bool silently);
    void runBranch(const Instrument* instrument, const Chain& chain, std::size_t branch,
                   std::optional<double> position, bool tick, Cue cue, bool silently);
    [[nodiscard]] bool feeds(const Instrument* instrument, const Chain& chain, std::size_t branch);
    void produce(const Instrument* instrument, const Chain& chain, std::size_t branch, double q);
    void sendAll();
    [[nodiscard]] double mixed(const Instrument& instrument, const Parameter& parameter);

    void sendTo(const Instrument& instrument, const Parameter& parameter, double q);
    void control(const Instrument& instrument, const Lane& lane, int number, int value);
    void sendRegister(const Instrument& instrument, const Parameter& parameter, int value);
    void sendNote(const Instrument& instrument, const Parameter& parameter, bool on);
    void sendKeyPressure(const Instrument& instrument, const Parameter& parameter, int value);
    void passOn(const Instrument& instrument);
    void pass(const Instrument& instrument, const std::string& port, const Bytes& bytes);
    void beginNote(const Instrument& instrument);
    void followNote(const Instrument& instrument);
    void release(Held& held, const Bytes& bytes);
    void releaseIf(const Bytes& bytes, auto&& wanted);
    void forget(const Lane& lane);
    void leaveHand(const Instrument& was, const Instrument& instrument);
    void comeIntoHand(const Instrument& instrument);
    void givePedal(const Instrument& instrument, const std::string& port, int channel, int pedal, int value);
    void carry(const Ensemble& before, const std::map<ChainId, bool>& ranBefore,
               const std::map<std::string, bool>& instrumentsRanBefore,
               std::map<ChainId, ChainMemory>& oldMemory);
    void deliver(const std::string& instrument, const std::string& port, Bytes bytes);

    Ensemble ensemble_;
    std::map<std::string, bool> instrumentRuns_;
    std::map<ChainId, bool> chainRuns_;
    std::map<ChainId, ChainMemory> memory_;
    std::map<Lane, LaneMemory> lanes_;
    std::vector<std::tuple<std::string, int, std::string>>
        lanesUsed_;                                                 ///< port, channel, instrument, ever used
    std::map<std::pair<std::string, std::string>, float> lastOsc_;  ///< by port and address
    std::map<std::string, int> velocities_;                         ///< by instrument
    std::vector<Held> held_;
    std::map<Lane, std::map<int, int>> pedals_;  ///< input port and channel → the last value of each pedal
    std::set<InputKey> keysDown_;
    std::map<Lane, Selected> selected_;  ///< by input port and channel
    std::map<PairId, PairMemory> pairs_;
    std::uint64_t arrivals_ = 0;
    std::vector<Sent> out_;
    std::int64_t now_ = -1;

    // The event at hand.
    std::string port_;
    Bytes bytes_;
    Cue cue_ = Cue::none;
    std::map<ChainId, Due> due_;
    std::vector<Reading> readings_;
    int dataStep_ = 0;
    bool sharedMatched_ = false;
    bool sharedKeeps_ = false;
    std::map<std::string, bool> matched_;  ///< instruments whose chains matched: whether one keeps
    std::vector<Sending> sendings_;
};

}  // namespace mellow::reference
