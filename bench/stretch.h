// A stretch of time in a window's life: what it cost, and letting it pass.
#pragma once

#include <QEventLoop>
#include <QTimer>
#include <ctime>

namespace mellow::bench {

/// Of all threads of this program, or as another clock has it, ms.
inline double processorTime(clockid_t of = CLOCK_PROCESS_CPUTIME_ID) {
    timespec time{};
    clock_gettime(of, &time);
    return static_cast<double>(time.tv_sec) * 1e3 + static_cast<double>(time.tv_nsec) / 1e6;
}

/// Lets events come for so long.
inline void settle(int milliseconds) {
    QEventLoop loop;
    QTimer::singleShot(milliseconds, Qt::PreciseTimer, &loop, &QEventLoop::quit);
    loop.exec();
}

}  // namespace mellow::bench
