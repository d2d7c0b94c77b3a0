// Takes that nobody would play: random notes and controls on a few ports, with tempo changes, cues, SysEx and
// moves of the desk.
#pragma once

#include <random>

#include "core/takes/take.h"

namespace mellow::test {

inline Take randomTake(std::uint64_t seed, int events = 300, bool longBodies = true) {
    std::mt19937_64 random(seed);
    const auto below = [&random](int end) {
        return static_cast<int>(random() % static_cast<std::uint64_t>(end));
    };
    Take take;
    take.ports = {"keys", "pedals"};
    if (longBodies) take.ports.emplace_back("desk");
    std::int64_t time = 0;
    for (int i = 0; i < events; ++i) {
        time += below(4) == 0 ? 0 : below(30000);
        const auto port = static_cast<std::uint16_t>(below(2));
        const int channel = below(3);
        switch (below(longBodies ? 9 : 7)) {
            case 0:
                take.add(time, port,
                         midi::make(midi::noteOn, channel, 60 + below(5), 1 + below(127)).bytes());
                break;
            case 1:
                take.add(time, port, midi::make(midi::noteOff, channel, 60 + below(5), below(128)).bytes());
                break;
            case 2:
                take.add(time, port, midi::makeBend(channel, below(16384)).bytes());
                break;
            case 3:
                take.add(time, port, midi::make(midi::channelPressure, channel, below(128)).bytes());
                break;
            case 7: {
                std::vector<std::uint8_t> sysex{0xF0, 0x7D};
                for (int byte = below(6); byte >= 0; --byte)
                    sysex.push_back(static_cast<std::uint8_t>(below(128)));
                sysex.push_back(0xF7);
                take.add(time, port, sysex);
                break;
            }
            case 8: {
                const std::string line =
                    text::oscLine(below(2) == 0 ? "/swell" : "/pad/x", below(1000) / 1000.0);
                take.add(time, 2, {reinterpret_cast<const std::uint8_t*>(line.data()), line.size()});
                break;
            }
            default:
                take.add(time, port,
                         midi::make(midi::controlChange, channel, 1 + 10 * below(3), below(128)).bytes());
                break;
        }
    }
    take.length = time + below(1000000);
    take.tempos.push_back({0, 40.0 + below(200)});
    if (below(2) == 0) take.tempos.push_back({time / 2, 40.0 + below(200)});
    take.marks.push_back({time / 3, smf::marker, "first hail"});
    return take;
}

}  // namespace mellow::test
