// The call `balance`: what the loudness of an instrument is along what moves it, and a document in which it
// is levelled.
#pragma once

#include <iosfwd>
#include <optional>
#include <string>

namespace mellow::cli {

struct BalanceOptions {
    std::string ensemble;
    std::string instrument;  ///< id
    std::string source;      ///< as balance::parseMotion() reads it
    std::string keys;        ///< "C3,C4"; empty: one in the middle
    int velocity = 90;
    int positions = 64;
    std::optional<double> settle;  ///< seconds left out behind a key's going down; absent: as its chain needs
    double hold = 0.4;             ///< seconds that are measured
    std::string wav;               ///< a sound file that is measured instead of the practice rack
    std::string sweep;             ///< the MIDI file that was rendered to it
    std::optional<double> begins;  ///< second of the sound at which the sweep begins; absent: by its click
    std::string writeSweep;        ///< a MIDI file to be rendered elsewhere
    std::string level;             ///< a parameter's id, or a message
    std::string goal = "flat";
    double within = 0.5;  ///< LU
    double ceiling = -1;  ///< dB true peak
    std::string output;   ///< the levelled document
    bool csv = false;
    bool json = false;
};

int runBalance(const BalanceOptions& options, std::ostream& out, std::ostream& err);

}  // namespace mellow::cli
