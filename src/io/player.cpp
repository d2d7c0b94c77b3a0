// A cycle takes a new program if there is one, obeys commands, and then merges what came in with the take
// that plays, by time. What a take's hands hold is counted as it goes by, so that stopping it lets go of
// exactly that. Programs and takes that are done with go back through rings, to be freed where they were
// made.
#include "io/player.h"

#include <algorithm>
#include <optional>
#include <utility>

#include "core/engine/compile.h"

namespace mellow::io {

namespace {

midi::Short head(midi::Bytes bytes) {
    midi::Short message;
    message.size = static_cast<std::uint8_t>(bytes.size() <= 3 ? bytes.size() : 1);
    std::copy_n(bytes.begin(), message.size, message.data.begin());
    return message;
}

}  // namespace

Player::Player() : filters_(engine::Hands::portCount), engine_(nullptr) {
    for (auto& filter : filters_) filter.store(PortFilter{}.packed(), std::memory_order_relaxed);
    constexpr std::size_t mostAtOnce = 1024;
    connected_.reserve(mostAtOnce);
    left_.reserve(mostAtOnce);
    programs_.push_back(engine::compile(Ensemble{}));
    ports_ = programs_.front()->plan.numbering.ports;
    deskPort_ = programs_.front()->plan.deskPort;
    playing_ = programs_.front().get();
    engine_ = engine::Engine(playing_);
}

Player::~Player() = default;

namespace {

std::vector<engine::Placed> placedIn(const engine::Plan& plan, const Placements& placements) {
    std::vector<engine::Placed> placed;
    for (const Placement& each : placements) {
        const auto key = plan.numbering.chainKeys->find(each.owner + "/" + each.chain);
        const engine::PlanChain* chain = key ? plan.chainWithKey(*key) : nullptr;
        if (chain == nullptr || each.branch >= chain->branchCount) continue;
        placed.push_back({chain->firstBranch + each.branch, each.position});
    }
    return placed;
}

}  // namespace

void Player::play(const Ensemble& ensemble, const Placements& placements) {
    collectRetired();
    // The previous program may be playing, and is not touched; ports that only messages named so far keep
    // their numbers all the same.
    programs_.push_back(engine::compile(ensemble, &programs_.back()->plan, &ports_));
    engine::Program& made = *programs_.back();
    made.feedback = engine::followControls(ensemble, made.plan);
    // What was to be placed and has not been played yet goes before what is placed now.
    if (const engine::Program* waiting = next_.load(std::memory_order_acquire); waiting == nullptr)
        waitingPlacements_.clear();
    waitingPlacements_.insert(waitingPlacements_.end(), placements.begin(), placements.end());
    made.placed = placedIn(made.plan, waitingPlacements_);
    ports_ = names().ports;
    engine::Program* skipped = next_.exchange(programs_.back().get(), std::memory_order_acq_rel);
    if (skipped != nullptr) {
        std::erase_if(programs_, [skipped](const auto& program) { return program.get() == skipped; });
    }
    wake();
}

engine::PortId Player::portId(std::string_view name) {
    return static_cast<engine::PortId>(ports_.intern(name));
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

void Player::letGo(engine::PortId port) {
    order({Command::Kind::letGo, port});
}

void Player::startTake(std::shared_ptr<const Take> take) {
    collectRetired();
    auto playing = std::make_unique<PlayingTake>();
    for (const std::string& port : take->ports) playing->ports.push_back(portId(port));
    playing->holding.resize(take->ports.size() * 16);
    playing->take = std::move(take);
    takes_.push_back(std::move(playing));
    takePosition_.store(0, std::memory_order_relaxed);
    if (!order({Command::Kind::start, 0, {}, takes_.back().get()})) takes_.pop_back();
}

void Player::stopTake() {
    order({Command::Kind::stop});
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
    tap_.see({at, port, from == From::take, bytes});
    tell({at, false, port, 0, head(bytes), from == From::take});
    feedback().heard(port, bytes, at,
                     from == From::take ? engine::Feedback::By::take : engine::Feedback::By::hand);
    engine_.process({time, port, bytes}, sink);
}

void Player::obey(const Command& command, const engine::Sink& sink) {
    switch (command.kind) {
        case Command::Kind::message:
            playEvent(command.port, engine_.now(), command.message.bytes(), From::hands, sink);
            break;
        case Command::Kind::move:
            playNumber(command.move, sink);
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
            liftHands(sink);
            take_ = command.take;
            takeStart_ = std::max<engine::Time>(engine_.now(), 0);
            takeNext_ = 0;
            tempoNext_ = 0;
            break;
        case Command::Kind::stop:
            liftHands(sink);
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

/// The take's tempo as it is at its next event, or at `time` where that comes first.
void Player::followTempo(engine::Time time, const engine::Sink& sink) {
    const Take& take = *take_->take;
    engine::Time next = time - takeStart_;
    if (takeNext_ < take.events.size()) next = std::min(next, take.events[takeNext_].time);
    for (; tempoNext_ < take.tempos.size() && take.tempos[tempoNext_].time <= next; ++tempoNext_) {
        engine_.advance(takeStart_ + take.tempos[tempoNext_].time, sink);
        engine_.setTempo(take.tempos[tempoNext_].tempo);
    }
}

void Player::takeUntil(engine::Time time, const engine::Sink& sink) {
    while (take_ != nullptr) {
        followTempo(time, sink);
        const Take& take = *take_->take;
        if (takeNext_ == take.events.size()) {
            if (takeStart_ + take.length > time) break;
            liftHands(sink);
            break;
        }
        const TakeEvent& event = take.events[takeNext_];
        if (takeStart_ + event.time > time) break;
        ++takeNext_;
        follow(event.port, take.bodyOf(event));
        playEvent(take_->ports[event.port], takeStart_ + event.time, take.bodyOf(event), From::take, sink);
    }
}

/// Notes what the take's hands hold after an event, so that lifting them costs what they hold and not what
/// they have played.
void Player::follow(std::size_t port, midi::Bytes bytes) {
    if (bytes.empty() || !midi::isChannelStatus(bytes[0])) return;
    Holding& holding = take_->holding[port * 16 + static_cast<std::size_t>(midi::channelOf(bytes))];
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

/// Lets go of everything that the take still holds.
void Player::liftHands(const engine::Sink& sink) {
    if (take_ == nullptr) return;
    PlayingTake* done = std::exchange(take_, nullptr);
    engine_.setTempo(0);
    for (std::size_t i = 0; i < done->holding.size(); ++i)
        liftHand(done->ports[i / 16], static_cast<int>(i % 16), done->holding[i], sink);
    takesPlayed_.push(done);
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
void Player::playNumber(const OscMessage& message, const engine::Sink& sink) {
    oscHappenings_.push({false, 0, message});
    tap_.see({engine_.now(), message.port, false, {}, message.address.data(), message.number});
    engine_.process({engine_.now(), message.port, {}, message.address.data(), message.number}, sink);
}

/// What went round has struck its keys many times over.
void Player::cutLoop(const engine::Sink& sink) {
    const auto loop = loops_.take();
    if (!loop) return;
    letGoOf(loop->in, sink);
    loopsFound_.push(*loop);
}

void Player::transport(double bpm, bool rolling) {
    const bool starts = rolling && !std::exchange(rolling_, rolling);
    rolling_ = rolling;
    engine_.followTransport(bpm, starts);
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
    for (OscMessage message; oscIn_.pop(message);) playNumber(message, sink);
    for (const Incoming& event : incoming) {
        const auto& filter = filters_[event.port % filters_.size()];
        if (!PortFilter::unpacked(filter.load(std::memory_order_relaxed)).lets(event.bytes)) continue;
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
    takePosition_.store(take_ == nullptr ? -1 : until - takeStart_, std::memory_order_relaxed);
    tempo_.store(engine_.tempo(), std::memory_order_relaxed);
    tempoFrom_.store(engine_.tempoFrom(), std::memory_order_relaxed);
    notesRefused_.store(engine_.notes().refused(), std::memory_order_relaxed);
}

}  // namespace mellow::io
