#include "app/live/end_signals.h"

#include <pthread.h>
#include <sys/signalfd.h>
#include <unistd.h>

#include <QCoreApplication>
#include <csignal>

namespace mellow::app {

namespace {

sigset_t endSignals() {
    sigset_t ends;
    sigemptyset(&ends);
    for (const int each : {SIGINT, SIGTERM, SIGHUP}) sigaddset(&ends, each);
    return ends;
}

}  // namespace

void EndSignals::hold() {
    const sigset_t ends = endSignals();
    pthread_sigmask(SIG_BLOCK, &ends, nullptr);
}

EndSignals::EndSignals() {
    hold();
    const sigset_t ends = endSignals();
    descriptor_ = signalfd(-1, &ends, SFD_CLOEXEC | SFD_NONBLOCK);
    if (descriptor_ < 0) return;
    notifier_ = std::make_unique<QSocketNotifier>(descriptor_, QSocketNotifier::Read);
    connect(notifier_.get(), &QSocketNotifier::activated, this, [this] {
        signalfd_siginfo info{};
        // Not quit(), which would close the window first, and that asks.
        while (::read(descriptor_, &info, sizeof(info)) > 0) QCoreApplication::exit(0);
    });
}

EndSignals::~EndSignals() {
    notifier_.reset();
    if (descriptor_ >= 0) ::close(descriptor_);
}

}  // namespace mellow::app
