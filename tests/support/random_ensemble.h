// Random ensembles and streams: everything that this version runs, often, and some that it does not.
#pragma once

#include <random>

#include "core/model/ensemble.h"

namespace mellow::test {

struct DeskMove {
    std::string address;
    double position = 0;
};

class RandomWorld {
 public:
    explicit RandomWorld(std::uint32_t seed) : random_(seed) {}

    Ensemble ensemble();
    /// A small change such as a person makes while playing.
    void edit(Ensemble& ensemble);
    /// One whole message, in runs as a moving hand sends them; note-offs are as frequent as note-ons.
    std::vector<std::uint8_t> message();
    std::string port();
    DeskMove deskMove();
    /// Microseconds to the next message.
    std::int64_t gap();

    int below(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }
    bool oneIn(int count) { return below(count) == 0; }
    double unit() { return below(1001) / 1000.0; }

 private:
    Source source();
    Chain sharedChain(const Ensemble& ensemble, int index);
    KeptCurve measurement(const Ensemble& ensemble, int place);
    void changeHands(Ensemble& ensemble);
    void configureZone();
    void changeZones(Controller& controller);
    void changeTempo(Ensemble& ensemble);
    double numberFor(const Field& field);
    template<class List>
    const auto& oneOf(const List& list);
    Step step();
    Parameter parameter(int index);
    Parameter articulationParameter(const Instrument& instrument, int index);
    Articulation articulation(int index);
    Select select();
    Desk desk();
    void changeSections(Ensemble& ensemble);
    Branch branch(const Instrument& instrument);
    Chain chain(const Instrument& instrument, int index);
    Instrument instrument(int index);
    Level level(const Parameter& parameter);

    [[nodiscard]] bool movesOn() const;
    std::string anotherPort();
    std::vector<std::uint8_t> anotherMessage();

    std::mt19937 random_;
    std::vector<std::uint8_t> last_;
    std::string lastPort_;
    bool zones_ = false;                             ///< this world has zones
    std::vector<std::vector<std::uint8_t>> toCome_;  ///< messages that belong together, the last first
    bool goesOn_ = false;                            ///< the next message comes from the same port
    bool moves_ = false;                             ///< the next message goes on where the last one was
};

}  // namespace mellow::test
