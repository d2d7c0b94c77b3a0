// Where sound can go in PipeWire: its audio sinks, watched as they come and go. A stream that finds none is
// refused for good; so whoever is silent for that reason watches, and asks once more when there is one: a
// headset that was switched on, or a server that was there before its devices.
#pragma once

#include <memory>

namespace mellow::io {

class PipeWireSinks {
 public:
    /// Watches the server that is there now. Null: none can be reached.
    static std::unique_ptr<PipeWireSinks> watch();
    ~PipeWireSinks();
    PipeWireSinks(const PipeWireSinks&) = delete;
    PipeWireSinks& operator=(const PipeWireSinks&) = delete;

    /// There is a sink, as the server said last. Any thread; never waits.
    [[nodiscard]] bool isAny() const;

 private:
    struct Watch;
    explicit PipeWireSinks(std::unique_ptr<Watch> watch);
    std::unique_ptr<Watch> watch_;
};

}  // namespace mellow::io
