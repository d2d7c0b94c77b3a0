#include "app/pages/gear/walk_through.h"

#include <algorithm>

#include "app/ground/words.h"
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
    connect(&live_, &Live::cameIn, this, &WalkThrough::hear);
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
    if (!isOn() || happening.played) return;
    const Controller* controller = findById(document_.ensemble().controllers, controller_);
    if (controller == nullptr) return stop();
    const std::string& port = live_.readings().portName(happening.port);
    if (controller->port != anyPort && controller->port != port) return;
    const midi::Bytes bytes = happening.message.bytes();
    // A key is no control of a profile unless nothing else is meant by it, which a walk cannot know; but pads
    // speak on the drums' channel, where nobody plays keys. One strike is one pad.
    constexpr int channelOfPads = 9;
    if (midi::isNoteOn(bytes) && midi::channelOf(bytes) == channelOfPads) return notePad(bytes[1]);
    if (midi::isNoteOn(bytes) || midi::isNoteOff(bytes)) return;
    learner_.hear(port, happening.time, bytes);
}

void WalkThrough::notePad(int key) {
    Message message;
    message.kind = MessageKind::note;
    message.number = key;
    write(message, {}, [&message](const ControllerControl& there) { return there.message == message; });
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
    // Buttons that were pressed one after the other, quicker than each could rest.
    std::vector<const learning::Candidate*> pressed;
    for (const learning::Candidate& each : candidates) {
        const bool isButton =
            each.heard.shape == midi::Shape::momentary || each.heard.shape == midi::Shape::latching;
        if (isButton && each.sure >= learning::Learner::enough) pressed.push_back(&each);
    }
    std::stable_sort(pressed.begin(), pressed.end(), [](const auto* one, const auto* other) {
        return one->heard.first < other->heard.first;
    });
    for (const learning::Candidate* each : pressed) note(*each);
    learner_.begin();
    rest_.invalidate();
    stood_ = 0;
}

void WalkThrough::note(const learning::Candidate& candidate) {
    write(messageOf(candidate.source, controlKinds()),
          restsInTheMiddle(candidate.heard) ? std::optional(Rest::middle) : std::nullopt,
          [&candidate](const ControllerControl& there) {
              return isHeardAs(sourceOf(there.message), candidate.heard);
          });
}

/// Points at the control that isIt() knows, or writes one that sends a message.
void WalkThrough::write(const Message& message, std::optional<Rest> rest,
                        const std::function<bool(const ControllerControl&)>& isIt) {
    document_.edit(
        tr("Walk through a controller"),
        [&](Ensemble& e) {
            Controller* controller = findById(e.controllers, controller_);
            if (controller == nullptr) return;
            auto& controls = controller->controls;
            const auto there = std::find_if(controls.begin(), controls.end(), isIt);
            last_ = static_cast<std::size_t>(there - controls.begin());
            if (there != controls.end()) return;
            ControllerControl control;
            control.message = message;
            control.name = describe::madeName(control.message);
            control.id = newId(controls, control.name);
            control.rest = rest;
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
    const ControllerControl& last = controller->controls[*last_];
    const bool inTheMiddle = last.message.kind == MessageKind::bend || last.rest == Rest::middle;
    const QString said = nameToShow(nameOf(last));
    return tr("%1. %n new so far; move the next one.", nullptr, added_)
        .arg(inTheMiddle ? tr("%1, which rests in the middle").arg(said) : said);
}

}  // namespace mellow::app
