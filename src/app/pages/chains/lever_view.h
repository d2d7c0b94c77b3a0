// The lever view: the selected chain as one picture from left to right.
//
// The source's rail, the response picture with the trunk's steps below it, and a rail for each target, with
// threads from the response to every tab. All of it is handled directly; what is handled becomes an edit of
// the document, and the picture follows the document.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>
#include <utility>
#include <vector>

#include "app/acts/findings_view.h"
#include "app/acts/workspace.h"
#include "app/pages/chains/empty_lever.h"
#include "app/pages/chains/lever_edits.h"
#include "app/pages/chains/rail.h"
#include "app/pages/chains/response_picture.h"
#include "app/pages/chains/step_chips.h"
#include "app/pages/chains/threads.h"
#include "app/widgets/few_lines.h"
#include "app/widgets/moving_text.h"

namespace mellow::app {

class LeverView : public QWidget {
    Q_OBJECT

 public:
    explicit LeverView(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] Rail& sourceRail() { return *source_; }
    [[nodiscard]] const std::vector<Rail*>& targetRails() const { return targets_; }
    [[nodiscard]] ResponsePicture& picture() { return *picture_; }

    /// Opens the choice of steps at a widget, for the trunk of what is selected.
    void pickStep(QWidget* at);
    /// Opens the choice of a target for the selected chain, or for a new one.
    void addTarget(QWidget* at);
    /// Opens the parameter of the selected target, to be changed.
    void showSelectedParameter();
    /// The rail of the target that is selected, or nullptr.
    [[nodiscard]] QWidget* chosenRail() const;
    /// While held, the state before the newest edit is shown and played.
    void showBefore(bool held);

 signals:
    /// Somebody wants to see what checks say of the chain, which may be below what is seen.
    void findingsAsked(QWidget* findings);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    bool event(QEvent* event) override;

 private:
    void rebuild();
    void followEdit(const Change& change);
    void refresh();
    void followThreads();
    void showFindings();
    void shareWidth();
    void showSentence();
    void keepHeight();
    void showRibbon();
    void typeIntoStep();
    void touch(int branch);
    void pickBranch(int branch);
    void showQuiet();
    void shareNarrowness();
    [[nodiscard]] const Ensemble& shownEnsemble() const;
    void rebuildTargets(const Chain& chain);
    void showTarget(std::size_t index, const Instrument* instrument, const Chain& chain,
                    const ChainReading& reading);
    void select(Part part, int index);

    Workspace& workspace_;
    Document& document_;
    Selection& selection_;
    Live& live_;
    FewLines* sentence_;
    FewLines* quiet_;      ///< why the chain does not speak, or cannot
    QPushButton* ribbon_;  ///< of a chain that follows what is touched
    FindingsView* findings_;
    int openHeight_ = 0;                    ///< of rails and response, while checks say nothing
    std::tuple<bool, bool, double> state_;  ///< the chain runs, and has spoken, and where a control waits
    QWidget* body_;
    EmptyLever* empty_;
    Rail* source_;
    ResponsePicture* picture_;
    QLabel* figuresTitle_;
    MovingText* figures_;
    StepChips* chips_;
    QWidget* targetArea_;
    LeverEdits edits_;
    std::vector<Rail*> targets_;
    Threads threads_;
    std::shared_ptr<const Ensemble> before_;   ///< shown and played instead of the document
    std::shared_ptr<const Ensemble> earlier_;  ///< of which faint lines are shown
};

}  // namespace mellow::app
