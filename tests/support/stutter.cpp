// A slow machine, for programs that know nothing of it. Loaded before everything else (LD_PRELOAD), it holds
// up the main thread of each test and of the program where it waits for something to do: mostly not, now and
// then a moment, seldom for up to MELLOW_STUTTER milliseconds (800). What a test takes for settled and is not
// yet, it finds. Other threads go on, so that the playing does.

// Hardened, the C library's headers would define these functions themselves.
#undef _FORTIFY_SOURCE

#include <dlfcn.h>
#include <poll.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <chrono>
#include <cstdlib>
#include <random>
#include <string>
#include <thread>

namespace {

std::string programName() {
    std::string path(4096, '\0');
    const auto length = ::readlink("/proc/self/exe", path.data(), path.size());
    path.resize(length > 0 ? static_cast<std::size_t>(length) : 0);
    return path.substr(path.rfind('/') + 1);
}

bool isOurs() {
    static const bool ours = programName().starts_with("test-") || programName().starts_with("mellow-lever");
    return ours;
}

int longest() {
    static const char* asked = std::getenv("MELLOW_STUTTER");
    static const int milliseconds = asked != nullptr ? std::atoi(asked) : 800;
    return milliseconds;
}

void stutter() {
    constexpr int aMoment = 30;  // ms
    const bool isMain = ::syscall(SYS_gettid) == ::getpid();
    if (!isMain || !isOurs() || longest() <= 0) return;
    static std::mt19937 chance{std::random_device{}()};
    const auto below = [](int limit) { return std::uniform_int_distribution(0, limit - 1)(chance); };
    const int draw = below(100);
    if (draw < 75) return;
    std::this_thread::sleep_for(std::chrono::milliseconds(below(draw < 95 ? aMoment : longest())));
}

template<class Function>
Function next(const char* name) {
    return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

}  // namespace

extern "C" int poll(pollfd* what, nfds_t count, int timeout) {
    static const auto real = next<decltype(&::poll)>("poll");
    stutter();
    return real(what, count, timeout);
}

extern "C" int ppoll(pollfd* what, nfds_t count, const timespec* timeout, const sigset_t* mask) {
    static const auto real = next<decltype(&::ppoll)>("ppoll");
    stutter();
    return real(what, count, timeout, mask);
}
