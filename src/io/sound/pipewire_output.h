// Sound into PipeWire, by its own protocol: a stream that asks for frames when they are to be heard, on a
// thread of PipeWire's. (FluidSynth's driver for it is not in every distribution's build.) It leads to where
// the desktop wants sound, until a person leads it elsewhere; PipeWire makes its rate what the device has.
#pragma once

#include <memory>

#include "core/result.h"
#include "io/sound/sound_maker.h"

namespace mellow::io {

class PipeWireOutput {
 public:
    /// maker: renders from now on, at a rate, until this is gone. Waits up to half a second for the server's
    /// answer. Error: no server can be reached, or it has nowhere for sound to go.
    static Result<std::unique_ptr<PipeWireOutput>> open(SoundMaker& maker, int rate);
    ~PipeWireOutput();
    PipeWireOutput(const PipeWireOutput&) = delete;
    PipeWireOutput& operator=(const PipeWireOutput&) = delete;

    /// False once the server is gone, or the place where sound went, and no other has taken its place.
    [[nodiscard]] bool alive() const;

 private:
    struct Stream;
    explicit PipeWireOutput(std::unique_ptr<Stream> stream);
    std::unique_ptr<Stream> stream_;
};

}  // namespace mellow::io
