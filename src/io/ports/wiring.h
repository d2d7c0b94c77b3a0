// Which of our ports were connected to which ports of others, so that what was pulled out works again when it
// is back.
//
// A connection that is gone may have been taken away by a person, or its other end may be gone: a cable
// pulled, a program ended, a server restarted. The first is forgotten and the second is remembered, and made
// again when both ends are there.
#pragma once

#include <algorithm>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace mellow::io {

/// ours: a port of this program, by the document's name; theirs: the full name of another's.
struct Wire {
    std::string ours;
    std::string theirs;
    bool input = false;       ///< something comes in through it
    std::string by = "JACK";  ///< the system that has both
    bool operator==(const Wire&) const = default;
};

class Wiring {
 public:
    using Exists = std::function<bool(const std::string& port)>;

    /// What is to be remembered from before.
    void remember(const std::vector<Wire>& wires) {
        for (const Wire& wire : wires) remember(wire, false);
    }
    /// Looks at what is connected now. exists: whether a port of another program is there. someoneLeft: some
    /// other port went away since the last call, and may be back already. Returns what to connect again.
    std::vector<Wire> follow(const std::vector<Wire>& now, const Exists& exists, bool someoneLeft);
    /// A person took it away.
    void forget(const Wire& wire) {
        std::erase_if(known_, [&wire](const Known& known) { return known.wire == wire; });
    }
    /// All our ports are new, as after a server was restarted: none is connected, by nobody's wish.
    void lost() {
        for (Known& known : known_) known.there = false;
    }
    [[nodiscard]] std::vector<Wire> wires() const {
        std::vector<Wire> all;
        for (const Known& known : known_) all.push_back(known.wire);
        return all;
    }

 private:
    struct Known {
        Wire wire;
        bool there = false;  ///< it was connected at the last look
    };
    void remember(const Wire& wire, bool there) {
        const auto found = std::find_if(known_.begin(), known_.end(),
                                        [&wire](const Known& known) { return known.wire == wire; });
        if (found == known_.end()) {
            known_.push_back({wire, there});
        } else {
            found->there = found->there || there;
        }
    }

    std::vector<Known> known_;
};

inline std::vector<Wire> Wiring::follow(const std::vector<Wire>& now, const Exists& exists,
                                        bool someoneLeft) {
    std::vector<Wire> again;
    std::erase_if(known_, [&](Known& known) {
        const bool connected = std::find(now.begin(), now.end(), known.wire) != now.end();
        const bool was = std::exchange(known.there, connected);
        if (connected || !exists(known.wire.theirs)) return false;
        if (was && !someoneLeft) return true;
        again.push_back(known.wire);
        return false;
    });
    for (const Wire& wire : now) remember(wire, true);
    return again;
}

}  // namespace mellow::io
