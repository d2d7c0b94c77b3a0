// Writes the journal of a document (core/store/journal.h) while it is edited, on a thread of its own.
//
// Whoever edits hands over what the document is now, which costs a pointer. A little later the thread appends
// the newest state and has it on the disk; a journal that has grown far beyond its document is begun anew. A
// new journal takes its place whole, so that one found there from before is not lost until this one is there.
// While it is being written the file is locked, which tells others that its owner lives.
#pragma once

#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::io {

class JournalWriter {
 public:
    /// How long what was handed over may wait before it is written.
    static constexpr std::chrono::milliseconds patience{300};

    JournalWriter();
    /// Writes what is still to be written.
    ~JournalWriter();
    JournalWriter(const JournalWriter&) = delete;
    JournalWriter& operator=(const JournalWriter&) = delete;

    /// tell: called, from the thread, when the journal cannot be written, once until it can again.
    void onProblem(std::function<void(const Problem&)> tell);
    /// written: called, from the thread, when a state of the document is on the disk.
    void onWritten(std::function<void(std::shared_ptr<const Ensemble>)> tell);
    /// The document is this now, and is not saved. file: where its journal is; elsewhere: where it goes while
    /// that cannot be written.
    void keep(const std::filesystem::path& file, const std::filesystem::path& elsewhere,
              std::shared_ptr<const Ensemble> ensemble);
    /// Everything is saved: the journal goes, if it is one of this writer's.
    void drop();
    /// Writes nothing more, and leaves what is there to whoever has the document now.
    void leave();
    /// Returns when all that was handed over has been written, or could not be.
    void flush();

 private:
    struct Wish {
        std::filesystem::path file;
        std::filesystem::path elsewhere;
        std::shared_ptr<const Ensemble> ensemble;  ///< nullptr: no journal
        bool leaves = false;                       ///< and the file stays
        bool operator==(const Wish&) const = default;
    };
    void run();
    void carryOut(const Wish& wish);
    [[nodiscard]] Outcome write(const Wish& wish);
    [[nodiscard]] Outcome beginAnew(const std::filesystem::path& file, const Wish& wish);
    [[nodiscard]] Outcome appendTo(const Wish& wish);
    void close(bool leaves);
    void end(bool leaves);

    std::mutex mutex_;
    std::condition_variable work_;
    std::condition_variable done_;
    Wish wish_;
    bool pending_ = false;
    bool hurry_ = false;
    bool stopping_ = false;
    std::function<void(const Problem&)> tell_;
    std::function<void(std::shared_ptr<const Ensemble>)> tellWritten_;

    // The thread's own.
    std::filesystem::path file_;  ///< the journal that is open; empty: none
    int descriptor_ = -1;
    std::shared_ptr<const Ensemble> written_;
    std::uint64_t size_ = 0;       ///< of what is whole in the file
    std::uint64_t wholeSize_ = 0;  ///< of its first record
    bool told_ = false;
    std::thread thread_;
};

/// True when some living writer has a journal open.
bool isBeingWritten(const std::filesystem::path& journal);

}  // namespace mellow::io
