// The living side of the window: a session (io/session), as signals.
//
// Live follows the document (each change is handed to the session), listens to what happened since the last
// picture, and tells the pages at display rate that values moved, only when some did.
#pragma once

#include <QObject>
#include <QTimer>
#include <set>
#include <unordered_map>

#include "app/document/document.h"
#include "app/ground/words.h"
#include "app/live/machine.h"
#include "io/session/session.h"

namespace mellow::app {

using io::ChainReading;

class Live : public QObject {
    Q_OBJECT

 public:
    using Options = io::Session::Options;

    Live(Document& document, Options options, QObject* parent = nullptr);
    ~Live() override { session_.onChange({}); }

    /// Opens the practice rack, which takes a moment; called once the window is on screen.
    void openRack() {
        session_.openRack();
        emit statusChanged();
    }

    /// Plays a message as if on the practice keys.
    void send(const midi::Short& message) { session_.send(message); }
    /// Plays a message as if it came in through a port.
    void sendTo(std::string_view port, const midi::Short& message) { session_.sendTo(port, message); }
    /// Moves an element of the desk, by its address, to a position from 0 to 1.
    void moveDesk(std::string_view address, double position) { session_.moveDesk(address, position); }
    /// Has an instrument play one of its articulations, by place.
    void choose(const std::string& instrument, std::size_t articulation) {
        session_.choose(instrument, articulation);
    }
    void silenceAll() { session_.silenceAll(); }
    void startTake(std::shared_ptr<const Take> take, const io::TakeRun& run = {});
    void changeTake(std::shared_ptr<const Take> take, const io::TakeRun& run) {
        session_.changeTake(std::move(take), run);
    }
    void stopTake() { session_.stopTake(); }
    [[nodiscard]] io::Player::Transport transport() const { return session_.transport(); }
    bool leadTransport(io::Jack::Lead what, engine::Time position = 0) {
        return session_.leadTransport(what, position);
    }
    io::Recorder& recorder() { return session_.recorder(); }
    /// Microseconds into the take, or −1.
    [[nodiscard]] std::int64_t takePosition() const { return session_.takePosition(); }

    /// Hears tablets that move the desk; kept in this machine's settings.
    void openDesk(bool on);
    [[nodiscard]] bool isDeskOpen() const { return machine_.isDeskOpen(); }
    [[nodiscard]] io::Surfaces& surfaces() { return session_.surfaces(); }
    /// From where an OSC port is heard: an address of this machine, io::thisMachine or io::allNetworks. It is
    /// this machine's affair; a document opens nothing, nor does it find open what was opened for another.
    [[nodiscard]] QString network(const std::string& port) const;
    void setNetwork(const std::string& port, const QString& address);
    /// What is listened to in which way, in words; empty: not at all.
    [[nodiscard]] QString listeningText(const std::string& port) const;
    /// Hears OSC though nothing listens to it yet.
    void learnOsc(bool on) { session_.learnOsc(on); }
    /// Plays another ensemble than the document for a while; nullptr: the document again.
    void preview(const Ensemble* ensemble);

    /// Puts targets to values, once, whatever moves them.
    void place(const Placements& placements);

    /// Says how long painting the last picture took, in milliseconds: the dearer pictures are, the fewer
    /// there are, so that a moving page leaves the processor to the music.
    void pictureTook(double milliseconds);

    /// With what was put there, as long as its source stands still.
    [[nodiscard]] ChainReading reading(const std::string& instrument, const std::string& chain) const;
    /// What edits have left behind, and nothing leads to, at rest.
    [[nodiscard]] Placements leftAtRest() const { return session_.leftAtRest(); }
    /// Where an element of the desk was last moved to, by its address; nothing before it was.
    [[nodiscard]] std::optional<double> deskPosition(std::string_view address) const {
        return session_.deskPosition(address);
    }
    /// Who is in hand, and how it plays.
    [[nodiscard]] io::InstrumentReading instrumentReading(const std::string& instrument) const {
        return session_.instrumentReading(instrument);
    }
    /// Keys that an instrument has sounding, 0..127, and how hard the last was struck, 0..1.
    [[nodiscard]] double activity(const std::string& instrument) const;
    [[nodiscard]] const io::PracticeRack* rack() const { return session_.rack(); }
    [[nodiscard]] int inRate() const { return inRate_; }
    [[nodiscard]] int outRate() const { return outRate_; }
    [[nodiscard]] QStringList status() const;
    /// The same of the ports in a word or two.
    [[nodiscard]] io::Clock::Word portsWord() const { return session_.word(); }
    /// Ports and what they are connected to; they may be others after statusChanged().
    [[nodiscard]] std::vector<io::PortState> present() const { return session_.present(); }
    [[nodiscard]] std::vector<io::Wire> wires() const { return session_.wires(); }
    [[nodiscard]] std::vector<std::pair<std::string, io::PortNames>> others() const {
        return session_.others();
    }
    [[nodiscard]] std::vector<Problem> problems() const { return session_.problems(); }
    /// Whether a port that the document names has nothing at its other end. Never true of what is inside the
    /// program, or of any port.
    [[nodiscard]] bool waitsFor(const std::string& port, bool input) const;
    void connectPorts(const io::Wire& wire);
    void disconnectPorts(const io::Wire& wire);
    /// How a port is heard on this machine.
    [[nodiscard]] io::PortFilter filter(const std::string& port) const;
    void setFilter(const std::string& port, const io::PortFilter& filter);
    /// How fast the wire of an output port is here, in bytes a second; 0: as fast as it can.
    /// Why nothing is known of this machine's ports; empty when it is.
    [[nodiscard]] const QString& machineTrouble() const { return machine_.trouble(); }
    [[nodiscard]] int rate(const std::string& port) const { return machine_.table().rate(port); }
    void setRate(const std::string& port, int bytesASecond);
    /// How full a paced wire was in the last second, 0 to 1.
    [[nodiscard]] std::optional<float> wireLoad(const std::string& port) { return session_.wireLoad(port); }
    /// Which controls are told where they stand; ask anew after each moved().
    [[nodiscard]] const engine::Feedback& feedback() const { return session_.feedback(); }
    /// The tempo in force, in beats a minute.
    [[nodiscard]] double tempo() const { return session_.tempo(); }
    [[nodiscard]] engine::TempoFrom tempoFrom() const { return session_.tempoFrom(); }
    /// Why the rack cannot be heard at all, or nothing.
    [[nodiscard]] const std::optional<Problem>& rackProblem() const { return session_.rackProblem(); }
    [[nodiscard]] std::string_view instrumentId(std::uint32_t number) const {
        return session_.instrumentId(number);
    }
    [[nodiscard]] const std::string& portName(engine::PortId port) const { return session_.portName(port); }

 signals:
    /// Something came in or went out.
    void happened(const mellow::io::Happening& happening);
    void happenedByOsc(const mellow::io::OscHappening& happening);
    /// Values may have moved; at most sixty times a second, and less often where painting is dear.
    void moved();
    /// The same at half the rate, for what one glances at: small bars beside what one looks at. Comes right
    /// after moved(), and after the last of them in any case.
    void movedAtAGlance();
    void ratesChanged();
    void statusChanged();
    void tempoChanged();
    /// Something that cannot be left unsaid.
    void troubled(const QString& sentence);
    void takeEnded();
    /// The JACK transport starts, stops or is elsewhere than it would have been.
    void transportMoved();

 private:
    void follow();
    void tend();
    void look();
    void lookAtTransport();
    bool takeWhatHappened();
    bool fadeActivity();
    void forgetPut(const std::string& owner);
    void openNetworks();
    void judgeDocument();
    void letListen();
    [[nodiscard]] std::vector<std::string> oscPorts() const;
    void countRates();
    void setRhythm(bool moving);

    Document& document_;
    Machine machine_;
    bool isJudged_ = false;
    std::set<std::string>
        unheard_;  ///< ports that are open, and at which the document is not heard from networks
    io::Session session_;
    QTimer look_;
    QTimer rates_;
    std::unordered_map<std::uint32_t, double> activity_;  ///< by interned instrument
    int inCount_ = 0, outCount_ = 0, inRate_ = 0, outRate_ = 0;
    std::int64_t lastTakePosition_ = -1;
    io::Player::Transport transport_;
    std::uint64_t notesRefused_ = 0;
    std::pair<double, engine::TempoFrom> tempo_;
    std::set<std::pair<bool, std::string>>
        connected_;  ///< inputs and outputs that have something at the other end
    bool previewing_ = false;
    bool glances_ = false;  ///< something has moved since the last movedAtAGlance()
    /// What was put to a value, and where the source of its chain stood then.
    struct Put {
        double position = 0;
        double source = 0;
    };
    using PutBranches = std::unordered_map<std::uint32_t, Put>;
    /// By owner, chain and branch.
    std::unordered_map<std::string, std::unordered_map<std::string, PutBranches>> put_;
    std::set<std::uint32_t> senders_;  ///< instruments whose chains sent something, while any of it is put
    bool closing_ = false;             ///< another document was opened and is not played yet
    double pictureCost_ = 0;           ///< ms, averaged
};

}  // namespace mellow::app
