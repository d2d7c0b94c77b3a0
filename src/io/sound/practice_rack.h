// The practice rack: a real synthesizer in place of the instruments, so that chains can be heard, seen and
// measured without any hardware.
//
// One FluidSynth with a General MIDI soundfont, a channel an instrument. The soundfont standard leaves most
// controllers silent, so the rack adds modulators (SoundFont 2.04, section 8.2) that make the common ones do
// audibly what their names say, from one start for all sounds, in units that can be stated:
//
//   CC 74 tone            low-pass cutoff, 20 Hz to 20 kHz, exponential; 127 at rest
//   CC 71 resonance       0 to 30 dB at the cutoff; 0 at rest
//   CC 73 attack          1 ms to 1 s, exponential; 0 at rest; heard on the next note
//   CC 72 release         up to 64 times the sound's own release, exponential; 0 at rest
//   CC 77 vibrato depth   0 to 100 cents; 0 at rest
//   CC 76 vibrato rate    2 to 8.2 Hz, exponential; about 5 Hz at rest
//   CC 20 dynamics        soft and dull to loud and bright; 127 at rest
//
// The playing side pushes messages into a ring; whoever renders (the sound card's thread, or the rack's own
// when there is no card) empties it first. What each channel has received is kept as plain numbers for the
// window.
#pragma once

#include <array>
#include <atomic>
#include <memory>
#include <mutex>
#include <string>
#include <thread>

#include "core/midi/message.h"
#include "core/result.h"
#include "io/playing/spsc_ring.h"
#include "io/sound/frame_source.h"
#include "io/sound/latest_values.h"
#include "io/sound/sound_maker.h"

namespace mellow::io {

struct RackOptions {
    std::string soundfont = "/usr/share/sounds/sf2/TimGM6mb.sf2";
    bool soundCard = true;     ///< try to be heard
    std::string through = {};  ///< by which of soundSystems; anySound: the best that is there; noSound: none
    bool ownThread =
        true;  ///< without a card, render into nothing in real time; false: only render() renders
    double sampleRate = 44100;
};

class PracticeRack : public SoundMaker {
 public:
    /// Error: the soundfont is missing or unreadable, or the synthesizer does not start.
    static Result<std::unique_ptr<PracticeRack>> open(const RackOptions& options = {});
    ~PracticeRack() override;
    PracticeRack(const PracticeRack&) = delete;
    PracticeRack& operator=(const PracticeRack&) = delete;

    /// Playing side: takes a channel message. False when the ring is full; the message is then dropped.
    bool push(const midi::Short& message);

    /// Chooses the sound of a channel (0..15) by its General MIDI program (0..127). Channel 9 plays drums.
    void setSound(int channel, int program);

    /// Renders the next frames; for tests and files, with neither card nor thread.
    void render(float* left, float* right, int frames) override;

    /// What it makes sound like, as it is made: for meters, files and taps.
    [[nodiscard]] FrameSource& frames() { return frames_; }

    /// The newest value of a control on a channel, or −1 before any.
    [[nodiscard]] int receivedControl(int channel, int control) const;
    [[nodiscard]] int receivedBend(int channel) const;
    [[nodiscard]] int receivedPressure(int channel) const;
    /// Keys sounding on a channel.
    [[nodiscard]] int sounding(int channel) const;

    /// Is heard through another of soundSystems, or the best, or none, from now on. Takes as long as the
    /// system does to open; who calls it must not render meanwhile, nor call it twice at a time.
    void hearThrough(const std::string& through);
    /// Whoever calls it renders from now on, at a rate, and is heard through a system.
    void beRendered(const std::string& system, double sampleRate);
    /// The system by which it is heard, by its id; empty: by none.
    [[nodiscard]] std::string heardThrough() const;
    [[nodiscard]] bool audible() const { return !heardThrough().empty(); }
    /// It was heard through a system that has ended; hearThrough() tries again.
    [[nodiscard]] bool hasLostSound() const;
    /// It is silent since PipeWire had nowhere for sound to go, and now there is somewhere; hearThrough()
    /// tries again.
    [[nodiscard]] bool couldBeHeard() const;
    /// One line for people.
    [[nodiscard]] std::string status() const;

 private:
    struct Synth;
    struct Received {
        std::array<std::atomic<int>, 130> values;  ///< controls, bend, pressure
        std::array<std::atomic<bool>, 128> keys;
        std::atomic<int> sounding{0};
    };

    PracticeRack();
    void addModulators();
    void restControls();
    void note(const midi::Short& message);
    void takeQueued();
    void sound(const midi::Short& message);
    void openCard();
    void leaveCard();
    void watchSinks();
    void runSilently();
    static int fill(void* self, int frames, int effects, float* effectBuffers[], int outputs,
                    float* outputBuffers[]);

    std::unique_ptr<Synth> synth_;
    SpscRing<midi::Short> queue_{8192};
    LatestValues latest_;  ///< of whoever renders
    std::array<Received, 16> received_;
    FrameSource frames_;
    std::thread silent_;
    std::atomic<bool> stopping_{false};
    RackOptions options_;        ///< `through` is guarded by saying_
    std::string card_;           ///< the system by which it is heard; guarded by saying_
    mutable std::mutex saying_;  ///< never taken where it renders
};

/// The 128 sounds by their General MIDI numbers. Source: General MIDI System Level 1, table 2.
const std::array<const char*, 128>& soundNames();

}  // namespace mellow::io
