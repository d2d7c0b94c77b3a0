// Audio outputs of a JACK client: what the program sounds like, made inside the period in which it is heard.
//
// They are there only while somebody makes sound, and lead to the first two places where the machine's sound
// leaves, until a person leads them elsewhere.
#pragma once

#include <array>

#include "io/playing/handed_over.h"
#include "io/ports/jack_client.h"
#include "io/sound/sound_maker.h"

namespace mellow::io {

class JackOutputs : private JackKind {
 public:
    explicit JackOutputs(JackClient& client) : client_(client) { client_.join(*this); }
    ~JackOutputs() override { client_.leave(*this); }
    JackOutputs(const JackOutputs&) = delete;
    JackOutputs& operator=(const JackOutputs&) = delete;

    /// Editing side: from now on the outputs sound as it renders; nullptr: there are none. Once it returns
    /// nobody else renders any more. They come back with the server.
    void play(SoundMaker* maker);
    /// Makes what is wished for and could not be made; called now and then.
    void tend();

 private:
    struct Playing {
        SoundMaker* maker = nullptr;
        std::array<jack_port_t*, 2> ports{};
    };

    void begin() override;
    void begun() override { connect(); }
    void end() override { lists_.clear(); }
    void periodBegins(jack_nframes_t frames) override { frames_ = frames; }
    void periodEnds() override;
    void make();
    void connect();

    JackClient& client_;
    SoundMaker* maker_ = nullptr;
    HandedOver<Playing> lists_;
    jack_nframes_t frames_ = 0;  ///< of the period
};

}  // namespace mellow::io
