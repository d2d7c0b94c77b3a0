// POSIX calls, since what has to be right here (a name that is taken in one step, a disk that is full, a link
// that leads nowhere) is what they are about. A descriptor that fails is remembered with its error, and asked
// for at the end.
#include "core/files/files.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
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
    const std::string name = path == standardStream ? "standard input" : path.string();
    return {name, "cannot be read (" + reason(error) + ")", "check the name and your rights to it"};
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
    if (path == standardStream) return readAll(path, STDIN_FILENO);
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (descriptor < 0) return cannotRead(path, errno);
    auto bytes = readAll(path, descriptor);
    ::close(descriptor);
    return bytes;
}

Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path) {
    auto text = readTextFile(path);
    if (!text) return text.problem();
    return std::vector<std::uint8_t>(text->begin(), text->end());
}

Result<NewFile> NewFile::open(const std::filesystem::path& path) {
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
        file.descriptor_ = ::open(file.target_.c_str(), O_WRONLY | O_CLOEXEC);
        if (file.descriptor_ < 0) return cannotWrite(path, errno);
        return file;
    }
    std::string name = file.target_.string() + ".XXXXXX";
    file.descriptor_ = ::mkostemp(name.data(), O_CLOEXEC);
    if (file.descriptor_ < 0) return cannotWrite(path, errno);
    file.temporary_ = name;
    return file;
}

NewFile::NewFile(NewFile&& other) noexcept
    : path_(std::move(other.path_)),
      target_(std::move(other.target_)),
      temporary_(std::exchange(other.temporary_, {})),
      descriptor_(std::exchange(other.descriptor_, -1)),
      error_(other.error_) {}

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
    if (::rename(temporary_.c_str(), target_.c_str()) != 0) return cannotWrite(path_, errno);
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
