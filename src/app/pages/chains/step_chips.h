// The trunk's steps as chips below the response, and the way to one more.
#pragma once

#include <QPushButton>
#include <QWidget>
#include <string>
#include <vector>

#include "app/live/live.h"
#include "app/widgets/flow_layout.h"
#include "core/model/ensemble.h"

namespace mellow::app {

class StepChips : public QWidget {
    Q_OBJECT

 public:
    explicit StepChips(QWidget* parent = nullptr);

    /// selected: of the steps; −1: none.
    void showSteps(const Ensemble& ensemble, const Chain& chain, int selected);
    /// A gate or latch says whether it is on.
    void showStates(const Ensemble& ensemble, const Chain& chain, const ChainReading& reading);

 signals:
    void picked(int step);
    /// One more step is wished for; at: where that was said.
    void addAsked(QWidget* at);

 private:
    FlowLayout* row_;
    std::vector<QPushButton*> chips_;
    std::string shown_;  ///< id of the chain
};

}  // namespace mellow::app
