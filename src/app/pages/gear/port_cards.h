// What the Gear page shows of each port: hands on one side, sound on the other, and what joins them.
#pragma once

#include <QString>
#include <vector>

#include "app/document/document.h"
#include "app/live/live.h"
#include "app/pages/gear/port_activity.h"

namespace mellow::app {

struct PortCard {
    enum class State { here, waiting, silenced };

    PortName port;
    QString title;     ///< who it is, as people call it
    QString where;     ///< the port and the system that has it
    QString sentence;  ///< what it just sent, or what it waits for
    State state = State::here;
    int rate = 0;     ///< messages a second
    int waiting = 0;  ///< chains that wait for it
    bool moves = false;
};

/// From a card of the hands to one of the sound, by their places.
struct PortThread {
    std::size_t from = 0;
    std::size_t to = 0;
    int chains = 0;
    bool operator==(const PortThread&) const = default;
};

struct PortCards {
    std::vector<PortCard> hands;
    std::vector<PortCard> sound;
    std::vector<PortThread> threads;
    int chains = 0;  ///< that the threads stand for
};

/// Who a port is, as people call it: the controllers or instruments that name it.
QString titleOf(const Ensemble& ensemble, const PortName& port);
/// The parameter that a control is which was sent, and whose it is; nullptr where no instrument has one.
struct SentAs {
    const Instrument* instrument = nullptr;
    const Parameter* parameter = nullptr;
};
SentAs sentAs(const Ensemble& ensemble, const std::string& port, const midi::HeardControl& control);

PortCards portCards(const Document& document, Live& live, const PortActivity& activity);

/// The port among `candidates` that is likely the one that had a name, such as "Wind stick MIDI 2" for "Wind
/// stick MIDI 1"; empty: none.
std::string likelyMatch(const std::string& name, const std::vector<std::string>& candidates);

}  // namespace mellow::app
