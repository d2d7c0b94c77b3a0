#include "io/ports/own_addresses.h"

#include <arpa/inet.h>
#include <ifaddrs.h>
#include <net/if.h>
#include <netinet/in.h>

#include <array>

namespace mellow::io {

std::vector<std::string> ownAddresses() {
    std::vector<std::string> found;
    ifaddrs* first = nullptr;
    if (getifaddrs(&first) != 0) return found;
    for (const ifaddrs* each = first; each != nullptr; each = each->ifa_next) {
        const bool isUp = (each->ifa_flags & IFF_UP) != 0 && (each->ifa_flags & IFF_LOOPBACK) == 0;
        if (!isUp || each->ifa_addr == nullptr || each->ifa_addr->sa_family != AF_INET) continue;
        std::array<char, INET_ADDRSTRLEN> text{};
        const auto* address = reinterpret_cast<const sockaddr_in*>(each->ifa_addr);
        if (inet_ntop(AF_INET, &address->sin_addr, text.data(), text.size()) != nullptr)
            found.emplace_back(text.data());
    }
    freeifaddrs(first);
    return found;
}

}  // namespace mellow::io
