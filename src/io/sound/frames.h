// Frames of sound as they are made, and who takes them.
//
// The practice rack gives what it renders, and JACK's audio inputs what comes in, block by block, each frame
// with its place since the start; a bounce, a meter and a tap for another thread take the same. Whoever takes
// is called by the thread that makes the sound: it takes no lock and allocates nothing.
#pragma once

#include <cstdint>
#include <span>

namespace mellow::io {

/// A block of two channels of equal length; of one channel both are the same.
struct Frames {
    std::int64_t first = 0;  ///< the place of its first frame since the start
    std::span<const float> left;
    std::span<const float> right;
};

class FrameListener {
 public:
    virtual ~FrameListener() = default;
    virtual void hear(const Frames& frames) = 0;
};

}  // namespace mellow::io
