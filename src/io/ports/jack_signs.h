// What JACK's graph is told of this program beside the names of its ports: how people call each port, in
// which order the ports stand, which icon the program has. Source: JACK's metadata API, jack/metadata.h,
// whose keys patchbays read. PipeWire in JACK's place understands the same.
//
// Only differences are said, and aside (jack_teller.h); what is said of a port the server forgets with it.
#pragma once

#include <jack/jack.h>

#include <map>
#include <string>

namespace mellow::io {

/// The icon by which desktops know the program (Icon Naming Specification).
inline constexpr const char* iconName = "mellow-lever";

class JackSigns {
 public:
    /// title: how people call the port; empty: by its name. place: 0 is the first.
    void say(jack_client_t* client, jack_port_t* port, const std::string& title, int place);
    /// The port goes.
    void forget(jack_port_t* port) { said_.erase(port); }
    /// The server is gone, or the client is another.
    void forget() { said_.clear(); }

 private:
    struct Said {
        std::string title;
        int place = -1;
    };
    std::map<jack_port_t*, Said> said_;
};

}  // namespace mellow::io
