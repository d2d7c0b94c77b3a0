// Which notes are sounding, why, and where.
//
// A note that was sent must be ended where it was sent, whatever happened in between: the instrument was
// moved to another port, muted, transposed or deleted. So the memory knows, for each input key, the places
// that its note-ons went to and how many of them no off has answered yet (signal rules, section 6, "No stuck
// notes"). A key is down from a note-on to its next off. An off goes to all of the key's places, and is held
// back only where another cause that is down sounds the same output key; a second off of a key that was
// struck twice goes there again. A note that a parameter sounds is remembered in the same way, with the
// parameter in place of the key.
//
// Everything lies in arrays that are allocated beforehand and are found by hashing, linked through their
// indices, so that a held note costs the same however many are held, and playing allocates nothing. What does
// not fit is not started, since it could not be ended, and is counted; who plays files makes room in time.
#pragma once

#include <cstddef>
#include <cstdint>
#include <utility>
#include <vector>

#include "core/engine/program/plan.h"

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

class NoteMemory {
 public:
    /// Stands for no cause and no place.
    static constexpr std::uint32_t nothing = 0xFFFFFFFF;

    /// A place that a note went to.
    struct Place {
        OutputKey output;
        std::uint32_t instrument = 0;  ///< interned
        std::uint32_t cause = nothing;
        std::uint32_t sound = nothing;
        std::uint32_t nextOfCause = nothing;
        std::uint32_t before = nothing;  ///< the one that began before it, of any cause
        std::uint32_t behind = nothing;
    };

    /// capacity: how many causes and places can be held.
    explicit NoteMemory(std::size_t capacity = 8192);

    /// A note-on goes to a place. event: the same number for all places that one note-on goes to, and another
    /// for every other. False when there is no room; the note must then not be sent.
    bool begin(const InputKey& input, std::uint64_t event, const OutputKey& output, std::uint32_t instrument);
    /// The cause with an input key, or `nothing`.
    [[nodiscard]] std::uint32_t find(const InputKey& input) const;
    /// Its key comes up.
    void lift(std::uint32_t cause);
    /// One off is answered; a cause that has had all of them is forgotten.
    void answer(std::uint32_t cause);
    /// Forgets a cause, however many offs it still expects.
    void forget(std::uint32_t cause);
    /// True while some cause that is down sounds an output key.
    [[nodiscard]] bool sounds(const Place& place) const { return sounds_[place.sound].down > 0; }

    /// Takes away the places of an output channel, as CC 120 and 123 to 127 end its notes.
    void clearChannel(PortId port, std::uint8_t channel);
    /// Forgets everything; calls each(place) once for each output key that was remembered, in the order in
    /// which they began.
    template<class Each>
    void clear(Each&& each) {
        for (std::uint32_t i = oldest_; i != nothing; i = places_[i].behind) {
            if (!std::exchange(sounds_[places_[i].sound].told, true)) each(places_[i]);
        }
        while (oldest_ != nothing) forget(places_[oldest_].cause);
    }

    /// The first place of a cause; the next is its nextOfCause.
    [[nodiscard]] std::uint32_t firstOf(std::uint32_t cause) const { return causes_[cause].first; }
    /// The place that began first; the next is the one behind it.
    [[nodiscard]] std::uint32_t oldest() const { return oldest_; }
    [[nodiscard]] const Place& place(std::uint32_t index) const { return places_[index]; }
    [[nodiscard]] const InputKey& inputOf(const Place& place) const { return causes_[place.cause].input; }
    [[nodiscard]] bool isDown(const Place& place) const { return isDown(place.cause); }
    [[nodiscard]] bool isDown(std::uint32_t cause) const { return causes_[cause].down; }
    [[nodiscard]] bool empty() const { return oldest_ == nothing; }

    /// How many notes were not started because there was no room.
    [[nodiscard]] std::uint64_t refused() const { return refused_; }
    /// Makes room for that many more places; allocates, so never while playing live.
    void makeRoom(std::size_t more);

 private:
    struct Cause {
        InputKey input;
        bool down = false;
        std::uint32_t count = 0;  ///< note-ons that no off has answered
        std::uint64_t event = 0;  ///< the last that began it, never 0
        std::uint32_t first = nothing;
        std::uint32_t nextInBucket = nothing;  ///< also links those that are free
    };
    /// An output key that some cause sounds or has sounded.
    struct Sound {
        OutputKey output;
        std::uint32_t down = 0;    ///< places whose cause is down
        std::uint32_t places = 0;  ///< places in all
        bool told = false;         ///< of, while everything is cleared
        std::uint32_t nextInBucket = nothing;
    };

    void setCapacity(std::size_t capacity);
    [[nodiscard]] bool leadsTo(const Cause& cause, const OutputKey& output, std::uint32_t instrument) const;
    std::uint32_t addCause(const InputKey& input);
    [[nodiscard]] std::uint32_t findSound(const OutputKey& output) const;
    std::uint32_t soundOf(const OutputKey& output);
    void addPlace(std::uint32_t cause, const OutputKey& output, std::uint32_t instrument);
    void removePlace(std::uint32_t place);
    void removePlacesOf(std::uint32_t cause);
    std::uint32_t& bucketOf(const InputKey& input);
    std::uint32_t& bucketOf(const OutputKey& output);
    [[nodiscard]] std::size_t bucketNumber(PortId port, std::uint8_t channel, std::uint8_t key) const;

    std::vector<Cause> causes_;
    std::vector<Place> places_;
    std::vector<Sound> sounds_;
    std::vector<std::uint32_t> causeBuckets_;  ///< as many as there are causes, a power of two
    std::vector<std::uint32_t> soundBuckets_;
    std::uint32_t freeCause_ = nothing;
    std::uint32_t freePlace_ = nothing;
    std::uint32_t freeSound_ = nothing;
    std::size_t free_ = 0;  ///< places that can still be taken
    std::uint32_t oldest_ = nothing;
    std::uint32_t newest_ = nothing;
    std::uint64_t refused_ = 0;
};

}  // namespace mellow::engine
