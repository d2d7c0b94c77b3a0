// Changing takes: every change is a new file and one step of the document's undo.
#pragma once

#include <QObject>
#include <vector>

#include "app/takes/take_choice.h"

namespace mellow::app {

class TakeChanging : public QObject {
    Q_OBJECT

 public:
    TakeChanging(Document& document, TakeChoice& choice, TakeStore& store, QObject* parent = nullptr);

    /// Makes edits of lanes of the take in hand, as one step.
    void edit(const QString& text, const std::vector<LaneEdit>& edits);
    /// Another state of it, as one step. False when it cannot be written; that has been told.
    bool change(const QString& text, Take made);
    void setCues(const QString& text, std::vector<TakeMark> cues);
    void rename(const QString& name);
    void remove();
    /// Adds a take to the document and takes it in hand. recorded: when, as ISO 8601.
    bool add(const QString& text, const QString& name, Take take, std::int64_t startUs = 0,
             const QString& recorded = {});

    /// The same two, of which nothing is told. trouble: why not.
    bool addUntold(const QString& text, const QString& name, Take take, const QString& recorded,
                   QString& trouble);
    bool changeUntold(const std::string& id, const QString& text, Take made, QString& trouble);
    /// "Take 3", the first that no take is called.
    [[nodiscard]] QString freeName(const QString& wanted) const;

 private:
    [[nodiscard]] bool mayEdit(QString& trouble) const;
    bool put(const QString& text, KeptTake kept, Take take, QString& trouble);

    Document& document_;
    TakeChoice& choice_;
    TakeStore& store_;
};

}  // namespace mellow::app
