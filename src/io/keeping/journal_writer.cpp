#include "io/keeping/journal_writer.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <string>

#include "core/files/own.h"
#include "core/store/journal.h"

namespace mellow::io {

namespace {

constexpr std::uint64_t alwaysGrowsTo = 1 << 20;  // bytes
constexpr std::uint64_t growsBy = 4;              // times the first record

std::int64_t now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

/// Writes all of a text and has it on the disk. False, and errno, where that cannot be.
bool writeAll(int descriptor, std::string_view text) {
    while (!text.empty()) {
        const ssize_t count = ::write(descriptor, text.data(), text.size());
        if (count < 0 && errno == EINTR) continue;
        if (count <= 0) return false;
        text.remove_prefix(static_cast<std::size_t>(count));
    }
    return ::fdatasync(descriptor) == 0;
}

void removeJournal(const std::filesystem::path& file) {
    if (!file.empty()) files::removeOwn(file, store::journalHead());
}

Problem cannotKeep(const std::filesystem::path& file) {
    return {file.string(), "unsaved work cannot be kept there: " + std::string(std::strerror(errno)),
            "make room, or save"};
}

}  // namespace

JournalWriter::JournalWriter() : thread_([this] { run(); }) {}

JournalWriter::~JournalWriter() {
    {
        const std::lock_guard lock(mutex_);
        stopping_ = true;
    }
    work_.notify_one();
    thread_.join();
    if (descriptor_ >= 0) ::close(descriptor_);
}

void JournalWriter::onProblem(std::function<void(const Problem&)> tell) {
    const std::lock_guard lock(mutex_);
    tell_ = std::move(tell);
}

void JournalWriter::onWritten(std::function<void(std::shared_ptr<const Ensemble>)> tell) {
    const std::lock_guard lock(mutex_);
    tellWritten_ = std::move(tell);
}

void JournalWriter::keep(const std::filesystem::path& file, const std::filesystem::path& elsewhere,
                         std::shared_ptr<const Ensemble> ensemble) {
    {
        const std::lock_guard lock(mutex_);
        wish_ = {file, elsewhere, std::move(ensemble), false};
        if (std::exchange(pending_, true)) return;
    }
    work_.notify_one();
}

void JournalWriter::drop() {
    end(false);
}

void JournalWriter::leave() {
    end(true);
}

/// The file that was named last is this writer's, whether anything was written there yet or not.
void JournalWriter::end(bool leaves) {
    {
        const std::lock_guard lock(mutex_);
        const bool named = wish_.ensemble != nullptr || pending_;
        wish_ = {named ? wish_.file : std::filesystem::path(),
                 named ? wish_.elsewhere : std::filesystem::path(), nullptr, leaves};
        pending_ = true;
        hurry_ = true;
    }
    work_.notify_one();
}

void JournalWriter::flush() {
    std::unique_lock lock(mutex_);
    hurry_ = true;
    work_.notify_one();
    done_.wait(lock, [this] { return !pending_; });
}

void JournalWriter::run() {
    std::unique_lock lock(mutex_);
    while (true) {
        work_.wait(lock, [this] { return pending_ || stopping_; });
        if (!pending_) return;
        work_.wait_for(lock, patience, [this] { return hurry_ || stopping_; });
        const Wish wish = wish_;
        hurry_ = false;
        lock.unlock();
        carryOut(wish);
        lock.lock();
        pending_ = wish_ != wish;
        if (!pending_) done_.notify_all();
    }
}

void JournalWriter::carryOut(const Wish& wish) {
    if (wish.ensemble == nullptr) {
        close(wish.leaves);
        if (!wish.leaves) removeJournal(wish.file);
        if (!wish.leaves) removeJournal(wish.elsewhere);
        return;
    }
    if (!file_.empty() && file_ != wish.file && file_ != wish.elsewhere) close(false);
    if (wish.ensemble == written_) return;
    const Outcome outcome = write(wish);
    std::function<void(const Problem&)> tell;
    std::function<void(std::shared_ptr<const Ensemble>)> tellWritten;
    {
        const std::lock_guard lock(mutex_);
        tell = tell_;
        tellWritten = tellWritten_;
    }
    if (outcome && tellWritten) tellWritten(wish.ensemble);
    if (!outcome && !told_ && tell) tell(outcome.problem());
    told_ = !outcome;
}

/// In the journal that grows; where that cannot be, in a new one in its place; and where that cannot be
/// either, elsewhere. What was written by half would hide all that comes behind it, so it is not gone on
/// with.
Outcome JournalWriter::write(const Wish& wish) {
    const bool grown = size_ > std::max(alwaysGrowsTo, growsBy * wholeSize_);
    const bool goesOn = written_ != nullptr && descriptor_ >= 0 && !grown;
    if (goesOn && appendTo(wish)) return Done{};
    const Outcome outcome = beginAnew(wish.file, wish);
    if (outcome || wish.elsewhere.empty() || wish.elsewhere == wish.file) return outcome;
    return beginAnew(wish.elsewhere, wish) ? Outcome(Done{}) : outcome;
}

Outcome JournalWriter::appendTo(const Wish& wish) {
    const std::string record = store::journalRecord(written_.get(), *wish.ensemble, now());
    if (!writeAll(descriptor_, record)) {
        const Problem problem = cannotKeep(wish.file);
        (void)::ftruncate(descriptor_, static_cast<off_t>(size_));
        return problem;
    }
    size_ += record.size();
    written_ = wish.ensemble;
    return Done{};
}

/// The new file is beside the old one until it is whole.
Outcome JournalWriter::beginAnew(const std::filesystem::path& file, const Wish& wish) {
    if (auto foreign = files::foreignAt(file, store::journalHead())) return *foreign;
    const std::string text = store::journalHead() + store::journalRecord(nullptr, *wish.ensemble, now());
    std::error_code error;
    std::filesystem::create_directories(file.parent_path(), error);
    std::string beside = file.string() + ".XXXXXX";
    const int made = ::mkostemp(beside.data(), O_CLOEXEC | O_APPEND);
    if (made < 0) return cannotKeep(file);
    const bool fine = ::flock(made, LOCK_EX | LOCK_NB) == 0 && writeAll(made, text) &&
                      ::rename(beside.c_str(), file.c_str()) == 0;
    if (!fine) {
        const Problem problem = cannotKeep(file);
        ::unlink(beside.c_str());
        ::close(made);
        return problem;
    }
    // What was begun elsewhere is not needed any more, nor what was begun here once it goes on elsewhere.
    if (!file_.empty() && file_ != file) removeJournal(file_);
    if (descriptor_ >= 0) ::close(descriptor_);
    descriptor_ = made;
    file_ = file;
    written_ = wish.ensemble;
    size_ = wholeSize_ = text.size();
    return Done{};
}

void JournalWriter::close(bool leaves) {
    if (!file_.empty() && !leaves) removeJournal(file_);
    if (descriptor_ >= 0) ::close(descriptor_);
    descriptor_ = -1;
    file_.clear();
    written_.reset();
}

bool isBeingWritten(const std::filesystem::path& journal) {
    return files::isLocked(journal);
}

}  // namespace mellow::io
