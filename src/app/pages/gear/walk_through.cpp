#include "app/pages/gear/walk_through.h"

#include "app/words.h"
#include "core/describe/names.h"
#include "core/learning/heard_as.h"
#include "core/model/edit.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr int considerEvery = 60;  // ms
constexpr qint64 atRestAfter = 350;

/// Where a spring has brought it back to: near the middle of seven bits.
bool restsInTheMiddle(const midi::HeardControl& control) {
    constexpr int middle = 64;
    constexpr int near = 3;
    const bool sevenBits = control.key.kind == midi::ControlKey::Kind::control && control.high <= 127;
    return sevenBits && std::abs(control.value - middle) <= near && control.high > middle + near &&
           control.low < middle - near;
}

}  // namespace

WalkThrough::WalkThrough(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {
    connect(&live_, &Live::happened, this, &WalkThrough::hear);
    connect(&considering_, &QTimer::timeout, this, &WalkThrough::consider);
    connect(&document_, &Document::replaced, this, &WalkThrough::stop);
}

void WalkThrough::start(const std::string& controller) {
    controller_ = controller;
    learner_.begin();
    stood_ = 0;
    last_.reset();
    added_ = 0;
    gesture_ = Document::newGesture();
    considering_.start(considerEvery);
    emit changed();
}

void WalkThrough::stop() {
    if (!isOn()) return;
    controller_.clear();
    considering_.stop();
    emit changed();
}

void WalkThrough::hear(const io::Happening& happening) {
    if (!isOn() || happening.out || happening.played) return;
    const Controller* controller = findById(document_.ensemble().controllers, controller_);
    if (controller == nullptr) return stop();
    const std::string& port = live_.portName(happening.port);
    if (controller->port != anyPort && controller->port != port) return;
    // A key is no control of a profile unless nothing else is meant by it, which a walk cannot know.
    if (midi::isNoteOn(happening.message.bytes()) || midi::isNoteOff(happening.message.bytes())) return;
    learner_.hear(port, happening.time, happening.message.bytes());
}

/// What is sure enough is written down once it rests.
void WalkThrough::consider() {
    const auto candidates = learner_.candidates();
    if (candidates.empty() || candidates.front().sure < learning::Learner::enough) return;
    const std::uint32_t stands = candidates.front().heard.count;
    if (std::exchange(stood_, stands) != stands || !rest_.isValid()) {
        rest_.start();
        return;
    }
    if (rest_.elapsed() < atRestAfter) return;
    note(candidates.front());
    learner_.begin();
    rest_.invalidate();
    stood_ = 0;
}

void WalkThrough::note(const learning::Candidate& candidate) {
    document_.edit(
        tr("Walk through a controller"),
        [&](Ensemble& e) {
            Controller* controller = findById(e.controllers, controller_);
            if (controller == nullptr) return;
            auto& controls = controller->controls;
            for (std::size_t i = 0; i < controls.size(); ++i) {
                const Source there = sourceOf(controls[i].message);
                if (!isHeardAs(there, candidate.heard)) continue;
                last_ = i;
                return;
            }
            ControllerControl control;
            control.message = messageOf(candidate.source, controlKinds());
            control.name = describe::madeName(control.message);
            control.id = newId(controls, control.name);
            if (restsInTheMiddle(candidate.heard)) control.rest = Rest::middle;
            last_ = controls.size();
            controls.push_back(std::move(control));
            ++added_;
        },
        gesture_);
    emit changed();
}

QString WalkThrough::says() const {
    if (!isOn()) return {};
    const Controller* controller = findById(document_.ensemble().controllers, controller_);
    if (controller == nullptr) return {};
    const QString name = nameToShow(nameOf(*controller));
    if (!last_ || *last_ >= controller->controls.size())
        return tr("Move each control of “%1” once, and let it rest.").arg(name);
    return tr("%1. %n new so far; move the next one.", nullptr, added_)
        .arg(nameToShow(nameOf(controller->controls[*last_])));
}

}  // namespace mellow::app
