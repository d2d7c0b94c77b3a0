#include "app/pages/balance/input_measuring.h"

#include <condition_variable>
#include <mutex>

#include "io/balance/rack_measuring.h"

namespace mellow::app {

struct InputMeasuring::Shared {
    Ensemble ensemble;
    balance::SweepPlan plan;
    std::atomic<bool> left{false};  ///< nobody waits any more
    std::atomic<double> done{0};
    std::mutex mutex;
    std::condition_variable over;
    std::optional<Result<io::RecordedSweep>> made;

    void finish(Result<io::RecordedSweep> what) {
        const std::scoped_lock lock(mutex);
        made = std::move(what);
        over.notify_one();
    }
};

InputMeasuring::InputMeasuring(Live& live, QObject* parent) : QObject(parent), live_(live), alive_(&live) {
    constexpr int often = 30;  // ms
    timer_.setInterval(often);
    connect(&timer_, &QTimer::timeout, this, &InputMeasuring::tend);
}

InputMeasuring::~InputMeasuring() {
    if (alive_.isNull()) {
        if (measuring_) measuring_->abandon();
        return;
    }
    measuring_.reset();
    if (from_) live_.ports().inputs().frames().remove(*meter_);
}

Outcome InputMeasuring::hear(const std::optional<io::HeardFrom>& from) {
    io::JackInputs& inputs = live_.ports().inputs();
    if (from_) inputs.frames().remove(*meter_);
    from_.reset();
    if (!from) return inputs.want(0);
    if (const Outcome there = inputs.want(from->right.empty() ? 1 : 2); !there) return there;
    if (const Outcome left = inputs.connect(0, from->left); !left) return left;
    if (!from->right.empty()) {
        if (const Outcome right = inputs.connect(1, from->right); !right) return right;
    }
    from_ = from;
    inputs.frames().add(meter_);
    return Done{};
}

Result<balance::Curve> InputMeasuring::measure(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                               const std::function<bool(double)>& progress) {
    const auto shared = std::make_shared<Shared>();
    shared->ensemble = ensemble;
    shared->plan = plan;
    QMetaObject::invokeMethod(
        this, [this, shared] { begin(shared); }, Qt::QueuedConnection);
    std::unique_lock lock(shared->mutex);
    while (!shared->made) {
        constexpr std::chrono::milliseconds often(50);
        shared->over.wait_for(lock, often);
        if (!shared->made && !progress(shared->done)) {
            shared->left = true;
            return io::measuringStopped();
        }
    }
    if (!*shared->made) return shared->made->problem();
    const io::RecordedSweep& made = **shared->made;
    auto curve = balance::measureRecorded(made.sound, made.known, {});
    if (!curve) return curve;
    curve->missing = made.missing;
    curve->measured = io::measuredNow();
    return curve;
}

void InputMeasuring::begin(const std::shared_ptr<Shared>& shared) {
    measuring_.reset();
    if (shared->left) return;
    if (!from_)
        return shared->finish(Problem{"JACK", "no output is chosen that could be heard", "choose one"});
    io::MeasuringStage stage{
        live_.ports().inputs(), [this](const Ensemble* ensemble) { live_.preview(ensemble); },
        [this](std::shared_ptr<const Take> take) { live_.startTake(std::move(take)); },
        [this] { live_.stopTake(); }, [this] { return live_.readings().takePosition(); }};
    auto begun = io::JackMeasuring::begin(std::move(stage), shared->ensemble, shared->plan, *from_);
    if (!begun) return shared->finish(begun.problem());
    measuring_ = std::move(*begun);
    shared_ = shared;
    timer_.start();
}

void InputMeasuring::tend() {
    if (!measuring_ || shared_->left) {
        measuring_.reset();
        timer_.stop();
        return;
    }
    shared_->done = measuring_->done();
    auto made = measuring_->tend();
    if (!made) return;
    measuring_.reset();
    timer_.stop();
    shared_->finish(std::move(*made));
}

}  // namespace mellow::app
