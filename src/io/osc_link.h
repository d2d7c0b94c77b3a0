// OSC over UDP: numbers that come to addresses, and numbers that leave for them.
//
// A port named "osc.udp://HOST:PORT" is a place on the network instead of a MIDI port. As an instrument's
// output it is where that instrument's OSC parameters are sent, one float each; as a controller's port,
// "osc.udp://:9000", it is where this program listens. liblo does the network (OSC 1.0, UDP), in threads of
// its own; between them and the playing side stand the player's rings, so playing never waits for a socket.
//
// Only the first argument of a message counts, if it is a number; bundles are taken apart at once, whatever
// their time.
#pragma once

#include <lo/lo.h>

#include <atomic>
#include <chrono>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/result.h"
#include "io/ports.h"

namespace mellow::io {

inline constexpr std::string_view oscScheme = "osc.udp://";
/// Where OSC sources are heard that no controller brings in.
inline constexpr std::string_view usualOscPort = "osc.udp://:7707";

/// True of a port's name that stands for a place on the network.
bool isOscPort(std::string_view name);

class OscLink : public Ports {
 public:
    OscLink() = default;
    ~OscLink() override;
    OscLink(const OscLink&) = delete;
    OscLink& operator=(const OscLink&) = delete;

    /// Opens and closes what is needed. Editing side.
    void want(const PortNames& names) override;
    [[nodiscard]] std::vector<PortState> present() const override;
    [[nodiscard]] std::vector<Problem> problems() const override { return problems_; }
    [[nodiscard]] bool active() const { return !servers_.empty() || sending_; }

    // Surfaces: whoever has moved an element of the desk, and is told where the elements stand. Any thread.

    /// How often one has spoken for the first time, or said hello to "/desk", and wants to be told
    /// everything.
    [[nodiscard]] std::size_t greetings() const { return greetings_.load(); }
    /// Where they are, as "HOST:PORT".
    [[nodiscard]] std::vector<std::string> surfaceNames();
    /// A finger has left an address when this long nothing came from it.
    static constexpr std::chrono::milliseconds fingersLeave{500};
    /// Tells every surface that an address of the desk stands at a value, but those that show it there and
    /// those whose finger is on it. False where there were such fingers: they have to be told later.
    bool tellSurfaces(const std::string& address, double value);
    /// Tells every surface a text: a label, a colour.
    void tellSurfaces(const std::string& address, const std::string& text);

 private:
    struct Server {
        OscLink* link = nullptr;
        engine::PortId port = 0;
        std::string name;
        lo_server_thread thread = nullptr;
        ~Server();
    };

    /// What a surface is known to show at an address, and when a finger last moved it there.
    struct Shown {
        float value = -1;
        std::chrono::steady_clock::time_point finger;
    };
    /// Somebody who moved an element, or asked.
    struct Surface {
        std::string name;
        lo_address address = nullptr;
        std::map<std::string, Shown, std::less<>> shown;
        ~Surface() {
            if (address != nullptr) lo_address_free(address);
        }
    };
    static constexpr std::size_t mostSurfaces = 16;

    void noteSurface(lo_message message, std::string_view path, std::optional<double> number);
    template<class Add>
    static void tell(const Surface& surface, const std::string& address, Add&& add);

    static int heard(const char* path, const char* types, lo_arg** arguments, int count, lo_message message,
                     void* server);
    void sendAll();

    PortNames ports_;
    std::vector<Problem> problems_;
    std::vector<std::unique_ptr<Server>> servers_;
    std::mutex pushing_;  ///< several servers share the player's ring
    std::map<engine::PortId, lo_address> addresses_;
    std::mutex addressing_;
    std::atomic<bool> sending_{false};
    std::thread sender_;
    std::mutex surfacing_;
    std::vector<std::unique_ptr<Surface>> surfaces_;
    std::atomic<std::size_t> greetings_{0};
};

}  // namespace mellow::io
