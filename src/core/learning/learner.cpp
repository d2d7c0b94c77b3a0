#include "core/learning/learner.h"

#include <algorithm>

#include "core/learning/heard_as.h"

namespace mellow::learning {

namespace {

using Kind = midi::ControlKey::Kind;
using midi::Shape;

constexpr double trembling = 3.0 / midi::max7;  // of the travel
constexpr double farEnough = 0.25;              // of the travel, to be as sure as one can
constexpr double whollySure = 0.95;
constexpr double hardly = 0.05;

int maxOf(const midi::HeardControl& heard) {
    return heard.shape == Shape::fourteenBits ? midi::max14 : midi::max7;
}

/// By how far it has travelled.
double surenessOfTravel(const midi::HeardControl& heard) {
    const double travel = static_cast<double>(heard.high - heard.low) / maxOf(heard);
    if (heard.count == 1) return 0.3;  // Something that speaks once may have been moved, or just spoken.
    if (travel <= trembling) return hardly;
    return whollySure * std::min(1.0, 0.3 + 0.7 * travel / farEnough);
}

double surenessOf(const midi::HeardControl& heard) {
    switch (heard.key.kind) {
        case Kind::program:
            return 0.9;
        case Kind::rpn:
        case Kind::nrpn:
            // A register that is selected and set was meant, once it is another than before.
            return heard.count < 3 ? 0.5 : surenessOfTravel(heard);
        default:
            break;
    }
    switch (heard.shape) {
        case Shape::momentary:
        case Shape::latching:
            return 0.9;
        case Shape::twosComplement:
        case Shape::offset:
        case Shape::sign:
            return 0.9;
        case Shape::unknown:
            // The end of a travel, all at once: a button most likely.
            return heard.value == midi::max7 ? 0.5 : 0.3;
        default:
            return surenessOfTravel(heard);
    }
}

/// A key that is struck again and again, and no other, is meant; keys among which one plays are not.
double surenessOfKeys(const std::map<int, int>& strikes) {
    if (strikes.size() != 1) return strikes.empty() ? 0.0 : 0.1;
    return strikes.begin()->second > 1 ? 0.8 : 0.6;
}

}  // namespace

void Learner::hear(std::string_view name, std::int64_t time, midi::Bytes message) {
    auto found = ports_.find(name);
    if (found == ports_.end()) found = ports_.emplace(std::string(name), Port{}).first;
    Port& port = found->second;
    port.shapes.see(time, message);
    if (!message.empty() && midi::isNoteOn(message)) ++port.strikes[message[1]];
}

void Learner::hearOsc(std::string_view name, std::int64_t time, std::string_view address, double number) {
    auto found = ports_.find(name);
    if (found == ports_.end()) found = ports_.emplace(std::string(name), Port{}).first;
    const auto [at, isNew] = found->second.addresses.try_emplace(std::string(address));
    Sent& sent = at->second;
    if (isNew) sent = {time, number, number, 0};
    sent.low = std::min(sent.low, number);
    sent.high = std::max(sent.high, number);
    ++sent.count;
}

std::vector<Candidate> Learner::candidates() const {
    std::vector<std::pair<std::int64_t, Candidate>> all;
    for (const auto& [name, port] : ports_) {
        for (const auto& [key, heard] : port.shapes.all()) {
            Candidate candidate{name, sourceOf(heard), key.channel + 1, heard, 0};
            candidate.sure = key.kind == Kind::note ? surenessOfKeys(port.strikes) : surenessOf(heard);
            all.emplace_back(heard.first, std::move(candidate));
        }
        for (const auto& [address, sent] : port.addresses) {
            Candidate candidate;
            candidate.port = name;
            candidate.source = makeSource(SourceKind::osc);
            candidate.source.values[0] = address;
            // Positions are from 0 to 1; what lies beyond is taken by its end.
            const double travel = sent.high - sent.low;
            candidate.sure = sent.count == 1 ? 0.5
                             : travel <= trembling
                                 ? hardly
                                 : whollySure * std::min(1.0, 0.3 + 0.7 * travel / farEnough);
            all.emplace_back(sent.first, std::move(candidate));
        }
    }
    // Who moves a wheel with a key down means the wheel.
    const bool somethingMoves = std::any_of(all.begin(), all.end(), [](const auto& each) {
        return each.second.heard.shape != Shape::notes && each.second.sure >= 0.3;
    });
    for (auto& [first, candidate] : all) {
        if (candidate.heard.shape == Shape::notes && somethingMoves) candidate.sure *= 0.4;
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) {
        if (a.second.sure != b.second.sure) return a.second.sure > b.second.sure;
        return a.first < b.first;
    });
    std::vector<Candidate> sorted;
    for (auto& [first, candidate] : all) sorted.push_back(std::move(candidate));
    return sorted;
}

}  // namespace mellow::learning
