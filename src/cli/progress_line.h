// How far a long call is, for a person who waits.
#pragma once

#include <unistd.h>

#include <ostream>

namespace mellow::cli {

/// How far something is, on a line that is written over; only where a person looks.
class ProgressLine {
 public:
    explicit ProgressLine(std::ostream& err) : err_(err), seen_(isatty(STDERR_FILENO) == 1) {}
    ~ProgressLine() {
        if (shown_ >= 0) err_ << '\n';
    }
    ProgressLine(const ProgressLine&) = delete;
    ProgressLine& operator=(const ProgressLine&) = delete;
    void show(double done) {
        const int percent = static_cast<int>(done * 100);
        if (!seen_ || percent == shown_) return;
        shown_ = percent;
        err_ << '\r' << percent << " %" << std::flush;
    }

 private:
    std::ostream& err_;
    bool seen_;
    int shown_ = -1;
};

}  // namespace mellow::cli
