// PipeWire and PulseAudio have sockets in the folder for what runs (XDG base directories), JACK has shared
// memory, ALSA has devices.
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

bool hasJack(const std::string& server) {
    const char* const wished = std::getenv("JACK_DEFAULT_SERVER");
    const std::string usual = wished == nullptr ? "default" : wished;
    return hasFile("/dev/shm", "jack_" + (server.empty() ? usual : server) + "_");
}

}  // namespace

std::string soundSystemName(std::string_view id) {
    const auto* const found = std::find_if(soundSystems.begin(), soundSystems.end(),
                                           [id](const SoundSystem& system) { return id == system.id; });
    return found == soundSystems.end() ? std::string(id) : found->name;
}

bool isThere(const SoundSystem& system, const std::string& server) {
    const std::string_view id = system.id;
    if (id == "pipewire") return hasSocket("pipewire-0");
    if (id == "pulseaudio") return std::getenv("PULSE_SERVER") != nullptr || hasSocket("pulse/native");
    if (id == "jack") return hasJack(server);
    return hasFile("/dev/snd", "pcm");
}

unsigned presentSoundSystems(const std::string& server) {
    unsigned present = 0;
    for (std::size_t each = 0; each < soundSystems.size(); ++each) {
        if (isThere(soundSystems[each], server)) present |= 1U << each;
    }
    return present;
}

}  // namespace mellow::io
