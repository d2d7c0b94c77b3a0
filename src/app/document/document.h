// The open document: an ensemble, its undo stack, and the file it belongs to.
//
// The window changes the ensemble in one way only: edit(), which makes one command on the undo stack out of a
// function that changes a copy. A command holds the ensemble before and after, whole; copies share what they
// have in common, and undo is then complete by construction.
//
// An edit is heard and painted first. What checks say of it follows a moment later, worked out from what
// changed, and comes with a signal of its own.
#pragma once

#include <QObject>
#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <memory>

#include "core/checks/checker.h"
#include "core/files/files.h"
#include "core/model/change.h"
#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::app {

/// Edits that belong to one movement of the hand share a gesture and become one undo step. 0: none.
using Gesture = int;

class Document : public QObject {
    Q_OBJECT

 public:
    explicit Document(QObject* parent = nullptr);

    [[nodiscard]] const Ensemble& ensemble() const { return *ensemble_; }
    /// It as it is now, to be kept.
    [[nodiscard]] const std::shared_ptr<const Ensemble>& shared() const { return ensemble_; }
    /// As it was before the newest step that undo would take back; nullptr where there is none.
    [[nodiscard]] std::shared_ptr<const Ensemble> before() const;
    /// Calls each(const Ensemble&) for the ensemble as it is, and as undo and redo can make it.
    void forEachState(const std::function<void(const Ensemble&)>& each) const;
    /// What checks say of the ensemble as it is now; looks if nobody has looked since the last edit, so ask
    /// once it is on screen: on findingsChanged().
    [[nodiscard]] const FindingRefs& findings() const;
    QUndoStack& undoStack() { return stack_; }
    /// Whether the ensemble is another than the one that was opened or saved; what was only sent changes
    /// nothing.
    [[nodiscard]] bool isModified() const { return !stack_.isClean() && ensemble_ != saved_; }
    /// The file's path, or empty when it was never saved.
    [[nodiscard]] const QString& path() const { return path_; }
    /// True where only looking is allowed, since another window has the document. Edits do nothing then.
    [[nodiscard]] bool isReadOnly() const { return readOnly_; }
    void setReadOnly(bool readOnly);
    /// True when a file, as it is on the disk now, is another than the one that was opened or saved last.
    [[nodiscard]] bool isChanged(const std::optional<files::FileStamp>& now) const;
    /// The same of the document's own, which is looked at before it is saved; may wait for the disk.
    [[nodiscard]] bool isChangedOnDisk() const;
    /// From now on the file as it is counts as the one that was opened.
    void acceptDisk();

    /// Makes an edit that cures something.
    void mend(const Mend& mend);
    /// Changes the ensemble as one undo step. Nothing happens when `change` changes nothing.
    void edit(const QString& text, const std::function<void(Ensemble&)>& change, Gesture gesture = 0);
    /// The same for a change that takes long: it is made aside, and must own all that it needs. False when a
    /// person left it, and then nothing has changed.
    bool editAside(const QString& text, const QString& saying, const std::function<void(Ensemble&)>& change);
    static Gesture newGesture();

    /// Replaces the document, forgetting undo. path: where it is saved, empty for nowhere yet.
    void replace(Ensemble ensemble, const QString& path);
    /// The document in a file. Error: it cannot be read, or is none.
    static Result<Ensemble> read(const QString& path);
    Outcome open(const QString& path);
    Outcome save(const QString& path);

 signals:
    void changed(const mellow::Change& change);
    /// What findings() says may be other than before; comes after changed(), when that has been painted.
    void findingsChanged();
    /// Another document is open now; comes before changed().
    void replaced();
    /// Another document is open now, or this one has another path or saved state.
    void stateChanged();
    /// Something was to be edited that may only be looked at.
    void editRefused();

 private:
    friend class EditCommand;
    void push(const QString& text, std::shared_ptr<const Ensemble> after, Gesture gesture);
    void set(std::shared_ptr<const Ensemble> ensemble, bool another = false);

    std::shared_ptr<const Ensemble> ensemble_;
    std::shared_ptr<const Ensemble> saved_;  ///< as it was when it was opened or saved last
    mutable Checker checker_;
    mutable std::shared_ptr<const Ensemble> checked_;  ///< the ensemble that findings_ speaks of
    mutable const FindingRefs* findings_ = nullptr;
    QTimer settle_;
    QUndoStack stack_;
    QString path_;
    bool readOnly_ = false;
    std::optional<files::FileStamp> stamp_;  ///< of the file when it was opened or saved last
};

}  // namespace mellow::app
