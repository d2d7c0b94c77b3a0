#include "io/ports/jack_signs.h"

#include <jack/metadata.h>
#include <jack/uuid.h>

namespace mellow::io {

namespace {

constexpr const char* plainText = "text/plain";
constexpr const char* wholeNumber = "http://www.w3.org/2001/XMLSchema#integer";

}  // namespace

void showIcon(jack_client_t* client) {
    char* const words = jack_get_uuid_for_client_name(client, jack_get_client_name(client));
    if (words == nullptr) return;
    jack_uuid_t uuid = 0;
    if (jack_uuid_parse(words, &uuid) == 0)
        jack_set_property(client, uuid, JACK_METADATA_ICON_NAME, iconName, plainText);
    jack_free(words);
}

void takeBackSigns(jack_client_t* client) {
    if (char* const words = jack_get_uuid_for_client_name(client, jack_get_client_name(client))) {
        jack_uuid_t uuid = 0;
        if (jack_uuid_parse(words, &uuid) == 0) jack_remove_properties(client, uuid);
        jack_free(words);
    }
    const char** const ports = jack_get_ports(client, nullptr, nullptr, 0);
    for (std::size_t i = 0; ports != nullptr && ports[i] != nullptr; ++i) {
        jack_port_t* const port = jack_port_by_name(client, ports[i]);
        if (port != nullptr && jack_port_is_mine(client, port) != 0)
            jack_remove_properties(client, jack_port_uuid(port));
    }
    jack_free(ports);
}

void JackSigns::say(jack_client_t* client, jack_port_t* port, const std::string& title, int place) {
    Said& said = said_[port];
    const jack_uuid_t uuid = jack_port_uuid(port);
    if (said.place != place)
        jack_set_property(client, uuid, JACK_METADATA_ORDER, std::to_string(place).c_str(), wholeNumber);
    if (said.title != title && !title.empty())
        jack_set_property(client, uuid, JACK_METADATA_PRETTY_NAME, title.c_str(), plainText);
    if (said.title != title && title.empty()) jack_remove_property(client, uuid, JACK_METADATA_PRETTY_NAME);
    said = {title, place};
}

void JackSigns::takeBack(jack_client_t* client, jack_port_t* port) {
    if (said_.erase(port) > 0) jack_remove_properties(client, jack_port_uuid(port));
}

}  // namespace mellow::io
