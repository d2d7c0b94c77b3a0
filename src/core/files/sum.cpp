#include "core/files/sum.h"

#include <nettle/sha2.h>

#include <array>
#include <string_view>

#include "core/text/printable.h"

namespace mellow::files {

std::string sha256Of(std::span<const std::uint8_t> bytes) {
    sha256_ctx context;
    sha256_init(&context);
    sha256_update(&context, bytes.size(), bytes.data());
    std::array<std::uint8_t, SHA256_DIGEST_SIZE> digest{};
    sha256_digest(&context, digest.size(), digest.data());
    constexpr std::string_view digits = "0123456789abcdef";
    std::string hex;
    for (const std::uint8_t byte : digest) {
        hex += digits[byte >> 4];
        hex += digits[byte & 15];
    }
    return hex;
}

std::string summedName(const std::string& name, const std::string& sha256, std::string_view ending) {
    constexpr std::size_t enough = 12;
    std::string file = text::fileWord(name);
    file += '-';
    file += sha256.substr(0, enough);
    file += ending;
    return file;
}

}  // namespace mellow::files
