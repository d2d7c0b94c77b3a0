// From a recording to a take on the disk, whatever happens: a log grows while one records (io/recording), and
// goes only when a take that was made of it, and a document that names that take, are on the disk. Where the
// take cannot be written the recording stays here, and is tried again and again.
#pragma once

#include <QObject>
#include <QTimer>
#include <filesystem>
#include <optional>
#include <vector>

#include "app/takes/take_changing.h"
#include "app/takes/take_playing.h"

namespace mellow::app {

class TakeLogs : public QObject {
    Q_OBJECT

 public:
    TakeLogs(Document& document, TakeChoice& choice, TakeChanging& changing, TakeStore& store,
             QObject* parent = nullptr);

    struct Recorded {
        Recording recording;
        std::optional<TakePlaying::Over> over;  ///< nothing: a take of its own
        std::int64_t overFrom = 0;
        std::int64_t overTo = 0;
        std::int64_t recordedAt = 0;  ///< ms since 1970
        std::filesystem::path log;
    };
    /// Becomes a take, or goes into the one that it was recorded over; nothing of it is lost while this
    /// lives.
    void keep(Recorded recorded);
    /// Nothing came of it.
    void letGo(const std::filesystem::path& log);

    /// Recordings that a program which is gone left behind become takes. To be called when a document has
    /// been opened, and all unsaved work on it is back, and nothing is recorded.
    void bringBack();
    /// A state of the document is on the disk: logs of recordings whose takes it names are not needed any
    /// more.
    void forget(const Ensemble& onDisk);
    /// The same of all recordings that are takes: a person does not want what was not saved. Their files stay
    /// where they are.
    void drop();
    /// Another document: the logs stay where they are, for when the one before is opened again.
    void leave();

 private:
    void tryAgain();
    [[nodiscard]] bool write(const Recorded& next, QString& trouble);
    [[nodiscard]] bool readBack(const std::filesystem::path& log);

    Document& document_;
    TakeChoice& choice_;
    TakeChanging& changing_;
    TakeStore& store_;
    std::vector<Recorded> unwritten_;
    bool writing_ = false;  ///< the first of them; a disk that takes its time lets the window go on meanwhile
    QTimer again_;
    /// Logs by the files of the takes that were made of them.
    std::vector<std::pair<std::string, std::filesystem::path>> done_;
};

/// A moment as takes name it, ISO 8601. milliseconds: since 1970.
QString asIso(std::int64_t milliseconds);

}  // namespace mellow::app
