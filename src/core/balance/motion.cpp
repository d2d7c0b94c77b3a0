#include "core/balance/motion.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/describe/sentence.h"
#include "core/describe/source_words.h"
#include "core/engine/program/numbering.h"
#include "core/midi/controls.h"
#include "core/model/edit.h"
#include "core/model/resolve.h"
#include "core/profiles/message_text.h"
#include "core/text/osc_line.h"
#include "core/text/printable.h"

namespace mellow::balance {

namespace {

constexpr std::string_view movedElement = "balance-moved";
constexpr std::string_view heldElement = "balance-held";
constexpr std::string_view handsPort = "balance";
constexpr int lowHalf = midi::pairCount;  // of a pair: so far behind the number of its high half

/// The rest of words that begin with one of those that name a kind.
std::optional<std::string_view> behind(std::string_view words, std::string_view kind) {
    if (!words.starts_with(kind)) return std::nullopt;
    words.remove_prefix(kind.size());
    if (!words.empty() && words.front() != ' ' && words.front() != ':') return std::nullopt;
    while (!words.empty() && (words.front() == ' ' || words.front() == ':')) words.remove_prefix(1);
    return words;
}

Source ofKind(SourceKind kind) {
    return makeSource(kind);
}

Problem nothingMoves(std::string_view words) {
    return {text::quoted(std::string(words)), "it names nothing that can be moved",
            "say a chain's id, or something like \"cc 1\", \"velocity\", \"keys\", \"tie line ID\" or "
            "\"parameter ID\""};
}

std::optional<Source> deskSource(const Ensemble& ensemble, std::string_view words) {
    const std::size_t space = words.find(' ');
    const std::string element(words.substr(0, space));
    bool there = false;
    forEachElement(ensemble.desk,
                   [&](const DeskElement& each) { there = there || (each.id == element && isSource(each)); });
    if (!there) return std::nullopt;
    Source source = ofKind(SourceKind::desk);
    source.values[0] = element;
    if (space == std::string_view::npos) return source;
    const std::string_view axis = words.substr(space + 1);
    source.values[1] = axis == "touch" ? 2 : axis == "y" ? 1 : 0;
    return source;
}

/// "CONTROLLER CONTROL", by their ids.
std::optional<Source> controlSource(const Ensemble& ensemble, std::string_view words) {
    for (const Controller& each : ensemble.controllers) {
        const auto id = behind(words, each.id);
        if (!id || findById(each.controls, *id) == nullptr) continue;
        Source source = ofKind(SourceKind::control);
        source.controller = each.id;
        source.control = std::string(*id);
        return source;
    }
    return std::nullopt;
}

/// What a message that a control would send is as a source.
std::optional<Source> messageSource(std::string_view words) {
    const auto message = profiles::parseMessage(words);
    if (!message) return std::nullopt;
    const MessageRow& kind = row(message->kind);
    if (kind.heard == nullptr ||
        (kind.numbered && (message->number < 0 || message->number > kind.highestNumber)))
        return std::nullopt;
    return sourceOf(*message);
}

/// Why something that has been named cannot be moved; empty: it can.
std::string whyNot(const Source& source) {
    switch (source.kind) {
        case SourceKind::lfo:
        case SourceKind::envelope:
        case SourceKind::walk:
            return "it moves by itself";
        case SourceKind::relative:
            return "an encoder says how far it is turned, not where it stands";
        case SourceKind::key:
            return "a key is up or down and has no travel";
        case SourceKind::program:
            return "a program has no travel";
        case SourceKind::zoneNote:
            return "a finger's own bend, slide or pressure needs a keyboard with zones";
        case SourceKind::control:
            return "the control that it names is not there";
        case SourceKind::releaseVelocity:
            return "what it moves comes when a note has ended";
        default:
            return {};
    }
}

void bytes(Take& take, std::int64_t time, const std::string& port, std::initializer_list<int> body) {
    std::array<std::uint8_t, 3> message{};
    std::size_t size = 0;
    for (const int byte : body) message.at(size++) = static_cast<std::uint8_t>(byte);
    take.add(time, take.portNumber(port), midi::Bytes(message.data(), size));
}

void line(Take& take, std::int64_t time, std::string_view port, std::string_view address, double number) {
    const std::string body = text::oscLine(address, number);
    take.add(time, take.portNumber(port),
             midi::Bytes(reinterpret_cast<const std::uint8_t*>(body.data()), body.size()));
}

/// A branch that is off keeps its place among those that a chooser chooses from.
void muteBranchesTo(Chain& chain, std::string_view target) {
    for (Branch& branch : chain.branches) branch.on = branch.on && branch.target != target;
}

}  // namespace

Motion motionOf(const Source& source) {
    return {source, {}};
}
Motion motionOf(const Chain& chain) {
    return motionOf(chain.source);
}
Motion motionOfParameter(std::string id) {
    return {makeSource(SourceKind::cc), std::move(id)};
}

Result<Motion> parseMotion(const Ensemble& ensemble, const Instrument& instrument, std::string_view words) {
    if (const Chain* chain = findById(instrument.chains, words)) return motionOf(*chain);
    if (const auto id = behind(words, "parameter")) {
        if (findById(instrument.parameters, *id) != nullptr) return motionOfParameter(std::string(*id));
        return nothingMoves(words);
    }
    for (const std::string_view kind : {"tie line", "tieLine"}) {
        const auto id = behind(words, kind);
        if (!id) continue;
        if (findById(ensemble.tieLines, *id) == nullptr) return nothingMoves(words);
        Source source = ofKind(SourceKind::tieLine);
        source.tieLine = std::string(*id);
        return motionOf(source);
    }
    if (const auto element = behind(words, "desk")) {
        const auto source = deskSource(ensemble, *element);
        return source ? Result<Motion>(motionOf(*source)) : nothingMoves(words);
    }
    if (const auto control = behind(words, "control")) {
        const auto source = controlSource(ensemble, *control);
        return source ? Result<Motion>(motionOf(*source)) : nothingMoves(words);
    }
    if (words == "keys" || words == "key number") return motionOf(ofKind(SourceKind::keyNumber));
    if (words == "velocity") return motionOf(ofKind(SourceKind::velocity));
    if (const auto source = messageSource(words)) return motionOf(*source);
    return nothingMoves(words);
}

std::string printMotion(const Motion& motion) {
    if (!motion.parameter.empty()) return describe::parameterWords(motion.parameter);
    return describe::sourceWords(motion.source);
}

std::string motionName(const Ensemble& ensemble, const Instrument& instrument, const Motion& motion) {
    if (motion.parameter.empty()) {
        if (isKeys(motion)) return "The keys";
        return describe::sourceName(ensemble, motion.source);
    }
    const Parameter* parameter = findById(instrument.parameters, motion.parameter);
    return parameter == nullptr ? motion.parameter : nameOf(*parameter) + " alone";
}

Result<Rig> Rig::build(const Ensemble& ensemble, std::string_view instrument, const Motion& motion,
                       const Motion* held) {
    const Instrument* chosen = findById(ensemble.instruments, instrument);
    if (chosen == nullptr)
        return Problem{text::quoted(std::string(instrument)), "there is no instrument with this id",
                       "say one that the ensemble has"};
    Rig rig;
    rig.ensemble_ = ensemble;
    Instrument alone = *chosen;
    alone.on = true;
    // The others are off and not gone, so that whoever plays this live keeps their ports.
    rig.ensemble_.instruments = {};
    rig.ensemble_.instruments.push_back(std::move(alone));
    for (const Instrument& each : ensemble.instruments) {
        if (&each == chosen) continue;
        Instrument still = each;
        still.on = false;
        rig.ensemble_.instruments.push_back(std::move(still));
    }
    rig.ensemble_.inHand.reset();
    rig.ensemble_.handOrder.clear();
    const Input& input = rig.instrument().input;
    rig.port_ = input.port == anyPort ? std::string(handsPort) : input.port;
    const int inZone = input.zone ? (*input.zone == midi::Zone::lower ? 2 : 15) : 1;
    rig.channel_ = input.channel.value_or(inZone) - 1;
    auto moved = rig.moverOf(motion, movedElement);
    if (!moved) return moved.problem();
    rig.moved_ = *moved;
    if (held != nullptr) {
        auto still = rig.moverOf(*held, heldElement);
        if (!still) return still.problem();
        rig.held_ = *still;
    }
    return rig;
}

/// An element of the desk of its own takes the place of whatever leads to a target.
Outcome Rig::lead(std::string_view element, const std::string& target) {
    const std::string owner = instrument().id;
    const bool inner = tieLineOf(target).has_value();
    const std::string own = inner ? target : target.substr(owner.size() + 1);
    for (Chain& chain : ensemble_.sharedChains) muteBranchesTo(chain, target);
    for (Chain& chain : ensemble_.instruments[0].chains) muteBranchesTo(chain, own);
    const auto branch = wholeBranch(ensemble_, nullptr, target);
    if (!branch) return Problem{target, "there is nothing of that name", "choose something that is there"};
    DeskElement slider;
    slider.id = std::string(element);
    DeskPage page;
    page.id = slider.id;
    page.elements.push_back(slider);
    ensemble_.desk.pages.push_back(std::move(page));
    Chain chain;
    chain.id = slider.id;
    chain.source = ofKind(SourceKind::desk);
    chain.source.values[0] = slider.id;
    chain.branches.push_back(*branch);
    ensemble_.sharedChains.insert(ensemble_.sharedChains.begin(), std::move(chain));
    return Done{};
}

Result<Rig::Mover> Rig::moverOf(const Motion& motion, std::string_view element) {
    Mover mover;
    mover.is = true;
    mover.channel = channel_;
    mover.port = port_;
    const bool isLine = motion.parameter.empty() && motion.source.kind == SourceKind::tieLine;
    if (!motion.parameter.empty() || isLine) {
        const std::string target = isLine ? std::string(tieLineTarget) + motion.source.tieLine
                                          : instrument().id + "/" + motion.parameter;
        if (const Outcome done = lead(element, target); !done) return done.problem();
        mover.source = ofKind(SourceKind::desk);
        mover.source.values[0] = std::string(element);
        mover.port = std::string(engine::deskPortName);
        return mover;
    }
    const Directory directory(ensemble_);
    mover.source = resolved(directory, motion.source);
    const std::string name = describe::sourceName(ensemble_, motion.source);
    if (const std::string why = whyNot(mover.source); !why.empty())
        return Problem{name, "it cannot be measured along: " + why,
                       "choose a control, velocity, the keys, a tie line or a parameter"};
    if (mover.source.kind == SourceKind::desk) {
        mover.port = std::string(engine::deskPortName);
        return mover;
    }
    if (mover.source.channel) mover.channel = *mover.source.channel - 1;
    if (const std::string* from = portOf(directory, mover.source); from != nullptr && *from != anyPort)
        mover.port = *from;
    const Input& input = instrument().input;
    const bool otherPort = input.port != anyPort && mover.port != input.port;
    const bool otherChannel = input.channel && mover.channel != *input.channel - 1;
    if (mover.source.kind != SourceKind::osc && (otherPort || otherChannel))
        return Problem{name + ", " + nameOf(instrument()),
                       "what it says does not come through the instrument's input",
                       "let the instrument hear its port and channel"};
    return mover;
}

double Rig::sayable(double position) const {
    const int max = maxOf(moved_.source);
    if (max <= 0) return position;
    const Scale scale = scaleOf(moved_.source);
    return decode(scale, encode(scale, position, max), max);
}

void Rig::say(Take& take, std::int64_t time, const Mover& mover, int key, double position) const {
    if (!mover.is) return;
    const Source& source = mover.source;
    const int value = encode(scaleOf(source), position, std::max(1, maxOf(source)));
    const int high = value >> 7;
    const int low = value & midi::max7;
    const auto send = [&](std::initializer_list<int> body) { bytes(take, time, mover.port, body); };
    const int control = midi::controlChange | mover.channel;
    switch (source.kind) {
        case SourceKind::cc:
            return send({control, source.number, value});
        case SourceKind::cc14:
            send({control, source.number, high});
            return send({control, source.number + lowHalf, low});
        case SourceKind::bend:
            return send({midi::pitchBend | mover.channel, low, high});
        case SourceKind::pressure:
            return send({midi::channelPressure | mover.channel, value});
        case SourceKind::keyPressure:
            return send({midi::keyPressure | mover.channel, key, value});
        case SourceKind::rpn:
        case SourceKind::nrpn: {
            const bool registered = source.kind == SourceKind::rpn;
            send({control, registered ? 101 : 99, source.number >> 7});
            send({control, registered ? 100 : 98, source.number & midi::max7});
            send({control, 6, high});
            return send({control, 38, low});
        }
        case SourceKind::osc:
            return line(take, time, mover.port, textOf(source, 0), position);
        case SourceKind::desk: {
            const std::string element = elementOf(source);
            std::string address;
            forEachElement(ensemble_.desk, [&](const DeskElement& each) {
                if (each.id == element) address = addressOf(each, axisOf(source));
            });
            return line(take, time, engine::deskPortName, address, position);
        }
        default:
            return;  // notes say it
    }
}

void Rig::press(Take& take, std::int64_t time, int key, int velocity) const {
    bytes(take, time, port_, {midi::noteOn | channel_, key, velocity});
}
void Rig::lift(Take& take, std::int64_t time, int key) const {
    constexpr int releaseVelocity = 64;
    bytes(take, time, port_, {midi::noteOff | channel_, key, releaseVelocity});
}

void Rig::hush(Take& take, std::int64_t time) const {
    bytes(take, time, port_, {midi::controlChange | channel_, midi::allSoundOff, 0});
}

}  // namespace mellow::balance
