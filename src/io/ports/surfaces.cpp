#include "io/ports/surfaces.h"

#include <algorithm>
#include <array>
#include <random>
#include <utility>

#include "io/playing/player.h"
#include "io/ports/osc_packet.h"

namespace mellow::io {

namespace {

constexpr std::string_view proofBegins = "/desk/hi/";

/// Four letters that nobody guesses by chance before they are asked for anew.
std::string newProof() {
    constexpr std::string_view letters = "abcdefghijkmnpqrstuvwxyz23456789";
    static std::random_device random;
    std::string proof(proofBegins);
    for (int i = 0; i < 6; ++i) proof += letters[random() % letters.size()];
    return proof;
}

}  // namespace

void Surfaces::setAddresses(std::set<std::string, std::less<>> addresses) {
    const std::lock_guard lock(mutex_);
    addresses_ = std::move(addresses);
    for (const auto& surface : surfaces_)
        std::erase_if(surface->shown, [this](const auto& each) { return !addresses_.contains(each.first); });
}

Surfaces::Surface* Surfaces::surfaceOf(const std::shared_ptr<const UdpSocket>& via, const sockaddr_in& from,
                                       Clock::time_point now) {
    const std::string name = placeText(from);
    const auto found = std::find_if(surfaces_.begin(), surfaces_.end(),
                                    [&name](const auto& surface) { return surface->name == name; });
    if (found != surfaces_.end()) {
        (*found)->spoke = now;
        return found->get();
    }
    if (surfaces_.size() >= mostSurfaces) {
        // Who has shown nothing goes before who has.
        const auto silent =
            std::min_element(surfaces_.begin(), surfaces_.end(), [](const auto& one, const auto& other) {
                return std::pair(one->proved, one->spoke) < std::pair(other->proved, other->spoke);
            });
        surfaces_.erase(silent);
    }
    auto& made = surfaces_.emplace_back(std::make_unique<Surface>());
    made->name = name;
    made->place = from;
    made->via = via;
    made->spoke = now;
    made->proof = newProof();
    return made.get();
}

/// One short message, no more than three times what came, once a second to each and twenty times to all.
void Surfaces::ask(Surface& surface, std::size_t bytes, Clock::time_point now) {
    constexpr std::chrono::seconds apart(1);
    constexpr int mostAsked = 20;
    constexpr std::size_t mostTimes = 3;
    if (now - askingSince_ >= apart) {
        askingSince_ = now;
        askedNow_ = 0;
    }
    if (now - surface.asked < apart || askedNow_ >= mostAsked) return;
    const OscPacket packet("/desk/hi", surface.proof);
    if (packet.bytes().size() > mostTimes * bytes) return;
    surface.asked = now;
    ++askedNow_;
    surface.via->send(surface.place, packet.bytes());
}

/// It is told everything that it is not known to show.
void Surfaces::greet(Surface& surface) {
    surface.proved = true;
    ++greetings_;
}

void Surfaces::hear(const std::shared_ptr<const UdpSocket>& via, const sockaddr_in& from, std::size_t bytes,
                    std::string_view address, std::optional<double> number, Clock::time_point now) {
    bool greets = false;
    {
        const std::lock_guard lock(mutex_);
        Surface& surface = *surfaceOf(via, from, now);
        if (!surface.proved) {
            greets = address == surface.proof;
            if (greets) {
                greet(surface);
            } else {
                ask(surface, bytes, now);
            }
        } else if (address == deskAddress) {
            // It has forgotten what it was told, and where it stood.
            for (auto& each : surface.shown) each.second.value = -1;
            greet(surface);
            greets = true;
        }
        if (number && addresses_.contains(address))
            surface.shown[std::string(address)] = {static_cast<float>(*number), now};
    }
    if (greets && changed_) changed_();
}

void Surfaces::welcome(const std::string& name) {
    {
        const std::lock_guard lock(mutex_);
        for (const auto& surface : surfaces_) {
            if (surface->name == name && !surface->proved) greet(*surface);
        }
    }
    if (changed_) changed_();
}

void Surfaces::forget(const UdpSocket* via) {
    const std::lock_guard lock(mutex_);
    std::erase_if(surfaces_, [via](const auto& surface) { return surface->via.get() == via; });
}

std::size_t Surfaces::greetings() const {
    const std::lock_guard lock(mutex_);
    return greetings_;
}

std::vector<std::string> Surfaces::told() const {
    const std::lock_guard lock(mutex_);
    std::vector<std::string> names;
    for (const auto& surface : surfaces_) {
        if (surface->proved) names.push_back(surface->name);
    }
    return names;
}

std::vector<std::string> Surfaces::waiting() const {
    const std::lock_guard lock(mutex_);
    std::vector<std::string> names;
    for (const auto& surface : surfaces_) {
        if (!surface->proved) names.push_back(surface->name);
    }
    return names;
}

bool Surfaces::tell(const std::string& address, double value) {
    const auto now = Clock::now();
    const auto stands = static_cast<float>(value);
    const OscPacket packet(address, stands);
    bool all = true;
    const std::lock_guard lock(mutex_);
    for (const auto& surface : surfaces_) {
        if (!surface->proved) continue;
        const auto shown = surface->shown.find(address);
        const bool isKnown = shown != surface->shown.end();
        if (isKnown && shown->second.value == stands) continue;
        if (isKnown && now - shown->second.finger < fingersLeave) {
            all = false;
            continue;
        }
        surface->via->send(surface->place, packet.bytes());
        if (isKnown) shown->second.value = stands;
    }
    return all;
}

void Surfaces::tell(const std::string& address, const std::string& text) {
    const OscPacket packet(address, text);
    const std::lock_guard lock(mutex_);
    for (const auto& surface : surfaces_) {
        if (surface->proved) surface->via->send(surface->place, packet.bytes());
    }
}

}  // namespace mellow::io
