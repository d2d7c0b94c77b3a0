// Hearing the difference: the travel is played as it is, and then as the proposal has it.
#pragma once

#include <QObject>
#include <QPointer>

#include "app/pages/balance/balancing.h"

namespace mellow::app {

class Hearing : public QObject {
    Q_OBJECT

 public:
    Hearing(Workspace& workspace, Balancing& balancing, QObject* parent = nullptr);
    ~Hearing() override;

    void start();
    void stop();
    [[nodiscard]] bool isOn() const { return part_ != Part::none; }
    /// Whether what is heard is levelled.
    [[nodiscard]] bool isAfter() const { return part_ == Part::after; }

 signals:
    void changed();

 private:
    enum class Part { none, before, after };
    void play(Part part);
    void end();

    Workspace& workspace_;
    QPointer<Live> alive_;  ///< a window that goes loses it before its pages
    Balancing& balancing_;
    Part part_ = Part::none;
    Ensemble levelled_;
    balance::SweepPlan plan_;
};

}  // namespace mellow::app
