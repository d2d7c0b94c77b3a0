#include "core/engine/note_memory.h"

#include <algorithm>

namespace mellow::engine {

bool NoteMemory::begin(const InputKey& input, const OutputKey& output, std::uint32_t instrument) {
    for (HeldNote& note : held_) {
        if (note.input == input && note.output == output && note.instrument == instrument) {
            ++note.count;
            return true;
        }
    }
    if (held_.size() == capacity) return false;
    held_.push_back({input, output, instrument, 1});
    return true;
}

bool NoteMemory::end(std::size_t index) {
    --held_[index].count;
    return sounding(held_[index].output) == 0;
}

void NoteMemory::sweep() {
    std::erase_if(held_, [](const HeldNote& note) { return note.count == 0; });
}

void NoteMemory::clearChannel(PortId port, std::uint8_t channel) {
    std::erase_if(held_, [&](const HeldNote& note) {
        return note.output.port == port && note.output.channel == channel;
    });
}

std::uint32_t NoteMemory::sounding(const OutputKey& output) const {
    std::uint32_t count = 0;
    for (const HeldNote& note : held_) {
        if (note.output == output) count += note.count;
    }
    return count;
}

}  // namespace mellow::engine
