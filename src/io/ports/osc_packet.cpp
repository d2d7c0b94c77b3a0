#include "io/ports/osc_packet.h"

#include <lo/lo.h>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace mellow::io {

namespace {

constexpr std::size_t longestAddress = 256;
constexpr int deepestBundle = 4;

std::vector<char> serialised(const std::string& address, lo_message message) {
    std::size_t size = lo_message_length(message, address.c_str());
    std::vector<char> bytes(size);
    lo_message_serialise(message, address.c_str(), bytes.data(), &size);
    lo_message_free(message);
    return bytes;
}

std::optional<double> firstNumber(lo_message message) {
    if (lo_message_get_argc(message) < 1) return std::nullopt;
    const lo_arg* first = lo_message_get_argv(message)[0];  // nullptr for what is said by its type alone
    switch (lo_message_get_types(message)[0]) {
        case LO_FLOAT:
            return first->f;
        case LO_DOUBLE:
            return first->d;
        case LO_INT32:
            return first->i;
        case LO_INT64:
            return static_cast<double>(first->h);
        case LO_TRUE:
            return 1;
        case LO_FALSE:
            return 0;
        default:
            return std::nullopt;
    }
}

/// An address as the standard has it: printable, and no space.
bool isAddress(std::string_view text) {
    return !text.empty() && text.size() <= longestAddress && text.front() == '/' &&
           std::all_of(text.begin(), text.end(), [](char letter) { return letter > ' ' && letter < 127; });
}

void read(std::span<char> packet, int depth,
          const std::function<void(std::string_view, std::optional<double>)>& each) {
    constexpr std::string_view bundle("#bundle\0", 8);
    constexpr std::size_t head = 16;
    if (packet.size() >= head && std::string_view(packet.data(), bundle.size()) == bundle) {
        if (depth >= deepestBundle) return;
        for (std::size_t at = head; at + 4 <= packet.size();) {
            const auto byte = [&](std::size_t i) {
                return static_cast<std::size_t>(static_cast<unsigned char>(packet[at + i]));
            };
            const std::size_t size = byte(0) << 24 | byte(1) << 16 | byte(2) << 8 | byte(3);
            at += 4;
            if (size > packet.size() - at) return;
            read(packet.subspan(at, size), depth + 1, each);
            at += size;
        }
        return;
    }
    if (packet.empty()) return;
    const std::size_t letters = ::strnlen(packet.data(), packet.size());
    if (letters == packet.size() || !isAddress({packet.data(), letters})) return;
    const std::string address(packet.data(), letters);
    int result = 0;
    lo_message message = lo_message_deserialise(packet.data(), packet.size(), &result);
    if (message == nullptr) return;
    auto number = firstNumber(message);
    if (number && !std::isfinite(*number)) number.reset();
    each(address, number);
    lo_message_free(message);
}

}  // namespace

OscPacket::OscPacket(const std::string& address, float number) {
    lo_message message = lo_message_new();
    lo_message_add_float(message, number);
    bytes_ = serialised(address, message);
}

OscPacket::OscPacket(const std::string& address, const std::string& text) {
    lo_message message = lo_message_new();
    lo_message_add_string(message, text.c_str());
    bytes_ = serialised(address, message);
}

void readOsc(std::span<char> packet,
             const std::function<void(std::string_view, std::optional<double>)>& each) {
    read(packet, 0, each);
}

}  // namespace mellow::io
