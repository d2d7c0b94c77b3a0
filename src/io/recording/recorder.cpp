// A mark in the tap says where, among what comes in, a recording begins and ends, so that it holds exactly
// what came between the two, whatever the threads were doing. What was just played is kept in stretches of
// ten seconds, and the oldest are dropped.
#include "io/recording/recorder.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <limits>

#include "core/files/own.h"

namespace mellow::io {

namespace {

constexpr std::chrono::milliseconds listenEvery(20);
constexpr std::chrono::milliseconds flushEvery(400);
constexpr engine::Time stretchLength = 10'000'000;       // µs
constexpr std::size_t mostKept = std::size_t{96} << 20;  // bytes, of what was just played

/// Whether a message is something that hands do.
bool isGesture(midi::Bytes body) {
    return !body.empty() && (midi::isChannelStatus(body[0]) || body[0] == midi::sysexStart);
}

}  // namespace

Recorder::~Recorder() {
    {
        const std::lock_guard lock(mutex_);
        stopping_ = true;
        ticked_.notify_all();
    }
    if (thread_.joinable()) thread_.join();
}

void Recorder::start() {
    if (!thread_.joinable()) thread_ = std::thread([this] { run(); });
}

void Recorder::run() {
    std::unique_lock lock(mutex_);
    while (!stopping_) {
        drain();
        writeLogs(lock);
        if (!stopping_) ticked_.wait_for(lock, listenEvery);
    }
    drain();
    if (log_ != nullptr) log_->isOver = true;
    writeLogs(lock);
}

void Recorder::drain() {
    player_.tap().drain([this](const Tap::Seen& seen) { hear(seen); });
    if (recording_) now_.follow(latest_, player_.now().tempo());
    marked_.notify_all();
}

void Recorder::hear(const Tap::Seen& seen) {
    latest_ = std::max(latest_, seen.time);
    if (seen.bytes.empty() && seen.address.empty()) return hearMark(seen);
    followTake(seen);
    if (seen.fromTake) return;
    std::string line;
    midi::Bytes body = seen.bytes;
    if (!seen.address.empty()) {
        line = text::oscLine(seen.address, seen.number);
        body = {reinterpret_cast<const std::uint8_t*>(line.data()), line.size()};
    } else if (!isGesture(body)) {
        return;
    }
    keep(seen, body);
    record(seen, body);
}

void Recorder::hearMark(const Tap::Seen& seen) {
    marksSeen_ = std::max(marksSeen_, static_cast<int>(seen.number));
    if (recording_ && marksSeen_ == beginsAt_) {
        now_.begins = now_.ends = seen.time;
        now_.follow(seen.time, seen.position);
        logLine(recording_log::pass(seen.time, seen.position));
    }
    if (recording_ && marksSeen_ == endsAt_) {
        now_.ends = seen.time;
        now_.follow(seen.time, seen.position);
    }
}

bool Recorder::isBetweenMarks() const {
    return recording_ && marksSeen_ >= beginsAt_ && (endsAt_ == 0 || marksSeen_ < endsAt_);
}

/// What a take plays is not recorded, but says when it goes round.
void Recorder::followTake(const Tap::Seen& seen) {
    if (!isBetweenMarks()) return;
    const std::size_t passes = now_.passes.size();
    now_.follow(seen.time, seen.position);
    if (now_.passes.size() > passes) logLine(recording_log::pass(seen.time, seen.position));
}

void Recorder::record(const Tap::Seen& seen, midi::Bytes body) {
    if (!isBetweenMarks()) return;
    now_.ends = seen.time;
    now_.heard.add(seen.time, now_.heard.portNumber(player_.ports().named(seen.port)), body);
    if (log_ == nullptr) return;
    for (; log_->portsNamed < now_.heard.ports.size(); ++log_->portsNamed) {
        logLine(recording_log::port(static_cast<std::uint16_t>(log_->portsNamed),
                                    now_.heard.ports[log_->portsNamed]));
    }
    logLine(recording_log::event(now_.heard, now_.heard.events.back()));
}

void Recorder::keep(const Tap::Seen& seen, midi::Bytes body) {
    const bool isNew = kept_.empty() || kept_.back().events.front().time + stretchLength < seen.time;
    if (isNew) kept_.emplace_back();
    Take& heard = kept_.back();
    heard.add(seen.time, heard.portNumber(player_.ports().named(seen.port)), body);
    if (isNew) forgetOld(seen.time);
}

void Recorder::forgetOld(engine::Time now) {
    std::size_t memory = 0;
    for (const Take& stretch : kept_) memory += stretch.memory();
    while (kept_.size() > 1) {
        const Take& oldest = kept_.front();
        if (memory <= mostKept && oldest.length + keptFor >= now) return;
        memory -= oldest.memory();
        kept_.pop_front();
    }
}

void Recorder::logLine(std::string line) {
    if (log_ != nullptr) log_->waiting += line;
}

/// Writes what waits, without the lock.
void Recorder::writeLogs(std::unique_lock<std::mutex>& lock) {
    for (const auto& log : std::vector(logs_)) {
        const std::string text = std::exchange(log->waiting, {});
        const bool last = log->isOver;
        lock.unlock();
        auto problem = write(*log, text, last);
        lock.lock();
        if (problem) problem_ = std::move(problem);
        if (last) std::erase(logs_, log);
    }
}

/// Makes the file before its first line, and has what was written on the disk now and then.
std::optional<Problem> Recorder::write(Log& log, std::string_view text, bool last) {
    const auto close = [&log] {
        if (log.descriptor >= 0) ::close(std::exchange(log.descriptor, -1));
    };
    if (log.failed) return std::nullopt;
    if (log.descriptor < 0) {
        std::error_code ignored;
        std::filesystem::create_directories(log.path.parent_path(), ignored);
        const auto made = files::openOwn(log.path, files::Own::make);
        log.failed = !made;
        if (!made) {
            Problem problem = made.problem();
            problem.mend =
                "what is played is recorded in memory alone, so end the recording before the program";
            return problem;
        }
        log.descriptor = *made;
        // As long as it is, others know that its owner lives.
        (void)::flock(log.descriptor, LOCK_EX | LOCK_NB);
    }
    while (!text.empty()) {
        const ssize_t written = ::write(log.descriptor, text.data(), text.size());
        if (written < 0 && errno == EINTR) continue;
        if (written < 0) {
            Problem problem{log.path.string(), std::string("cannot be written: ") + std::strerror(errno),
                            "make room; what is played is still recorded in memory"};
            log.failed = true;
            close();
            return problem;
        }
        text.remove_prefix(static_cast<std::size_t>(written));
    }
    const auto time = std::chrono::steady_clock::now();
    if (last || time - log.flushed >= flushEvery) {
        log.flushed = time;
        ::fdatasync(log.descriptor);
    }
    if (last) close();
    return std::nullopt;
}

/// False where the player has no room for it.
bool Recorder::makeMark(int& mark) {
    if (!player_.mark(marksMade_ + 1)) return false;
    mark = ++marksMade_;
    return true;
}

Outcome Recorder::begin(const std::filesystem::path& log) {
    const std::lock_guard lock(mutex_);
    if (!makeMark(beginsAt_))
        return Problem{"The recording", "it cannot begin, since the player does not keep up", "try again"};
    now_ = {};
    if (log_ != nullptr) log_->isOver = true;
    log_.reset();
    problem_.reset();
    if (!log.empty()) {
        log_ = std::make_shared<Log>();
        log_->path = log;
        log_->waiting = recording_log::head();
        logs_.push_back(log_);
    }
    lostBefore_ = player_.tap().lost();
    endsAt_ = 0;
    recording_ = true;
    ticked_.notify_all();
    return Done{};
}

bool Recorder::isRecording() const {
    const std::lock_guard lock(mutex_);
    return recording_;
}

std::pair<engine::Time, std::size_t> Recorder::progress() const {
    const std::lock_guard lock(mutex_);
    if (!recording_) return {0, 0};
    return {std::max(latest_, now_.ends) - now_.begins, now_.heard.events.size()};
}

Recording Recorder::soFar() const {
    const std::lock_guard lock(mutex_);
    Recording recording = now_;
    recording.ends = std::max(recording.ends, latest_);
    return recording;
}

void Recorder::askEnd() {
    const std::lock_guard lock(mutex_);
    if (!recording_ || endsAt_ != 0) return;
    // A mark that is never made is never seen, and then the end is where patience is.
    if (!makeMark(endsAt_)) endsAt_ = std::numeric_limits<int>::max();
    askedEnd_ = std::chrono::steady_clock::now();
    ticked_.notify_all();
}

/// Where no clock runs that would let the mark through it is not waited for for ever.
std::optional<Recording> Recorder::ended(std::chrono::milliseconds patience) {
    constexpr std::chrono::milliseconds longest(1000);
    std::unique_lock lock(mutex_);
    if (!recording_ || endsAt_ == 0) return std::nullopt;
    const bool seen = marked_.wait_for(lock, patience, [&] {
        ticked_.notify_all();
        return marksSeen_ >= endsAt_;
    });
    if (!seen && std::chrono::steady_clock::now() - askedEnd_ < longest) return std::nullopt;
    recording_ = false;
    now_.lost = player_.tap().lost() - lostBefore_;
    if (log_ != nullptr) log_->isOver = true;
    log_.reset();
    ticked_.notify_all();
    return std::exchange(now_, {});
}

Recording Recorder::end() {
    constexpr std::chrono::milliseconds atOnce(100);
    if (!isRecording()) return {};
    askEnd();
    while (true) {
        if (auto recording = ended(atOnce)) return std::move(*recording);
    }
}

Recording Recorder::justPlayed() const {
    const std::lock_guard lock(mutex_);
    Recording recording;
    for (const Take& stretch : kept_) {
        for (const TakeEvent& event : stretch.events) {
            if (event.time + keptFor < latest_) continue;
            const std::uint16_t port = recording.heard.portNumber(stretch.ports[event.port]);
            recording.heard.addFrom(stretch, event, event.time, port);
        }
    }
    if (recording.empty()) return recording;
    recording.begins = recording.heard.events.front().time;
    recording.ends = recording.heard.events.back().time;
    recording.follow(recording.begins, player_.now().tempo());
    return recording;
}

bool Recorder::hasJustPlayed() const {
    const std::lock_guard lock(mutex_);
    return !kept_.empty();
}

std::optional<Problem> Recorder::takeProblem() {
    const std::lock_guard lock(mutex_);
    return std::exchange(problem_, std::nullopt);
}

}  // namespace mellow::io
