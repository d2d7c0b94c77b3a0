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
#include <vector>

#include "app/chains/rail.h"
#include "app/chains/response_picture.h"
#include "app/live.h"
#include "app/selection.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/moving_text.h"

namespace mellow::app {

class LeverView : public QWidget {
    Q_OBJECT

 public:
    LeverView(Document& document, Selection& selection, Live& live, QWidget* parent = nullptr);

    [[nodiscard]] Rail& sourceRail() { return *source_; }
    [[nodiscard]] const std::vector<Rail*>& targetRails() const { return targets_; }
    [[nodiscard]] ResponsePicture& picture() { return *picture_; }

 signals:
    void addStepAsked(const mellow::StepKind* kind);
    void addBranchAsked();
    void addInstrumentAsked();
    void addChainAsked();
    /// Something that was typed could not be read.
    void refused(const QString& sentence);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

 private:
    void buildEmpty();
    void rebuild();
    void showEmpty();
    void refresh();
    void showFindings();
    void rebuildTargets(const Chain& chain);
    void rebuildChips(const Chain& chain);
    void showSource(const Chain& chain, const ChainReading& reading);
    void showTarget(std::size_t index, const Instrument* instrument, const Chain& chain,
                    const ChainReading& reading);
    void moveSource(double low, double high, Gesture gesture);
    void moveTarget(int branch, double low, double high, Gesture gesture);
    void typeSource(Rail::Grip grip, const QString& text);
    void typeTarget(int branch, Rail::Grip grip, const QString& text);
    void select(Part part, int index);

    Document& document_;
    Selection& selection_;
    Live& live_;
    QLabel* sentence_;
    QLabel* findings_;
    QWidget* body_;
    QWidget* empty_;
    QLabel* emptyText_;
    QPushButton* emptyAct_;
    Rail* source_;
    ResponsePicture* picture_;
    QLabel* figuresTitle_;
    MovingText* figures_;
    QWidget* chips_;
    FlowLayout* chipRow_;
    QWidget* targetArea_;
    std::vector<Rail*> targets_;
    std::vector<QPushButton*> stepChips_;
    std::string shownChain_;
};

}  // namespace mellow::app
