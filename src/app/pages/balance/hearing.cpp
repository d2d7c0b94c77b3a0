// The travel as a take is played by what plays all takes, into an ensemble in which the instrument is alone,
// so it is heard as everything else is, and stops as takes do.
#include "app/pages/balance/hearing.h"

#include "app/ground/words.h"
#include "app/takes/take_store.h"

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

void Hearing::choose(const std::string& take) {
    if (take == chosen_) return;
    if (isOn()) stop();
    chosen_ = take;
    emit changed();
}

void Hearing::start() {
    if (!balancing_.proposal()) return;
    take_.reset();
    if (const KeptTake* kept = findById(workspace_.document.ensemble().takes, chosen_)) {
        auto take = workspace_.takeFiles.load(*kept);
        if (!take) return workspace_.tell(toQt(take.problem().sentence()) + QLatin1Char('.'));
        take_ = std::move(*take);
    }
    // The disk may have been waited for.
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

/// What is played, and the ensemble in which the instrument is alone.
Result<balance::Sweep> Hearing::played(const Ensemble& ensemble) const {
    if (take_ == nullptr) return balance::sweepOf(ensemble, plan_);
    const auto rig =
        balance::Rig::build(ensemble, plan_.instrument, balance::motionOf(makeSource(SourceKind::velocity)));
    if (!rig) return rig.problem();
    balance::Sweep sweep;
    sweep.ensemble = rig->ensemble();
    sweep.take = *take_;
    return sweep;
}

void Hearing::play(Part part) {
    const auto sweep = played(part == Part::after ? levelled_ : workspace_.document.ensemble());
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
