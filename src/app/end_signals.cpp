#include "app/end_signals.h"

#include <pthread.h>
#include <sys/signalfd.h>
#include <unistd.h>

#include <csignal>

namespace mellow::app {

EndSignals::EndSignals() {
    sigset_t ends;
    sigemptyset(&ends);
    for (const int each : {SIGINT, SIGTERM, SIGHUP}) sigaddset(&ends, each);
    pthread_sigmask(SIG_BLOCK, &ends, nullptr);
    descriptor_ = signalfd(-1, &ends, SFD_CLOEXEC | SFD_NONBLOCK);
    if (descriptor_ < 0) return;
    notifier_ = std::make_unique<QSocketNotifier>(descriptor_, QSocketNotifier::Read);
    connect(notifier_.get(), &QSocketNotifier::activated, this, [this] {
        signalfd_siginfo info{};
        while (::read(descriptor_, &info, sizeof(info)) > 0) emit asked();
    });
}

EndSignals::~EndSignals() {
    notifier_.reset();
    if (descriptor_ >= 0) ::close(descriptor_);
}

}  // namespace mellow::app
