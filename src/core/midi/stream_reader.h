// From a stream of bytes to whole messages.
//
// A MIDI cable is a stream in which a message may leave out its status byte when it is the same as the last
// one's (running status), a real-time byte may stand anywhere, even inside another message, and the cable may
// be pulled at any byte (MIDI 1.0, "Running Status" and "System Real Time"). The reader keeps the little
// state this needs and calls back with whole messages only. What cannot be part of a message is counted and
// dropped: data bytes without a status, a message cut off by a new status, a SysEx longer than the limit.
#pragma once

#include <cstdint>
#include <vector>

#include "core/midi/message.h"

namespace mellow::midi {

class StreamReader {
 public:
    /// sysexLimit: the longest SysEx in bytes that is passed on; a longer one is dropped whole.
    explicit StreamReader(std::size_t sysexLimit = 1u << 20) : sysexLimit_(sysexLimit) {}

    /// Makes room for the longest message, so that reading allocates nothing.
    void makeRoom() { message_.reserve(sysexLimit_); }

    /// Takes any number of bytes; calls deliver(Bytes) once for each message that they complete, in the order
    /// in which the messages end. The bytes handed over are valid during the call only.
    template<class Deliver>
    void read(Bytes stream, Deliver&& deliver) {
        for (const std::uint8_t byte : stream) {
            if (isRealTime(byte)) {
                deliver(Bytes{&byte, 1});
            } else if (take(byte)) {
                deliver(Bytes{message_.data(), message_.size()});
                finish();
            }
        }
    }

    /// Bytes that belonged to no whole message so far.
    [[nodiscard]] std::uint64_t dropped() const { return dropped_; }

 private:
    bool take(std::uint8_t byte);
    void start(std::uint8_t status);
    void finish();

    std::vector<std::uint8_t> message_;
    std::size_t sysexLimit_;
    std::uint8_t running_ = 0;
    bool skippingSysex_ = false;
    std::uint64_t dropped_ = 0;
};

}  // namespace mellow::midi
