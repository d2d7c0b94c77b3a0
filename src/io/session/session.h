// A session: player, clocks, ports, practice rack and OSC, held together once.
//
// The window, the command line and tests are its users. They hand it ensembles, play into it, and ask it what
// happened; it knows which clock runs and which ports are there. Everything here belongs to one thread, the
// editing side; what other threads notice (a server that is gone, a rack that is open) is told through
// onChange(), and dealt with when the owner calls tend().
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include "core/placing/left.h"
#include "io/clocks/silent_clock.h"
#include "io/ports/jack.h"
#include "io/ports/machine_table.h"
#include "io/ports/osc_link.h"
#include "io/ports/patchbay.h"
#include "io/ports/rtmidi_ports.h"
#include "io/recording/recorder.h"
#include "io/session/rack_ports.h"
#include "io/session/reading.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

class Session {
 public:
    struct Options {
        bool jack = true;         ///< use a JACK server when one runs
        bool alsa = true;         ///< use the ALSA sequencer where there is one
        bool soundCard = true;    ///< try to be heard
        std::string server = {};  ///< the JACK server's name; empty: the default one
        std::string soundfont = RackOptions{}.soundfont;
    };

    explicit Session(Options options);
    ~Session();
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

    /// Begins to play: the first clock that can be had drives.
    void start();
    /// Ends playing: everything is silenced, and what that says has left before the clock stops.
    void finish();
    /// tell: called, from any thread, when there is something to tend().
    void onChange(std::function<void()> tell);
    /// Deals with what changed by itself, such as a server that is gone or is there again; to be called when
    /// onChange() told, and now and then. True when status() or present() may say something else.
    bool tend();

    /// Plays an ensemble from now on, with the ports that it wishes for.
    /// placements: what targets are put to, once.
    void play(const Ensemble& ensemble, const Placements& placements = {});
    /// Hears OSC by the usual port for a while, though nothing that is played listens to it.
    void learnOsc(bool on);
    /// Hears tablets that move the desk, by the usual port, though nothing that is played listens to it.
    void openDesk(bool on);
    /// Surfaces that moved the desk by OSC.
    [[nodiscard]] Surfaces& surfaces() { return osc_.surfaces(); }
    /// On which address of this machine an OSC port is heard; see OscLink.
    void openOsc(const std::string& port, const std::string& address) { osc_.openTo(port, address); }
    [[nodiscard]] std::vector<OscLink::Listening> oscListening() const { return osc_.listening(); }
    /// Opens the practice rack, which takes a moment, on a thread of its own.
    void openRack();

    /// Plays a message as if on the practice keys, or as if it came in through a port.
    void send(const midi::Short& message);
    void sendTo(std::string_view port, const midi::Short& message);
    /// Moves an element of the desk, by its address, to a position from 0 to 1.
    void moveDesk(std::string_view address, double position) { player_.moveDesk(address, position); }
    /// Has an instrument play one of its articulations, by place.
    void choose(std::string_view instrument, std::size_t articulation) {
        const auto number = player_.names().instruments.find(instrument);
        if (number) player_.choose(*number, static_cast<std::uint32_t>(articulation));
    }
    void silenceAll() { player_.silenceAll(); }
    /// played: as Player's.
    void startTake(std::shared_ptr<const Take> take, const TakeRun& run = {},
                   const Ensemble* played = nullptr) {
        player_.startTake(std::move(take), run, played);
    }
    void changeTake(std::shared_ptr<const Take> take, const TakeRun& run) {
        player_.changeTake(std::move(take), run);
    }
    void stopTake() { player_.stopTake(); }
    /// Microseconds into the take, or −1.
    [[nodiscard]] std::int64_t takePosition() const { return player_.takePosition(); }

    /// Calls see(const Happening&) and seeOsc(const OscHappening&) for everything since the last call.
    template<class See, class SeeOsc>
    void watch(See&& see, SeeOsc&& seeOsc) {
        player_.watch(see);
        player_.watchOsc(seeOsc);
    }
    /// Loops that were found and cut, since the last call, in a sentence each.
    std::vector<std::string> loopsCut();
    /// The JACK transport: where it is, and leading it. leadTransport() is false when no server runs.
    [[nodiscard]] Player::Transport transport() const { return player_.transportNow(); }
    bool leadTransport(Jack::Lead what, engine::Time position = 0) {
        return clock_ == &jack_ && jack_.lead(what, position);
    }
    /// Keeps what is played; while it listens nobody else may drain the tap.
    Recorder& recorder() { return recorder_; }
    /// Calls take(const Tap::Seen&) for everything that came in since the last call.
    template<class Take>
    void drainTap(Take&& take) {
        player_.tap().drain(take);
    }
    [[nodiscard]] std::uint64_t tapLost() { return player_.tap().lost(); }
    /// True when what is played is what was handed over last.
    [[nodiscard]] bool playsNewest() const { return player_.showsNewest(); }
    /// True, once, when another program is being played than at the last call.
    bool playsAnother() { return std::exchange(watched_, &player_.shown()) != &player_.shown(); }
    [[nodiscard]] ChainReading reading(const std::string& instrument, const std::string& chain) const {
        return readingOf(player_.shown(), instrument, chain);
    }
    /// What edits have left behind, at rest.
    [[nodiscard]] Placements leftAtRest() const { return left_.atRest(); }
    /// Where an element of the desk was last moved to, by its address; nothing before it was.
    [[nodiscard]] std::optional<double> deskPosition(std::string_view address) const {
        return deskPositionOf(player_.shown(), address);
    }
    /// Who is in hand, and how it plays.
    [[nodiscard]] InstrumentReading instrumentReading(const std::string& instrument) const {
        return readingOf(player_.shown(), instrument);
    }
    [[nodiscard]] std::uint64_t notesRefused() const { return player_.notesRefused(); }
    /// number: of a Happening. Nothing for what goes to no instrument: feedback.
    [[nodiscard]] std::string_view instrumentId(std::uint32_t number) const {
        if (number == engine::none) return {};
        return player_.names().instruments.name(number);
    }
    [[nodiscard]] std::optional<std::uint32_t> instrumentNumber(std::string_view id) const {
        return player_.names().instruments.find(id);
    }
    [[nodiscard]] const std::string& portName(engine::PortId port) const { return player_.portName(port); }

    [[nodiscard]] const PracticeRack* rack() const { return rack_.rack(); }
    /// Why the rack cannot be heard at all, or nothing.
    [[nodiscard]] const std::optional<Problem>& rackProblem() const { return rack_.problem(); }
    /// A phrase each about the clock and about ports that have something to say.
    [[nodiscard]] std::vector<std::string> status() const;
    /// What the clock is and how it does, in a word or two.
    [[nodiscard]] Clock::Word word() const;
    /// What of an input port is heard, by its name.
    void setFilter(std::string_view port, const PortFilter& filter) {
        player_.setFilter(player_.portId(port), filter);
    }
    /// How fast the wire of an output port is, in bytes a second; 0: as fast as it can.
    void setRate(std::string_view port, int bytesASecond) {
        patchbay_.setRate(player_.portId(port), bytesASecond);
    }
    /// How full the wire of a paced port was in the last second, 0 to 1; nothing for one that is not paced.
    [[nodiscard]] std::optional<float> wireLoad(std::string_view port);
    /// Which controls are told where they stand, and where that is; until playsAnother() tells of others.
    [[nodiscard]] const engine::Feedback& feedback() const { return player_.shown().feedback; }
    /// The tempo in force, in beats a minute.
    [[nodiscard]] double tempo() const { return player_.tempo(); }
    [[nodiscard]] engine::TempoFrom tempoFrom() const { return player_.tempoFrom(); }
    /// Ports of other programs and devices, by the names of the systems that have them.
    [[nodiscard]] std::vector<std::pair<std::string, PortNames>> others() const {
        return {{"JACK", jack_.others()}, {"ALSA", alsa_.others()}};
    }
    /// Which systems cannot be had, with the reason and the mend.
    [[nodiscard]] std::vector<Problem> problems() const;
    void connect(const Wire& wire) { wire.by == "JACK" ? jack_.connect(wire) : alsa_.lead(wire); }
    void disconnect(const Wire& wire) { wire.by == "JACK" ? jack_.disconnect(wire) : alsa_.leadNoMore(wire); }
    /// Connections to other programs' ports, those included whose other end is gone for now.
    [[nodiscard]] std::vector<Wire> wires() const;
    /// Connections that were there when the program last ran; before start().
    void rememberWires(const std::vector<Wire>& wires);
    /// Ports that are there are heard and paced as the table says; anew after tend() told of others.
    void heed(const MachineTable& table);
    /// Every port that is there.
    [[nodiscard]] std::vector<PortState> present() const;

 private:
    void startClock();
    bool tendClock();
    void applySounds();
    void want();

    Options options_;
    // Threads of the ports call these, so they outlive the ports.
    std::mutex telling_;  ///< never taken on the playing side
    std::function<void()> tell_;
    bool changed_ = false;
    /// A take of twelve hours can be jumped into anywhere.
    static constexpr engine::Time begins = engine::Time{12} * 3600 * 1'000'000;
    Player player_{begins};
    LeftBehind left_;
    Recorder recorder_{player_};
    Patchbay patchbay_;
    Jack jack_;
    OscLink osc_;
    RtMidiPorts alsa_;
    RackPorts rack_;
    SilentClock silence_;
    std::vector<Ports*> ports_;
    std::vector<Clock*> clocks_;                     ///< the best first
    Clock* clock_ = nullptr;                         ///< the one that runs
    bool jackWaits_ = false;                         ///< as it was told of last
    std::chrono::steady_clock::time_point nextTry_;  ///< for a better clock
    const engine::Program* watched_ = nullptr;       ///< what playsAnother() saw last
    PortNames wishes_;                               ///< of the ensemble that is played
    bool learnsOsc_ = false;
    bool deskIsOpen_ = false;
    std::vector<std::pair<int, int>> sounds_;  ///< of the rack's channels, as the ensemble wants them
    engine::PortId keysPort_;

    std::thread rackOpener_;
    std::optional<Result<std::unique_ptr<PracticeRack>>> openedRack_;
};

}  // namespace mellow::io
