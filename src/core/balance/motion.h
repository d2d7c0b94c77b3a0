// What is moved while an instrument is measured, and how it is moved.
//
// Loudness is measured over the travel of something: a control, velocity, the keys themselves, a tie line, an
// element of the desk, or a parameter alone, with no chain before it. Messages move what messages can move,
// through the same input filter as those of the hands; what no message reaches from outside, a tie line or a
// parameter, gets an element of a desk of its own, in a copy of the ensemble. In that copy the instrument is
// the first, and plays alone, in hand, so that what is heard is its own.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/takes/take.h"

namespace mellow::balance {

struct Motion {
    Source source;          ///< what moves, where that is no parameter
    std::string parameter;  ///< an id of the instrument's; empty: it is the source
    bool operator==(const Motion&) const = default;
};

inline bool isKeys(const Motion& motion) {
    return motion.parameter.empty() && motion.source.kind == SourceKind::keyNumber;
}
inline bool isVelocity(const Motion& motion) {
    return motion.parameter.empty() && motion.source.kind == SourceKind::velocity;
}

Motion motionOf(const Source& source);
/// What moves a chain.
Motion motionOf(const Chain& chain);
Motion motionOfParameter(std::string id);

/// From words, as the command line and kept measurements have them: a chain's id, or "cc 1", "14-bit cc 1",
/// "bend", "pressure", "key pressure", "velocity", "keys", "nrpn 300", "osc /tile/tilt", "desk pad x",
/// "tie line swell", "control wheels left", "parameter volume". Error: they name nothing that can be moved.
Result<Motion> parseMotion(const Ensemble& ensemble, const Instrument& instrument, std::string_view words);
/// Words that parseMotion() reads again, for whatever a source is; a chain's id is no such word.
std::string printMotion(const Motion& motion);
/// Its name for people: "Mod wheel", "Volume alone".
std::string motionName(const Ensemble& ensemble, const Instrument& instrument, const Motion& motion);

/// An ensemble in which one instrument plays alone and what is to be moved can be.
class Rig {
 public:
    /// held: something else that is to stand still, at a place of its own. Error: there is no such
    /// instrument; what is to be moved moves by itself, or by nothing that can be said; a control that does
    /// not come through the instrument's input filter.
    static Result<Rig> build(const Ensemble& ensemble, std::string_view instrument, const Motion& motion,
                             const Motion* held = nullptr);

    [[nodiscard]] const Ensemble& ensemble() const { return ensemble_; }
    [[nodiscard]] const Instrument& instrument() const { return ensemble_.instruments.front(); }

    /// Puts what moves, or what is held, to a position in [0, 1]; key: the one whose pressure it is, where it
    /// is one. Keys and velocities are said by notes.
    void move(Take& take, std::int64_t time, int key, double position) const {
        say(take, time, moved_, key, position);
    }
    void hold(Take& take, std::int64_t time, int key, double position) const {
        say(take, time, held_, key, position);
    }
    /// A note as the hands play it.
    void press(Take& take, std::int64_t time, int key, int velocity) const;
    void lift(Take& take, std::int64_t time, int key) const;
    /// Ends what still sounds (CC 120).
    void hush(Take& take, std::int64_t time) const;

    /// The position at which what moves comes to stand: of messages, one that they can say.
    [[nodiscard]] double sayable(double position) const;

 private:
    /// A source that messages move, and where they come in.
    struct Mover {
        Source source;  ///< resolved
        std::string port;
        int channel = 0;  ///< 0..15
        bool is = false;
    };

    Result<Mover> moverOf(const Motion& motion, std::string_view element);
    Outcome lead(std::string_view element, const std::string& target);
    void say(Take& take, std::int64_t time, const Mover& mover, int key, double position) const;

    Ensemble ensemble_;
    Mover moved_;
    Mover held_;
    std::string port_;  ///< of notes
    int channel_ = 0;
};

}  // namespace mellow::balance
