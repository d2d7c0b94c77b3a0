// One byte at a time, with three things remembered: the running status, the data bytes so far, and whether a
// SysEx is under way (MIDI 1.0, "Running status" and "System Real Time"). Real-time bytes are handed out at
// once, wherever they stand; a status byte ends whatever was not complete.
#include "core/midi/stream_reader.h"

namespace mellow::midi {

bool StreamReader::take(std::uint8_t byte) {
    const bool inSysex = !message_.empty() && message_[0] == sysexStart;
    if (byte == sysexEnd && inSysex) {
        message_.push_back(byte);
        return true;
    }
    if (byte >= 0x80) {
        dropped_ += message_.size();
        start(byte);
        return !message_.empty() && dataLength(byte) == 0;
    }
    if (skippingSysex_) {
        ++dropped_;
        return false;
    }
    if (message_.empty()) {
        if (running_ == 0) {
            ++dropped_;
            return false;
        }
        message_.push_back(running_);
    }
    message_.push_back(byte);
    if (inSysex) {
        if (message_.size() >= sysexLimit_) {
            dropped_ += message_.size();
            message_.clear();
            skippingSysex_ = true;
        }
        return false;
    }
    return message_.size() == static_cast<std::size_t>(dataLength(message_[0])) + 1;
}

void StreamReader::start(std::uint8_t status) {
    message_.clear();
    skippingSysex_ = false;
    running_ = isChannelStatus(status) ? status : 0;
    const bool startsNothing = status != sysexStart && dataLength(status) < 0;
    if (startsNothing) {
        ++dropped_;
    } else {
        message_.push_back(status);
    }
}

void StreamReader::finish() {
    message_.clear();
}

}  // namespace mellow::midi
