// Threads that nobody waits for may outlive everything but this, which is never destroyed.
#include "io/ports/jack_library.h"

#include <condition_variable>
#include <mutex>

namespace mellow::io {

namespace {

struct Leaving {
    std::mutex mutex;
    std::condition_variable over;
    int count = 0;
};

Leaving& leaving() {
    static auto* const all = new Leaving;
    return *all;
}

}  // namespace

void beginToLeaveJack() {
    const std::lock_guard lock(leaving().mutex);
    ++leaving().count;
}

void haveLeftJack() {
    const std::lock_guard lock(leaving().mutex);
    if (--leaving().count == 0) leaving().over.notify_all();
}

void awaitLeavingJack() {
    std::unique_lock lock(leaving().mutex);
    leaving().over.wait(lock, [] { return leaving().count == 0; });
}

bool isLeavingJack() {
    const std::lock_guard lock(leaving().mutex);
    return leaving().count > 0;
}

}  // namespace mellow::io
