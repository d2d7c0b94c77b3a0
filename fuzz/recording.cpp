// The log of a recording: whatever is in one, reading it never crashes, and what was read becomes takes that
// can be written and read again.
#include <cstdlib>
#include <string_view>

#include "core/takes/recording.h"
#include "core/takes/take_file.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto read = recording_log::read({reinterpret_cast<const char*>(data), size});
    if (!read || read->heard.ports.size() > 1000) return 0;
    const Take take = takeOf(*read);
    const Take over = overdubbed(take, *read, 0, take.length);
    for (const Take* each : {&take, &over}) {
        for (std::size_t i = 1; i < each->events.size(); ++i) {
            if (each->events[i].time < each->events[i - 1].time) std::abort();
        }
        const auto bytes = printTake(*each);
        if (bytes && !readTake(*bytes, {})) std::abort();
    }
    return 0;
}
