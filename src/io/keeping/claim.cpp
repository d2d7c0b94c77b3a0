#include "io/keeping/claim.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <utility>

namespace mellow::io {

Claim::Taken Claim::take(const std::filesystem::path& lock) {
    if (holds() && lock == lock_) return Taken::yes;
    release();
    constexpr mode_t everybodysMask = 0666;
    const int descriptor = ::open(lock.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, everybodysMask);
    if (descriptor < 0) return Taken::cannotTell;
    if (::flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
        ::close(descriptor);
        return Taken::byAnother;
    }
    // Whoever held it before may have removed the file after it was opened here.
    struct stat held {};
    struct stat named {};
    if (::fstat(descriptor, &held) != 0 || ::stat(lock.c_str(), &named) != 0 || held.st_ino != named.st_ino) {
        ::close(descriptor);
        return take(lock);
    }
    (void)::ftruncate(descriptor, 0);
    descriptor_ = descriptor;
    lock_ = lock;
    return Taken::yes;
}

void Claim::release() {
    if (!holds()) return;
    ::unlink(lock_.c_str());
    ::close(std::exchange(descriptor_, -1));
}

void Claim::demand(const std::filesystem::path& lock) {
    const int descriptor = ::open(lock.c_str(), O_WRONLY | O_CLOEXEC);
    if (descriptor < 0) return;
    (void)!::write(descriptor, "demanded\n", 9);
    ::close(descriptor);
}

bool Claim::isDemanded() const {
    struct stat status {};
    return holds() && ::fstat(descriptor_, &status) == 0 && status.st_size > 0;
}

}  // namespace mellow::io
