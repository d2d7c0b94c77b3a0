// Files of the program's own that lie among a person's: journals, locks, logs, lists.
//
// A name beside a document may be anything by the time it is opened: a link that leads to somebody's work, a
// pipe that nobody writes to, a second name of another file, or a person's file that happens to be called so.
// So none of these is opened like other files: no link is followed, nothing waits, what is made is made where
// nothing was, and what is there counts only if it is a plain file of the same owner with no other name, and
// begins as the program's own files of that kind do. Everything else is refused with a sentence, and left as
// it is.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"

namespace mellow::files {

enum class Own {
    read,       ///< it must be there
    write,      ///< likewise; what is written goes behind what it holds
    readWrite,  ///< likewise
    make,       ///< it must not be there; read and written
};
/// A descriptor, closed on exec. Error: it is not there (or is, for `make`), or not the program's own.
Result<int> openOwn(const std::filesystem::path& path, Own how);

/// Why something at a path is not to be touched; nothing where nothing is there, or a plain file of one's
/// own.
std::optional<Problem> strangerAt(const std::filesystem::path& path);
/// The same, and where it is a plain file that does not begin so, and is a person's then.
std::optional<Problem> foreignAt(const std::filesystem::path& path, std::string_view begins);
/// The same of a folder: a link to one is a stranger.
std::optional<Problem> strangeFolderAt(const std::filesystem::path& path);
/// Makes a folder of one's own, or finds it there.
Outcome makeOwnFolder(const std::filesystem::path& path);

/// What a file of one's own holds, up to 512 MB; nothing where none is there.
Result<std::optional<std::string>> readOwn(const std::filesystem::path& path);
/// Removes a file of one's own that begins with a text; false where it stays.
bool removeOwn(const std::filesystem::path& path, std::string_view begins);
/// Replaces or makes a file of one's own, atomically. Error: what is there does not begin with `begins`, and
/// is a person's then.
Outcome writeOwn(const std::filesystem::path& path, std::string_view text, std::string_view begins);
/// Whether somebody who lives has a file of one's own locked.
bool isLocked(const std::filesystem::path& path);

/// Names of files in a folder that begin and end with texts, sorted.
std::vector<std::filesystem::path> listed(const std::filesystem::path& folder, std::string_view begins,
                                          std::string_view ends);

}  // namespace mellow::files
