// The calls that play live: a session on real ports, without a window.
#pragma once

#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

namespace mellow::cli {

struct RunOptions {
    std::string ensemble;
    bool soundCard = true;              ///< let the practice rack be heard
    std::optional<std::string> sound;   ///< by which system; nothing: as Gear was told on this machine
    bool jack = true;                   ///< use a JACK server when one runs
    std::string network = "127.0.0.1";  ///< an address of this machine at which OSC is heard
};

struct BounceCallOptions {
    std::string ensemble;
    std::string take;  ///< its name or id
    std::string output;
    std::vector<std::string> instruments;
    bool apart = false;  ///< one file for each instrument
    int sampleRate = 48000;
    double longestHours = 12;  ///< no longer take is rendered
};

/// Renders a take on the practice rack into a sound file. How far it is goes to `err` where a person looks.
int runBounce(const BounceCallOptions& options, std::ostream& out, std::ostream& err);

/// Plays an ensemble live until it is interrupted or told to end (SIGINT, SIGTERM); then everything is
/// silenced. Reads the document again on SIGHUP and when its file changes; one that cannot be read is told
/// of, and what was played goes on. Says how the ports are, once, and again whenever that changes.
int runLive(const RunOptions& options, std::ostream& out, std::ostream& err);

/// Lists the ports that an ensemble has live, one a line: in or out, connected or waiting, name.
int runPorts(const RunOptions& options, std::ostream& out, std::ostream& err);

}  // namespace mellow::cli
