// Keeps the document from being lost: its journal while it is not saved, its claim against other windows, and
// an eye on its file.
//
// The journal of a document that has a file is beside that; of one that was never saved, or where nothing can
// be written beside it, in the folder of the settings.
#pragma once

#include <QObject>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

#include "app/document/document.h"
#include "core/store/journal.h"
#include "io/keeping/claim.h"
#include "io/keeping/journal_writer.h"

namespace mellow::app {

class Keeper : public QObject {
    Q_OBJECT

 public:
    explicit Keeper(Document& document, QObject* parent = nullptr);
    ~Keeper() override;

    /// Unsaved work on a document from before, if there is any and nobody is at it now.
    [[nodiscard]] static std::optional<store::Journaled> leftBehind(const QString& path);
    /// Journals of documents that were never saved, whose window is gone, newest first.
    [[nodiscard]] static std::vector<std::filesystem::path> orphans();
    [[nodiscard]] static std::optional<store::Journaled> read(const std::filesystem::path& journal);
    /// The document goes on where an orphan ended, and in its journal.
    void continueIn(const std::filesystem::path& journal) { untitled_ = journal; }
    /// Whatever was left behind of a document is not wanted.
    static void forget(const QString& path);

    using Taken = io::Claim::Taken;
    /// Takes a document for this window.
    Taken claim(const QString& path);
    /// Asks whoever has a document to give it up, and waits a while for that. False when nobody answered.
    bool takeOver(const QString& path);
    void release();
    /// What is not saved is not wanted.
    void drop() { journal_.drop(); }
    /// Has everything on the disk that is to be there.
    void flush() { journal_.flush(); }

 signals:
    /// The journal cannot be written.
    void troubled(const QString& sentence);
    /// Another window has taken the document over; here it may be looked at.
    void takenOver();
    /// A state of the document is on the disk, in its journal.
    void written(const Ensemble& ensemble);
    /// The file is not the one that was opened or saved last.
    void changedOnDisk();

 private:
    void follow();
    void look();
    void lookAtDisk();
    void withClaim(const std::function<void()>& act);
    void findJournals();

    Document& document_;
    io::JournalWriter journal_;
    io::Claim claim_;
    QTimer look_;
    std::filesystem::path untitled_;  ///< where the journal of a document without a file is
    std::filesystem::path
        elsewhere_;                 ///< where that of one with a file goes while its folder cannot be written
    std::filesystem::path titled_;  ///< where it is otherwise; the document's path is
    QString journalOf_;
    bool toldOfDisk_ = false;
    struct DiskLook;
    std::shared_ptr<DiskLook> diskLook_;  ///< at the document's file, on a thread of its own
};

}  // namespace mellow::app
