// By what a file is known again, whatever it is called: its SHA-256 (FIPS 180-4).
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>

namespace mellow::files {

/// In lower-case hexadecimal.
std::string sha256Of(std::span<const std::uint8_t> bytes);
/// "storm-1a2b3c4d5e6f.mid": a word from a name, the beginning of a sum, and an ending with its dot.
std::string summedName(const std::string& name, const std::string& sha256, std::string_view ending);

}  // namespace mellow::files
