// The hands of a take: what it holds down while it plays, and what hands of flesh have taken from it.
//
// What a take's messages hold is counted as they go by, so that lifting its hands lets go of exactly that,
// and costs what is held and not what was played. Where it is played over, a control that is touched is the
// person's until the take goes round or ends.
#pragma once

#include <array>
#include <bitset>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "core/midi/controls.h"
#include "core/midi/message.h"

namespace mellow::io {

class TakeHands {
 public:
    explicit TakeHands(std::size_t ports = 0) : lanes_(ports * channels) {}

    /// Notes what is held after a message that the take plays on one of its ports.
    void follow(std::size_t port, midi::Bytes message);
    /// A person touches what a message is about.
    void touch(std::size_t port, midi::Bytes message);
    /// Whether a person has touched what it is about.
    [[nodiscard]] bool isTouched(std::size_t port, midi::Bytes message) const;
    void forgetTouched() {
        for (Lane& lane : lanes_) lane.touched.reset();
    }
    /// Takes over what other hands hold and what was touched, by the same ports.
    void goOnFrom(const TakeHands& before) {
        std::copy(before.lanes_.begin(), before.lanes_.end(), lanes_.begin());
    }

    /// Lets go of everything: play(port, message) for keys, then pedals, wheel springs and pressure, channel
    /// by channel. Nothing is held afterwards, unless play() follows something anew.
    template<class Play>
    void lift(Play&& play) {
        for (std::size_t i = 0; i < lanes_.size(); ++i) {
            const Holding held = std::exchange(lanes_[i].holding, {});
            liftHand(static_cast<int>(i % channels), held,
                     [&](const midi::Short& message) { play(i / channels, message); });
        }
    }

 private:
    static constexpr std::size_t channels = 16;
    /// What is held on a channel.
    struct Holding {
        std::array<std::uint8_t, 128> keys{};  ///< how often each is down
        std::array<std::uint8_t, midi::pedals.size()> pedals{};
        bool bent = false;
        bool pressed = false;
    };
    struct Lane {
        Holding holding;
        std::bitset<256> touched;  ///< controls by their numbers, then midi kinds
    };

    template<class Play>
    static void liftHand(int channel, const Holding& held, Play&& play) {
        for (int key = 0; key < 128; ++key) {
            for (int times = held.keys[static_cast<std::size_t>(key)]; times > 0; --times)
                play(midi::make(midi::noteOff, channel, key, midi::middleVelocity));
        }
        for (std::size_t pedal = 0; pedal < midi::pedals.size(); ++pedal) {
            if (held.pedals.at(pedal) > 0)
                play(midi::make(midi::controlChange, channel, midi::pedals.at(pedal), 0));
        }
        if (held.bent) play(midi::makeBend(channel, midi::bendCentre));
        if (held.pressed) play(midi::make(midi::channelPressure, channel, 0));
    }
    [[nodiscard]] Lane& laneOf(std::size_t port, midi::Bytes message) {
        return lanes_[port * channels + static_cast<std::size_t>(midi::channelOf(message))];
    }
    [[nodiscard]] const Lane& laneOf(std::size_t port, midi::Bytes message) const {
        return lanes_[port * channels + static_cast<std::size_t>(midi::channelOf(message))];
    }

    std::vector<Lane> lanes_;  ///< sixteen a port
};

}  // namespace mellow::io
