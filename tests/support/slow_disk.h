// A disk that is watched, and can be held up: what the C library offers for files is defined again here, for
// the whole program of the test. Include it in one source of a test.
#pragma once

#include <dirent.h>
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdarg>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace mellow::test {

/// Watches a folder for as long as it lives; made on the window's thread.
class SlowDisk {
 public:
    explicit SlowDisk(std::string folder) : folder_(std::move(folder)) { now_ = this; }
    ~SlowDisk() {
        letGo();
        now_ = nullptr;
    }
    SlowDisk(const SlowDisk&) = delete;
    SlowDisk& operator=(const SlowDisk&) = delete;

    /// From now on nothing in the folder answers, or a call of that name does not; on the window's thread all
    /// do, and are noted.
    void hold(std::string call = {}) {
        const std::lock_guard lock(mutex_);
        held_ = std::move(call);
        isHeld_ = true;
    }
    void letGo() {
        const std::lock_guard lock(mutex_);
        isHeld_ = false;
        freed_.notify_all();
    }
    /// How many calls wait, or waited.
    [[nodiscard]] int waited() const { return waited_; }
    /// What the window's thread did with files of the folder.
    [[nodiscard]] std::vector<std::string> byWindow() {
        const std::lock_guard lock(mutex_);
        return byWindow_;
    }

    static void use(const char* what, const std::string& path) {
        SlowDisk* disk = now_;
        if (disk != nullptr && path.starts_with(disk->folder_)) disk->used(what, path);
    }
    static void use(const char* what, int descriptor) {
        if (now_ == nullptr) return;
        std::array<char, 4096> path{};
        const std::string link = "/proc/self/fd/" + std::to_string(descriptor);
        const auto length = ::readlink(link.c_str(), path.data(), path.size());
        if (length > 0) use(what, std::string(path.data(), static_cast<std::size_t>(length)));
    }

 private:
    void used(const char* what, const std::string& path) {
        std::unique_lock lock(mutex_);
        if (std::this_thread::get_id() == window_) return byWindow_.push_back(what + (" " + path));
        if (!isHeld_ || (!held_.empty() && held_ != what)) return;
        ++waited_;
        freed_.wait_for(lock, std::chrono::seconds(60), [this] { return !isHeld_; });
    }

    static inline std::atomic<SlowDisk*> now_ = nullptr;
    std::string folder_;
    std::thread::id window_ = std::this_thread::get_id();
    std::mutex mutex_;
    std::condition_variable freed_;
    bool isHeld_ = false;
    std::string held_;
    std::atomic<int> waited_ = 0;
    std::vector<std::string> byWindow_;
};

template<class Function>
Function* real(const char* name) {
    return reinterpret_cast<Function*>(::dlsym(RTLD_NEXT, name));
}

}  // namespace mellow::test

extern "C" {

inline int openedAs(const char* name, const char* path, int flags, mode_t mode) {
    mellow::test::SlowDisk::use("open", path);
    return mellow::test::real<int(const char*, int, mode_t)>(name)(path, flags, mode);
}

// NOLINTBEGIN(cert-dcl50-cpp): as the C library has them.
int open(const char* path, int flags, ...) {
    va_list rest;
    va_start(rest, flags);
    const mode_t mode = (flags & (O_CREAT | O_TMPFILE)) != 0 ? va_arg(rest, mode_t) : 0;
    va_end(rest);
    return openedAs("open", path, flags, mode);
}

int open64(const char* path, int flags, ...) {
    va_list rest;
    va_start(rest, flags);
    const mode_t mode = (flags & (O_CREAT | O_TMPFILE)) != 0 ? va_arg(rest, mode_t) : 0;
    va_end(rest);
    return openedAs("open64", path, flags, mode);
}
// NOLINTEND(cert-dcl50-cpp)

int fsync(int descriptor) {
    mellow::test::SlowDisk::use("fsync", descriptor);
    return mellow::test::real<int(int)>("fsync")(descriptor);
}

int fdatasync(int descriptor) {
    mellow::test::SlowDisk::use("fdatasync", descriptor);
    return mellow::test::real<int(int)>("fdatasync")(descriptor);
}

int stat(const char* path, struct stat* status) noexcept {
    mellow::test::SlowDisk::use("stat", path);
    return mellow::test::real<int(const char*, struct stat*)>("stat")(path, status);
}

int rename(const char* from, const char* to) noexcept {
    mellow::test::SlowDisk::use("rename", from);
    return mellow::test::real<int(const char*, const char*)>("rename")(from, to);
}

DIR* opendir(const char* path) {
    mellow::test::SlowDisk::use("opendir", path);
    return mellow::test::real<DIR*(const char*)>("opendir")(path);
}

}  // extern "C"
