// What stands after a stream of messages: the last thing that was said of each subject, in an order in which
// it can be said again.
//
// A control, bend, pressure, program, register or OSC address keeps its last message; a register's data entry
// keeps the select that it was for, a program its bank; a key that is down keeps its strikes. CC 121 stands
// as a control does, behind what it resets and before what came after it; CC 120 and 123 to 127 end the notes
// of their channel. Everything else (what a control did on its way, SysEx, real-time messages) leaves
// nothing.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "core/midi/message.h"

namespace mellow {

class Standing {
 public:
    struct Said {
        std::uint32_t port = 0;
        std::uint32_t tag = 0;  ///< as it was given with the message
        midi::Short message;    ///< size 0: it came by OSC
        std::string address;
        double number = 0;
    };

    /// A message on a port, whole; of more than three bytes it says nothing that stands.
    void hear(std::uint32_t port, midi::Bytes message, std::uint32_t tag);
    void hearNumber(std::uint32_t port, std::string_view address, double number, std::uint32_t tag);
    /// Everything that stands, in the order in which it was said last; keys that are down come last.
    [[nodiscard]] std::vector<Said> all() const;
    /// What lets go of the hands' part of it, channel by channel, as leaving the hand does (signal rules,
    /// section 6): pedals that are down come up, bend is centred, pressure ends. Keys are their owner's
    /// business.
    [[nodiscard]] std::vector<midi::Short> lettingGo() const;

 private:
    enum About : int { control, bend, pressure, program, keyPressure, dataEntry, selection, osc };
    /// Port, channel, about what, its number, its address.
    using Subject = std::tuple<std::uint32_t, int, int, int, std::string>;
    /// What was said of a subject, and when, as a count.
    struct Entry {
        std::vector<Said> said;
        std::uint64_t when = 0;
    };
    /// Which register is selected on a channel, by the messages that selected it.
    struct Select {
        int high = -1;
        int low = -1;
        bool registered = true;  ///< an RPN, and no NRPN
        Said highSaid, lowSaid;
        [[nodiscard]] bool isWhole() const { return high >= 0 && low >= 0; }
    };

    void say(const Subject& subject, std::vector<Said> said);
    void hearNote(midi::Bytes message, const Said& said);
    void hearControl(int channel, midi::Bytes message, const Said& said);
    void hearSelect(int channel, midi::Bytes message, const Said& said);
    void hearProgram(int channel, const Said& said);

    std::map<Subject, Entry> entries_;
    std::map<std::tuple<std::uint32_t, int, int>, Entry> down_;  ///< by port, channel and key
    std::map<std::pair<std::uint32_t, int>, Select> selects_;
    std::uint64_t count_ = 0;
};

}  // namespace mellow
