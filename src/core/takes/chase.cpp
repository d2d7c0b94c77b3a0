// Events are looked at from the start; what stands after them is said again.
#include "core/takes/chase.h"

#include "core/midi/standing.h"

namespace mellow {

std::vector<std::uint32_t> eventsToChase(const Take& take, std::int64_t time) {
    Standing standing;
    const auto end = static_cast<std::uint32_t>(take.placeAt(time));
    for (std::uint32_t place = 0; place < end; ++place) {
        const TakeEvent& event = take.events[place];
        const midi::Bytes body = take.bodyOf(event);
        if (const auto line = text::oscLineOf(body)) {
            standing.hearNumber(event.port, line->address, line->number, place);
        } else {
            standing.hear(event.port, body, place);
        }
    }
    std::vector<std::uint32_t> places;
    for (const Standing::Said& said : standing.all()) places.push_back(said.tag);
    return places;
}

}  // namespace mellow
