#include "io/ports/jack_outputs.h"

#include <algorithm>
#include <chrono>

#include "io/ports/jack_waiting.h"

namespace mellow::io {

void JackOutputs::play(SoundMaker* maker) {
    if (maker == maker_) return;
    maker_ = maker;
    if (lists_.empty()) return;
    const Playing before = lists_.newest();
    lists_.hand(std::make_unique<Playing>());
    // While the server calls, it is done with the old ones after a period; one that hangs calls nobody.
    constexpr std::chrono::milliseconds aPeriod(250);
    awaitCallback(client_, aPeriod, [this] { return lists_.isTaken(); });
    if (client_.answers()) {
        for (jack_port_t* port : before.ports) {
            if (port != nullptr) jack_port_unregister(client_.client(), port);
        }
    }
    tend();
}

/// Who does not answer now is asked when it does.
void JackOutputs::tend() {
    if (maker_ == nullptr || lists_.empty() || lists_.newest().maker == maker_ || !client_.answers()) return;
    make();
    connect();
}

void JackOutputs::begin() {
    lists_.hand(std::make_unique<Playing>());
    make();
}

void JackOutputs::make() {
    if (maker_ == nullptr) return;
    auto playing = std::make_unique<Playing>();
    playing->maker = maker_;
    constexpr std::array names{"rack left", "rack right"};
    for (std::size_t i = 0; i < names.size(); ++i) {
        playing->ports[i] = jack_port_register(client_.client(), names[i], JACK_DEFAULT_AUDIO_TYPE,
                                               JackPortIsOutput | JackPortIsTerminal, 0);
        if (playing->ports[i] == nullptr) return;
    }
    lists_.hand(std::move(playing));
}

/// To where sound leaves the machine.
void JackOutputs::connect() {
    if (lists_.empty() || lists_.newest().maker == nullptr) return;
    const char** const places = jack_get_ports(client_.client(), nullptr, JACK_DEFAULT_AUDIO_TYPE,
                                               JackPortIsInput | JackPortIsPhysical);
    std::size_t count = 0;
    while (places != nullptr && places[count] != nullptr) ++count;
    const auto& ports = lists_.newest().ports;
    // One place is given both sides.
    for (std::size_t side = 0; side < ports.size() && count > 0; ++side)
        jack_connect(client_.client(), jack_port_name(ports[side]), places[std::min(side, count - 1)]);
    jack_free(places);
}

void JackOutputs::periodEnds() {
    const Playing* playing = lists_.take();
    if (playing == nullptr || playing->maker == nullptr) return;
    auto* left = static_cast<float*>(jack_port_get_buffer(playing->ports[0], frames_));
    auto* right = static_cast<float*>(jack_port_get_buffer(playing->ports[1], frames_));
    if (left != nullptr && right != nullptr) playing->maker->render(left, right, static_cast<int>(frames_));
}

}  // namespace mellow::io
