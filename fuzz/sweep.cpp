// The MIDI file of a sweep, that somebody may have had through another program: never a crash; what is read
// of it can be laid over a sound, however little of one there is.
#include <cstdlib>

#include "core/balance/recorded.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto known = balance::readSweep({data, size});
    if (!known) {
        if (known.problem().sentence().empty()) std::abort();
        return 0;
    }
    if (known->segments.empty()) std::abort();
    for (std::size_t i = 0; i < known->segments.size(); ++i) {
        const balance::Segment& each = known->segments[i];
        if (each.from > each.to || each.position < 0 || each.position > 1) std::abort();
        if (i > 0 && each.begins < known->segments[i - 1].to) std::abort();
    }
    balance::Sound sound;
    sound.rate = balance::lowestRate;
    sound.samples.assign(2000, 0.1F);
    (void)balance::measureRecorded(sound, *known, {});
    (void)balance::measureRecorded(sound, *known, -1000);
    return 0;
}
