// Loops are told of in words; all else is read as it is.
#include "io/session/readings.h"

namespace mellow::io {

std::vector<std::string> Readings::loopsCut() {
    std::vector<std::string> sentences;
    player_.watchLoops([&](const LoopWatch::Loop& loop) {
        sentences.push_back("What goes to " + player_.ports().name(loop.out) + " comes back in through " +
                            player_.ports().name(loop.in) + "; what comes back is not played");
    });
    return sentences;
}

}  // namespace mellow::io
