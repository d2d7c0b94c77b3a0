// Edits that are made at the rails of the selected chain: grips that are dragged, numbers that are typed.
#pragma once

#include <QCoreApplication>
#include <optional>

#include "app/acts/workspace.h"
#include "app/pages/chains/rail.h"

namespace mellow::app {

class LeverEdits {
    Q_DECLARE_TR_FUNCTIONS(LeverView)

 public:
    explicit LeverEdits(Workspace& workspace) : workspace_(workspace) {}

    /// The window at the trunk's beginning, which is made where there is none; shares of the travel.
    void moveSource(double low, double high, Gesture gesture);
    /// Raw positions in the target's range; nothing: that end stays as it is written.
    void moveTarget(int branch, std::optional<double> low, std::optional<double> high, Gesture gesture);
    /// What is no value is told. shown: where the other grip is.
    void typeSource(Rail::Grip grip, const QString& typed, const RailContent& shown);
    void typeTarget(int branch, Rail::Grip grip, const QString& typed);

 private:
    Workspace& workspace_;
};

}  // namespace mellow::app
