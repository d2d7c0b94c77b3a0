// Everything that can be done to instruments, chains, steps and branches, as edits of the document that leave
// the selection where a person expects it.
#pragma once

#include <QObject>
#include <optional>

#include "app/document/document.h"
#include "app/document/selection.h"

namespace mellow::app {

class ChainActions : public QObject {
    Q_OBJECT

 public:
    ChainActions(Document& document, Selection& selection, QObject* parent = nullptr);

    void addInstrument();
    void addChain();
    /// Where a step goes that is added.
    enum class Into { trunk, branch };
    /// Adds a step behind the selected one of the trunk, or of the selected branch, or at the end there.
    void addStep(const Step& step, Into into = Into::trunk);

    // On what is selected: the step or branch, else the chain, else the instrument; on all that is selected
    // together, as one edit.
    void remove();
    void duplicate();
    void move(int by);
    void toggle();
    /// Low ends become high ends: of the branch, or of all branches of the chain.
    void turnRound();
    /// Chains that move only while their instrument is in hand, or always.
    void turnActive();

    // On the instrument, whatever part of it is selected.
    void removeInstrument();
    void duplicateInstrument();
    void moveInstrument(int by);

 private:
    void edit(const QString& text, const std::function<void(Ensemble&)>& change);
    /// What was removed cannot stay selected: the nearest thing that is left takes its place, and gives it
    /// back when undo or redo brings the thing back.
    void followDocument();

    Document& document_;
    Selection& selection_;
    std::optional<Selected> displaced_;
    Selected inItsPlace_;
};

}  // namespace mellow::app
