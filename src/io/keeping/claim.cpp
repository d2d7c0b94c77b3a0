#include "io/keeping/claim.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <string>
#include <string_view>
#include <system_error>
#include <utility>

#include "core/files/own.h"

namespace mellow::io {

namespace {

constexpr std::string_view demanded = "demanded\n";

/// A lock holds nothing, or one demand after the other; whatever else is called so is somebody's file.
bool isLock(int descriptor) {
    std::string text(demanded.size(), '\0');
    const ssize_t got = ::pread(descriptor, text.data(), text.size(), 0);
    return got >= 0 && demanded.starts_with(std::string_view(text).substr(0, static_cast<std::size_t>(got)));
}

}  // namespace

Claim::Taken Claim::take(const std::filesystem::path& lock) {
    if (holds() && lock == lock_) return Taken::yes;
    release();
    constexpr int attempts = 20;
    for (int attempt = 0; attempt < attempts; ++attempt) {
        auto opened = files::openOwn(lock, files::Own::make);
        if (!opened) opened = files::openOwn(lock, files::Own::readWrite);
        if (!opened) {
            // Gone between the two looks; or there can be none, or it is not ours.
            std::error_code error;
            if (!files::strangerAt(lock) && !std::filesystem::exists(lock, error) && attempt < 2) continue;
            return Taken::cannotTell;
        }
        const int descriptor = *opened;
        if (!isLock(descriptor)) {
            ::close(descriptor);
            return Taken::cannotTell;
        }
        if (::flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
            ::close(descriptor);
            return Taken::byAnother;
        }
        // Whoever held it before may have removed the file after it was opened here.
        struct stat held {};
        struct stat named {};
        const bool same = ::fstat(descriptor, &held) == 0 && ::lstat(lock.c_str(), &named) == 0 &&
                          held.st_ino == named.st_ino && held.st_dev == named.st_dev;
        if (!same) {
            ::close(descriptor);
            continue;
        }
        (void)::ftruncate(descriptor, 0);
        descriptor_ = descriptor;
        lock_ = lock;
        return Taken::yes;
    }
    return Taken::cannotTell;
}

void Claim::release() {
    if (!holds()) return;
    struct stat held {};
    struct stat named {};
    const bool same = ::fstat(descriptor_, &held) == 0 && ::lstat(lock_.c_str(), &named) == 0 &&
                      held.st_ino == named.st_ino && held.st_dev == named.st_dev;
    if (same) ::unlink(lock_.c_str());
    ::close(std::exchange(descriptor_, -1));
}

void Claim::demand(const std::filesystem::path& lock) {
    const auto descriptor = files::openOwn(lock, files::Own::readWrite);
    if (!descriptor) return;
    if (isLock(*descriptor)) (void)!::write(*descriptor, demanded.data(), demanded.size());
    ::close(*descriptor);
}

bool Claim::isDemanded() const {
    struct stat status {};
    return holds() && ::fstat(descriptor_, &status) == 0 && status.st_size > 0;
}

}  // namespace mellow::io
