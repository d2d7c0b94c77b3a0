// Files that stand beside a document and belong to it: its journal, its lock, its earlier versions. They
// begin with a dot, so that a folder shows what people put there. They are opened as own.h says.
#pragma once

#include <cstdint>
#include <filesystem>
#include <vector>

#include "core/result.h"

namespace mellow::files {

std::filesystem::path journalOf(const std::filesystem::path& document);
std::filesystem::path lockOf(const std::filesystem::path& document);
std::filesystem::path versionsOf(const std::filesystem::path& document);
/// Where the logs of recordings of a document are: each has this name, and one of its own behind it.
std::filesystem::path recordingsOf(const std::filesystem::path& document);

struct Version {
    std::filesystem::path path;
    std::int64_t time = 0;  ///< when it was written, milliseconds since 1970
};

inline constexpr std::size_t versionsKept = 10;

/// Keeps the document as it is on the disk now among its versions, and drops the oldest beyond ten. Nothing
/// happens where there is no document, or it is kept already.
Outcome keepVersion(const std::filesystem::path& document);
/// The versions that are kept, newest first.
std::vector<Version> versions(const std::filesystem::path& document);

}  // namespace mellow::files
