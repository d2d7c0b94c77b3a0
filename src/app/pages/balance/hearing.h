// Hearing the difference: the travel, or a take, is played as it is, and then as the proposal has it.
#pragma once

#include <QObject>
#include <QPointer>
#include <memory>

#include "app/pages/balance/balancing.h"

namespace mellow::app {

class Hearing : public QObject {
    Q_OBJECT

 public:
    Hearing(Workspace& workspace, Balancing& balancing, QObject* parent = nullptr);
    ~Hearing() override;

    /// What is played: a take, by id; empty: the travel.
    void choose(const std::string& take);
    [[nodiscard]] const std::string& chosen() const { return chosen_; }
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
    [[nodiscard]] Result<balance::Sweep> played(const Ensemble& ensemble) const;

    Workspace& workspace_;
    QPointer<Live> alive_;  ///< a window that goes loses it before its pages
    Balancing& balancing_;
    Part part_ = Part::none;
    Ensemble levelled_;
    balance::SweepPlan plan_;
    std::string chosen_;
    std::shared_ptr<const Take> take_;  ///< nullptr: the travel
};

}  // namespace mellow::app
