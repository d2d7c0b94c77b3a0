// What a port is called by people, beside the name by which documents and connections know it.
#pragma once

#include <string>

namespace mellow::io {

struct PortTitle {
    bool input = false;
    std::string port;
    std::string title;
    bool operator==(const PortTitle&) const = default;
};

}  // namespace mellow::io
