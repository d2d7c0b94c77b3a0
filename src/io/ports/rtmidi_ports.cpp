// The playing side reads a list that is replaced as a whole; an old one is freed once the new one has been
// seen. A port whose cable was pulled is told by its name not being there any more.
#include "io/ports/rtmidi_ports.h"

#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <regex>

#include "io/ports/osc_link.h"

namespace mellow::io {

namespace {

constexpr const char* sequencer = "/dev/snd/seq";
constexpr const char* clientName = "Mellow Lever";

void beQuiet(RtMidiError::Type, const std::string&, void*) {}

bool contains(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

/// The steady names of a side's ports, by their places there; ours are empty.
std::vector<std::string> namesOf(RtMidi& looker) {
    std::vector<std::string> names;
    const unsigned count = looker.getPortCount();
    for (unsigned i = 0; i < count; ++i) {
        std::string name = steadyName(looker.getPortName(i));
        const bool ours = name.starts_with(clientName);
        names.push_back(ours ? std::string() : std::move(name));
    }
    return names;
}

std::optional<std::size_t> placeOf(const std::vector<std::string>& names, const std::string& name) {
    const auto found = name.empty() ? names.end() : std::find(names.begin(), names.end(), name);
    if (found == names.end()) return std::nullopt;
    return static_cast<std::size_t>(found - names.begin());
}

std::vector<std::string> withoutEmpty(std::vector<std::string> names) {
    std::erase(names, std::string());
    return names;
}

}  // namespace

std::string steadyName(const std::string& name) {
    static const std::regex numbers(R"(\s+\d+:\d+$)");
    return std::regex_replace(name, numbers, "");
}

RtMidiPorts::RtMidiPorts(RtMidi::Api api) : api_(api), sender_([this] { sendAll(); }) {
    lists_.hand(std::make_unique<List>());
}

RtMidiPorts::~RtMidiPorts() {
    stopping_ = true;
    leaves_.release();
    sender_.join();
    for (Output& output : outputs_) close(*output.port);
}

/// RtMidi's output on JACK frees what its callback reads before the callback has ended, unless the port is
/// closed and a period has passed.
void RtMidiPorts::close(RtMidiOut& port) const {
    port.closePort();
    awaitJack();
}

/// A connection on JACK carries nothing, and one that is gone is still read, for some periods.
void RtMidiPorts::awaitJack() const {
    constexpr std::chrono::milliseconds somePeriods(50);
    if (api_ == RtMidi::UNIX_JACK) std::this_thread::sleep_for(somePeriods);
}

/// False, with a problem, where there is no system to ask.
bool RtMidiPorts::open() {
    if (inLooker_ != nullptr) return true;
    if (api_ == RtMidi::LINUX_ALSA && ::access(sequencer, R_OK | W_OK) != 0) {
        problem_ = Problem{"ALSA", "there is no sequencer (" + std::string(sequencer) + ")",
                           "load snd-seq to reach devices without JACK"};
        return false;
    }
    try {
        auto in = std::make_unique<RtMidiIn>(api_, clientName);
        auto out = std::make_unique<RtMidiOut>(api_, clientName);
        in->setErrorCallback(beQuiet);
        out->setErrorCallback(beQuiet);
        inLooker_ = std::move(in);
        outLooker_ = std::move(out);
    } catch (const RtMidiError& error) {
        problem_ = Problem{"ALSA", error.getMessage(), "give this user the right to use it"};
        return false;
    }
    problem_.reset();
    return true;
}

void RtMidiPorts::want(const PortNames& names) {
    if (names == wanted_) return;
    wanted_ = names;
    look();
}

void RtMidiPorts::lead(const Wire& wire) {
    std::erase_if(leads_,
                  [&wire](const Wire& each) { return each.ours == wire.ours && each.input == wire.input; });
    if (wire.ours != wire.theirs) leads_.push_back(wire);
    look();
}

void RtMidiPorts::leadNoMore(const Wire& wire) {
    std::erase(leads_, wire);
    look();
}

const std::string& RtMidiPorts::ledTo(const std::string& name, bool input) const {
    const auto found = std::find_if(leads_.begin(), leads_.end(), [&](const Wire& each) {
        return each.ours == name && each.input == input;
    });
    return found == leads_.end() ? name : found->theirs;
}

void RtMidiPorts::tend() {
    look();
}

void RtMidiPorts::look() {
    if (!open()) return;
    others_ = {withoutEmpty(namesOf(*inLooker_)), withoutEmpty(namesOf(*outLooker_))};
    closeGone();
    openInputs();
    openOutputs();
}

void RtMidiPorts::closeGone() {
    const auto stays = [this](const auto& port, bool input) {
        return contains(input ? others_.inputs : others_.outputs, port.theirs) &&
               contains(input ? wanted_.inputs : wanted_.outputs, port.name) &&
               ledTo(port.name, input) == port.theirs;
    };
    bool changed = false;
    std::erase_if(inputs_, [&](const std::shared_ptr<Input>& input) {
        if (stays(*input, true)) return false;
        player_->letGo(input->id);
        return changed = true;
    });
    {
        const std::lock_guard lock(outputsLock_);
        const auto goes = [&](Output& output) {
            if (stays(output, false)) return false;
            close(*output.port);
            return true;
        };
        const auto gone = std::remove_if(outputs_.begin(), outputs_.end(), goes);
        changed = changed || gone != outputs_.end();
        outputs_.erase(gone, outputs_.end());
    }
    if (changed) publish({}, {});
}

void RtMidiPorts::openInputs() {
    const auto places = namesOf(*inLooker_);
    for (const std::string& name : wanted_.inputs) {
        const bool open = std::any_of(inputs_.begin(), inputs_.end(),
                                      [&name](const auto& input) { return input->name == name; });
        const auto place = placeOf(places, ledTo(name, true));
        if (open || !place) continue;
        auto made = std::make_shared<Input>();
        made->name = name;
        made->theirs = places[*place];
        made->id = player_->ports().of(name);
        made->owner = this;
        try {
            made->port = std::make_unique<RtMidiIn>(api_, clientName);
            made->port->setErrorCallback(beQuiet);
            made->port->ignoreTypes(false, false, false);
            made->port->setCallback(
                [](double, std::vector<unsigned char>* bytes, void* self) {
                    auto& input = *static_cast<Input*>(self);
                    input.reader.read(*bytes, [&input](midi::Bytes message) {
                        input.ring.see({0, input.id, false, message});
                    });
                    input.owner->player_->nudge();
                },
                made.get());
            made->port->openPort(static_cast<unsigned>(*place), name);
        } catch (const RtMidiError&) {
            continue;  // It went while it was opened; the next look tells.
        }
        inputs_.push_back(std::move(made));
        publish({}, {});
    }
}

void RtMidiPorts::openOutputs() {
    const auto places = namesOf(*outLooker_);
    std::vector<engine::PortId> anew;
    std::vector<engine::PortId> again;
    for (const std::string& name : wanted_.outputs) {
        const auto isIt = [&name](const Output& output) { return output.name == name; };
        const auto place = placeOf(places, ledTo(name, false));
        if (!place || std::any_of(outputs_.begin(), outputs_.end(), isIt)) continue;
        Output made{name, places[*place], player_->ports().of(name), nullptr};
        try {
            made.port = std::make_unique<RtMidiOut>(api_, clientName);
            made.port->setErrorCallback(beQuiet);
            made.port->openPort(static_cast<unsigned>(*place), name);
            awaitJack();
        } catch (const RtMidiError&) {
            continue;
        }
        (contains(known_, name) ? again : anew).push_back(made.id);
        if (!contains(known_, name)) known_.push_back(name);
        const std::lock_guard lock(outputsLock_);
        outputs_.push_back(std::move(made));
    }
    if (!anew.empty() || !again.empty()) publish(std::move(anew), std::move(again));
}

void RtMidiPorts::publish(std::vector<engine::PortId> anew, std::vector<engine::PortId> again) {
    auto list = std::make_unique<List>();
    list->inputs = inputs_;
    for (const Output& output : outputs_) list->outputs.push_back(output.id);
    list->anew = std::move(anew);
    list->again = std::move(again);
    const List& before = lists_.newest();
    // What the playing side has not heard of yet it hears of now.
    if (!lists_.isTaken()) {
        list->anew.insert(list->anew.end(), before.anew.begin(), before.anew.end());
        list->again.insert(list->again.end(), before.again.begin(), before.again.end());
    }
    lists_.hand(std::move(list));
    player_->nudge();
    lists_.free();
    tellChange();
}

std::vector<PortState> RtMidiPorts::present() const {
    std::vector<PortState> states;
    for (const auto& input : inputs_) states.push_back({input->name, true, true, "ALSA"});
    for (const Output& output : outputs_) states.push_back({output.name, false, true, "ALSA"});
    return states;
}

std::vector<Problem> RtMidiPorts::problems() const {
    return problem_ ? std::vector<Problem>{*problem_} : std::vector<Problem>{};
}

std::string RtMidiPorts::status() const {
    if (inputs_.empty() && outputs_.empty()) return {};
    return "ALSA: " + std::to_string(inputs_.size()) + " in, " + std::to_string(outputs_.size()) + " out";
}

void RtMidiPorts::gather(Arrivals& arrivals) {
    using engine::Engine;
    const List* before = lists_.taken();
    const List& list = *lists_.take();
    if (&list != before) {
        for (const engine::PortId port : list.anew) arrivals.connected(port, Engine::Again::no);
        for (const engine::PortId port : list.again) arrivals.connected(port, Engine::Again::yes);
    }
    for (const auto& input : list.inputs) {
        input->ring.drain([&](const Tap::Seen& seen) {
            if (!arrivals.addCopy({player_->time(), seen.port, seen.bytes}))
                lost_.fetch_add(1, std::memory_order_relaxed);
        });
    }
}

bool RtMidiPorts::send(const engine::Output& output) {
    const List* list = lists_.taken();
    if (list == nullptr ||
        std::find(list->outputs.begin(), list->outputs.end(), output.port) == list->outputs.end())
        return false;
    leaving_.see({output.time, output.port, false, output.bytes});
    leaves_.release();
    return true;
}

/// The sending thread: what the playing side left in the ring goes out.
void RtMidiPorts::sendAll() {
    while (!stopping_) {
        leaves_.acquire();
        leaving_.drain([this](const Tap::Seen& seen) {
            const std::lock_guard lock(outputsLock_);
            for (const Output& output : outputs_) {
                if (output.id == seen.port) output.port->sendMessage(seen.bytes.data(), seen.bytes.size());
            }
        });
    }
}

}  // namespace mellow::io
