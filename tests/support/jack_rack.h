// The practice rack as a synthesizer on a real JACK server: what one measures unheard can be measured there
// as if it were somebody else's.
#pragma once

#include <jack/jack.h>
#include <jack/midiport.h>

#include <array>
#include <memory>
#include <string>

#include "io/balance/jack_measuring.h"
#include "io/bounce/rendering.h"
#include "support/jack.h"

namespace mellow::test {

class JackRack {
 public:
    /// With the sounds of an ensemble's instruments.
    JackRack(const std::string& server, const Ensemble& ensemble) {
        client_ = jack_client_open("rack", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                                   nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client on the test's JACK server");
        const auto rate = static_cast<int>(jack_get_sample_rate(client_));
        auto rack = io::silentRack(ensemble, io::RackOptions{}.soundfont, rate);
        if (!rack) qFatal("%s", rack.problem().sentence().c_str());
        rack_ = std::move(*rack);
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
        for (std::size_t i = 0; i < 2; ++i)
            outs_.at(i) = jack_port_register(client_, i == 0 ? "left" : "right", JACK_DEFAULT_AUDIO_TYPE,
                                             JackPortIsOutput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) { return static_cast<JackRack*>(self)->process(frames); },
            this);
        jack_activate(client_);
    }
    ~JackRack() { jack_client_close(client_); }
    void hear(const std::string& output) { QCOMPARE(jack_connect(client_, output.c_str(), "rack:in"), 0); }
    static io::HeardFrom outputs() { return {"rack:left", "rack:right"}; }

 private:
    int process(jack_nframes_t frames) {
        void* midi = jack_port_get_buffer(in_, frames);
        for (std::uint32_t i = 0; i < jack_midi_get_event_count(midi); ++i) {
            jack_midi_event_t event;
            if (jack_midi_event_get(&event, midi, i) == 0 && event.size <= 3)
                rack_->push(midi::shortOf({event.buffer, event.size}));
        }
        rack_->render(static_cast<float*>(jack_port_get_buffer(outs_[0], frames)),
                      static_cast<float*>(jack_port_get_buffer(outs_[1], frames)), static_cast<int>(frames));
        return 0;
    }

    jack_client_t* client_;
    std::unique_ptr<io::PracticeRack> rack_;
    jack_port_t* in_;
    std::array<jack_port_t*, 2> outs_{};
};

}  // namespace mellow::test
