// What comes is only noted; a few times a second it is considered, so that a flood costs no more than a
// trickle.
#include "app/acts/learn.h"

#include <algorithm>

#include "app/document/leading.h"
#include "app/ground/words.h"
#include "core/describe/names.h"
#include "core/learning/heard_as.h"
#include "core/model/edit.h"

namespace mellow::app {

namespace {

constexpr int considerEvery = 60;  // ms
constexpr qint64 atRestAfter = 900;

/// The source that is learned at a place, or nullptr where there is none.
template<class EnsembleType>
auto* sourceAt(EnsembleType& ensemble, const Selected& place, Learn::What what) {
    auto* chain = chainOf(ensemble, place);
    using Pointer = decltype(&chain->source);
    if (chain == nullptr) return Pointer{};
    if (what == Learn::What::chooser) return chain->fan.by ? &*chain->fan.by : Pointer{};
    const bool isStep = place.part == Part::step || place.part == Part::branchStep;
    auto* step = isStep ? stepOf(ensemble, place) : nullptr;
    return step != nullptr && step->with ? &*step->with : &chain->source;
}

}  // namespace

Learn::Learn(Document& document, Selection& selection, Live& live, QObject* parent)
    : QObject(parent), document_(document), selection_(selection), live_(live) {
    connect(&live_, &Live::cameIn, this, &Learn::hear);
    connect(&live_, &Live::happenedByOsc, this, &Learn::hearByOsc);
    connect(&selection_, &Selection::changed, this, &Learn::follow);
    connect(&document_, &Document::replaced, this, &Learn::stop);
    connect(&considering_, &QTimer::timeout, this, &Learn::consider);
}

void Learn::start(What what) {
    isOn_ = true;
    what_ = what;
    begin();
    considering_.start(considerEvery);
    live_.ports().learnOsc(true);
    emit began();
}

void Learn::startFor(const std::string& element, Axis axis) {
    element_ = element;
    axis_ = axis;
    start(What::element);
}

void Learn::toggle() {
    if (!isOn_) return start();
    done_ ? next() : stop();
}

void Learn::next() {
    if (!isOn_) return;
    if (!madeChain_) return begin();
    // Not the chain that was made, but its instrument: that is another place.
    selection_.set({place_.instrument, {}, Part::instrument, 0, 0});
}

bool Learn::hasTarget() const {
    const Chain* chain = chainOf(document_.ensemble(), place_);
    const Instrument* owner = instrumentOf(document_.ensemble(), place_);
    return isOn_ && what_ == What::selected && taken_ && owner != nullptr && chain != nullptr &&
           !owner->parameters.empty() && chain->branches.size() <= 1 &&
           sourceAt(document_.ensemble(), place_, what_) == &chain->source;
}

QString Learn::targetName() const {
    const Chain* chain = chainOf(document_.ensemble(), place_);
    const Instrument* owner = instrumentOf(document_.ensemble(), place_);
    if (chain == nullptr || owner == nullptr || chain->branches.empty()) return {};
    const Parameter* led = findById(owner->parameters, chain->branches.front().target);
    return led == nullptr ? toQt(chain->branches.front().target) : nameToShow(nameOf(*led));
}

void Learn::stepTarget(int by) {
    if (!hasTarget()) return;
    applying_ = true;
    document_.edit(
        tr("Learn %1").arg(goal()),
        [&](Ensemble& e) {
            const auto& parameters = std::as_const(*instrumentOf(e, place_)).parameters;
            Chain& chain = *chainOf(e, place_);
            const auto many = static_cast<int>(parameters.size());
            const Parameter* led =
                chain.branches.empty() ? nullptr : findById(parameters, chain.branches.front().target);
            const int now = led == nullptr ? (by > 0 ? -1 : 0) : static_cast<int>(led - parameters.data());
            const int then = ((now + by) % many + many) % many;
            chain.branches = {wholeBranch(parameters[static_cast<std::size_t>(then)])};
        },
        gesture_);
    applying_ = false;
    emit changed();
}

void Learn::stop() {
    if (!std::exchange(isOn_, false)) return;
    considering_.stop();
    live_.ports().learnOsc(false);
    candidates_.clear();
    taken_.reset();
    emit changed();
}

void Learn::begin() {
    learner_.begin();
    candidates_.clear();
    taken_.reset();
    done_ = false;
    chosen_ = false;
    madeChain_ = false;
    moves_ = 0;
    made_.reset();
    siblings_.clear();
    place_ = what_ == What::element ? Selected{} : selection_.now();
    gesture_ = Document::newGesture();
    emit changed();
}

/// The next place; what stands on no page of chains is none.
void Learn::follow() {
    if (!isOn_ || applying_) return;
    if (what_ == What::element) {
        if (!std::holds_alternative<DeskPlace>(selection_.address())) stop();
        return;
    }
    // What cannot be seen must not go on.
    if (!std::holds_alternative<Selected>(selection_.address())) return stop();
    if (selection_.now() == place_) return;
    // Targets are learned one after the other, as sources are.
    if (what_ == What::chooser) what_ = What::selected;
    begin();
}

void Learn::hear(const io::Happening& happening) {
    if (!isOn_ || done_ || happening.played) return;
    heard_ = true;
    learner_.hear(live_.readings().portName(happening.port), happening.time, happening.message.bytes());
}

void Learn::hearByOsc(const io::OscHappening& happening) {
    if (!isOn_ || done_ || happening.out) return;
    heard_ = true;
    learner_.hearOsc(live_.readings().portName(happening.message.port), ++moves_,
                     happening.message.address.data(), happening.message.number);
}

std::optional<std::size_t> Learn::taken() const {
    for (std::size_t i = 0; i < candidates_.size(); ++i) {
        const bool same = taken_ && candidates_[i].port == taken_->port &&
                          candidates_[i].channel == taken_->channel &&
                          candidates_[i].source == taken_->source;
        if (same) return i;
    }
    return std::nullopt;
}

void Learn::consider() {
    // Without anything new only the rest of what was taken is waited for.
    if (done_ || (!std::exchange(heard_, false) && !taken_)) return;
    const auto stands = [this] {
        const auto place = taken();
        return place ? candidates_[*place].heard.count : 0;
    };
    const std::uint32_t before = stands();
    candidates_ = learner_.candidates();
    if (candidates_.empty()) return;
    if (!chosen_ && candidates_.front().sure >= learning::Learner::enough && taken() != 0) {
        apply(candidates_.front());
        rest_.start();
    }
    if (taken_ && stands() != before) rest_.start();
    if (taken_ && rest_.isValid() && rest_.elapsed() >= atRestAfter) done_ = true;
    emit changed();
}

void Learn::take(std::size_t candidate) {
    if (candidate >= candidates_.size()) return;
    chosen_ = true;
    apply(candidates_[candidate]);
    rest_.start();
    emit changed();
}

namespace {

/// What bends, slides or presses one note of a zone that is said by hand is the newest note's finger,
/// whatever channel it had.
std::optional<Source> fingerOf(const Ensemble& ensemble, const learning::Candidate& candidate) {
    const auto takes = fingerTaken(candidate.source);
    if (!takes || candidate.channel == 0) return std::nullopt;
    for (const Controller& controller : ensemble.controllers) {
        if (controller.port != candidate.port) continue;
        const midi::ZoneSizes sizes =
            midi::ZoneSizes{std::max(0, controller.zones.lower), std::max(0, controller.zones.upper)}.fitted(
                midi::Zone::upper);
        for (const midi::Zone zone : {midi::Zone::lower, midi::Zone::upper}) {
            if (!sizes.isMember(zone, static_cast<std::size_t>(candidate.channel - 1))) continue;
            Source finger = makeSource(SourceKind::zoneNote);
            finger.values[0] = static_cast<int>(*takes);
            finger.values[2] = static_cast<int>(zone);
            finger.controller = controller.id;
            return finger;
        }
    }
    return std::nullopt;
}

}  // namespace

/// As the candidate is heard, and as far as the source that was there allows: a channel or a controller that
/// was asked for stays asked for.
Source Learn::fitting(const Ensemble& ensemble, const Source& before,
                      const learning::Candidate& candidate) const {
    if (auto finger = fingerOf(ensemble, candidate)) {
        // Which note it is, and its range, stay as a person has set them.
        if (before.kind == SourceKind::zoneNote)
            finger->values = {finger->values[0], before.values[1], finger->values[2], before.values[3]};
        finger->rest = before.rest;
        return *finger;
    }
    Source source = candidate.source;
    source.rest = before.rest;
    if (before.channel && candidate.channel > 0) source.channel = candidate.channel;
    if (before.controller.empty()) return source;
    // Of several on one port the one that was asked for; of another port, who is there.
    for (const Controller& controller : ensemble.controllers) {
        if (controller.port != candidate.port) continue;
        if (source.controller.empty() || controller.id == before.controller)
            source.controller = controller.id;
    }
    return source;
}

void Learn::apply(const learning::Candidate& candidate) {
    applying_ = true;
    taken_ = candidate;
    Selected then = place_;
    document_.edit(
        tr("Learn %1").arg(goal()),
        [&](Ensemble& e) {
            switch (what_) {
                case What::target:
                    return applyTarget(e, then, candidate);
                case What::element:
                    return applyElement(e, candidate);
                case What::selected:
                case What::chooser:
                    return applySource(e, then, candidate);
            }
        },
        gesture_);
    place_ = then;
    if (what_ != What::element) selection_.set(then);
    applying_ = false;
}

/// Siblings are made once; something surer moves them then.
void Learn::applyElement(Ensemble& e, const learning::Candidate& candidate) {
    const Source source = fitting(e, Source{}, candidate);
    if (siblings_.empty()) siblings_ = followElement(e, element_, axis_, source);
    for (const ChainOfOwner& each : siblings_) {
        Chain* chain = chainOf(e, {each.owner, each.chain, Part::source, 0, 0});
        if (chain == nullptr) continue;
        chain->source = source;
        chain->name = describe::madeName(e, *chain);
    }
}

void Learn::applySource(Ensemble& e, Selected& then, const learning::Candidate& candidate) {
    if (Source* source = sourceAt(e, place_, what_)) {
        *source = fitting(e, *source, candidate);
        return;
    }
    // Nothing here follows anything yet, so what does is made.
    if (chainsOf(e, place_) == nullptr) {
        e.instruments.push_back(newInstrument(e));
        then.instrument = e.instruments.back().id;
    }
    const Selected owner{then.instrument, {}, Part::instrument, 0, 0};
    Chain chain = isShared(owner) ? newSharedChain(e) : newChain(*instrumentOf(e, owner));
    chain.source = fitting(e, Source{}, candidate);
    chain.name = describe::madeName(e, chain);
    chain.id = newId(*chainsOf(e, owner), idFrom(chain.name));
    chainsOf(e, owner)->push_back(chain);
    madeChain_ = true;
    then = {then.instrument, chain.id, Part::source, 0, 0};
}

namespace {

const Parameter* withMessage(const Instrument& instrument, const Message& message) {
    for (const Parameter& parameter : instrument.parameters) {
        if (parameter.message.kind == message.kind && parameter.message.number == message.number &&
            parameter.message.address == message.address)
            return &parameter;
    }
    return nullptr;
}

}  // namespace

/// The parameter that the instrument's panel moved, which is made where there is none.
void Learn::applyTarget(Ensemble& e, Selected& then, const learning::Candidate& candidate) {
    if (made_) {
        // Something surer than what was made before.
        if (Instrument* owner = findById(e.instruments, made_->instrument))
            removeParameter(e, *owner, made_->parameter);
        made_.reset();
    }
    if (chainsOf(e, place_) == nullptr) {
        e.instruments.push_back(newInstrument(e));
        then.instrument = e.instruments.back().id;
    }
    const Message message = messageOf(candidate.source, messageKinds());
    Instrument* owner = isShared(then) ? nullptr : instrumentOf(e, then);
    if (owner == nullptr) {
        // Of a shared chain: whose panel it is, or the first that listens to it.
        for (const Instrument& each : std::as_const(e.instruments)) {
            const bool fits = withMessage(each, message) != nullptr;
            if (fits && (owner == nullptr || each.output.port == candidate.port))
                owner = findById(e.instruments, each.id);
        }
    }
    if (owner == nullptr) return;
    const Parameter* known = withMessage(*owner, message);
    std::string id = known != nullptr ? known->id : std::string();
    if (known == nullptr) {
        Parameter parameter;
        parameter.message = message;
        parameter.name = describe::madeName(message);
        parameter.id = id = newId(owner->parameters, parameter.name);
        owner->parameters.push_back(parameter);
        made_ = TouchedParameter{owner->id, id};
    }
    const std::string target = isShared(then) ? owner->id + "/" + id : id;
    const Chain* chain = chainOf(e, then);
    const bool onBranch = then.part == Part::branch && branchOf(e, then) != nullptr;
    leadTo(e, then,
           chain == nullptr ? TargetFor::newChain
           : onBranch       ? TargetFor::selectedBranch
                            : TargetFor::anotherBranch,
           target);
    if (chain == nullptr && then.part == Part::source)
        then = {then.instrument, then.chain, Part::branch, 0, 0};
}

QString Learn::goal() const {
    const Ensemble& ensemble = document_.ensemble();
    if (what_ == What::element) {
        const DeskElement* element = findElement(ensemble.desk, element_);
        return tr("what moves “%1” too").arg(element == nullptr ? QString() : nameToShow(nameOf(*element)));
    }
    if (what_ == What::target) {
        const Chain* led = chainOf(ensemble, place_);
        return led == nullptr ? tr("a target, and a chain to it")
                              : tr("a target of “%1”").arg(nameToShow(nameOf(*led)));
    }
    const Chain* chain = chainOf(ensemble, place_);
    if (chain == nullptr) {
        const Instrument* instrument = instrumentOf(ensemble, place_);
        return instrument == nullptr ? tr("a new chain")
                                     : tr("a new chain of “%1”").arg(nameToShow(nameOf(*instrument)));
    }
    const QString name = nameToShow(nameOf(*chain));
    if (what_ == What::chooser) return tr("what chooses in “%1”").arg(name);
    const bool second = sourceAt(ensemble, place_, what_) != &chain->source;
    return second ? tr("the second source of “%1”").arg(name) : tr("the source of “%1”").arg(name);
}

}  // namespace mellow::app
