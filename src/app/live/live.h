// The living side of the window: a session (io/session), as signals.
//
// Live follows the document (each change is handed to the session), listens to what happened since the last
// picture, and tells the pages at display rate that values moved, only when some did.
#pragma once

#include <QObject>
#include <QTimer>
#include <set>

#include "app/document/document.h"
#include "app/ground/words.h"
#include "app/live/activity.h"
#include "app/live/machine_ports.h"
#include "app/live/put_values.h"
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

    /// What plays into it by hand.
    [[nodiscard]] io::Hands& hands() { return session_.hands(); }
    /// What is read of it as it plays.
    [[nodiscard]] const io::Readings& readings() const { return session_.readings(); }
    /// The ports as this machine has them.
    [[nodiscard]] MachinePorts& ports() { return ports_; }
    [[nodiscard]] const MachinePorts& ports() const { return ports_; }

    void startTake(std::shared_ptr<const Take> take, const io::TakeRun& run = {});
    void changeTake(std::shared_ptr<const Take> take, const io::TakeRun& run) {
        session_.changeTake(std::move(take), run);
    }
    void stopTake() { session_.stopTake(); }
    bool leadTransport(io::JackClient::Lead what, engine::Time position = 0) {
        return session_.leadTransport(what, position);
    }
    io::Recorder& recorder() { return session_.recorder(); }

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
    /// Keys that an instrument has sounding, 0..127, and how hard the last was struck, 0..1.
    [[nodiscard]] double activity(const std::string& instrument) const;
    [[nodiscard]] const io::PracticeRack* rack() const { return session_.rack(); }
    /// A bit for each of io::soundSystems that is on this machine now.
    [[nodiscard]] unsigned soundSystemsThere() const { return session_.soundSystemsThere(); }
    [[nodiscard]] int inRate() const { return inRate_; }
    [[nodiscard]] int outRate() const { return outRate_; }
    [[nodiscard]] QStringList status() const;
    /// The same of the ports in a word or two.
    [[nodiscard]] io::Clock::Word portsWord() const { return session_.word(); }
    /// Which systems cannot be had, with the reason and the mend.
    [[nodiscard]] std::vector<Problem> problems() const { return session_.problems(); }
    /// Why the rack cannot be heard at all, or nothing.
    [[nodiscard]] const std::optional<Problem>& rackProblem() const { return session_.rackProblem(); }

 signals:
    /// Something came in or went out.
    void happened(const mellow::io::Happening& happening);
    /// Something came in, from a hand or from a take that plays; right after happened(). Four of five
    /// messages go out, and most who listen are told nothing by those.
    void cameIn(const mellow::io::Happening& happening);
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
    [[nodiscard]] double sourceOf(const std::string& owner, const std::string& chain) const;
    void countRates();
    void setRhythm(bool moving);

    Document& document_;
    io::Session session_;
    MachinePorts ports_;
    QTimer look_;
    QTimer rates_;
    Activity activity_;  ///< by interned instrument
    int inCount_ = 0, outCount_ = 0, inRate_ = 0, outRate_ = 0;
    std::int64_t lastTakePosition_ = -1;
    io::Transport transport_;
    std::uint64_t notesRefused_ = 0;
    std::pair<double, engine::TempoFrom> tempo_;
    bool previewing_ = false;
    bool glances_ = false;  ///< something has moved since the last movedAtAGlance()
    PutValues put_;
    std::set<std::uint32_t> senders_;  ///< instruments whose chains sent something, while any of it is put
    bool closing_ = false;             ///< another document was opened and is not played yet
    double pictureCost_ = 0;           ///< ms, averaged
};

}  // namespace mellow::app
