// Whole files in and out.
//
// A save either happens or does not: the text goes to a new file in the same folder, is flushed to the disk,
// and takes the old one's name in one step. Whatever fails before that step leaves the old file as it was and
// removes the new one.
#pragma once

#include <cstdint>
#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"

namespace mellow::store {

/// The bytes of a file of at most 512 MB. Problem::where is the path as given.
Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path);
/// As readFile, as text.
Result<std::string> readTextFile(const std::filesystem::path& path);

/// Replaces or makes a file, atomically. A symbolic link is followed; an existing file's permissions stay.
Outcome writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes);
Outcome writeFile(const std::filesystem::path& path, std::string_view text);

}  // namespace mellow::store
