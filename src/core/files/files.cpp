// POSIX calls, since what has to be right here (a name that is taken in one step, a disk that is full, a link
// that leads nowhere) is what they are about. A descriptor that fails is remembered with its error, and asked
// for at the end.
#include "core/files/files.h"

#include <dirent.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <csignal>
#include <system_error>
#include <utility>

namespace mellow::files {

namespace {

constexpr std::size_t largestFile = std::size_t{512} << 20;

constexpr const char* standardStream = "-";

std::string reason(int error) {
    return std::generic_category().message(error);
}

Problem cannotRead(const std::filesystem::path& path, int error) {
    return inFile(path,
                  {"", "cannot be read (" + reason(error) + ")", "check the name and your rights to it"});
}

Problem notAFile(const std::filesystem::path& path, mode_t mode) {
    const char* what = S_ISDIR(mode) ? "is a folder" : S_ISFIFO(mode) ? "is a pipe" : "is a device";
    return {path.string(), std::string(what) + ", and a file is wanted",
            S_ISDIR(mode) ? "name a file in it" : "name a file, or - for standard input"};
}

Problem cannotWrite(const std::filesystem::path& path, int error) {
    if (path == standardStream)
        return {"standard output", "cannot be written (" + reason(error) + ")",
                "make room, or write elsewhere"};
    return {path.string(), "cannot be saved here (" + reason(error) + ")",
            "nothing was changed on disk; save it in another folder"};
}

/// Where a path leads in the end, so that saving through a link keeps the link, and makes what it names.
std::filesystem::path followed(std::filesystem::path path) {
    constexpr int mostLinks = 40;
    std::error_code error;
    for (int i = 0;
         i < mostLinks && std::filesystem::is_symlink(std::filesystem::symlink_status(path, error)); ++i) {
        const auto next = std::filesystem::read_symlink(path, error);
        if (error) break;
        path = next.is_absolute() ? next : path.parent_path() / next;
    }
    return path;
}

/// What a shell hands over in place of a file: the process may well have to wait for that.
bool isHandedOver(const std::filesystem::path& path) {
    const std::string name = path.string();
    return name == "/dev/stdin" || name.starts_with("/dev/fd/") || name.starts_with("/proc/self/fd/");
}

constexpr std::string_view partBegins = ".mellow-";
constexpr std::string_view partEnds = ".part";

/// Whether the process that a temporary file is named after still runs.
bool isInUse(std::string_view name) {
    name.remove_prefix(partBegins.size());
    pid_t process = 0;
    const auto [end, error] = std::from_chars(name.data(), name.data() + name.size(), process);
    return error == std::errc() && process > 0 && (::kill(process, 0) == 0 || errno != ESRCH);
}

/// Removes what a program that is gone was writing in a folder: it is locked while somebody writes, and named
/// after a process that may yet have to put it in its place.
void clearParts(const std::filesystem::path& folder) {
    DIR* open = ::opendir(folder.empty() ? "." : folder.c_str());
    if (open == nullptr) return;
    while (const dirent* entry = ::readdir(open)) {
        const std::string_view name = entry->d_name;
        if (!name.starts_with(partBegins) || !name.ends_with(partEnds) || isInUse(name)) continue;
        const int descriptor =
            ::openat(::dirfd(open), entry->d_name, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
        if (descriptor < 0) continue;
        struct stat status {};
        const bool isLeft = ::fstat(descriptor, &status) == 0 && S_ISREG(status.st_mode) &&
                            status.st_uid == ::geteuid() && ::flock(descriptor, LOCK_EX | LOCK_NB) == 0;
        if (isLeft) ::unlinkat(::dirfd(open), entry->d_name, 0);
        ::close(descriptor);
    }
    ::closedir(open);
}

mode_t permissionsFor(const std::filesystem::path& path) {
    struct stat status {};
    if (::stat(path.c_str(), &status) == 0) return status.st_mode & 0777;
    const mode_t mask = ::umask(0);
    ::umask(mask);
    return 0666 & ~mask;
}

/// The bytes that can be read from a descriptor; its size is a guess of how many.
Result<std::string> readAll(const std::filesystem::path& path, int descriptor) {
    struct stat status {};
    const bool known = ::fstat(descriptor, &status) == 0 && S_ISREG(status.st_mode);
    std::string bytes;
    if (known) bytes.reserve(std::min(static_cast<std::size_t>(status.st_size), largestFile) + 1);
    constexpr std::size_t most = std::size_t{1} << 20;
    for (std::size_t used = 0;;) {
        const std::size_t room =
            bytes.capacity() > used ? std::min(bytes.capacity() - used, most) : std::size_t{1} << 16;
        bytes.resize(used + room);
        const ssize_t got = ::read(descriptor, bytes.data() + used, room);
        if (got < 0 && errno != EINTR) return cannotRead(path, errno);
        used += got > 0 ? static_cast<std::size_t>(got) : 0;
        bytes.resize(used);
        if (got == 0) return bytes;
        if (used > largestFile)
            return Problem{path.string(), "is larger than 512 MB", "choose a smaller file"};
    }
}

}  // namespace

Result<std::string> readTextFile(const std::filesystem::path& path) {
    if (path.empty()) return Problem{"the file", "has no name", "name it, or - for standard input"};
    if (path == standardStream) return readAll(path, STDIN_FILENO);
    if (isHandedOver(path)) {
        const int stream = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
        if (stream < 0) return cannotRead(path, errno);
        auto bytes = readAll(path, stream);
        ::close(stream);
        return bytes;
    }
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
    if (descriptor < 0) return cannotRead(path, errno);
    struct stat status {};
    const bool isFile = ::fstat(descriptor, &status) == 0 && S_ISREG(status.st_mode);
    auto bytes = isFile ? readAll(path, descriptor) : Result<std::string>(notAFile(path, status.st_mode));
    ::close(descriptor);
    return bytes;
}

Problem inFile(const std::filesystem::path& path, Problem problem) {
    const std::string name = path == standardStream ? "standard input" : path.string();
    problem.where = problem.where.empty() ? name : name + ", " + problem.where;
    return problem;
}

Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path) {
    auto text = readTextFile(path);
    if (!text) return text.problem();
    return std::vector<std::uint8_t>(text->begin(), text->end());
}

namespace {

/// isFirst: only where nothing is there. errno says why not.
bool moveInto(const std::filesystem::path& from, const std::filesystem::path& to, bool isFirst) {
    if (!isFirst) return ::rename(from.c_str(), to.c_str()) == 0;
    if (::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) == 0) return true;
    // Not every file system knows how.
    if (errno != EINVAL && errno != ENOSYS) return false;
    return ::link(from.c_str(), to.c_str()) == 0 && ::unlink(from.c_str()) == 0;
}

}  // namespace

Result<NewFile> NewFile::open(const std::filesystem::path& path) {
    if (path.empty()) return Problem{"the file", "has no name", "name the file to write"};
    NewFile file;
    file.path_ = path;
    if (path == standardStream) {
        file.descriptor_ = ::dup(STDOUT_FILENO);
        if (file.descriptor_ < 0) return cannotWrite(path, errno);
        return file;
    }
    file.target_ = followed(path);
    struct stat status {};
    const bool exists = ::stat(file.target_.c_str(), &status) == 0;
    if (exists && S_ISDIR(status.st_mode)) return cannotWrite(path, EISDIR);
    if (exists && !S_ISREG(status.st_mode)) {
        // Not waiting for a reader that may never come.
        file.descriptor_ = ::open(file.target_.c_str(), O_WRONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
        if (file.descriptor_ < 0 && errno == ENXIO)
            return Problem{path.string(), "nobody reads from this pipe", "begin to read it first"};
        if (file.descriptor_ < 0) return cannotWrite(path, errno);
        (void)::fcntl(file.descriptor_, F_SETFL, ::fcntl(file.descriptor_, F_GETFL) & ~O_NONBLOCK);
        return file;
    }
    if (auto made = file.makeTemporary(); !made) return made.problem();
    return file;
}

Result<NewFile> NewFile::openItself(const std::filesystem::path& path, bool isThere) {
    NewFile file;
    file.path_ = path;
    file.target_ = path;
    file.isFirst_ = !isThere;
    if (auto made = file.makeTemporary(); !made) return made.problem();
    return file;
}

Outcome NewFile::makeTemporary() {
    clearParts(target_.parent_path());
    std::string name = (target_.parent_path() / partBegins).string() + std::to_string(::getpid()) +
                       "-XXXXXX" + std::string(partEnds);
    descriptor_ = ::mkostemps(name.data(), static_cast<int>(partEnds.size()), O_CLOEXEC);
    if (descriptor_ < 0) return cannotWrite(path_, errno);
    (void)::flock(descriptor_, LOCK_EX | LOCK_NB);
    temporary_ = name;
    return Done{};
}

NewFile::NewFile(NewFile&& other) noexcept
    : path_(std::move(other.path_)),
      target_(std::move(other.target_)),
      temporary_(std::exchange(other.temporary_, {})),
      descriptor_(std::exchange(other.descriptor_, -1)),
      error_(other.error_),
      isFirst_(other.isFirst_) {}

NewFile::~NewFile() {
    if (descriptor_ >= 0) ::close(descriptor_);
    if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

bool NewFile::write(std::span<const std::uint8_t> bytes) {
    while (error_ == 0 && !bytes.empty()) {
        const ssize_t written = ::write(descriptor_, bytes.data(), bytes.size());
        if (written < 0 && errno != EINTR) error_ = errno;
        if (written > 0) bytes = bytes.subspan(static_cast<std::size_t>(written));
    }
    return error_ == 0;
}

Outcome NewFile::finish() {
    const bool isFile = !temporary_.empty();
    if (error_ == 0 && isFile &&
        (::fchmod(descriptor_, permissionsFor(target_)) != 0 || ::fsync(descriptor_) != 0))
        error_ = errno;
    if (::close(std::exchange(descriptor_, -1)) != 0 && error_ == 0) error_ = errno;
    if (error_ != 0) return cannotWrite(path_, error_);
    return Done{};
}

Outcome NewFile::commit() {
    if (temporary_.empty()) return Done{};
    if (!moveInto(temporary_, target_, isFirst_)) return cannotWrite(path_, errno);
    temporary_.clear();
    return Done{};
}

Outcome writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes) {
    auto file = NewFile::open(path);
    if (!file) return file.problem();
    file->write(bytes);
    if (const auto finished = file->finish(); !finished) return finished;
    return file->commit();
}

Outcome writeFile(const std::filesystem::path& path, std::string_view text) {
    return writeFile(path, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

std::optional<FileStamp> stampOf(const std::filesystem::path& path) {
    struct stat status {};
    if (::stat(path.c_str(), &status) != 0) return std::nullopt;
    constexpr std::int64_t nanoseconds = 1000000000;
    return FileStamp{static_cast<std::uint64_t>(status.st_dev), static_cast<std::uint64_t>(status.st_ino),
                     static_cast<std::int64_t>(status.st_size),
                     static_cast<std::int64_t>(status.st_mtim.tv_sec) * nanoseconds +
                         static_cast<std::int64_t>(status.st_mtim.tv_nsec)};
}

bool isSameFile(const std::filesystem::path& one, const std::filesystem::path& other) {
    std::error_code error;
    return std::filesystem::equivalent(one, other, error) && !error;
}

}  // namespace mellow::files
