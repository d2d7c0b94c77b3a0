// A cycle takes a new program if there is one, obeys commands, and then merges what came in with the take
// that plays, by time. What a take's hands hold is counted as it goes by, so that stopping it lets go of
// exactly that. Programs and takes that are done with go back through rings, to be freed where they were
// made.
#include "io/playing/player.h"

#include <algorithm>
#include <chrono>
#include <optional>
#include <thread>
#include <utility>

#include "core/engine/compiling/compile.h"
#include "core/midi/controls.h"
#include "core/model/led.h"
#include "core/takes/chase.h"

namespace mellow::io {

namespace {

midi::Short head(midi::Bytes bytes) {
    midi::Short message;
    message.size = static_cast<std::uint8_t>(bytes.size() <= 3 ? bytes.size() : 1);
    std::copy_n(bytes.begin(), message.size, message.data.begin());
    return message;
}

}  // namespace

Player::Player(engine::Time begins) : filters_(engine::Hands::portCount), engine_(nullptr) {
    for (auto& filter : filters_) filter.store(PortFilter{}.packed(), std::memory_order_relaxed);
    constexpr std::size_t mostAtOnce = 1024;
    connected_.reserve(mostAtOnce);
    left_.reserve(mostAtOnce);
    programs_.push_back(engine::compile(Ensemble{}));
    ports_ = programs_.front()->plan.numbering.ports;
    shareNames();
    deskPort_ = programs_.front()->plan.deskPort;
    playing_ = programs_.front().get();
    engine_ = engine::Engine(playing_);
    auto drop = [](const engine::Output&) {};
    engine_.advance(begins, engine::sinkTo(drop));
}

Player::~Player() = default;

namespace {

/// Parameters of placements to which nothing leads, those that there are. What waits may be about one to
/// which something leads again by now: that knows better.
std::vector<engine::Unled> unledOf(const Ensemble& ensemble, const Placements& placements) {
    std::vector<engine::Unled> besides;
    for (const Placement& each : placements) {
        if (each.parameter.empty()) continue;
        const Instrument* owner = findById(ensemble.instruments, each.owner);
        if (owner != nullptr && findById(owner->parameters, each.parameter) != nullptr &&
            !isLedTo(ensemble, *owner, each.parameter))
            besides.push_back({each.owner, each.parameter});
    }
    return besides;
}

std::vector<engine::Placed> placedIn(const engine::Plan& plan, const Placements& placements,
                                     const std::vector<engine::Unled>& besides) {
    std::vector<engine::Placed> placed;
    for (const Placement& each : placements) {
        if (!each.parameter.empty()) {
            const auto beside = std::find_if(besides.begin(), besides.end(), [&each](const auto& unled) {
                return unled.instrument == each.owner && unled.parameter == each.parameter;
            });
            const auto place = plan.firstBeside + static_cast<std::uint32_t>(beside - besides.begin());
            if (place < plan.branches.size()) placed.push_back({place, each.position, true, false});
            continue;
        }
        const auto key = plan.numbering.chainKeys->find(each.owner + "/" + each.chain);
        const engine::PlanChain* chain = key ? plan.chainWithKey(*key) : nullptr;
        if (chain == nullptr || each.branch >= chain->branchCount) continue;
        placed.push_back({chain->firstBranch + each.branch, each.position, false, each.unlessSpoken});
    }
    return placed;
}

}  // namespace

void Player::play(const Ensemble& ensemble, const Placements& placements) {
    collectRetired();
    // The previous program may be playing, and is not touched; ports that only messages named so far keep
    // their numbers all the same.
    // What was to be placed and has not been played yet goes before what is placed now.
    if (const engine::Program* waiting = next_.load(std::memory_order_acquire); waiting == nullptr)
        waitingPlacements_.clear();
    waitingPlacements_.insert(waitingPlacements_.end(), placements.begin(), placements.end());
    const std::vector<engine::Unled> besides = unledOf(ensemble, waitingPlacements_);
    programs_.push_back(engine::compile(ensemble, &programs_.back()->plan, &ports_, besides));
    engine::Program& made = *programs_.back();
    made.number = ++programsMade_;
    made.feedback = engine::followControls(ensemble, made.plan);
    made.placed = placedIn(made.plan, waitingPlacements_, besides);
    ports_ = names().ports;
    shareNames();
    engine::Program* skipped = next_.exchange(programs_.back().get(), std::memory_order_acq_rel);
    if (skipped != nullptr) {
        std::erase_if(programs_, [skipped](const auto& program) { return program.get() == skipped; });
    }
    wake();
}

engine::PortId Player::portId(std::string_view name) {
    const auto id = static_cast<engine::PortId>(ports_.intern(name));
    shareNames();
    return id;
}

/// Names are only ever added.
void Player::shareNames() {
    const std::lock_guard lock(naming_);
    for (std::size_t id = portNames_.size(); id < ports_.size(); ++id)
        portNames_.emplace_back(ports_.name(static_cast<std::uint32_t>(id)));
}

bool Player::hearsOsc() const {
    const auto& ears = programs_.back()->plan.ears;
    return std::any_of(ears.begin(), ears.end(),
                       [](const engine::Ear& ear) { return ear.kind == SourceKind::osc; });
}

void Player::wake() {
    const std::lock_guard lock(waking_);
    if (wake_) wake_();
}

bool Player::order(const Command& command) {
    const bool taken = commands_.push(command);
    wake();
    return taken;
}

bool Player::send(engine::PortId port, const midi::Short& message) {
    return order({Command::Kind::message, port, message});
}

namespace {

/// A number for an address, if that is not too long.
std::optional<OscMessage> numberFor(engine::PortId port, std::string_view address, double number) {
    if (address.size() > OscMessage::longest) return std::nullopt;
    OscMessage message;
    message.port = port;
    message.number = number;
    std::copy(address.begin(), address.end(), message.address.begin());
    return message;
}

}  // namespace

std::optional<std::string_view> elementAddress(std::string_view address) {
    if (!address.starts_with(deskAddress)) return std::nullopt;
    const std::string_view behind = address.substr(deskAddress.size());
    return behind.starts_with('/') ? std::optional(behind) : std::nullopt;
}

bool Player::receiveOsc(engine::PortId port, std::string_view address, double number) {
    const auto element = elementAddress(address);
    const auto message = element ? numberFor(deskPort_, *element, number) : numberFor(port, address, number);
    const bool taken = message && oscIn_.push(*message);
    wake();
    return taken;
}

bool Player::moveDesk(std::string_view address, double position) {
    const auto move = numberFor(deskPort_, address, position);
    return move && order({Command::Kind::move, deskPort_, {}, nullptr, *move});
}

void Player::choose(std::uint32_t instrument, std::uint32_t articulation) {
    Command command;
    command.kind = Command::Kind::choose;
    command.instrument = instrument;
    command.articulation = articulation;
    order(command);
}

void Player::silenceAll() {
    order({Command::Kind::silence});
}

void Player::setFilter(engine::PortId port, const PortFilter& filter) {
    const std::uint32_t word = filter.packed();
    const std::uint32_t before = filters_[port % filters_.size()].exchange(word, std::memory_order_relaxed);
    if (before != word) letGo(port);
}

bool Player::isHeard(engine::PortId port, midi::Bytes message) const {
    const auto& filter = filters_[port % filters_.size()];
    return PortFilter::unpacked(filter.load(std::memory_order_relaxed)).lets(message);
}

void Player::letGo(engine::PortId port) {
    order({Command::Kind::letGo, port});
}

std::string Player::portNamed(engine::PortId id) const {
    const std::lock_guard lock(naming_);
    return id < portNames_.size() ? portNames_[id] : std::string();
}

std::unique_ptr<Player::PlayingTake> Player::playable(std::shared_ptr<const Take> take, const TakeRun& run) {
    auto playing = std::make_unique<PlayingTake>();
    // What was played through no port in particular comes from the practice keys.
    for (const std::string& port : take->ports)
        playing->ports.push_back(portId(port == anyPort ? practiceKeysPort : std::string_view(port)));
    playing->lanes.resize(take->ports.size() * 16);
    playing->run = run;
    playing->chase = eventsToChase(*take, run.from);
    if (run.loops()) playing->chaseInLoop = eventsToChase(*take, run.loopFrom);
    playing->take = std::move(take);
    return playing;
}

void Player::orderTake(Command::Kind kind, std::unique_ptr<PlayingTake> playing) {
    collectRetired();
    takes_.push_back(std::move(playing));
    if (order({kind, 0, {}, takes_.back().get()})) return;
    takes_.pop_back();
    if (kind == Command::Kind::start) startsWaiting_.fetch_sub(1, std::memory_order_acq_rel);
}

void Player::startTake(std::shared_ptr<const Take> take, const TakeRun& run, const Ensemble* played) {
    startsWaiting_.fetch_add(1, std::memory_order_acq_rel);
    takePosition_.store(run.from, std::memory_order_relaxed);
    auto playing = playable(std::move(take), run);
    if (played != nullptr && run.from > 0) chaseInto(*playing, *played);
    orderTake(Command::Kind::start, std::move(playing));
}

/// It is chased to a moment that is just ahead, by as much as chasing takes.
void Player::chaseInto(PlayingTake& take, const Ensemble& played) {
    constexpr engine::Time least = 15'000;
    constexpr double spare = 1.5;
    collectRetired();
    const engine::Time before = shownNow_.load(std::memory_order_relaxed);
    // A clock that slept knows what time it is once it has run.
    wake();
    for (int tries = 0; tries < 20 && shownNow_.load(std::memory_order_relaxed) == before; ++tries)
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    const auto cost = static_cast<engine::Time>(spare * chaseCost_ * static_cast<double>(take.run.from));
    const engine::Time now = shownNow_.load(std::memory_order_relaxed);
    const engine::Time at = take.run.at >= 0 ? take.run.at : now + least + cost;
    if (now < 0 || at < take.run.from) return;
    const auto begun = std::chrono::steady_clock::now();
    take.chased = std::make_unique<Chased>(
        chased(played, *take.take, take.run.from, at, &programs_.back()->plan, &ports_));
    const std::chrono::duration<double, std::micro> took = std::chrono::steady_clock::now() - begun;
    chaseCost_ = took.count() / static_cast<double>(take.run.from);
    take.run.at = at;
    take.madeFor = programs_.back()->number;
    take.program = take.chased->program.get();
    take.program->number = ++programsMade_;
    take.program->feedback = engine::followControls(played, take.program->plan);
    programs_.push_back(std::move(take.chased->program));
    ports_ = names().ports;
    shareNames();
}

void Player::changeTake(std::shared_ptr<const Take> take, const TakeRun& run) {
    orderTake(Command::Kind::change, playable(std::move(take), run));
}

void Player::stopTake() {
    order({Command::Kind::stop});
}

bool Player::mark(int number) {
    Command command;
    command.kind = Command::Kind::mark;
    command.move.number = number;
    return order(command);
}

void Player::collectRetired() {
    for (engine::Program* done = nullptr; retired_.pop(done);) {
        std::erase_if(programs_, [done](const auto& program) { return program.get() == done; });
    }
    for (PlayingTake* done = nullptr; takesPlayed_.pop(done);) {
        const auto found = std::find_if(takes_.begin(), takes_.end(),
                                        [done](const auto& take) { return take.get() == done; });
        if (found != takes_.end()) takes_.erase(found);
    }
}

void Player::tell(const Happening& happening) {
    happenings_.push(happening);
}

void Player::playEvent(engine::PortId port, engine::Time time, midi::Bytes bytes, From from,
                       const engine::Sink& sink) {
    if (bytes.empty()) return;
    const engine::Time at = std::max(time, engine_.now());
    if (from == From::hands) touch(port, bytes);
    tap_.see({at, port, from == From::take, bytes, {}, 0, positionNow(at)});
    tell({at, false, port, 0, head(bytes), from == From::take});
    feedback().heard(port, bytes, at,
                     from == From::take ? engine::Feedback::By::take : engine::Feedback::By::hand);
    engine_.process({time, port, bytes}, sink);
}

void Player::obey(const Command& command, const engine::Sink& sink) {
    switch (command.kind) {
        case Command::Kind::message:
            if (!isHeard(command.port, command.message.bytes())) break;
            playEvent(command.port, engine_.now(), command.message.bytes(), From::hands, sink);
            break;
        case Command::Kind::move:
            playNumber(command.move, From::hands, sink);
            break;
        case Command::Kind::choose:
            engine_.choose(command.instrument, command.articulation, sink);
            break;
        case Command::Kind::silence:
            engine_.silenceAll(sink);
            break;
        case Command::Kind::letGo:
            letGoOf(command.port, sink);
            break;
        case Command::Kind::start:
            expect(command.take, sink);
            startsWaiting_.fetch_sub(1, std::memory_order_acq_rel);
            break;
        case Command::Kind::change:
            changeTake(command.take);
            break;
        case Command::Kind::stop:
            if (arriving_ != nullptr) {
                giveUpOn(arriving_);
                takesPlayed_.push(std::exchange(arriving_, nullptr));
            }
            endTake(sink);
            break;
        case Command::Kind::mark:
            tap_.see({engine_.now(),
                      engine::everyPort,
                      false,
                      {},
                      {},
                      command.move.number,
                      positionNow(engine_.now())});
            break;
    }
}

/// Keys, as often as they were struck, then pedals.
void Player::letGoOf(engine::PortId port, const engine::Sink& sink) {
    constexpr int mostStrikes = 256;
    const auto play = [&](const midi::Short& message) {
        playEvent(port, engine_.now(), message.bytes(), From::hands, sink);
    };
    for (std::uint8_t channel = 0; channel < 16; ++channel) {
        for (std::uint8_t key = 0; key <= midi::max7; ++key) {
            for (int strikes = 0; strikes < mostStrikes && engine_.holds(port, channel, key); ++strikes)
                play(midi::make(midi::noteOff, channel, key, midi::middleVelocity));
        }
        for (std::size_t place = 0; place < midi::holdingPedals.size(); ++place) {
            if (engine_.pedal(port, channel, place) > 0)
                play(midi::make(midi::controlChange, channel, midi::holdingPedals.at(place), 0));
        }
    }
}

std::int64_t Player::positionNow(engine::Time time) const {
    return take_ == nullptr ? -1 : time - take_->start;
}

/// It begins at once, or, with an engine of its own, when that is due.
void Player::expect(PlayingTake* take, const engine::Sink& sink) {
    if (arriving_ != nullptr) {
        giveUpOn(arriving_);
        takesPlayed_.push(std::exchange(arriving_, nullptr));
    }
    if (take->chased == nullptr) return beginTake(take, sink);
    arriving_ = take;
}

/// What was edited meanwhile is played, and not what it was when the take was chased.
void Player::giveUpOn(PlayingTake* take) {
    if (take->program != nullptr) retired_.push(std::exchange(take->program, nullptr));
}

/// The engine that has played the take up to here goes on in place of the one that plays.
void Player::arrive(engine::Time time, const engine::Sink& sink) {
    if (arriving_ == nullptr || arriving_->run.at > time) return;
    PlayingTake* take = std::exchange(arriving_, nullptr);
    if (take->madeFor != playing_->number) {
        giveUpOn(take);
        take->run.at = -1;
        return beginTake(take, sink);
    }
    takeEventsUntil(take->run.at - 1, sink);
    engine_.advance(std::max(take->run.at - 1, engine_.now()), sink);
    endTake(sink);
    takeOver(engine_, *take->chased, sink);
    take->program->feedback.carry(feedback());
    retired_.push(playing_);
    playing_ = std::exchange(take->program, nullptr);
    take_ = take;
    take_->start = take->run.at - take->run.from;
    take_->goTo(take->run.from);
    // What the engine has heard already is what these hands hold.
    for (const std::uint32_t place : take_->chase) {
        const TakeEvent& event = take_->take->events[place];
        follow(event.port, take_->take->bodyOf(event));
    }
}

void Player::beginTake(PlayingTake* take, const engine::Sink& sink) {
    endTake(sink);
    take_ = take;
    const engine::Time now = first_ >= 0 ? first_ : std::max<engine::Time>(engine_.now(), 0);
    take_->start = (take->run.at >= 0 ? take->run.at : now) - take_->run.from;
    take_->goTo(take_->run.from);
    chase(take_->chase, sink);
}

/// What is held stays held, and what was touched stays touched, as far as the ports are the same.
void Player::changeTake(PlayingTake* take) {
    if (take_ == nullptr) {
        takesPlayed_.push(take);
        return;
    }
    PlayingTake* before = std::exchange(take_, take);
    const bool samePorts = before->ports.size() <= take->ports.size() &&
                           std::equal(before->ports.begin(), before->ports.end(), take->ports.begin());
    if (samePorts) std::copy(before->lanes.begin(), before->lanes.end(), take->lanes.begin());
    take->start = before->start;
    take->goTo(std::max<engine::Time>(engine_.now(), 0) + 1 - take->start);
    takesPlayed_.push(before);
}

/// What a take said before now is said again.
void Player::chase(const std::vector<std::uint32_t>& events, const engine::Sink& sink) {
    for (const std::uint32_t place : events) takeEvent(place, engine_.now(), sink);
}

void Player::takeUntil(engine::Time time, const engine::Sink& sink) {
    arrive(time, sink);
    while (take_ != nullptr) {
        const TakeRun& run = take_->run;
        const bool goesRound = run.loops() && time - take_->start >= run.loopTo;
        // What stands where it goes round is not played: it is where the next round begins.
        takeEventsUntil(goesRound ? take_->start + run.loopTo - 1 : time, sink);
        if (goesRound) {
            goRound(sink);
        } else {
            const bool isOver = !run.loops() && take_->cursor.isOver(*take_->take) &&
                                take_->start + take_->take->length <= time;
            if (isOver) endTake(sink);
            break;
        }
    }
}

void Player::takeEventsUntil(engine::Time time, const engine::Sink& sink) {
    if (take_ == nullptr) return;
    take_->cursor.passUntil(*take_->take, time - take_->start, take_->start, engine_, sink,
                            [&](std::size_t place, engine::Time at) { takeEvent(place, at, sink); });
}

/// The hands go back to where the loop begins, and stand as they stood there.
void Player::goRound(const engine::Sink& sink) {
    // Where the loop was moved behind what plays, it goes round now and not many times over.
    const engine::Time at = std::max(take_->start + take_->run.loopTo, engine_.now());
    engine_.advance(at, sink);
    liftHands(sink);
    for (TakeChannel& lane : take_->lanes) lane.touched.reset();
    take_->start = at - take_->run.loopFrom;
    take_->goTo(take_->run.loopFrom);
    chase(take_->chaseInLoop, sink);
}

/// One event of the take, unless hands have taken over what it is about.
void Player::takeEvent(std::size_t place, engine::Time time, const engine::Sink& sink) {
    const Take& take = *take_->take;
    const TakeEvent& event = take.events[place];
    const midi::Bytes body = take.bodyOf(event);
    const engine::PortId port = take_->ports[event.port];
    if (const auto line = text::oscLineOf(body)) {
        const auto number = numberFor(port, line->address, line->number);
        engine_.advance(std::max(time, engine_.now()), sink);
        if (number) playNumber(*number, From::take, sink);
        return;
    }
    if (isTouched(event.port, body)) return;
    follow(event.port, body);
    playEvent(port, time, body, From::take, sink);
}

namespace {

/// What a message is about, among what hands can touch on a channel: a control, or a kind of message behind
/// them. Notes are about themselves.
std::optional<std::size_t> subjectOf(midi::Bytes bytes) {
    constexpr std::size_t kinds = midi::controlCount;
    if (bytes.empty() || !midi::isChannelStatus(bytes[0])) return std::nullopt;
    switch (midi::kindOf(bytes)) {
        case midi::noteOn:
        case midi::noteOff:
            return std::nullopt;
        case midi::controlChange:
            return bytes[1];
        default:
            return kinds + (bytes[0] >> 4);
    }
}

}  // namespace

/// Hands touch something while they play over the take: it is theirs until the take goes round or ends.
void Player::touch(engine::PortId port, midi::Bytes bytes) {
    if (take_ == nullptr || !take_->run.overdubsAt(positionNow(engine_.now()))) return;
    const auto subject = subjectOf(bytes);
    const auto found = std::find(take_->ports.begin(), take_->ports.end(), port);
    if (!subject || found == take_->ports.end()) return;
    const auto place = static_cast<std::size_t>(found - take_->ports.begin());
    take_->lanes[place * 16 + static_cast<std::size_t>(midi::channelOf(bytes))].touched.set(*subject);
}

bool Player::isTouched(std::size_t port, midi::Bytes bytes) const {
    const auto subject = subjectOf(bytes);
    if (!subject || !take_->run.overdubsAt(positionNow(engine_.now()))) return false;
    return take_->lanes[port * 16 + static_cast<std::size_t>(midi::channelOf(bytes))].touched[*subject];
}

/// Notes what the take's hands hold after an event, so that lifting them costs what they hold and not what
/// they have played.
void Player::follow(std::size_t port, midi::Bytes bytes) {
    if (bytes.empty() || !midi::isChannelStatus(bytes[0])) return;
    Holding& holding = take_->lanes[port * 16 + static_cast<std::size_t>(midi::channelOf(bytes))].holding;
    if (midi::isNoteOn(bytes) && holding.keys[bytes[1]] < 255) ++holding.keys[bytes[1]];
    if (midi::isNoteOff(bytes) && holding.keys[bytes[1]] > 0) --holding.keys[bytes[1]];
    if (midi::kindOf(bytes) == midi::controlChange) {
        for (std::size_t pedal = 0; pedal < midi::pedals.size(); ++pedal) {
            if (midi::pedals.at(pedal) == bytes[1]) holding.pedals.at(pedal) = bytes[2];
        }
    }
    if (midi::kindOf(bytes) == midi::pitchBend) holding.bent = midi::bendOf(bytes) != midi::bendCentre;
    if (midi::kindOf(bytes) == midi::channelPressure) holding.pressed = bytes[1] > 0;
}

/// The take plays no more, and its hands are lifted.
void Player::endTake(const engine::Sink& sink) {
    if (take_ == nullptr) return;
    engine_.setTempo(0);
    liftHands(sink);
    takesPlayed_.push(std::exchange(take_, nullptr));
}

/// Lets go of everything that the take still holds.
void Player::liftHands(const engine::Sink& sink) {
    for (std::size_t i = 0; i < take_->lanes.size(); ++i) {
        const Holding held = std::exchange(take_->lanes[i].holding, {});
        liftHand(take_->ports[i / 16], static_cast<int>(i % 16), held, sink);
    }
}

/// Keys, then pedals, wheel springs and pressure.
void Player::liftHand(engine::PortId port, int channel, const Holding& holding, const engine::Sink& sink) {
    const auto play = [&](const midi::Short& message) {
        playEvent(port, engine_.now(), message.bytes(), From::take, sink);
    };
    for (int key = 0; key < 128; ++key) {
        for (int held = holding.keys[static_cast<std::size_t>(key)]; held > 0; --held)
            play(midi::make(midi::noteOff, channel, key, midi::middleVelocity));
    }
    for (std::size_t pedal = 0; pedal < midi::pedals.size(); ++pedal) {
        if (holding.pedals.at(pedal) > 0)
            play(midi::make(midi::controlChange, channel, midi::pedals.at(pedal), 0));
    }
    if (holding.bent) play(midi::makeBend(channel, midi::bendCentre));
    if (holding.pressed) play(midi::make(midi::channelPressure, channel, 0));
}

void Player::leaveByOsc(const engine::Output& output) {
    if (output.address.size() > OscMessage::longest) return;
    OscMessage message;
    message.port = output.port;
    message.number = output.number;
    std::copy(output.address.begin(), output.address.end(), message.address.begin());
    oscOut_.push(message);
    oscWaits_.release();
    oscHappenings_.push({true, output.instrument, message});
}

/// A number comes to an address now.
void Player::playNumber(const OscMessage& message, From from, const engine::Sink& sink) {
    oscHappenings_.push({false, 0, message});
    tap_.see({engine_.now(),
              message.port,
              from == From::take,
              {},
              message.address.data(),
              message.number,
              positionNow(engine_.now())});
    engine_.process({engine_.now(), message.port, {}, message.address.data(), message.number}, sink);
}

/// What went round has struck its keys many times over.
void Player::cutLoop(const engine::Sink& sink) {
    const auto loop = loops_.take();
    if (!loop) return;
    letGoOf(loop->in, sink);
    loopsFound_.push(*loop);
}

void Player::transport(const TransportNow& now) {
    const bool starts = now.rolling && !std::exchange(rolling_, now.rolling);
    rolling_ = now.rolling;
    first_ = now.at;
    transportRolls_.store(now.rolling, std::memory_order_relaxed);
    transportAt_.store(now.position, std::memory_order_relaxed);
    transportOrigin_.store(now.at - now.position, std::memory_order_relaxed);
    engine_.followTransport(now.bpm, starts);
}

/// Goes round the loop watch: a motor that says where it was moved to is no loop.
void Player::feedBack(const engine::Sink& out) {
    auto deliver = [&](const engine::Output& output) {
        tell({output.time, true, output.port, output.instrument, head(output.bytes)});
        out(output);
    };
    feedback().run(*playing_, engine_.now(), engine::sinkTo(deliver));
}

void Player::cycle(std::span<const Incoming> incoming, engine::Time until, const engine::Sink& out) {
    auto deliver = [&](const engine::Output& output) {
        if (output.bytes.empty()) return leaveByOsc(output);
        loops_.sends(output.time, output.port, output.bytes);
        tell({output.time, true, output.port, output.instrument, head(output.bytes), false,
              output.chain != engine::noChain});
        feedback().stir();
        out(output);
    };
    const engine::Sink sink = engine::sinkTo(deliver);
    if (engine::Program* next = next_.exchange(nullptr, std::memory_order_acq_rel)) {
        next->feedback.carry(feedback());
        playing_ = next;
        retired_.push(engine_.adopt(next, sink));
        engine_.place(sink);
    }
    for (const Connected& each : connected_) {
        engine_.portConnected(each.port, each.again, sink);
        feedback().connected(each.port);
    }
    connected_.clear();
    for (const engine::PortId port : left_) letGoOf(port, sink);
    left_.clear();
    for (Command command; commands_.pop(command);) obey(command, sink);
    for (OscMessage message; oscIn_.pop(message);) playNumber(message, From::hands, sink);
    for (const Incoming& event : incoming) {
        if (!isHeard(event.port, event.bytes)) continue;
        takeUntil(event.time, sink);
        if (!loops_.hears(event.time, event.port, event.bytes)) {
            cutLoop(sink);
            continue;
        }
        playEvent(event.port, event.time, event.bytes, From::hands, sink);
    }
    takeUntil(until, sink);
    engine_.advance(until, sink);
    feedBack(out);
    first_ = -1;
    shownNow_.store(engine_.now(), std::memory_order_relaxed);
    if (arriving_ == nullptr && startsWaiting_.load(std::memory_order_acquire) == 0)
        takePosition_.store(take_ == nullptr ? -1 : std::max<std::int64_t>(positionNow(until), 0),
                            std::memory_order_relaxed);
    tempo_.store(engine_.tempo(), std::memory_order_relaxed);
    tempoFrom_.store(engine_.tempoFrom(), std::memory_order_relaxed);
    notesRefused_.store(engine_.notes().refused(), std::memory_order_relaxed);
}

}  // namespace mellow::io
