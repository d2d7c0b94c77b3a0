// The open document: an ensemble, its undo stack, and the file it belongs to.
//
// The window changes the ensemble in one way only: edit(), which makes one command on the undo stack out of a
// function that changes a copy. A command holds the ensemble before and after, whole; ensembles are small,
// and undo is then complete by construction.
#pragma once

#include <QObject>
#include <QUndoStack>
#include <functional>
#include <memory>

#include "core/checks/check.h"
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
    [[nodiscard]] const Findings& findings() const { return findings_; }
    QUndoStack& undoStack() { return stack_; }
    [[nodiscard]] bool isModified() const { return !stack_.isClean(); }
    /// The file's path, or empty when it was never saved.
    [[nodiscard]] const QString& path() const { return path_; }

    /// Changes the ensemble as one undo step. Nothing happens when `change` changes nothing.
    void edit(const QString& text, const std::function<void(Ensemble&)>& change, Gesture gesture = 0);
    static Gesture newGesture();

    /// Replaces the document, forgetting undo. path: where it is saved, empty for nowhere yet.
    void replace(Ensemble ensemble, const QString& path);
    Outcome open(const QString& path);
    Outcome save(const QString& path);

 signals:
    void changed();
    /// Another document is open now; comes before changed().
    void replaced();
    /// Another document is open now, or this one has another path or saved state.
    void stateChanged();

 private:
    friend class EditCommand;
    void set(std::shared_ptr<const Ensemble> ensemble);

    std::shared_ptr<const Ensemble> ensemble_;
    Findings findings_;
    QUndoStack stack_;
    QString path_;
};

}  // namespace mellow::app
