// A packet of OSC from anywhere: never a crash; every address that is heard is printable and of a bounded
// length, every number finite; and what is heard is sent and heard again as the same.
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string>
#include <vector>

#include "io/ports/osc_packet.h"

using namespace mellow::io;

namespace {

bool isHeardAgain(const std::string& address, float number) {
    const OscPacket packet(address, number);
    std::vector<char> bytes(packet.bytes().begin(), packet.bytes().end());
    bool same = false;
    readOsc(bytes, [&](std::string_view heard, std::optional<double> value) {
        same = heard == address && value == static_cast<double>(number);
    });
    return same;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    std::vector<char> packet(data, data + size);
    std::vector<std::pair<std::string, std::optional<double>>> heard;
    readOsc(packet, [&](std::string_view address, std::optional<double> number) {
        heard.emplace_back(address, number);
    });
    constexpr std::size_t longest = 256;
    for (const auto& [address, number] : heard) {
        if (address.empty() || address.size() > longest || address.front() != '/') std::abort();
        for (const char letter : address) {
            if (letter <= ' ' || letter >= 127) std::abort();
        }
        if (!number) continue;
        if (!std::isfinite(*number)) std::abort();
        const auto single = static_cast<float>(*number);
        if (std::isfinite(single) && !isHeardAgain(address, single)) std::abort();
    }
    return 0;
}
