#include "core/balance/meter.h"

#include <ebur128.h>
#include <kiss_fftr.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <numbers>

namespace mellow::balance {

namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();
constexpr std::size_t window = 4096;
/// A note that loses this much between the first and the last quarter of what is held dies away.
constexpr double deathly = 6;  // dB

struct CloseState {
    void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};
using State = std::unique_ptr<ebur128_state, CloseState>;

struct Stretch {
    std::int64_t from;
    std::int64_t to;
    [[nodiscard]] std::int64_t size() const { return to - from; }
};

Stretch within(const Sound& sound, std::int64_t from, std::int64_t to) {
    const std::int64_t first = std::clamp<std::int64_t>(from, 0, sound.frames());
    return {first, std::clamp<std::int64_t>(to, first, sound.frames())};
}

const float* at(const Sound& sound, std::int64_t frame) {
    return sound.samples.data() + frame * sound.channels;
}

double decibels(double amplitude) {
    constexpr double perDecade = 20;
    return amplitude > 0 ? perDecade * std::log10(amplitude) : -infinity;
}

State fed(const Sound& sound, Stretch what, int mode) {
    State state(
        ebur128_init(static_cast<unsigned>(sound.channels), static_cast<unsigned long>(sound.rate), mode));
    if (state && what.size() > 0)
        ebur128_add_frames_float(state.get(), at(sound, what.from), static_cast<std::size_t>(what.size()));
    return state;
}

std::optional<double> integrated(const Sound& sound, Stretch what) {
    const State state = fed(sound, what, EBUR128_MODE_I);
    double lufs = -infinity;
    if (!state || ebur128_loudness_global(state.get(), &lufs) != EBUR128_SUCCESS || !std::isfinite(lufs))
        return std::nullopt;
    return lufs;
}

double truePeak(const Sound& sound, Stretch what) {
    const State state = fed(sound, what, EBUR128_MODE_TRUE_PEAK);
    double highest = 0;
    for (int channel = 0; state && channel < sound.channels; ++channel) {
        double peak = 0;
        if (ebur128_true_peak(state.get(), static_cast<unsigned>(channel), &peak) == EBUR128_SUCCESS)
            highest = std::max(highest, peak);
    }
    return decibels(highest);
}

double meanSquare(const Sound& sound, Stretch what) {
    double sum = 0;
    const float* const end = at(sound, what.to);
    for (const float* sample = at(sound, what.from); sample != end; ++sample)
        sum += static_cast<double>(*sample) * static_cast<double>(*sample);
    return what.size() > 0 ? sum / static_cast<double>(what.size()) : 0;
}

bool diesAway(const Sound& sound, Stretch held) {
    const std::int64_t quarter = held.size() / 4;
    const double first = meanSquare(sound, {held.from, held.from + quarter});
    const double last = meanSquare(sound, {held.to - quarter, held.to});
    constexpr double perDecade = 10;
    return first > 0 && last < first * std::pow(10, -deathly / perDecade);
}

struct CloseFft {
    void operator()(kiss_fftr_state* plan) const { kiss_fftr_free(plan); }
};

/// The centroid of one window, Hz, and how much energy it has.
struct Brightness {
    double centroid = 0;
    double energy = 0;
};

class Spectrum {
 public:
    Spectrum() : plan_(kiss_fftr_alloc(static_cast<int>(window), 0, nullptr, nullptr)) {
        for (std::size_t i = 0; i < window; ++i) {
            const double turn = 2 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(window);
            shape_[i] = static_cast<float>(0.5 - 0.5 * std::cos(turn));
        }
    }
    Brightness of(const Sound& sound, std::int64_t first) {
        const float* sample = at(sound, first);
        for (std::size_t i = 0; i < window; ++i) {
            float sum = 0;
            for (int channel = 0; channel < sound.channels; ++channel) sum += *sample++;
            in_[i] = sum * shape_[i];
        }
        kiss_fftr(plan_.get(), in_.data(), out_.data());
        Brightness found;
        double weights = 0;
        for (std::size_t bin = 1; bin < out_.size(); ++bin) {
            const double amplitude = std::hypot(out_[bin].r, out_[bin].i);
            const double frequency = static_cast<double>(bin) * sound.rate / static_cast<double>(window);
            found.centroid += frequency * amplitude;
            weights += amplitude;
            found.energy += amplitude * amplitude;
        }
        found.centroid = weights > 0 ? found.centroid / weights : 0;
        return found;
    }

 private:
    std::unique_ptr<kiss_fftr_state, CloseFft> plan_;
    std::array<float, window> shape_{};
    std::array<float, window> in_{};
    std::array<kiss_fft_cpx, window / 2 + 1> out_{};
};

double centroidOf(const Sound& sound, Stretch held) {
    // Large, and a plan of its own: one for each thread that measures.
    thread_local Spectrum spectrum;
    double sum = 0;
    double energy = 0;
    for (std::int64_t first = held.from; first + static_cast<std::int64_t>(window) <= held.to;
         first += static_cast<std::int64_t>(window)) {
        const Brightness found = spectrum.of(sound, first);
        sum += found.centroid * found.energy;
        energy += found.energy;
    }
    constexpr double nothing = 1e-9;
    return energy > nothing ? sum / energy : 0;
}

}  // namespace

std::int64_t Sound::frameAt(std::int64_t time) const {
    constexpr double second = 1e6;
    return static_cast<std::int64_t>(std::llround(static_cast<double>(time) * rate / second));
}

Heard measure(const Sound& sound, std::int64_t begins, std::int64_t from, std::int64_t to) {
    Heard heard;
    const Stretch held = within(sound, from, to);
    heard.loudness = integrated(sound, held);
    heard.peak = truePeak(sound, within(sound, begins, to));
    heard.centroid = centroidOf(sound, held);
    heard.dies = diesAway(sound, held);
    return heard;
}

Loudness loudnessOf(const Sound& sound, std::int64_t from, std::int64_t to) {
    const Stretch what = within(sound, from, to);
    return {integrated(sound, what), truePeak(sound, what)};
}

}  // namespace mellow::balance
