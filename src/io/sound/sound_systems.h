// The systems through which the practice rack can be heard on a Linux machine, and which of them are there.
//
// Whether one is there is seen by what it leaves on the machine (a socket, shared memory, a device), since
// asking its library could start a server, or wait for one. That is a good guess and no promise: who opens
// one may still be refused.
#pragma once

#include <array>
#include <string>
#include <string_view>

namespace mellow::io {

struct SoundSystem {
    const char* id;    ///< as the machine's table and FluidSynth's drivers have it
    const char* name;  ///< as people call it
};

/// The best first: who runs a JACK server wants to be heard by it, and may have given it the only card.
inline constexpr std::array<SoundSystem, 4> soundSystems{
    {{"jack", "JACK"}, {"pipewire", "PipeWire"}, {"pulseaudio", "PulseAudio"}, {"alsa", "ALSA"}}};

/// The one that is had by the program's own client of JACK (io/ports/jack_outputs.h), which is there while
/// that plays.
inline constexpr std::string_view jackSound = "jack";
/// The one that is played into by its own protocol (io/sound/pipewire_output.h).
inline constexpr std::string_view pipeWireSound = "pipewire";

/// What may be chosen beside them: the best that is there, or none.
inline constexpr std::string_view anySound{};
inline constexpr std::string_view noSound = "none";

/// Of a system as people call it; of an id that is none, the id.
std::string soundSystemName(std::string_view id);
/// Never true of JACK, which is not asked here.
bool isThere(const SoundSystem& system);

/// A bit for each of soundSystems that is there, JACK's as is said.
unsigned presentSoundSystems(bool jackPlays);
/// Whether a system is among those; never where the id is that of none.
constexpr bool isAmong(unsigned present, std::string_view id) {
    for (std::size_t each = 0; each < soundSystems.size(); ++each) {
        if (soundSystems[each].id == id) return (present >> each & 1U) != 0;
    }
    return false;
}

}  // namespace mellow::io
