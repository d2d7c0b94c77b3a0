// The audio driver's callback takes what was queued, message by message, and renders; without a sound card a
// thread does the same at the pace of the clock, so that what is shown and measured is the same. What was
// received last is kept in atomics beside FluidSynth, since asking it would lock.
#include "io/sound/practice_rack.h"

#include <fluidsynth.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <mutex>
#include <utility>
#include <vector>

#include "io/sound/pipewire_output.h"
#include "io/sound/pipewire_sinks.h"
#include "io/sound/sound_systems.h"

namespace mellow::io {

struct PracticeRack::Synth {
    fluid_settings_t* settings = nullptr;
    fluid_synth_t* synth = nullptr;
    fluid_audio_driver_t* driver = nullptr;
    std::unique_ptr<PipeWireOutput> pipewire;
    std::unique_ptr<PipeWireSinks> sinks;  ///< of a PipeWire that had nowhere for sound to go

    ~Synth() {
        pipewire.reset();
        if (driver != nullptr) delete_fluid_audio_driver(driver);
        if (synth != nullptr) delete_fluid_synth(synth);
        if (settings != nullptr) delete_fluid_settings(settings);
    }
};

namespace {

constexpr int bendPlace = 128;
constexpr int pressurePlace = 129;
constexpr int dynamicsControl = 20;

struct Modulation {
    int control;
    int flags;
    int generator;
    double amount;
};

constexpr int rising = FLUID_MOD_CC | FLUID_MOD_LINEAR | FLUID_MOD_UNIPOLAR | FLUID_MOD_POSITIVE;
constexpr int falling = FLUID_MOD_CC | FLUID_MOD_LINEAR | FLUID_MOD_UNIPOLAR | FLUID_MOD_NEGATIVE;
constexpr int fallingConcave = FLUID_MOD_CC | FLUID_MOD_CONCAVE | FLUID_MOD_UNIPOLAR | FLUID_MOD_NEGATIVE;

// Amounts are in the generators' own units: cents of frequency, centibels, timecents.
constexpr std::array<Modulation, 8> modulations{{
    {74, falling, GEN_FILTERFC, -11959},    // 20 Hz is 11,959 cents below 20 kHz
    {71, rising, GEN_FILTERQ, 300},         // 30 dB
    {73, rising, GEN_VOLENVATTACK, 11959},  // 1 ms is −12,000 timecents, 1 s is 0
    {72, rising, GEN_VOLENVRELEASE, 7200},  // 64 times is six octaves of time
    {77, rising, GEN_VIBLFOTOPITCH, 100},   // cents
    {76, falling, GEN_VIBLFOFREQ, -2400},   // 8.176 Hz down two octaves
    {dynamicsControl, fallingConcave, GEN_ATTENUATION, 480},
    {dynamicsControl, falling, GEN_FILTERFC, -4200},
}};

/// What a sound brings along of the things that have a controller of their own is set to one start for all
/// sounds, so that a value means the same Hz, dB and ms whatever plays.
constexpr std::array<std::pair<int, float>, 7> starts{{
    {GEN_FILTERFC, 13500},      // 20 kHz
    {GEN_MODENVTOFILTERFC, 0},  // which stays where it is put
    {GEN_MODLFOTOFILTERFC, 0},
    {GEN_FILTERQ, 0},            // flat
    {GEN_VIBLFOFREQ, 0},         // 8.176 Hz
    {GEN_VIBLFODELAY, -12000},   // at once
    {GEN_VOLENVATTACK, -12000},  // 1 ms
}};

void levelNewestNote(fluid_synth_t* synth) {
    std::array<fluid_voice_t*, 256> voices{};
    fluid_synth_get_voicelist(synth, voices.data(), static_cast<int>(voices.size()), -1);
    unsigned newest = 0;
    for (fluid_voice_t* voice : voices) {
        if (voice != nullptr) newest = std::max(newest, fluid_voice_get_id(voice));
    }
    for (fluid_voice_t* voice : voices) {
        if (voice == nullptr || fluid_voice_get_id(voice) != newest) continue;
        for (const auto& [generator, start] : starts) {
            fluid_voice_gen_set(voice, generator, start);
            fluid_voice_update_param(voice, generator);
        }
    }
    // What was updated on a voice waits until the next call on the synthesizer; any will do.
    (void)fluid_synth_get_gain(synth);
}

std::string whySilent(const RackOptions& options) {
    if (!options.soundCard) return "started without sound";
    if (options.through == noSound) return "as was chosen";
    if (options.through == anySound) return "no sound card found";
    return soundSystemName(options.through) + " cannot be had";
}

}  // namespace

PracticeRack::PracticeRack() : synth_(std::make_unique<Synth>()) {
    for (Received& channel : received_) {
        for (auto& value : channel.values) value.store(-1, std::memory_order_relaxed);
        for (auto& key : channel.keys) key.store(false, std::memory_order_relaxed);
    }
}

PracticeRack::~PracticeRack() {
    leaveCard();
}

Result<std::unique_ptr<PracticeRack>> PracticeRack::open(const RackOptions& options) {
    for (const int level : {FLUID_PANIC, FLUID_ERR, FLUID_WARN, FLUID_INFO, FLUID_DBG}) {
        fluid_set_log_function(level, nullptr, nullptr);
    }
    if (::access(options.soundfont.c_str(), R_OK) != 0) {
        return Problem{"Practice rack", "the soundfont " + options.soundfont + " is missing",
                       "install the package timgm6mb-soundfont; until then the rack is silent"};
    }
    std::unique_ptr<PracticeRack> rack(new PracticeRack());
    Synth& synth = *rack->synth_;
    rack->options_ = options;
    synth.settings = new_fluid_settings();
    fluid_settings_setnum(synth.settings, "synth.sample-rate", options.sampleRate);
    fluid_settings_setint(synth.settings, "synth.chorus.active", 0);
    fluid_settings_setnum(synth.settings, "synth.gain", 0.6);
    // A control change is offered to every voice there could be, so there are no more than hands can use.
    fluid_settings_setint(synth.settings, "synth.polyphony", 96);
    {
        // FluidSynth makes tables that all share with its first synthesizer, and while it does no other must
        // be made.
        static std::mutex first;
        const std::scoped_lock lock(first);
        synth.synth = new_fluid_synth(synth.settings);
    }
    if (synth.synth == nullptr)
        return Problem{"Practice rack", "the synthesizer does not start", "reinstall libfluidsynth3"};
    if (fluid_synth_sfload(synth.synth, options.soundfont.c_str(), 1) == FLUID_FAILED) {
        return Problem{"Practice rack", options.soundfont + " is no soundfont",
                       "reinstall the package timgm6mb-soundfont"};
    }
    rack->addModulators();
    rack->restControls();
    rack->hearThrough(options.through);
    return rack;
}

void PracticeRack::addModulators() {
    for (const Modulation& modulation : modulations) {
        fluid_mod_t* mod = new_fluid_mod();
        fluid_mod_set_source1(mod, modulation.control, modulation.flags);
        fluid_mod_set_source2(mod, 0, 0);
        fluid_mod_set_dest(mod, modulation.generator);
        fluid_mod_set_amount(mod, modulation.amount);
        fluid_synth_add_default_mod(synth_->synth, mod, FLUID_SYNTH_ADD);
        delete_fluid_mod(mod);
    }
}

void PracticeRack::restControls() {
    for (int channel = 0; channel < 16; ++channel) {
        for (const auto& [control, value] :
             {std::pair{74, 127}, {71, 0}, {73, 0}, {72, 0}, {77, 0}, {76, 84}, {dynamicsControl, 127}}) {
            fluid_synth_cc(synth_->synth, channel, control, value);
        }
    }
}

void PracticeRack::setSound(int channel, int program) {
    if (channel == 9) return;
    fluid_synth_program_change(synth_->synth, channel, std::clamp(program, 0, 127));
}

bool PracticeRack::push(const midi::Short& message) {
    if (message.size == 0 || !midi::isChannelStatus(message.data[0])) return true;
    note(message);
    return queue_.push(message);
}

void PracticeRack::note(const midi::Short& message) {
    const midi::Bytes bytes = message.bytes();
    Received& channel = received_[static_cast<std::size_t>(midi::channelOf(bytes))];
    const auto setKey = [&channel](std::size_t key, bool down) {
        if (channel.keys[key].exchange(down, std::memory_order_relaxed) == down) return;
        channel.sounding.fetch_add(down ? 1 : -1, std::memory_order_relaxed);
    };
    switch (midi::kindOf(bytes)) {
        case midi::noteOn:
        case midi::noteOff:
            setKey(bytes[1], midi::isNoteOn(bytes));
            break;
        case midi::controlChange:
            channel.values[bytes[1]].store(bytes[2], std::memory_order_relaxed);
            if (midi::clearsNotes(bytes[1])) {
                for (std::size_t key = 0; key < 128; ++key) setKey(key, false);
            }
            break;
        case midi::pitchBend:
            channel.values[bendPlace].store(midi::bendOf(bytes), std::memory_order_relaxed);
            break;
        case midi::channelPressure:
            channel.values[pressurePlace].store(bytes[1], std::memory_order_relaxed);
            break;
        default:
            break;
    }
}

void PracticeRack::takeQueued() {
    const auto play = [this](const midi::Short& message) { sound(message); };
    for (midi::Short message; queue_.pop(message);) latest_.take(message, play);
    latest_.handOver(play);
}

void PracticeRack::sound(const midi::Short& message) {
    fluid_synth_t* synth = synth_->synth;
    const midi::Bytes bytes = message.bytes();
    const int channel = midi::channelOf(bytes);
    switch (midi::kindOf(bytes)) {
        case midi::noteOff:
            fluid_synth_noteoff(synth, channel, bytes[1]);
            break;
        case midi::noteOn:
            if (fluid_synth_noteon(synth, channel, bytes[1], bytes[2]) == FLUID_OK && bytes[2] > 0)
                levelNewestNote(synth);
            break;
        case midi::keyPressure:
            fluid_synth_key_pressure(synth, channel, bytes[1], bytes[2]);
            break;
        case midi::controlChange:
            fluid_synth_cc(synth, channel, bytes[1], bytes[2]);
            break;
        case midi::programChange:
            fluid_synth_program_change(synth, channel, bytes[1]);
            break;
        case midi::channelPressure:
            fluid_synth_channel_pressure(synth, channel, bytes[1]);
            break;
        case midi::pitchBend:
            fluid_synth_pitch_bend(synth, channel, midi::bendOf(bytes));
            break;
        default:
            break;
    }
}

void PracticeRack::render(float* left, float* right, int frames) {
    std::fill_n(left, frames, 0.0F);
    std::fill_n(right, frames, 0.0F);
    std::array<float*, 2> outputs{left, right};
    fill(this, frames, 0, nullptr, 2, outputs.data());
}

int PracticeRack::fill(void* self, int frames, int effects, float* effectBuffers[], int outputs,
                       float* outputBuffers[]) {
    auto* rack = static_cast<PracticeRack*>(self);
    rack->takeQueued();
    // Without effect buffers of its own, the synthesizer mixes reverb into the outputs.
    std::array<float*, 2> mixed{outputBuffers[0], outputBuffers[1]};
    const bool mixes = effectBuffers == nullptr || effects == 0;
    const int result = fluid_synth_process(rack->synth_->synth, frames, mixes ? 2 : effects,
                                           mixes ? mixed.data() : effectBuffers, outputs, outputBuffers);
    const auto count = static_cast<std::size_t>(frames);
    rack->frames_.give({outputBuffers[0], count}, {outputBuffers[1], count});
    return result;
}

void PracticeRack::hearThrough(const std::string& through) {
    leaveCard();
    {
        const std::lock_guard lock(saying_);
        options_.through = through;
    }
    if (options_.soundCard && through != noSound) openCard();
    if (audible() || !options_.ownThread) return;
    stopping_.store(false, std::memory_order_release);
    silent_ = std::thread([this] { runSilently(); });
}

void PracticeRack::beRendered(const std::string& system, double sampleRate) {
    leaveCard();
    if (sampleRate != options_.sampleRate) {
        // It is called deprecated for what it costs while something sounds; nothing renders now.
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wdeprecated-declarations"
        fluid_synth_set_sample_rate(synth_->synth, static_cast<float>(sampleRate));
#pragma GCC diagnostic pop
        fluid_settings_setnum(synth_->settings, "synth.sample-rate", sampleRate);
        options_.sampleRate = sampleRate;
    }
    const std::lock_guard lock(saying_);
    card_ = system;
}

void PracticeRack::leaveCard() {
    stopping_.store(true, std::memory_order_release);
    if (silent_.joinable()) silent_.join();
    if (synth_->driver != nullptr) delete_fluid_audio_driver(std::exchange(synth_->driver, nullptr));
    std::unique_ptr<PipeWireOutput> gone;
    std::unique_ptr<PipeWireSinks> watched;
    const std::lock_guard lock(saying_);
    gone.swap(synth_->pipewire);
    watched.swap(synth_->sinks);
    card_.clear();
}

/// Of its own drivers only those whose systems are there are asked, which keeps the libraries of the others
/// from complaining. Into JACK somebody else renders.
void PracticeRack::openCard() {
    for (const SoundSystem& system : soundSystems) {
        const bool wished = options_.through == system.id || options_.through == anySound;
        if (!wished || system.id == jackSound || !isThere(system)) continue;
        std::unique_ptr<PipeWireOutput> pipewire;
        if (system.id == pipeWireSound) {
            auto opened = PipeWireOutput::open(*this, static_cast<int>(options_.sampleRate));
            if (!opened) {
                watchSinks();
                continue;
            }
            pipewire = std::move(*opened);
        } else {
            fluid_settings_setstr(synth_->settings, "audio.driver", system.id);
            synth_->driver = new_fluid_audio_driver2(synth_->settings, fill, this);
            if (synth_->driver == nullptr) continue;
        }
        std::unique_ptr<PipeWireSinks> watched;
        const std::lock_guard lock(saying_);
        watched.swap(synth_->sinks);
        synth_->pipewire = std::move(pipewire);
        card_ = system.id;
        return;
    }
}

void PracticeRack::watchSinks() {
    auto watch = PipeWireSinks::watch();
    const std::lock_guard lock(saying_);
    synth_->sinks = std::move(watch);
}

/// Without a card, time still passes for the voices: twenty milliseconds at a time, and not at all while
/// nothing sounds.
void PracticeRack::runSilently() {
    constexpr auto block = std::chrono::milliseconds(20);
    const int frames = static_cast<int>(options_.sampleRate * 0.02);
    std::vector<float> left(static_cast<std::size_t>(frames));
    std::vector<float> right(static_cast<std::size_t>(frames));
    while (!stopping_.load(std::memory_order_acquire)) {
        takeQueued();
        if (fluid_synth_get_active_voice_count(synth_->synth) > 0) render(left.data(), right.data(), frames);
        std::this_thread::sleep_for(block);
    }
}

int PracticeRack::receivedControl(int channel, int control) const {
    return received_[static_cast<std::size_t>(channel)].values[static_cast<std::size_t>(control)].load(
        std::memory_order_relaxed);
}
int PracticeRack::receivedBend(int channel) const {
    return receivedControl(channel, bendPlace);
}
int PracticeRack::receivedPressure(int channel) const {
    return receivedControl(channel, pressurePlace);
}
int PracticeRack::sounding(int channel) const {
    return received_[static_cast<std::size_t>(channel)].sounding.load(std::memory_order_relaxed);
}

std::string PracticeRack::heardThrough() const {
    const bool lost = hasLostSound();
    const std::lock_guard lock(saying_);
    return lost ? std::string() : card_;
}

bool PracticeRack::hasLostSound() const {
    const std::lock_guard lock(saying_);
    return synth_->pipewire != nullptr && !synth_->pipewire->alive();
}

bool PracticeRack::couldBeHeard() const {
    const std::lock_guard lock(saying_);
    return card_.empty() && synth_->sinks != nullptr && synth_->sinks->isAny();
}

std::string PracticeRack::status() const {
    const std::string heard = heardThrough();
    if (!heard.empty()) return "Practice rack: heard through " + soundSystemName(heard);
    const std::lock_guard lock(saying_);
    const bool waits = synth_->sinks != nullptr;
    return "Practice rack: silent, " +
           (waits ? "PipeWire has nowhere for sound to go yet" : whySilent(options_));
}

}  // namespace mellow::io
