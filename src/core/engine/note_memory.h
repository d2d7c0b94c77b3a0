// Which notes are sounding, why, and where.
//
// A note that was sent must be ended where it was sent, whatever happened in between: the instrument was
// moved to another port, muted, transposed or deleted. So the memory counts, for each input port, channel and
// key, the note-ons that went out and the place they went to. A note-off ends what that input began, and is
// sent to a place only when no other cause still holds the same key there (signal rules, section 6).
//
// The memory is a plain array of fixed size, searched from the front: hands hold a few dozen notes at most,
// and nothing is allocated while playing. When it is full, a note is not started, since it could not be
// ended.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "core/engine/plan.h"

namespace mellow::engine {

struct InputKey {
    PortId port = everyPort;
    std::uint8_t channel = 0;
    std::uint8_t key = 0;
    bool operator==(const InputKey&) const = default;
};

struct OutputKey {
    PortId port = everyPort;
    std::uint8_t channel = 0;
    std::uint8_t key = 0;
    bool operator==(const OutputKey&) const = default;
};

struct HeldNote {
    InputKey input;
    OutputKey output;
    std::uint32_t instrument = 0;  ///< interned
    std::uint32_t count = 0;
};

class NoteMemory {
 public:
    static constexpr std::size_t capacity = 4096;

    NoteMemory() { held_.reserve(capacity); }

    /// Counts one note-on. False when the memory is full; the note must then not be sent.
    bool begin(const InputKey& input, const OutputKey& output, std::uint32_t instrument);
    /// Takes one note-on back from the entry at `index`; true when nothing sounds its output key any more.
    /// An entry whose count has fallen to 0 stays until sweep().
    bool end(std::size_t index);
    /// Removes entries that nothing holds.
    void sweep();
    /// Forgets an output channel, as CC 120 and 123 to 127 end its notes.
    void clearChannel(PortId port, std::uint8_t channel);
    void clear() { held_.clear(); }

    [[nodiscard]] const std::vector<HeldNote>& held() const { return held_; }
    /// How many note-ons sound an output key.
    [[nodiscard]] std::uint32_t sounding(const OutputKey& output) const;

 private:
    std::vector<HeldNote> held_;
};

}  // namespace mellow::engine
