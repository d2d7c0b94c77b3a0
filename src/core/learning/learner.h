// Learning a source: what did the hand just move?
//
// A port never sends only what one means. A clock ticks, a worn pedal beside the wheel trembles, a key that
// is held down presses, one stick sends three things at once. So what came is weighed and not merely counted:
// a control has been moved as far as it has travelled, a button when it was pressed, an encoder when it has
// turned some steps. What travels next to nothing is taken for trembling however often it speaks, and a key
// counts little while anything else moves. The surest comes first, and who asks decides what is sure enough;
// nothing is left out that may have been meant, so that a person can take another.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/midi/shapes.h"
#include "core/model/source.h"

namespace mellow::learning {

/// What may have been meant.
struct Candidate {
    std::string port;
    Source source;             ///< from any port and channel
    int channel = 0;           ///< 1..16, on which it was heard; 0: by OSC
    midi::HeardControl heard;  ///< of MIDI
    double sure = 0;           ///< 0 to 1
};

class Learner {
 public:
    /// From this on it is sure enough to be taken.
    static constexpr double enough = 0.6;

    /// Begins anew.
    void begin() { *this = {}; }
    /// A message that came, in order of time (microseconds).
    void hear(std::string_view port, std::int64_t time, midi::Bytes message);
    void hearOsc(std::string_view port, std::int64_t time, std::string_view address, double number);

    /// All that may have been meant, the surest first; of what is as sure, what was heard first.
    [[nodiscard]] std::vector<Candidate> candidates() const;

 private:
    /// What came to an OSC address.
    struct Sent {
        std::int64_t first = 0;
        double low = 0;
        double high = 0;
        int count = 0;
    };
    struct Port {
        midi::Shapes shapes;
        std::map<int, int> strikes;  ///< by key
        std::map<std::string, Sent, std::less<>> addresses;
    };
    std::map<std::string, Port, std::less<>> ports_;
};

}  // namespace mellow::learning
