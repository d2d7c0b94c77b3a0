// Ports bring messages in and carry them out. A class of ports is one way to reach other programs and
// machines: JACK, OSC, the practice rack; several are there at a time, and each takes of what is wished for
// what it serves.
//
// What an ensemble wishes for is a list of names; nobody asks which class a name belongs to. A class says
// what of it is there and what could not be had, and tells when that changes.
#pragma once

#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "io/playing/player.h"

namespace mellow::io {

/// Names of ports, as the document uses them.
struct PortNames {
    std::vector<std::string> inputs;
    std::vector<std::string> outputs;
    bool operator==(const PortNames&) const = default;
};

/// The ports that an ensemble wishes for: those of its controllers and instruments, each once. The practice
/// keys are not among them: they are inside the program. One input is always there ("hands"), so that a
/// keyboard can be connected before anything names it.
PortNames wishesOf(const Ensemble& ensemble);
/// The same for who knows already whether some chain listens to OSC.
PortNames wishesOf(const Ensemble& ensemble, bool hearsOsc);

/// A port that is there.
struct PortState {
    std::string name;
    bool input = false;
    bool connected = false;  ///< something is at its other end, as far as that can be known
    std::string by = {};     ///< the system that has it, as people call it: "JACK"
    bool operator==(const PortState&) const = default;
};

/// What came since the last cycle; room for it is kept.
class Arrivals {
 public:
    /// bytes: room for the bytes of messages that do not stay where they are.
    Arrivals(Player& player, std::vector<Incoming>& messages, std::vector<std::uint8_t>& bytes)
        : player_(player), messages_(messages), bytes_(bytes) {}

    /// False when there is no room for more.
    bool add(const Incoming& message) {
        if (messages_.size() == messages_.capacity()) return false;
        messages_.push_back(message);
        return true;
    }
    /// The same for a message whose bytes may be gone when it is played.
    bool addCopy(const Incoming& message) {
        if (bytes_.capacity() - bytes_.size() < message.bytes.size()) return false;
        const std::size_t at = bytes_.size();
        bytes_.insert(bytes_.end(), message.bytes.begin(), message.bytes.end());
        return add({message.time, message.port, midi::Bytes(bytes_).subspan(at)});
    }
    /// Somebody listens at an output who did not before.
    void connected(engine::PortId port, engine::Engine::Again again) { player_.portConnected(port, again); }
    /// Somebody who played into an input does so no more.
    void left(engine::PortId port) { player_.portLeft(port); }

 private:
    Player& player_;
    std::vector<Incoming>& messages_;
    std::vector<std::uint8_t>& bytes_;
};

class Ports {
 public:
    virtual ~Ports() = default;

    // Editing side.

    /// Whose numbers ports have; called once, before anything else.
    virtual void join(Player& player) { player_ = &player; }
    /// Makes what is wished for and served here, and removes what no longer is.
    virtual void want(const PortNames& names) = 0;
    [[nodiscard]] virtual std::vector<PortState> present() const = 0;
    /// Wishes that could not be fulfilled, with the reason and the mend.
    [[nodiscard]] virtual std::vector<Problem> problems() const { return {}; }
    /// Ports of others that ours can be connected to, by their full names.
    [[nodiscard]] virtual PortNames others() const { return {}; }
    /// Deals with what changed outside; called again and again, now and then.
    virtual void tend() {}
    /// One line for people, or nothing where there is nothing to say.
    [[nodiscard]] virtual std::string status() const { return {}; }
    /// tell: called, from any thread, when present() or problems() may say something else.
    void onChange(std::function<void()> tell) { tell_ = std::move(tell); }

    // Playing side.

    /// Adds what came in since the last cycle.
    virtual void gather(Arrivals&) {}
    /// Takes a message that leaves, if its port is one of these; others may have a port of that name too.
    virtual bool send(const engine::Output&) { return false; }

 protected:
    void tellChange() const {
        if (tell_) tell_();
    }
    Player* player_ = nullptr;

 private:
    std::function<void()> tell_;
};

}  // namespace mellow::io
