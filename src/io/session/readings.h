// What is read of a session while it plays, by whoever shows it.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "io/playing/player.h"
#include "io/session/reading.h"

namespace mellow::io {

class Readings {
 public:
    explicit Readings(Player& player) : player_(player) {}

    /// Calls see(const Happening&) and seeOsc(const OscHappening&) for everything since the last call.
    template<class See, class SeeOsc>
    void watch(See&& see, SeeOsc&& seeOsc) {
        player_.watch(see);
        player_.watchOsc(seeOsc);
    }
    /// Loops that were found and cut, since the last call, in a sentence each.
    std::vector<std::string> loopsCut();
    /// True when what is played is what was handed over last.
    [[nodiscard]] bool playsNewest() const { return player_.programs().showsNewest(); }
    /// True, once, when another program is being played than at the last call.
    bool playsAnother() { return std::exchange(watched_, &program()) != &program(); }

    [[nodiscard]] ChainReading chain(const std::string& instrument, const std::string& chain) const {
        return readingOf(program(), instrument, chain);
    }
    /// Who is in hand, and how it plays.
    [[nodiscard]] InstrumentReading instrument(const std::string& instrument) const {
        return readingOf(program(), instrument);
    }
    /// Where an element of the desk was last moved to, by its address; nothing before it was.
    [[nodiscard]] std::optional<double> deskPosition(std::string_view address) const {
        return deskPositionOf(program(), address);
    }
    /// Which controls are told where they stand, and where that is; until playsAnother() tells of others.
    [[nodiscard]] const engine::Feedback& feedback() const { return program().feedback; }
    /// The JACK transport: where it is.
    [[nodiscard]] Transport transport() const { return player_.now().transport(); }
    /// The tempo in force, in beats a minute.
    [[nodiscard]] double tempo() const { return player_.now().tempo(); }
    [[nodiscard]] engine::TempoFrom tempoFrom() const { return player_.now().tempoFrom(); }
    [[nodiscard]] std::uint64_t notesRefused() const { return player_.now().notesRefused(); }
    /// Microseconds into the take, or −1.
    [[nodiscard]] std::int64_t takePosition() const { return player_.takePosition(); }

    /// number: of a Happening. Nothing for what goes to no instrument: feedback.
    [[nodiscard]] std::string_view instrumentId(std::uint32_t number) const {
        if (number == engine::none) return {};
        return player_.programs().names().instruments.name(number);
    }
    [[nodiscard]] std::optional<std::uint32_t> instrumentNumber(std::string_view id) const {
        return player_.programs().names().instruments.find(id);
    }
    [[nodiscard]] const std::string& portName(engine::PortId port) const {
        return player_.ports().name(port);
    }

 private:
    [[nodiscard]] const engine::Program& program() const { return player_.programs().shown(); }

    Player& player_;
    const engine::Program* watched_ = nullptr;  ///< what playsAnother() saw last
};

}  // namespace mellow::io
