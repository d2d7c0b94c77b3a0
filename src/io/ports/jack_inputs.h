// Audio inputs of a JACK client: what another program plays, as frames for whoever listens.
//
// They are there only while somebody wants them. Where the server misses a period, what is heard then is not
// what was played, or not all of it; how much may be lost is counted, and places go on as the client's own
// periods do, by which it plays too.
#pragma once

#include <atomic>
#include <optional>
#include <string>
#include <vector>

#include "core/result.h"
#include "io/playing/handed_over.h"
#include "io/ports/jack_client.h"
#include "io/sound/frame_source.h"

namespace mellow::io {

class JackInputs : private JackKind {
 public:
    explicit JackInputs(JackClient& client) : client_(client) { client_.join(*this); }
    ~JackInputs() override { client_.leave(*this); }
    JackInputs(const JackInputs&) = delete;
    JackInputs& operator=(const JackInputs&) = delete;

    // Editing side.

    /// Makes one input ("sound") or two ("sound 1", "sound 2"), or none at all. They come back with the
    /// server, without their connections. Error: no server runs or answers, or it has no room; what is wished
    /// for is made when one does.
    Outcome want(int channels);
    /// Why what is wished for was not made when a server came; nothing where it was.
    [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
    /// Audio outputs of other programs, by their full names.
    [[nodiscard]] std::vector<std::string> sources() const;
    /// Has an input, by its place, hear another program's output and nothing else. Error: there is no such
    /// input or output.
    Outcome connect(int channel, const std::string& source);
    /// What an input hears, by full names.
    [[nodiscard]] std::vector<std::string> connected(int channel) const;
    /// Frames a second.
    [[nodiscard]] int rate() const { return client_.rate(); }
    /// Who listens; their frames' places are the server's since the clock started, as those of the client's
    /// times are.
    [[nodiscard]] FrameSource& frames() { return frames_; }
    /// How many frames may be lost since the start: the periods that the server missed.
    [[nodiscard]] std::int64_t lost() const { return lost_.load(std::memory_order_relaxed); }

 private:
    using List = std::vector<jack_port_t*>;

    void begin() override;
    void end() override;
    void periodMissed() override { lost_.fetch_add(period_, std::memory_order_relaxed); }
    void periodBegins(jack_nframes_t frames) override;
    void periodEnds() override {}
    Outcome make();
    template<class Condition>
    void await(const Condition& holds) const;
    void awaitTaken() const;

    JackClient& client_;
    int channels_ = 0;
    HandedOver<List> lists_;
    FrameSource frames_;
    std::optional<Problem> problem_;
    std::atomic<std::int64_t> period_{0};  ///< frames of the last one
    std::atomic<std::int64_t> lost_{0};
};

}  // namespace mellow::io
