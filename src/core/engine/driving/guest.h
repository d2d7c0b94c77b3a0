// The engine as a guest in another program: without a clock, a thread or ports of its own.
//
// A host has blocks of frames. It hands over the messages that came during a block, and gets those that go
// out, each with its frame (process). On another thread it hands over a state as bytes, which is an ensemble
// as a document has it, and asks for it back when it saves; the state is compiled where it is handed over,
// and played from the next block on. What was held and sent carries over, as with any edit.
//
// process() and silence() belong to the thread that plays, all else to one other. The playing thread takes no
// lock, allocates nothing, frees nothing, throws nothing and calls nothing of the system.
//
// It plays MIDI alone: what goes out by OSC, and what controllers with motors or lights are told, is left
// out.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/engine/playing/engine.h"
#include "core/result.h"

namespace mellow::engine {

class Guest {
 public:
    /// rate: frames a second, 1 to 1,000,000. inputs: the names by which an ensemble calls the host's inputs,
    /// as instruments and controllers do; 1 to as many as the engine tells apart (Hands::portCount).
    explicit Guest(int rate, const std::vector<std::string>& inputs = {"in"});
    Guest(const Guest&) = delete;
    Guest& operator=(const Guest&) = delete;
    ~Guest();

    /// Plays another ensemble from the next block on. Error: it is none, with the place; then nothing
    /// changes.
    Outcome setState(std::span<const std::uint8_t> bytes);
    /// What setState() takes.
    [[nodiscard]] std::vector<std::uint8_t> state() const;
    [[nodiscard]] const Ensemble& ensemble() const { return ensemble_; }
    /// The id of an instrument by the number that outgoing messages have.
    [[nodiscard]] const std::string& instrument(std::uint32_t number) const;

    struct In {
        std::uint32_t frame = 0;  ///< of the block; never below that of the message before
        std::uint32_t input = 0;  ///< its place among the inputs
        midi::Bytes bytes;        ///< one whole message
    };
    struct Out {
        std::uint32_t frame = 0;
        std::uint32_t instrument = 0;
        midi::Bytes bytes;  ///< valid during the call only
    };
    /// Where a block's messages go, in the order of their frames.
    struct Receiver {
        void (*take)(void* self, const Out& out) = nullptr;
        void* self = nullptr;
    };

    /// Plays a block. What came at a frame behind its end counts as at the last.
    void process(std::uint32_t frames, std::span<const In> in, const Receiver& out);
    /// Ends everything that sounds, at frame 0 of the block that comes next.
    void silence(const Receiver& out);

 private:
    [[nodiscard]] Time timeOf(std::int64_t frame) const;
    void adoptNext(const Sink& sink);
    void collect();

    // The other thread's.
    Ensemble ensemble_;
    Names ports_;
    std::vector<std::unique_ptr<Program>>
        programs_;                            ///< those that play, are waiting, or may still be played
    std::atomic<Program*> next_{nullptr};     ///< to be played from the next block on
    std::atomic<Program*> retired_{nullptr};  ///< not played any more, and not yet freed
    // The playing thread's.
    const std::int64_t rate_;
    std::vector<std::uint32_t> inputPorts_;  ///< their numbers, by the inputs' places
    std::int64_t begins_ = 0;                ///< the frame with which the block begins
    Engine engine_;
};

}  // namespace mellow::engine
