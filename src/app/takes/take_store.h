// Where the document's takes are on the disk, and what becomes of their files.
//
// Takes of a document that has a file lie in its folder of takes; those of one that was never saved wait in
// the folder of the settings, and go along when it is saved. A file is written once. When a document is
// saved, files that neither it, nor its earlier versions, nor anything that undo leads to, names any more go
// to the wastebasket.
#pragma once

#include <QObject>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>

#include "app/document/beside.h"
#include "app/document/document.h"
#include "core/takes/take_folder.h"

namespace mellow::app {

class TakeStore : public QObject, public Beside {
    Q_OBJECT

 public:
    explicit TakeStore(Document& document, QObject* parent = nullptr);

    /// What was played. Error: its file is not there, or cannot be read. Where the disk was waited for,
    /// others may have asked meanwhile, and loadedLate() follows.
    Result<std::shared_ptr<const Take>> load(const KeptTake& kept);
    /// Why a take that could be read may not be what was played; empty: nothing speaks against it.
    [[nodiscard]] QString doubtsAbout(const KeptTake& kept) const;
    /// Writes a take's file. Gives how the document is to name it; nothing there has changed yet.
    Result<KeptTake> keep(const KeptTake& kept, Take take);
    /// The folder in which takes of the document are now.
    [[nodiscard]] std::filesystem::path folder() const;
    /// The folder of takes of documents that were never saved.
    static std::filesystem::path waitingFolder();
    /// Puts a file there that comes from elsewhere, such as the demo's, unless it is there. False when it
    /// cannot be written.
    static bool bring(const std::string& file, midi::Bytes bytes);
    /// Where the log of a new recording is to be: a name that nothing has.
    [[nodiscard]] std::filesystem::path newLogPath() const;
    /// Logs of recordings that nobody who lives writes any more: the document's, or, of one that was never
    /// saved, those of all such.
    [[nodiscard]] std::vector<std::filesystem::path> logsLeftBehind() const;

    Outcome carryTo(const QString& path) override;
    void clearOut() override;

 signals:
    /// A take is loaded that the disk gave late.
    void loadedLate();

 private:
    Document& document_;
    struct Loaded {
        std::shared_ptr<const Take> take;
        QString doubts;
    };
    static Result<Loaded> read(const std::filesystem::path& folder, const KeptTake& kept);
    std::map<std::string, Loaded> loaded_;  ///< by file and ports
};

}  // namespace mellow::app
