// One input is heard on both channels.
#include "io/ports/jack_inputs.h"

#include <algorithm>
#include <chrono>

#include "io/ports/jack_waiting.h"

namespace mellow::io {

Outcome JackInputs::want(int channels) {
    channels_ = std::clamp(channels, 0, 2);
    if (!client_.answers() || lists_.empty())
        return channels_ == 0 ? Outcome(Done{})
                              : Outcome(Problem{"JACK", "no server answers, so nothing can be heard",
                                                "start JACK or PipeWire"});
    return make();
}

Outcome JackInputs::make() {
    const List before = lists_.newest();
    if (before.size() == static_cast<std::size_t>(channels_)) return Done{};
    // Those of another number are called otherwise.
    lists_.hand(std::make_unique<List>());
    awaitTaken();
    for (jack_port_t* port : before) jack_port_unregister(client_.client(), port);
    auto list = std::make_unique<List>();
    for (int channel = 0; channel < channels_; ++channel) {
        const std::string name = channels_ == 1 ? "sound" : "sound " + std::to_string(channel + 1);
        jack_port_t* port =
            jack_port_register(client_.client(), name.c_str(), JACK_DEFAULT_AUDIO_TYPE, JackPortIsInput, 0);
        if (port != nullptr) list->push_back(port);
    }
    const bool all = list->size() == static_cast<std::size_t>(channels_);
    lists_.hand(std::move(list));
    awaitTaken();
    lists_.free();
    if (all) return Done{};
    return Problem{"JACK", "the server has no room for another port", "close a program that has many"};
}

/// The server does what it is asked between two periods: until then, or for a few periods at most.
template<class Condition>
void JackInputs::await(const Condition& holds) const {
    constexpr std::chrono::milliseconds longest(200);
    awaitCallback(client_, longest, holds);
}

/// The callback works on the newest list, or not at all.
void JackInputs::awaitTaken() const {
    await([this] { return lists_.isTaken(); });
}

void JackInputs::begin() {
    lists_.hand(std::make_unique<List>());
    const Outcome made = make();
    problem_ = made ? std::nullopt : std::optional(made.problem());
}

void JackInputs::end() {
    lists_.clear();
}

std::vector<std::string> JackInputs::sources() const {
    return client_.others(JACK_DEFAULT_AUDIO_TYPE, JackPortIsOutput);
}

Outcome JackInputs::connect(int channel, const std::string& source) {
    if (!client_.answers() || lists_.empty())
        return Problem{"JACK", "no server answers, so nothing can be connected", "start JACK or PipeWire"};
    const List& ports = lists_.newest();
    if (channel < 0 || static_cast<std::size_t>(channel) >= ports.size())
        return Problem{"JACK", "there is no input " + std::to_string(channel + 1), "open it first"};
    jack_port_t* port = ports[static_cast<std::size_t>(channel)];
    for (const std::string& each : connected(channel))
        jack_disconnect(client_.client(), each.c_str(), jack_port_name(port));
    if (jack_connect(client_.client(), source.c_str(), jack_port_name(port)) == 0) {
        // Else the next to be connected would not find this one to take its place.
        await([&] { return connected(channel) == std::vector{source}; });
        return Done{};
    }
    return Problem{source, "cannot be heard: no program has an output of that name", "choose another"};
}

std::vector<std::string> JackInputs::connected(int channel) const {
    std::vector<std::string> names;
    if (!client_.answers() || lists_.empty()) return names;
    const List& ports = lists_.newest();
    if (channel < 0 || static_cast<std::size_t>(channel) >= ports.size()) return names;
    const char** others = jack_port_get_connections(ports[static_cast<std::size_t>(channel)]);
    for (std::size_t i = 0; others != nullptr && others[i] != nullptr; ++i) names.emplace_back(others[i]);
    jack_free(others);
    return names;
}

void JackInputs::periodBegins(jack_nframes_t frames) {
    period_.store(frames, std::memory_order_relaxed);
    const List* ports = lists_.take();
    if (ports == nullptr || ports->empty()) return;
    const auto heard = [&](jack_port_t* port) {
        const auto* samples = static_cast<const float*>(jack_port_get_buffer(port, frames));
        return samples == nullptr ? std::span<const float>() : std::span(samples, frames);
    };
    const auto left = heard(ports->front());
    const auto right = heard(ports->back());
    if (left.size() == right.size()) frames_.giveAt(static_cast<std::int64_t>(client_.frame()), left, right);
}

}  // namespace mellow::io
