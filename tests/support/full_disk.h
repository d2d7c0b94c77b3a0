// A disk that is full for as long as this lives: no file grows beyond so many bytes.
#pragma once

#include <sys/resource.h>

#include <csignal>

namespace mellow::test {

class FullDisk {
 public:
    explicit FullDisk(rlim_t bytes) {
        ::getrlimit(RLIMIT_FSIZE, &before_);
        was_ = std::signal(SIGXFSZ, SIG_IGN);
        rlimit now = before_;
        now.rlim_cur = bytes;
        ::setrlimit(RLIMIT_FSIZE, &now);
    }
    ~FullDisk() {
        ::setrlimit(RLIMIT_FSIZE, &before_);
        std::signal(SIGXFSZ, was_);
    }
    FullDisk(const FullDisk&) = delete;
    FullDisk& operator=(const FullDisk&) = delete;

 private:
    rlimit before_{};
    void (*was_)(int) = nullptr;
};

}  // namespace mellow::test
