// What is worth playing of what came between two blocks of sound.
//
// A wheel that moves sends a hundred positions a second and a drawn curve thousands, and between two blocks
// nothing of them is heard but the last. A synthesizer takes each of them up with all of its voices. So
// values wait here, each in the place of the one before, until a block is due or something comes that finds a
// sound as they make it: a note, a program, a register. They are handed over in the order in which they were
// said last, so that of a pair the half that came last comes last. A pedal is a switch that is thrown and
// waits for nothing: what it holds and lets go it does whatever stands.
#pragma once

#include <array>
#include <cstdint>

#include "core/midi/message.h"
#include "core/midi/message_key.h"

namespace mellow::io {

class LatestValues {
 public:
    /// Takes a channel message: it waits, or is handed over behind what it must not overtake.
    template<class Take>
    void take(const midi::Short& message, Take&& take) {
        const midi::Bytes bytes = message.bytes();
        if (isPedal(midi::keyOf(bytes))) return take(message);
        if (!isMerelyValue(bytes)) {
            handOver(take);
            return take(message);
        }
        if (count_ == waiting_.size()) handOver(take);
        const auto subject = static_cast<std::size_t>(midi::channelOf(bytes)) * kinds + midi::keyOf(bytes);
        waiting_[count_] = {message, static_cast<std::uint16_t>(subject)};
        newest_[subject] = static_cast<std::uint16_t>(count_++);
    }

    /// What waits, to the one who plays it.
    template<class Take>
    void handOver(Take&& take) {
        for (std::size_t i = 0; i < count_; ++i) {
            if (newest_[waiting_[i].subject] == i) take(waiting_[i].message);
        }
        count_ = 0;
    }

 private:
    static constexpr std::size_t kinds = midi::pressureKey + 1;  ///< controls, bend, pressure
    static constexpr std::size_t most = 1024;
    struct Waiting {
        midi::Short message;
        std::uint16_t subject;
    };

    static constexpr bool isPedal(std::size_t key) { return key >= midi::sustain && key <= midi::hold2; }
    /// Whether of two such messages the first means nothing once the second has come.
    static bool isMerelyValue(midi::Bytes message) {
        const std::size_t key = midi::keyOf(message);
        if (key == midi::bendKey || key == midi::pressureKey) return true;
        const int control = static_cast<int>(key);
        return control <= midi::lastOrdinary && !isPedal(key) && !midi::isBankSelect(control) &&
               !midi::isDataEntry(control) && !midi::selectsRegister(control);
    }

    std::array<Waiting, most> waiting_{};
    std::array<std::uint16_t, 16 * kinds> newest_{};  ///< by subject, its place in waiting_ if it is there
    std::size_t count_ = 0;
};

}  // namespace mellow::io
