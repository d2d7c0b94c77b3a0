// PipeWire and PulseAudio have sockets in the folder for what runs (XDG base directories), ALSA has devices.
#include "io/sound/sound_systems.h"

#include <algorithm>
#include <cstdlib>
#include <filesystem>

namespace mellow::io {

namespace {

bool hasFile(const char* folder, std::string_view beginning) {
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
        if (entry.path().filename().string().starts_with(beginning)) return true;
    }
    return false;
}

bool hasSocket(const char* name) {
    const char* folder = std::getenv("XDG_RUNTIME_DIR");
    std::error_code error;
    return folder != nullptr && std::filesystem::exists(std::filesystem::path(folder) / name, error);
}

}  // namespace

std::string soundSystemName(std::string_view id) {
    const auto* const found = std::find_if(soundSystems.begin(), soundSystems.end(),
                                           [id](const SoundSystem& system) { return id == system.id; });
    return found == soundSystems.end() ? std::string(id) : found->name;
}

bool isThere(const SoundSystem& system) {
    const std::string_view id = system.id;
    if (id == "pipewire") return hasSocket("pipewire-0");
    if (id == "pulseaudio") return std::getenv("PULSE_SERVER") != nullptr || hasSocket("pulse/native");
    return id == "alsa" && hasFile("/dev/snd", "pcm");
}

unsigned presentSoundSystems(bool jackPlays) {
    unsigned present = 0;
    for (std::size_t each = 0; each < soundSystems.size(); ++each) {
        const bool isJack = soundSystems[each].id == jackSound;
        if (isJack ? jackPlays : isThere(soundSystems[each])) present |= 1U << each;
    }
    return present;
}

}  // namespace mellow::io
