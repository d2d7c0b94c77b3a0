// A synthesizer whose loudness is a known function of what it is sent.
//
// It sounds a sine of 997 Hz on both channels, which at full scale is 0 LUFS (ITU-R BS.1770: −3.01 LKFS in
// one channel), so what is measured can be told beforehand.
#pragma once

#include <array>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>

#include "core/balance/curve.h"
#include "core/engine/compiling/compile.h"
#include "core/takes/playback.h"

namespace mellow::test {

struct KnownSynth {
    struct Heard {
        std::array<int, 128> controls{};
        int key = 60;
        int velocity = 90;
    };

    /// dB of full scale; below −150 is silence.
    std::function<double(const Heard&)> level;
    int rate = 24000;
    int channels = 2;
    double fall = 0;   ///< dB a second
    double delay = 0;  ///< s before anything is heard
    double tail = 1;   ///< s behind the end

    KnownSynth() { start.controls.fill(127); }
    Heard start;

    /// The attenuation of a control as General MIDI has it, dB: 40·log(v/127).
    static double attenuation(int value) { return value > 0 ? 40 * std::log10(value / 127.0) : -200; }

    [[nodiscard]] balance::Sound play(const balance::Sweep& sweep) const {
        Rendering rendering(*this);
        const auto program = engine::compile(sweep.ensemble);
        Playback playback(*program, sweep.take);
        auto hear = [&](const engine::Output& out) { rendering.hear(out); };
        const engine::Sink sink = engine::sinkTo(hear);
        playback.playUntil(sweep.take.length, sink);
        rendering.until(static_cast<double>(sweep.take.length) / 1e6 + tail);
        return std::move(rendering.sound);
    }

    /// Measures as balance::Measure wants it.
    [[nodiscard]] Result<balance::Curve> measure(const Ensemble& ensemble,
                                                 const balance::SweepPlan& plan) const {
        const auto sweep = balance::sweepOf(ensemble, plan);
        if (!sweep) return sweep.problem();
        const balance::Sound sound = play(*sweep);
        auto curve = balance::curveOf(sweep->segments, balance::isKeys(plan.motion), sound, sound.frameAt(0));
        curve.moved = printMotion(plan.motion);
        return curve;
    }

 private:
    struct Rendering {
        explicit Rendering(const KnownSynth& known) : synth(known), heard(known.start) {
            sound.rate = synth.rate;
            sound.channels = synth.channels;
            sound.samples.resize(at(synth.delay) * static_cast<std::size_t>(synth.channels));
        }
        [[nodiscard]] std::size_t at(double seconds) const {
            return static_cast<std::size_t>(std::llround(std::max(0.0, seconds) * synth.rate));
        }
        void hear(const engine::Output& out) {
            until(static_cast<double>(out.time) / 1e6);
            if (out.bytes.size() < 2) return;
            const auto kind = midi::kindOf(out.bytes);
            if (kind == midi::controlChange) heard.controls[out.bytes[1]] = out.bytes[2];
            if (midi::isNoteOff(out.bytes)) {
                struck.erase(out.bytes[1]);
            } else if (kind == midi::noteOn) {
                heard.key = out.bytes[1];
                heard.velocity = out.bytes[2];
                struck[heard.key] = frame;
            }
        }
        void until(double seconds) {
            const std::size_t end = at(seconds);
            const double loud = struck.empty() ? -200 : synth.level(heard);
            for (; frame < end; ++frame) {
                double amplitude = 0;
                if (loud > -150) {
                    const double age =
                        static_cast<double>(frame - struck.begin()->second) / static_cast<double>(synth.rate);
                    amplitude = std::pow(10, (loud - synth.fall * age) / 20);
                }
                // A sine that is cut off is louder for a moment than it is.
                const double soon = 1 - std::exp(-1 / (0.0003 * synth.rate));
                sounding += (amplitude - sounding) * soon;
                const double turn = 2 * std::numbers::pi * 997 * static_cast<double>(frame) / synth.rate;
                for (int channel = 0; channel < synth.channels; ++channel)
                    sound.samples.push_back(static_cast<float>(sounding * std::sin(turn)));
            }
        }
        const KnownSynth& synth;
        Heard heard;
        std::map<int, std::size_t> struck;
        std::size_t frame = 0;
        double sounding = 0;
        balance::Sound sound;
    };
};

}  // namespace mellow::test
