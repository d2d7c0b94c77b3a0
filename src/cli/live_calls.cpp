// Signals are taken by waiting for them, in this thread only, so that no handler runs anywhere; what changed
// by itself is tended to in between.
#include "cli/live_calls.h"

#include <pthread.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <ctime>
#include <ostream>
#include <utility>

#include "cli/loading.h"
#include "cli/progress_line.h"
#include "core/files/files.h"
#include "core/takes/take_file.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"
#include "io/bounce/bounce.h"
#include "io/ports/machine_table.h"
#include "io/session/session.h"

namespace mellow::cli {

namespace {

constexpr std::size_t longestName = 200;

/// The signals that mean something to a live call, held back from every thread that begins later.
sigset_t holdSignals() {
    sigset_t signals;
    sigemptyset(&signals);
    for (const int each : {SIGINT, SIGTERM, SIGHUP}) sigaddset(&signals, each);
    pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    return signals;
}

io::Session::Options optionsOf(const RunOptions& options) {
    io::Session::Options wanted;
    wanted.jack = options.jack;
    wanted.soundCard = options.soundCard;
    return wanted;
}

/// The table of this machine, which the window writes.
io::MachineTable tableOfMachine(std::ostream& err) {
    const auto table = io::readMachineTable(io::machineTablePath());
    if (!table) refuse(err, table.problem());
    return table ? *table : io::MachineTable{};
}

/// Says how the ports are whenever that is other than it was said last.
class Report {
 public:
    Report(const io::Session& session, std::ostream& out) : session_(session), out_(out) {}

    void say() {
        std::string text;
        for (const std::string& phrase : session_.status()) text += (text.empty() ? "" : " · ") + phrase;
        text += '\n';
        for (const io::PortState& port : session_.cabling().present()) {
            text += (port.connected ? "connected " : "waiting for ") +
                    std::string(port.connected ? (port.input ? "in  " : "out ") : "") +
                    text::printable(port.name, longestName) +
                    (port.connected ? "\n"
                     : port.input   ? ", to play\n"
                                    : ", to be played\n");
        }
        if (text == said_) return;
        said_ = text;
        out_ << text << std::flush;
    }

 private:
    const io::Session& session_;
    std::ostream& out_;
    std::string said_;
};

bool needsRack(const Ensemble& ensemble) {
    return std::any_of(
        ensemble.instruments.begin(), ensemble.instruments.end(),
        [](const Instrument& instrument) { return instrument.output.port == io::practiceRackPort; });
}

void forget(io::Session& session) {
    session.readings().watch([](const io::Happening&) {}, [](const io::OscHappening&) {});
    session.drainTap([](const io::Tap::Seen&) {});
}

/// The signal that came, or 0 when none did for a while.
int awaitSignal(const sigset_t& signals, long milliseconds) {
    const timespec wait{milliseconds / 1000, milliseconds % 1000 * 1000000};
    return std::max(0, sigtimedwait(&signals, nullptr, &wait));
}

/// The document that is played, which may change on disk while it is.
class PlayedFile {
 public:
    PlayedFile(std::string path, io::Session& session)
        : path_(std::move(path)), session_(session), stamp_(files::stampOf(path_)) {}

    /// True when it is another than at the last look. A file that is being replaced may not be there now.
    bool changed() {
        const auto now = files::stampOf(path_);
        return now && std::exchange(stamp_, now) != now;
    }
    /// Plays it as it is now, or goes on with what was played where it cannot be read.
    void play(std::ostream& out, std::ostream& err) {
        const auto ensemble = loadEnsemble(path_);
        if (!ensemble) {
            refuse(err, ensemble.problem());
            err << "Playing on as before.\n" << std::flush;
            return;
        }
        session_.play(*ensemble);
        if (needsRack(*ensemble)) session_.openRack();
        out << "Reloaded " << path_ << '\n' << std::flush;
    }

 private:
    std::string path_;
    io::Session& session_;
    std::optional<files::FileStamp> stamp_;
};

}  // namespace

int runLive(const RunOptions& options, std::ostream& out, std::ostream& err) {
    constexpr long tendEvery = 200;  // ms
    const sigset_t signals = holdSignals();
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    io::Session session(optionsOf(options));
    for (const Controller& controller : ensemble->controllers) {
        if (io::isOscPort(controller.port)) session.cabling().openOsc(controller.port, options.network);
    }
    session.cabling().openOsc(std::string(io::usualOscPort), options.network);
    const io::MachineTable table = tableOfMachine(err);
    session.cabling().rememberWires(table.wires);
    session.hearRackThrough(options.sound.value_or(table.sound));
    PlayedFile file(options.ensemble, session);
    Report report(session, out);
    session.play(*ensemble);
    session.start();
    if (needsRack(*ensemble)) session.openRack();
    session.tend();
    session.cabling().heed(table);
    report.say();
    for (int signal = 0; signal == 0 || signal == SIGHUP; signal = awaitSignal(signals, tendEvery)) {
        forget(session);
        if (file.changed() || signal == SIGHUP) file.play(out, err);
        if (session.tend()) session.cabling().heed(table);
        report.say();
        for (const std::string& loop : session.readings().loopsCut()) err << loop << ".\n" << std::flush;
    }
    session.finish();
    return clear;
}

namespace {

bool isThere(const io::Wire& wire, const std::vector<std::pair<std::string, io::PortNames>>& others) {
    return std::any_of(others.begin(), others.end(), [&wire](const auto& system) {
        const auto& names = wire.input ? system.second.inputs : system.second.outputs;
        return system.first == wire.by && std::find(names.begin(), names.end(), wire.theirs) != names.end();
    });
}

}  // namespace

/// Looks, and connects nothing: whoever plays there now is not disturbed.
int runPorts(const RunOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    io::Session session(optionsOf(options));
    session.play(*ensemble);
    session.start();
    out << session.status().front() << '\n';
    const io::MachineTable table = tableOfMachine(err);
    const auto others = session.cabling().others();
    for (const io::PortState& port : session.cabling().present()) {
        out << (port.input ? "in  " : "out ") << (port.connected ? "connected " : "waiting   ") << port.name
            << '\n';
        for (const io::Wire& wire : table.wires) {
            if (wire.ours != port.name || wire.input != port.input) continue;
            out << (port.input ? "      from " : "      to ") << text::printable(wire.theirs, longestName)
                << (isThere(wire, others) ? "" : " (not here)") << '\n';
        }
    }
    out.flush();
    return clear;
}

int runBounce(const BounceCallOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto there = checkInstruments(*ensemble, options.ensemble, options.instruments);
    if (!there) return refuse(err, there.problem());
    const auto loaded = loadTake(*ensemble, options.ensemble, options.take);
    if (!loaded) return refuse(err, loaded.problem());
    const auto reading = readTake(loaded->bytes, loaded->kept);
    if (!reading) {
        Problem problem = reading.problem();
        problem.where = loaded->path.string();
        return refuse(err, problem);
    }
    warnOfDoubts(*loaded, reading->warnings, err);
    warnOfSilence(*ensemble, err);
    constexpr double secondsAnHour = 3600;
    const double hours = static_cast<double>(reading->take.length) / 1e6 / secondsAnHour;
    if (hours > options.longestHours) {
        return refuse(err, {loaded->path.string(),
                            "it lasts " + text::plain(std::round(hours * 10) / 10) + " hours, and " +
                                text::plain(options.longestHours) + " are rendered at most",
                            "raise --longest, in hours, or bounce a shorter take"});
    }
    if (io::isLongWav(options.output, reading->take.length, options.sampleRate))
        err << "note: " << options.output << " will be larger than 4 GB, and is an RF64 then.\n";
    io::BounceOptions wanted;
    wanted.instruments = options.instruments;
    wanted.sampleRate = options.sampleRate;
    ProgressLine line(err);
    const io::Progress show = [&line](double done) {
        line.show(done);
        return true;
    };
    if (!options.apart) {
        const auto made = io::bounce(*ensemble, reading->take, options.output, wanted, show);
        return made ? clear : refuse(err, made.problem());
    }
    const auto made = io::bounceApart(*ensemble, reading->take, options.output, wanted, show);
    if (!made) return refuse(err, made.problem());
    for (const std::filesystem::path& path : *made) out << path.string() << '\n';
    return out.flush() ? clear : badInput;
}

}  // namespace mellow::cli
