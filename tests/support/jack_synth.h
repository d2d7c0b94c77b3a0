// A synthesizer with a known law on a real JACK server.
#pragma once

#include <jack/jack.h>
#include <jack/midiport.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <string>
#include <vector>

#include "core/midi/message.h"
#include "io/balance/jack_measuring.h"
#include "support/jack.h"
#include "support/known_synth.h"

namespace mellow::test {

/// A synthesizer on a JACK server: a sine on both of its outputs, as loud as CC 11 and CC 7 say, some frames
/// late, cut off after a time.
class JackSynth {
 public:
    struct Nature {
        double loudest = -8;  // dB of full scale
        int late = 0;         // frames
        bool silent = false;
        bool clips = false;  // at full scale
        double until = 1e9;  // s
    };

    JackSynth(const std::string& server, const Nature& nature) : nature_(nature) {
        client_ =
            jack_client_open("known-synth", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                             nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client on the test's JACK server");
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
        for (std::size_t i = 0; i < 2; ++i)
            outs_[i] = jack_port_register(client_, i == 0 ? "left" : "right", JACK_DEFAULT_AUDIO_TYPE,
                                          JackPortIsOutput, 0);
        late_.resize(static_cast<std::size_t>(nature.late) + 1);
        controls_.fill(127);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) { return static_cast<JackSynth*>(self)->process(frames); },
            this);
        jack_activate(client_);
    }
    ~JackSynth() { jack_client_close(client_); }
    void hear(const std::string& output) {
        QCOMPARE(jack_connect(client_, output.c_str(), "known-synth:in"), 0);
    }
    /// Connects itself to the program's port of a name, once that is there.
    bool canHear(const std::string& port) {
        const char** found =
            jack_get_ports(client_, (".*:" + port).c_str(), JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput);
        const bool there = found != nullptr && found[0] != nullptr;
        if (there) jack_connect(client_, found[0], "known-synth:in");
        jack_free(found);
        return there;
    }
    static io::HeardFrom outputs() { return {"known-synth:left", "known-synth:right"}; }

 private:
    int process(jack_nframes_t frames) {
        auto* left = static_cast<float*>(jack_port_get_buffer(outs_[0], frames));
        auto* right = static_cast<float*>(jack_port_get_buffer(outs_[1], frames));
        void* midi = jack_port_get_buffer(in_, frames);
        const jack_nframes_t count = jack_midi_get_event_count(midi);
        jack_nframes_t next = 0;
        for (jack_nframes_t i = 0; i < frames; ++i) {
            jack_midi_event_t event;
            while (next < count && jack_midi_event_get(&event, midi, next) == 0 && event.time <= i) {
                take({event.buffer, event.size});
                ++next;
            }
            left[i] = right[i] = delayed(sound());
        }
        return 0;
    }
    void take(midi::Bytes bytes) {
        if (bytes.size() < 3) return;
        if (midi::kindOf(bytes) == midi::controlChange) controls_[bytes[1]] = bytes[2];
        if (midi::isNoteOn(bytes)) ++down_;
        if (midi::isNoteOff(bytes)) --down_;
        begun_ = true;
    }
    float sound() {
        if (begun_) ++frame_;
        const double seconds = static_cast<double>(frame_) / 48000;
        const double level =
            nature_.loudest + KnownSynth::attenuation(controls_[7]) + KnownSynth::attenuation(controls_[11]);
        const bool sounds = down_ > 0 && !nature_.silent && level > -150 && seconds < nature_.until;
        const double soon = 1 - std::exp(-1 / (0.0003 * 48000));
        amplitude_ += ((sounds ? std::pow(10, level / 20) : 0) - amplitude_) * soon;
        const double sample = amplitude_ * std::sin(2 * std::numbers::pi * 997 * seconds);
        return static_cast<float>(nature_.clips ? std::clamp(sample, -1.0, 1.0) : sample);
    }
    float delayed(float now) {
        late_[at_] = now;
        at_ = (at_ + 1) % late_.size();
        return late_[at_];
    }

    Nature nature_;
    jack_client_t* client_;
    jack_port_t* in_;
    std::array<jack_port_t*, 2> outs_{};
    std::array<int, 128> controls_{};
    std::vector<float> late_;
    std::size_t at_ = 0;
    int down_ = 0;
    bool begun_ = false;
    std::uint64_t frame_ = 0;
    double amplitude_ = 0;
};

}  // namespace mellow::test
