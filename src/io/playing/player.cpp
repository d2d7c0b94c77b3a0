// A cycle takes a new program if there is one, obeys commands, and then merges what came in with the take
// that plays, by time. Programs and takes that are done with go back through rings, to be freed where they
// were made.
#include "io/playing/player.h"

#include <algorithm>
#include <utility>

#include "core/midi/controls.h"

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
    deskPort_ = programs_.newest().plan.deskPort;
    playing_ = programs_.first();
    engine_ = engine::Engine(playing_);
    auto drop = [](const engine::Output&) {};
    engine_.advance(begins, engine::sinkTo(drop));
}

Player::~Player() = default;

void Player::play(const Ensemble& ensemble, const Placements& placements) {
    takes_.collect();
    programs_.make(ensemble, placements);
    wake();
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

bool Player::receiveOsc(engine::PortId port, std::string_view address, double number) {
    const auto element = elementAddress(address);
    const auto message =
        element ? OscMessage::of(deskPort_, *element, number) : OscMessage::of(port, address, number);
    const bool taken = message && oscIn_.push(*message);
    wake();
    return taken;
}

bool Player::moveDesk(std::string_view address, double position) {
    const auto move = OscMessage::of(deskPort_, address, position);
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

bool Player::orderTake(Command::Kind kind, PlayingTake* take) {
    const bool taken = order({kind, 0, {}, take});
    if (!taken) takes_.dropNewest();
    return taken;
}

void Player::startTake(std::shared_ptr<const Take> take, const TakeRun& run, const Ensemble* played) {
    startsWaiting_.fetch_add(1, std::memory_order_acq_rel);
    takePosition_.store(run.from, std::memory_order_relaxed);
    PlayingTake* playing = takes_.make(std::move(take), run);
    if (played != nullptr && run.from > 0) takes_.chase(*playing, *played, [this] { wake(); });
    if (!orderTake(Command::Kind::start, playing)) startsWaiting_.fetch_sub(1, std::memory_order_acq_rel);
}

void Player::changeTake(std::shared_ptr<const Take> take, const TakeRun& run) {
    orderTake(Command::Kind::change, takes_.make(std::move(take), run));
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

void Player::playEvent(engine::PortId port, engine::Time time, midi::Bytes bytes, From from,
                       const engine::Sink& sink) {
    if (bytes.empty()) return;
    const engine::Time at = std::max(time, engine_.now());
    if (from == From::hands) take_.touch(port, bytes);
    tap_.see({at, port, from == From::take, bytes, {}, 0, take_.positionAt(at)});
    happenings_.push({at, false, port, 0, head(bytes), from == From::take});
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
            take_.start(command.take, sink);
            startsWaiting_.fetch_sub(1, std::memory_order_acq_rel);
            break;
        case Command::Kind::change:
            take_.change(command.take);
            break;
        case Command::Kind::stop:
            take_.stop(sink);
            break;
        case Command::Kind::mark:
            tap_.see({engine_.now(),
                      engine::everyPort,
                      false,
                      {},
                      {},
                      command.move.number,
                      take_.positionAt(engine_.now())});
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

void Player::leaveByOsc(const engine::Output& output) {
    const auto message = OscMessage::of(output.port, output.address, output.number);
    if (!message) return;
    oscOut_.push(*message);
    oscWaits_.release();
    oscHappenings_.push({true, output.instrument, *message});
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
              take_.positionAt(engine_.now())});
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
    take_.cycleBegins(now.at);
    now_.show(now);
    engine_.followTransport(now.bpm, starts);
}

/// Goes round the loop watch: a motor that says where it was moved to is no loop.
void Player::feedBack(const engine::Sink& out) {
    auto deliver = [&](const engine::Output& output) {
        happenings_.push({output.time, true, output.port, output.instrument, head(output.bytes)});
        out(output);
    };
    feedback().run(*playing_, engine_.now(), engine::sinkTo(deliver));
}

void Player::takeWhatChanged(const engine::Sink& sink) {
    if (engine::Program* next = programs_.takeNext()) {
        next->feedback.carry(feedback());
        playing_ = next;
        programs_.done(engine_.adopt(next, sink));
        engine_.place(sink);
    }
    for (const Connected& each : connected_) {
        engine_.portConnected(each.port, each.again, sink);
        feedback().connected(each.port);
    }
    connected_.clear();
    for (const engine::PortId port : left_) letGoOf(port, sink);
    left_.clear();
}

void Player::playIncoming(std::span<const Incoming> incoming, const engine::Sink& sink) {
    for (const Incoming& event : incoming) {
        if (!isHeard(event.port, event.bytes)) continue;
        take_.playUntil(event.time, sink);
        if (!loops_.hears(event.time, event.port, event.bytes)) {
            cutLoop(sink);
            continue;
        }
        playEvent(event.port, event.time, event.bytes, From::hands, sink);
    }
}

void Player::showNow(engine::Time until) {
    now_.show(engine_);
    std::int64_t shown = takePosition_.load(std::memory_order_acquire);
    if (take_.awaitsOne() || startsWaiting_.load(std::memory_order_acquire) > 0) return;
    const std::int64_t now = take_.plays() ? std::max<std::int64_t>(take_.positionAt(until), 0) : -1;
    // Where a take is started just now, what stands there is its beginning, and not that none plays.
    takePosition_.compare_exchange_strong(shown, now, std::memory_order_relaxed);
}

void Player::cycle(std::span<const Incoming> incoming, engine::Time until, const engine::Sink& out) {
    auto deliver = [&](const engine::Output& output) {
        if (output.bytes.empty()) return leaveByOsc(output);
        loops_.sends(output.time, output.port, output.bytes);
        happenings_.push({output.time, true, output.port, output.instrument, head(output.bytes), false,
                          output.chain != engine::noChain});
        feedback().stir();
        out(output);
    };
    const engine::Sink sink = engine::sinkTo(deliver);
    takeWhatChanged(sink);
    for (Command command; commands_.pop(command);) obey(command, sink);
    for (OscMessage message; oscIn_.pop(message);) playNumber(message, From::hands, sink);
    playIncoming(incoming, sink);
    take_.playUntil(until, sink);
    engine_.advance(until, sink);
    feedBack(out);
    take_.cycleBegins(-1);
    showNow(until);
}

}  // namespace mellow::io
