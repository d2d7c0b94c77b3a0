// Signals are taken by waiting for them, in this thread only, so that no handler runs anywhere; what changed
// by itself is tended to in between.
#include "cli/live_calls.h"

#include <pthread.h>

#include <algorithm>
#include <csignal>
#include <ctime>
#include <ostream>

#include "cli/calls.h"
#include "io/session/session.h"

namespace mellow::cli {

namespace {

/// SIGINT and SIGTERM, held back from every thread that begins later.
sigset_t holdSignals() {
    sigset_t ends;
    sigemptyset(&ends);
    sigaddset(&ends, SIGINT);
    sigaddset(&ends, SIGTERM);
    pthread_sigmask(SIG_BLOCK, &ends, nullptr);
    return ends;
}

io::Session::Options optionsOf(const RunOptions& options) {
    io::Session::Options wanted;
    wanted.jack = options.jack;
    wanted.soundCard = options.soundCard;
    return wanted;
}

void say(std::ostream& out, const io::Session& session) {
    std::string line;
    for (const std::string& phrase : session.status()) line += (line.empty() ? "" : " · ") + phrase;
    out << line << std::endl;
}

bool needsRack(const Ensemble& ensemble) {
    return std::any_of(
        ensemble.instruments.begin(), ensemble.instruments.end(),
        [](const Instrument& instrument) { return instrument.output.port == io::practiceRackPort; });
}

void forget(io::Session& session) {
    session.watch([](const io::Happening&) {}, [](const io::OscHappening&) {});
    session.drainTap([](const io::Tap::Seen&) {});
}

/// Waits for one of the signals, a while at most. True when one came.
bool ended(const sigset_t& ends, long milliseconds) {
    const timespec wait{milliseconds / 1000, milliseconds % 1000 * 1000000};
    return sigtimedwait(&ends, nullptr, &wait) > 0;
}

}  // namespace

int runLive(const RunOptions& options, std::ostream& out, std::ostream& err) {
    constexpr long tendEvery = 200;     // ms
    constexpr long silenceTakes = 100;  // ms, some periods of any clock
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const sigset_t ends = holdSignals();
    io::Session session(optionsOf(options));
    session.play(*ensemble);
    session.start();
    if (needsRack(*ensemble)) session.openRack();
    session.tend();
    say(out, session);
    while (!ended(ends, tendEvery)) {
        forget(session);
        if (session.tend()) say(out, session);
    }
    session.silenceAll();
    (void)ended(ends, silenceTakes);
    return clear;
}

int runPorts(const RunOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    io::Session session(optionsOf(options));
    session.play(*ensemble);
    session.start();
    out << session.status().front() << '\n';
    for (const io::PortState& port : session.present()) {
        out << (port.input ? "in  " : "out ") << (port.connected ? "connected " : "waiting   ") << port.name
            << '\n';
    }
    out.flush();
    return clear;
}

}  // namespace mellow::cli
