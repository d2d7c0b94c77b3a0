// Asked of the descriptor, not of the name, so that nothing can be put there in between.
#include "core/files/own.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <system_error>

#include "core/files/files.h"

namespace mellow::files {

namespace {

namespace fs = std::filesystem;

constexpr int never = O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC | O_NOCTTY;
constexpr mode_t forOneself = 0644;

Problem cannot(const fs::path& path, const char* what, int error) {
    return {path.string(), std::string(what) + " (" + std::generic_category().message(error) + ")",
            "check your rights to the folder"};
}

/// Why what a descriptor or name leads to is no plain file of one's own.
std::optional<Problem> strange(const fs::path& path, const struct stat& status) {
    const char* what = S_ISLNK(status.st_mode)        ? "is a link"
                       : S_ISDIR(status.st_mode)      ? "is a folder"
                       : S_ISFIFO(status.st_mode)     ? "is a pipe"
                       : !S_ISREG(status.st_mode)     ? "is no file"
                       : status.st_uid != ::geteuid() ? "belongs to somebody else"
                       : status.st_nlink > 1          ? "has a second name elsewhere"
                                                      : nullptr;
    if (what == nullptr) return std::nullopt;
    return Problem{path.string(), std::string(what) + ", where a file of the program's own would be",
                   "move it away; it was left as it is"};
}

}  // namespace

Result<int> openOwn(const fs::path& path, Own how) {
    const int flags = how == Own::read        ? O_RDONLY
                      : how == Own::write     ? O_WRONLY | O_APPEND
                      : how == Own::readWrite ? O_RDWR | O_APPEND
                                              : O_RDWR | O_APPEND | O_CREAT | O_EXCL;
    const int descriptor = ::open(path.c_str(), flags | never, forOneself);
    if (descriptor < 0) {
        const int error = errno;
        if (auto stranger = strangerAt(path)) return *stranger;
        return cannot(path, how == Own::make ? "cannot be made" : "cannot be opened", error);
    }
    struct stat status {};
    const auto wrong = ::fstat(descriptor, &status) == 0
                           ? strange(path, status)
                           : std::optional(cannot(path, "cannot be opened", errno));
    if (!wrong) return descriptor;
    ::close(descriptor);
    return *wrong;
}

std::optional<Problem> strangerAt(const fs::path& path) {
    struct stat status {};
    if (::lstat(path.c_str(), &status) != 0) return std::nullopt;
    return strange(path, status);
}

std::optional<Problem> strangeFolderAt(const fs::path& path) {
    struct stat status {};
    if (::lstat(path.c_str(), &status) != 0) return std::nullopt;
    const char* what = S_ISLNK(status.st_mode)        ? "is a link"
                       : !S_ISDIR(status.st_mode)     ? "is no folder"
                       : status.st_uid != ::geteuid() ? "belongs to somebody else"
                                                      : nullptr;
    if (what == nullptr) return std::nullopt;
    return Problem{path.string(), std::string(what) + ", where a folder of the program's own would be",
                   "move it away; it was left as it is"};
}

Outcome makeOwnFolder(const fs::path& path) {
    if (auto stranger = strangeFolderAt(path)) return *stranger;
    std::error_code error;
    fs::create_directories(path, error);
    if (error) return cannot(path, "cannot be made", error.value());
    if (auto stranger = strangeFolderAt(path)) return *stranger;
    return Done{};
}

Result<std::optional<std::string>> readOwn(const fs::path& path) {
    const auto descriptor = openOwn(path, Own::read);
    if (!descriptor) {
        struct stat status {};
        const bool isThere = ::lstat(path.c_str(), &status) == 0;
        if (!isThere) return std::optional<std::string>();
        return descriptor.problem();
    }
    constexpr std::size_t largest = std::size_t{512} << 20;
    std::string text;
    char piece[65536];
    // What was read by half must not be taken for the whole: a log would be removed after it.
    std::optional<Problem> wrong;
    while (!wrong) {
        const ssize_t got = ::read(*descriptor, piece, sizeof(piece));
        if (got < 0 && errno == EINTR) continue;
        if (got == 0) break;
        if (got < 0) {
            wrong = cannot(path, "cannot be read", errno);
            continue;
        }
        text.append(piece, static_cast<std::size_t>(got));
        if (text.size() > largest)
            wrong = Problem{path.string(), "is larger than 512 MB", "move it away; it was left as it is"};
    }
    ::close(*descriptor);
    if (wrong) return *wrong;
    return std::optional(std::move(text));
}

bool removeOwn(const fs::path& path, std::string_view begins) {
    const auto descriptor = openOwn(path, Own::read);
    if (!descriptor) return false;
    std::string head(begins.size(), '\0');
    const ssize_t got = ::pread(*descriptor, head.data(), head.size(), 0);
    struct stat opened {};
    struct stat named {};
    // One that was only just made holds nothing yet.
    const bool isIt = got >= 0 && (got == 0 || head == begins) && ::fstat(*descriptor, &opened) == 0 &&
                      ::lstat(path.c_str(), &named) == 0 && opened.st_ino == named.st_ino &&
                      opened.st_dev == named.st_dev;
    ::close(*descriptor);
    return isIt && ::unlink(path.c_str()) == 0;
}

namespace {

/// How a file of one's own begins, up to so many letters; nothing where none is there.
Result<std::optional<std::string>> beginningOf(const fs::path& path, std::size_t letters) {
    const auto descriptor = openOwn(path, Own::read);
    if (!descriptor) {
        struct stat status {};
        if (::lstat(path.c_str(), &status) != 0) return std::optional<std::string>();
        return descriptor.problem();
    }
    std::string head(letters, '\0');
    const ssize_t got = ::pread(*descriptor, head.data(), head.size(), 0);
    ::close(*descriptor);
    if (got < 0) return cannot(path, "cannot be read", errno);
    head.resize(static_cast<std::size_t>(got));
    return std::optional(head);
}

}  // namespace

std::optional<Problem> foreignAt(const fs::path& path, std::string_view begins) {
    const auto was = beginningOf(path, begins.size());
    if (!was) return was.problem();
    if (!*was || (*was)->empty() || **was == begins) return std::nullopt;
    return Problem{path.string(), "is a file of another kind", "move it away; it was left as it is"};
}

Outcome writeOwn(const fs::path& path, std::string_view text, std::string_view begins) {
    if (auto foreign = foreignAt(path, begins)) return *foreign;
    struct stat status {};
    auto file = NewFile::openItself(path, ::lstat(path.c_str(), &status) == 0);
    if (!file) return file.problem();
    file->write({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
    if (const auto finished = file->finish(); !finished) return finished;
    return file->commit();
}

bool isLocked(const fs::path& path) {
    const auto descriptor = openOwn(path, Own::read);
    if (!descriptor) return false;
    const bool locked = ::flock(*descriptor, LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
    ::close(*descriptor);
    return locked;
}

std::vector<fs::path> listed(const fs::path& folder, std::string_view begins, std::string_view ends) {
    std::vector<fs::path> found;
    std::error_code error;
    for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
        const std::string name = at->path().filename().string();
        const bool fits =
            name.size() >= begins.size() + ends.size() && name.starts_with(begins) && name.ends_with(ends);
        if (fits) found.push_back(at->path());
    }
    std::sort(found.begin(), found.end());
    return found;
}

}  // namespace mellow::files
