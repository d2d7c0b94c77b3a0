#include "core/store/files.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

namespace mellow::store {

namespace {

constexpr std::size_t largestFile = std::size_t{512} << 20;

/// A file descriptor that closes itself.
class Descriptor {
 public:
    explicit Descriptor(int number) : number_(number) {}
    ~Descriptor() { close(); }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;

    [[nodiscard]] int number() const { return number_; }
    [[nodiscard]] bool isOpen() const { return number_ >= 0; }
    bool close() {
        const int number = number_;
        number_ = -1;
        return number < 0 || ::close(number) == 0;
    }

 private:
    int number_;
};

std::string reason(int error) {
    return std::generic_category().message(error);
}

Problem cannotRead(const std::filesystem::path& path, int error) {
    return {path.string(), "cannot be read (" + reason(error) + ")", "check the name and your rights to it"};
}

Problem cannotWrite(const std::filesystem::path& path, int error) {
    return {path.string(), "cannot be saved here (" + reason(error) + ")",
            "nothing was changed on disk; save it in another folder"};
}

bool writeAll(int descriptor, std::span<const std::uint8_t> bytes) {
    while (!bytes.empty()) {
        const ssize_t written = ::write(descriptor, bytes.data(), bytes.size());
        if (written < 0 && errno == EINTR) continue;
        if (written <= 0) return false;
        bytes = bytes.subspan(static_cast<std::size_t>(written));
    }
    return true;
}

/// Where a path leads in the end, so that saving through a link keeps the link.
std::filesystem::path followed(const std::filesystem::path& path) {
    std::error_code error;
    const auto real = std::filesystem::canonical(path, error);
    return error ? path : real;
}

mode_t permissionsFor(const std::filesystem::path& path) {
    struct stat status {};
    if (::stat(path.c_str(), &status) == 0) return status.st_mode & 0777;
    const mode_t mask = ::umask(0);
    ::umask(mask);
    return 0666 & ~mask;
}

}  // namespace

Result<std::vector<std::uint8_t>> readFile(const std::filesystem::path& path) {
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (!file.isOpen()) return cannotRead(path, errno);
    std::vector<std::uint8_t> bytes;
    std::size_t used = 0;
    for (;;) {
        bytes.resize(used + (std::size_t{1} << 16));
        const ssize_t got = ::read(file.number(), bytes.data() + used, bytes.size() - used);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return cannotRead(path, errno);
        used += static_cast<std::size_t>(got);
        if (got == 0) break;
        if (used > largestFile)
            return Problem{path.string(), "is larger than 512 MB", "choose a smaller file"};
    }
    bytes.resize(used);
    return bytes;
}

Result<std::string> readTextFile(const std::filesystem::path& path) {
    auto bytes = readFile(path);
    if (!bytes) return bytes.problem();
    return std::string(bytes->begin(), bytes->end());
}

Outcome writeFile(const std::filesystem::path& path, std::span<const std::uint8_t> bytes) {
    const std::filesystem::path target = followed(path);
    std::string temporary = target.string() + ".XXXXXX";
    Descriptor file(::mkostemp(temporary.data(), O_CLOEXEC));
    if (!file.isOpen()) return cannotWrite(path, errno);
    const bool written =
        writeAll(file.number(), bytes) && ::fchmod(file.number(), permissionsFor(target)) == 0 &&
        ::fsync(file.number()) == 0 && file.close() && ::rename(temporary.c_str(), target.c_str()) == 0;
    if (written) return Done{};
    const int error = errno;
    ::unlink(temporary.c_str());
    return cannotWrite(path, error);
}

Outcome writeFile(const std::filesystem::path& path, std::string_view text) {
    return writeFile(path, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

}  // namespace mellow::store
