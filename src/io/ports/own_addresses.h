// Where this machine is on its networks, for a person who types it into a tablet.
#pragma once

#include <string>
#include <vector>

namespace mellow::io {

/// IPv4 addresses of its interfaces that are up, without the loopback's. Source: getifaddrs(3).
std::vector<std::string> ownAddresses();

}  // namespace mellow::io
