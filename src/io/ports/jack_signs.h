// What JACK's graph is told of this program beside the names of its ports: how people call each port, in
// which order the ports stand, which icon the program has. Source: JACK's metadata API, jack/metadata.h,
// whose keys patchbays read. PipeWire in JACK's place understands the same.
//
// What is said belongs to the server's own store, not to the port, and would outlive it; so it is taken back
// before the port goes. Only differences are said, since each costs the server a moment.
#pragma once

#include <jack/jack.h>

#include <map>
#include <string>

namespace mellow::io {

/// The icon by which desktops know the program (Icon Naming Specification).
inline constexpr const char* iconName = "mellow-lever";

/// Says of a client which icon it has.
void showIcon(jack_client_t* client);
/// Takes back all that was said of a client and its ports. The server must answer.
void takeBackSigns(jack_client_t* client);

class JackSigns {
 public:
    /// title: how people call the port; empty: by its name. place: 0 is the first.
    void say(jack_client_t* client, jack_port_t* port, const std::string& title, int place);
    /// The port goes.
    void takeBack(jack_client_t* client, jack_port_t* port);
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
