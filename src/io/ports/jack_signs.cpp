#include "io/ports/jack_signs.h"

#include <jack/metadata.h>
#include <jack/uuid.h>

#include "io/ports/jack_teller.h"

namespace mellow::io {

void JackSigns::say(jack_client_t* client, jack_port_t* port, const std::string& title, int place) {
    Said& said = said_[port];
    const jack_uuid_t uuid = jack_port_uuid(port);
    if (said.place != place)
        tell(client, uuid, JACK_METADATA_ORDER, std::to_string(place),
             "http://www.w3.org/2001/XMLSchema#integer");
    if (said.title != title) tell(client, uuid, JACK_METADATA_PRETTY_NAME, title, "text/plain");
    said = {title, place};
}

}  // namespace mellow::io
