// Measuring through audio inputs, for a worker that waits: playing and recording belong to the window's
// thread, and what is recorded is measured on the worker's.
#pragma once

#include <QObject>
#include <QPointer>
#include <QTimer>
#include <functional>
#include <memory>
#include <optional>

#include "app/live/live.h"
#include "io/balance/jack_measuring.h"
#include "io/sound/level_meter.h"

namespace mellow::app {

class InputMeasuring : public QObject {
    Q_OBJECT

 public:
    explicit InputMeasuring(Live& live, QObject* parent = nullptr);
    ~InputMeasuring() override;

    /// Outputs of other programs, by their full names.
    [[nodiscard]] std::vector<std::string> sources() const { return live_.ports().inputs().sources(); }
    /// Hears an output, or two, from now on; nothing: no longer. Error: no server, no such output.
    Outcome hear(const std::optional<io::HeardFrom>& from);
    [[nodiscard]] const std::optional<io::HeardFrom>& from() const { return from_; }
    /// The loudest sample of each channel since the last call; 1 is full scale.
    std::array<float, 2> peaks() { return meter_->take(); }

    /// Another thread's: plays, records and measures, and comes back when it is over. progress: asked again
    /// and again with what is done, 0 to 1; false: it is to end.
    Result<balance::Curve> measure(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                   const std::function<bool(double)>& progress);

 private:
    /// What the two threads share of one measurement.
    struct Shared;
    void begin(const std::shared_ptr<Shared>& shared);
    void tend();

    Live& live_;
    QPointer<Live> alive_;  ///< a window that goes loses it before its pages
    std::optional<io::HeardFrom> from_;
    std::shared_ptr<io::LevelMeter> meter_ = std::make_shared<io::LevelMeter>();
    std::unique_ptr<io::JackMeasuring> measuring_;
    std::shared_ptr<Shared> shared_;
    QTimer timer_;
};

}  // namespace mellow::app
