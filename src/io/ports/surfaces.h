// Surfaces: tablets that move elements of the desk over OSC, and are told where the elements stand.
//
// Anybody can put another's address on a packet, so nobody is told anything before it has proved that it
// hears what is sent there: who speaks of the desk for the first time gets one short message, "/desk/hi" with
// an address, and counts once it sends something to that address, or once a person here names it. Until then
// answers are no more than three times what was asked, and few. Of more than sixteen the one that has been
// silent longest gives up its place.
//
// What is known of a surface is what it shows at the addresses that the desk has; others are not kept.
#pragma once

#include <chrono>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "io/ports/udp.h"

namespace mellow::io {

class Surfaces {
 public:
    using Clock = std::chrono::steady_clock;
    static constexpr std::size_t mostSurfaces = 16;
    /// A finger has left an address when this long nothing came from it.
    static constexpr std::chrono::milliseconds fingersLeave{500};

    /// changed: called when somebody new is to be told everything, or asks; from any thread.
    explicit Surfaces(std::function<void()> changed) : changed_(std::move(changed)) {}

    /// The addresses that the desk has now, as tablets say them; nothing is kept of others.
    void setAddresses(std::set<std::string, std::less<>> addresses);
    /// Somebody spoke of the desk. via: where it came in, by which answers leave.
    void hear(const std::shared_ptr<const UdpSocket>& via, const sockaddr_in& from, std::size_t bytes,
              std::string_view address, std::optional<double> number, Clock::time_point now = Clock::now());
    /// A person says that somebody who spoke is to be told.
    void welcome(const std::string& name);
    /// Whoever came in there is gone.
    void forget(const UdpSocket* via);

    /// How often somebody has to be told everything anew.
    [[nodiscard]] std::size_t greetings() const;
    /// Those that are told, and those that spoke and have not shown that they hear, as "HOST:PORT".
    [[nodiscard]] std::vector<std::string> told() const;
    [[nodiscard]] std::vector<std::string> waiting() const;

    /// Tells every surface that an address of the desk stands at a value, but those that show it there and
    /// those whose finger is on it. False where there were such fingers: they have to be told later.
    bool tell(const std::string& address, double value);
    /// Tells every surface a text: a name, a tone.
    void tell(const std::string& address, const std::string& text);

 private:
    /// What a surface is known to show at an address, and when a finger last moved it there.
    struct Shown {
        float value = -1;
        Clock::time_point finger;
    };
    struct Surface {
        std::string name;
        sockaddr_in place{};
        std::shared_ptr<const UdpSocket> via;
        bool proved = false;
        std::string proof;  ///< the address that it is to send to
        Clock::time_point spoke;
        Clock::time_point asked;  ///< for its proof
        std::map<std::string, Shown, std::less<>> shown;
    };
    Surface* surfaceOf(const std::shared_ptr<const UdpSocket>& via, const sockaddr_in& from,
                       Clock::time_point now);
    void ask(Surface& surface, std::size_t bytes, Clock::time_point now);
    void greet(Surface& surface);

    std::function<void()> changed_;
    mutable std::mutex mutex_;
    std::set<std::string, std::less<>> addresses_;
    std::vector<std::unique_ptr<Surface>> surfaces_;
    std::size_t greetings_ = 0;
    Clock::time_point askingSince_;
    int askedNow_ = 0;
};

}  // namespace mellow::io
