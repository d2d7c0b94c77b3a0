// Whatever makes sound when it is asked to, for whoever has somewhere to put it.
#pragma once

namespace mellow::io {

class SoundMaker {
 public:
    virtual ~SoundMaker() = default;
    /// Playing side: the next frames, each of −1 to 1.
    virtual void render(float* left, float* right, int frames) = 0;
};

}  // namespace mellow::io
