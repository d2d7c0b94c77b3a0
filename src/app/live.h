// The living side of the window: player, backend and practice rack, and what they are doing now.
//
// Live follows the document (each change is compiled and handed to the player), listens to what happened
// since the last picture, and tells the pages at display rate that values moved, only when some did.
#pragma once

#include <QObject>
#include <QTimer>
#include <deque>
#include <memory>
#include <thread>
#include <unordered_map>

#include "app/document.h"
#include "io/backend.h"
#include "io/osc_link.h"
#include "io/practice_rack.h"

namespace mellow::app {

/// The present values of a chain, for painting.
struct ChainReading {
    bool runs = false;           ///< it is on and nothing stops it
    bool spoken = false;         ///< its source has moved since the start
    int raw = -1;                ///< the source's raw value; −1 where it has none
    double position = 0;         ///< the source's position
    double result = 0;           ///< the position behind the trunk
    int fed = -1;                ///< the branch that a chooser has chosen; −1: all are fed
    std::vector<double> values;  ///< the raw position that each branch last gave its target; −1 before
};

class Live : public QObject {
    Q_OBJECT

 public:
    struct Options {
        bool jack = true;       ///< use a JACK server when one runs
        bool soundCard = true;  ///< try to be heard
        std::string soundfont = io::RackOptions{}.soundfont;
    };

    Live(Document& document, Options options, QObject* parent = nullptr);
    ~Live() override;

    /// Opens the practice rack, which takes a moment; called once the window is on screen.
    void openRack();

    /// Plays a message as if on the practice keys.
    void send(const midi::Short& message);
    /// Plays a message as if it came in through a port.
    void sendTo(std::string_view port, const midi::Short& message);
    void silenceAll();
    void startTake(std::shared_ptr<const Take> take);
    void stopTake();
    /// Microseconds into the take, or −1.
    [[nodiscard]] std::int64_t takePosition() const { return player_.takePosition(); }

    /// Says how long painting the last picture took, in milliseconds: the dearer pictures are, the fewer
    /// there are, so that a moving page leaves the processor to the music.
    void pictureTook(double milliseconds);

    [[nodiscard]] ChainReading reading(const std::string& instrument, const std::string& chain) const;
    /// Keys that an instrument has sounding, 0..127, and how hard the last was struck, 0..1.
    [[nodiscard]] double activity(const std::string& instrument) const;
    [[nodiscard]] const io::PracticeRack* rack() const { return rack_.get(); }
    [[nodiscard]] int inRate() const { return inRate_; }
    [[nodiscard]] int outRate() const { return outRate_; }
    [[nodiscard]] QString status() const;
    /// Why the rack cannot be heard at all, or nothing.
    [[nodiscard]] const std::optional<Problem>& rackProblem() const { return rackProblem_; }
    [[nodiscard]] const std::string& instrumentId(std::uint32_t number) const {
        return player_.names().instruments.name(number);
    }
    [[nodiscard]] const std::string& portName(engine::PortId port) const { return player_.portName(port); }

 signals:
    /// Something came in or went out.
    void happened(const mellow::io::Happening& happening);
    void happenedByOsc(const mellow::io::OscHappening& happening);
    /// Values may have moved; at most sixty times a second, and less often where painting is dear.
    void moved();
    void ratesChanged();
    void statusChanged();
    void takeEnded();

 private:
    void follow();
    void startBackend();
    void look();
    void index();
    void countRates();
    void applySounds();

    Document& document_;
    Options options_;
    io::Player player_;
    io::OscLink osc_;
    std::unique_ptr<io::Backend> backend_;
    std::unique_ptr<io::PracticeRack> rack_;
    std::atomic<io::PracticeRack*> rackForPlayer_{nullptr};
    std::optional<Problem> rackProblem_;
    std::thread rackOpener_;
    QTimer look_;
    QTimer rates_;
    const engine::Program* indexed_ = nullptr;
    std::unordered_map<std::string, std::size_t> chains_;  ///< "instrument/chain" to its place in the plan
    std::unordered_map<std::uint32_t, double> activity_;   ///< by interned instrument
    int inCount_ = 0, outCount_ = 0, inRate_ = 0, outRate_ = 0;
    std::int64_t lastTakePosition_ = -1;
    std::uint64_t notesRefused_ = 0;
    bool closing_ = false;    ///< another document was opened and is not played yet
    double pictureCost_ = 0;  ///< ms, averaged
    engine::PortId keysPort_;
};

}  // namespace mellow::app
