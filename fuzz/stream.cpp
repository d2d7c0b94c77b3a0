// The byte-stream reader: only whole messages come out, and cutting the stream into pieces changes nothing.
#include <cstdlib>
#include <vector>

#include "core/midi/stream_reader.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    std::vector<std::uint8_t> whole;
    midi::StreamReader reader(64);
    reader.read({data, size}, [&](midi::Bytes message) {
        if (!midi::isWhole(message)) std::abort();
        whole.insert(whole.end(), message.begin(), message.end());
    });
    std::vector<std::uint8_t> pieces;
    midi::StreamReader slow(64);
    for (std::size_t i = 0; i < size; ++i) {
        slow.read({data + i, 1},
                  [&](midi::Bytes message) { pieces.insert(pieces.end(), message.begin(), message.end()); });
    }
    if (whole != pieces || reader.dropped() != slow.dropped()) std::abort();
    return 0;
}
