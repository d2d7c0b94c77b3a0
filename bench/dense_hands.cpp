// Writes a MIDI file of busy hands, for measuring the window under load: a thousand messages a second, spread
// over every control that the demo ensemble listens to, for as long as asked.
#include <array>
#include <cstdio>
#include <cstdlib>

#include "core/files/files.h"
#include "core/midi/message.h"
#include "core/smf/write.h"

int main(int argc, char** argv) {
    using namespace mellow;
    if (argc != 3) {
        std::fprintf(stderr, "usage: bench-dense-hands FILE SECONDS\n");
        return 2;
    }
    smf::File file;
    file.division = {500, 0, 0};  // at 120 quarter notes a minute, a tick is a millisecond
    file.tracks.resize(1);
    const long ticks = std::strtol(argv[2], nullptr, 10) * 1000;
    constexpr std::array<int, 6> controls{1, 2, 11, 64, 66, 67};
    for (long tick = 0; tick < ticks; ++tick) {
        const long sweep = tick / 4 % 254;
        const int value = static_cast<int>(sweep < 127 ? sweep : 254 - sweep);
        const auto which = static_cast<std::size_t>(tick % 8);
        const midi::Short message = which < controls.size()
                                        ? midi::make(midi::controlChange, 0, controls[which], value)
                                    : which == 6 ? midi::make(midi::channelPressure, 0, value)
                                                 : midi::makeBend(0, value * 129);
        file.add(file.tracks[0], static_cast<std::uint64_t>(tick), smf::EventKind::channel, message.bytes());
    }
    const auto saved = files::writeFile(argv[1], *smf::write(file));
    if (saved) return 0;
    std::fprintf(stderr, "%s\n", saved.problem().sentence().c_str());
    return 1;
}
