// Whole files in and out.
//
// A save either happens or does not: the text goes to a new file in the same folder, is flushed to the disk,
// and takes the old one's name in one step. Whatever fails before that step leaves the old file as it was and
// removes the new one.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"

namespace mellow::files {

/// The bytes of a file of at most 512 MB; "-" is standard input. Problem::where is the path as given. A
/// folder, a pipe or a device is refused, since it may never end, or never begin; only streams that a shell
/// hands over
/// (/dev/stdin, /dev/fd/N) are read as they come.
Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path);
/// As readFile, as text.
Result<std::string> readTextFile(const std::filesystem::path& path);

/// A problem inside a file, with the file in front of its place; "-" is standard input.
Problem inFile(const std::filesystem::path& path, Problem problem);

/// A file that is written and takes its place at the end, or leaves everything as it was. A symbolic link is
/// followed, even to nothing; an existing file's permissions stay. What is not a regular file (a device, a
/// pipe that somebody reads) is written into as it is, and "-" is standard output. Until it has its place it
/// is called `.mellow-*.part`; what a program that was killed left so goes when the next is opened in that
/// folder.
class NewFile {
 public:
    /// Opens what is to be written. Error: it cannot be written there, or is a folder.
    static Result<NewFile> open(const std::filesystem::path& path);
    /// The same for a plain file at that very name: a link that is there by the end is not followed.
    /// isThere: whether it takes the place of one; otherwise it is refused where something has come by the
    /// end.
    static Result<NewFile> openItself(const std::filesystem::path& path, bool isThere);
    NewFile(NewFile&&) noexcept;
    NewFile& operator=(NewFile&&) = delete;
    ~NewFile();

    /// Where it is written, for who writes by other means; it stays the file's own.
    [[nodiscard]] int descriptor() const { return descriptor_; }
    /// False when it could not be written; commit() says why.
    bool write(std::span<const std::uint8_t> bytes);
    /// Has all of it on the disk, and closes it. Error: a write that failed.
    Outcome finish();
    /// Puts it in its place; finish() comes before.
    Outcome commit();

 private:
    NewFile() = default;
    Outcome makeTemporary();
    std::filesystem::path path_;       ///< as given
    std::filesystem::path target_;     ///< where it leads
    std::filesystem::path temporary_;  ///< empty: it is written in place
    int descriptor_ = -1;
    int error_ = 0;
    bool isFirst_ = false;  ///< nothing may be in its place
};

/// Replaces or makes a file, atomically.
Outcome writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes);
Outcome writeFile(const std::filesystem::path& path, std::string_view text);

/// What tells one state of a file from another without reading it: which file it is, how long, and when it
/// was written last.
struct FileStamp {
    std::uint64_t device = 0;
    std::uint64_t file = 0;
    std::int64_t size = 0;
    std::int64_t written = 0;  ///< nanoseconds since 1970
    bool operator==(const FileStamp&) const = default;
};
/// Nothing where no file is.
std::optional<FileStamp> stampOf(const std::filesystem::path& path);

/// True when two paths lead to one and the same existing file.
bool isSameFile(const std::filesystem::path& one, const std::filesystem::path& other);

}  // namespace mellow::files
