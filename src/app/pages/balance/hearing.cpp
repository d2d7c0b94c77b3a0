// A take of the sweep is played by what plays all takes, into an ensemble in which the instrument is alone,
// so it is heard as everything else is, and stops as takes do.
#include "app/pages/balance/hearing.h"

namespace mellow::app {

Hearing::Hearing(Workspace& workspace, Balancing& balancing, QObject* parent)
    : QObject(parent), workspace_(workspace), alive_(&workspace.live), balancing_(balancing) {
    connect(&workspace_.live, &Live::takeEnded, this, [this] {
        if (part_ == Part::before)
            play(Part::after);
        else if (part_ == Part::after)
            end();
    });
    // An edit is played at once, and with it whoever else would hear the sweep.
    connect(&workspace_.document, &Document::changed, this, [this] {
        if (isOn()) stop();
    });
    connect(&balancing_, &Balancing::changed, this, [this] {
        if (isOn() && !balancing_.proposal()) stop();
    });
}

Hearing::~Hearing() {
    if (isOn() && alive_) workspace_.live.preview(nullptr);
}

void Hearing::start() {
    if (!balancing_.proposal()) return;
    levelled_ = balancing_.proposal()->ensemble;
    plan_ = balancing_.plan();
    // Few and long enough to be heard one by one.
    constexpr int few = 9;
    constexpr std::int64_t settle = 100'000;
    plan_.positions = few;
    plan_.settle = std::min(plan_.settle, settle);
    if (!balance::isKeys(plan_.motion)) plan_.keys.resize(1);
    play(Part::before);
}

void Hearing::play(Part part) {
    const Ensemble& played = part == Part::after ? levelled_ : workspace_.document.ensemble();
    const auto sweep = balance::sweepOf(played, plan_);
    if (!sweep) return end();
    part_ = part;
    workspace_.live.preview(&sweep->ensemble);
    workspace_.live.startTake(std::make_shared<const Take>(sweep->take));
    emit changed();
}

void Hearing::stop() {
    workspace_.live.stopTake();
    end();
}

void Hearing::end() {
    if (isOn()) workspace_.live.preview(nullptr);
    part_ = Part::none;
    emit changed();
}

}  // namespace mellow::app
