// Three arrays (causes, places, sounds) whose unused elements are chained into free lists, and two tables of
// buckets. A place is in three lists at once: its cause's, the age of all places, and, by a counter, its
// sound's. As there are as many causes and sounds as places, only places can run out, and they are counted
// before anything is changed.
#include "core/engine/playing/note_memory.h"

#include <algorithm>
#include <bit>
#include <utility>

namespace mellow::engine {

namespace {

/// Takes the first of a list of unused elements, linked by `link`.
template<class List, class Link>
std::uint32_t takeFree(List& list, std::uint32_t& first, Link&& link) {
    const std::uint32_t taken = first;
    first = link(list[taken]);
    list[taken] = {};
    return taken;
}

/// Takes an element out of the bucket in which it is chained.
template<class List>
void unchain(List& list, std::uint32_t& bucket, std::uint32_t element) {
    std::uint32_t* link = &bucket;
    while (*link != element) link = &list[*link].nextInBucket;
    *link = list[element].nextInBucket;
}

}  // namespace

NoteMemory::NoteMemory(std::size_t capacity) {
    setCapacity(capacity);
}

void NoteMemory::setCapacity(std::size_t capacity) {
    const std::size_t before = places_.size();
    const std::size_t size = std::bit_ceil(capacity);
    causes_.resize(size);
    places_.resize(size);
    sounds_.resize(size);
    // The buckets are as many as the elements, so what is there is chained anew.
    causeBuckets_.assign(size, nothing);
    soundBuckets_.assign(size, nothing);
    for (std::uint32_t place = oldest_; place != nothing; place = places_[place].behind) {
        const std::uint32_t cause = places_[place].cause;
        const std::uint32_t sound = places_[place].sound;
        if (find(causes_[cause].input) == nothing)
            causes_[cause].nextInBucket = std::exchange(bucketOf(causes_[cause].input), cause);
        if (findSound(sounds_[sound].output) == nothing)
            sounds_[sound].nextInBucket = std::exchange(bucketOf(sounds_[sound].output), sound);
    }
    for (std::size_t i = size; i-- > before;) {
        const auto index = static_cast<std::uint32_t>(i);
        causes_[i].nextInBucket = std::exchange(freeCause_, index);
        places_[i].behind = std::exchange(freePlace_, index);
        sounds_[i].nextInBucket = std::exchange(freeSound_, index);
    }
    free_ += size - before;
}

void NoteMemory::makeRoom(std::size_t more) {
    if (free_ >= more) return;
    setCapacity(2 * places_.size() + more);
}

std::size_t NoteMemory::bucketNumber(PortId port, std::uint8_t channel, std::uint8_t key) const {
    const std::uint64_t whole = std::uint64_t{port} << 16 | std::uint64_t{channel} << 8 | key;
    return static_cast<std::size_t>(whole * 0x9E3779B97F4A7C15U >> 32) & (causeBuckets_.size() - 1);
}
std::uint32_t& NoteMemory::bucketOf(const InputKey& input) {
    return causeBuckets_[bucketNumber(input.port, input.channel, input.key)];
}
std::uint32_t& NoteMemory::bucketOf(const OutputKey& output) {
    return soundBuckets_[bucketNumber(output.port, output.channel, output.key)];
}

std::uint32_t NoteMemory::find(const InputKey& input) const {
    std::uint32_t cause = causeBuckets_[bucketNumber(input.port, input.channel, input.key)];
    while (cause != nothing && causes_[cause].input != input) cause = causes_[cause].nextInBucket;
    return cause;
}

bool NoteMemory::begin(const InputKey& input, std::uint64_t event, const OutputKey& output,
                       std::uint32_t instrument) {
    std::uint32_t cause = find(input);
    // A note-on of a key that is up begins its count anew, and forgets the old places.
    if (cause != nothing && !causes_[cause].down) {
        forget(cause);
        cause = nothing;
    }
    const bool isThere = cause != nothing && leadsTo(causes_[cause], output, instrument);
    if (!isThere && free_ == 0) {
        ++refused_;
        return false;
    }
    if (cause == nothing) cause = addCause(input);
    Cause& entry = causes_[cause];
    entry.down = true;
    if (std::exchange(entry.event, event) != event) ++entry.count;
    if (!isThere) addPlace(cause, output, instrument);
    return true;
}

bool NoteMemory::leadsTo(const Cause& cause, const OutputKey& output, std::uint32_t instrument) const {
    std::uint32_t place = cause.first;
    while (place != nothing && (places_[place].output != output || places_[place].instrument != instrument))
        place = places_[place].nextOfCause;
    return place != nothing;
}

void NoteMemory::lift(std::uint32_t cause) {
    if (!std::exchange(causes_[cause].down, false)) return;
    for (std::uint32_t place = causes_[cause].first; place != nothing; place = places_[place].nextOfCause)
        --sounds_[places_[place].sound].down;
}

void NoteMemory::answer(std::uint32_t cause) {
    if (--causes_[cause].count == 0) forget(cause);
}

void NoteMemory::forget(std::uint32_t cause) {
    removePlacesOf(cause);
    unchain(causes_, bucketOf(causes_[cause].input), cause);
    causes_[cause].nextInBucket = std::exchange(freeCause_, cause);
}

std::uint32_t NoteMemory::addCause(const InputKey& input) {
    const std::uint32_t cause = takeFree(causes_, freeCause_, [](Cause& c) { return c.nextInBucket; });
    std::uint32_t& bucket = bucketOf(input);
    causes_[cause].input = input;
    causes_[cause].nextInBucket = std::exchange(bucket, cause);
    return cause;
}

std::uint32_t NoteMemory::findSound(const OutputKey& output) const {
    std::uint32_t sound = soundBuckets_[bucketNumber(output.port, output.channel, output.key)];
    while (sound != nothing && sounds_[sound].output != output) sound = sounds_[sound].nextInBucket;
    return sound;
}

std::uint32_t NoteMemory::soundOf(const OutputKey& output) {
    std::uint32_t sound = findSound(output);
    if (sound != nothing) return sound;
    sound = takeFree(sounds_, freeSound_, [](Sound& s) { return s.nextInBucket; });
    sounds_[sound].output = output;
    sounds_[sound].nextInBucket = std::exchange(bucketOf(output), sound);
    return sound;
}

void NoteMemory::addPlace(std::uint32_t cause, const OutputKey& output, std::uint32_t instrument) {
    const std::uint32_t added = takeFree(places_, freePlace_, [](Place& p) { return p.behind; });
    --free_;
    Place& place = places_[added];
    place.output = output;
    place.instrument = instrument;
    place.cause = cause;
    place.sound = soundOf(output);
    ++sounds_[place.sound].places;
    if (causes_[cause].down) ++sounds_[place.sound].down;
    place.before = newest_;
    (newest_ == nothing ? oldest_ : places_[newest_].behind) = added;
    newest_ = added;
    std::uint32_t* link = &causes_[cause].first;
    while (*link != nothing) link = &places_[*link].nextOfCause;
    *link = added;
}

void NoteMemory::removePlace(std::uint32_t removed) {
    Place& place = places_[removed];
    Sound& sound = sounds_[place.sound];
    if (causes_[place.cause].down) --sound.down;
    if (--sound.places == 0) {
        unchain(sounds_, bucketOf(sound.output), place.sound);
        sound.nextInBucket = std::exchange(freeSound_, place.sound);
    }
    (place.before == nothing ? oldest_ : places_[place.before].behind) = place.behind;
    (place.behind == nothing ? newest_ : places_[place.behind].before) = place.before;
    std::uint32_t* link = &causes_[place.cause].first;
    while (*link != removed) link = &places_[*link].nextOfCause;
    *link = place.nextOfCause;
    place.behind = std::exchange(freePlace_, removed);
    ++free_;
}

void NoteMemory::removePlacesOf(std::uint32_t cause) {
    while (causes_[cause].first != nothing) removePlace(causes_[cause].first);
}

void NoteMemory::clearChannel(PortId port, std::uint8_t channel) {
    for (std::uint32_t place = oldest_; place != nothing;) {
        const std::uint32_t next = places_[place].behind;
        const std::uint32_t cause = places_[place].cause;
        if (places_[place].output.port == port && places_[place].output.channel == channel) {
            removePlace(place);
            if (causes_[cause].first == nothing) forget(cause);
        }
        place = next;
    }
}

}  // namespace mellow::engine
