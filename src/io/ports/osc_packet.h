// Packets of OSC 1.0: what is in one that came, and one to be sent. liblo knows the format; what a program
// has to hold against packets from anywhere is here: an address is 256 letters of ASCII at most, bundles are
// taken apart four deep, and only the first argument counts, if it is a number.
#pragma once

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace mellow::io {

class OscPacket {
 public:
    OscPacket(const std::string& address, float number);
    OscPacket(const std::string& address, const std::string& text);
    [[nodiscard]] std::span<const char> bytes() const { return bytes_; }

 private:
    std::vector<char> bytes_;
};

/// Calls each(address, number) for every message of a packet, those of bundles at once, whatever their time.
void readOsc(std::span<char> packet,
             const std::function<void(std::string_view address, std::optional<double> number)>& each);

}  // namespace mellow::io
