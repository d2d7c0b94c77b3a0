// Walking takes marked chains by rank and lets instruments pass on in their turn, so that what velocity sets
// is there before its note sounds. The clock walks too, at each point of its grid at which something moves.
#include <bit>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

// The clock.

void Engine::runClock(Time until, const Sink& sink) {
    Time grid = (now_ < 0 ? 0 : now_ / gridStep + 1) * gridStep;
    while (grid <= until && moving()) {
        now_ = grid;
        gridPoint(sink);
        grid += gridStep;
    }
}

void Engine::gridPoint(const Sink& sink) {
    beginEvent(nullptr);
    ticking_ = true;
    pairs_.due(now_, [this](const midi::PairReading& reading) { hearDue(reading); });
    for (const std::uint32_t e : plan().generators) {
        EarState& ear = state().ears[e];
        if (!ear.moves) continue;
        const double before = ear.position;
        const double position = clampPosition(movedTo(*plan().ears[e].source, ear.generator, now_, tempo_));
        if (position != before || !ear.spoken) speak(e, position);
        refreshGenerator(e);
    }
    if (movingChains_ > 0) {
        for (const std::uint32_t chain : plan().timedChains) {
            if (state().chains[chain].moving) mark(chain);
        }
    }
    walkRest(sink);
}

// Walking.

void Engine::mark(std::uint32_t chain) {
    const std::uint32_t rank = plan().rankOf(chain);
    const std::uint64_t bit = std::uint64_t{1} << (rank % 64);
    if (someLate_ && (state().late[rank / 64] & bit) != 0) {
        state().heldBack[rank / 64] |= bit;
        return;
    }
    std::uint64_t& word = state().pending[rank / 64];
    if ((word & bit) == 0) ++pendingCount_;
    word |= bit;
}

/// Runs marked chains of ranks below `end` that have not had their turn.
void Engine::runPending(std::uint32_t end, const Sink& sink) {
    while (pendingCount_ > 0 && cursor_ < end) {
        const std::uint64_t word = state().pending[cursor_ / 64] >> (cursor_ % 64);
        if (word == 0) {
            cursor_ = (cursor_ / 64 + 1) * 64;
            continue;
        }
        cursor_ += static_cast<std::uint32_t>(std::countr_zero(word));
        if (cursor_ >= end) break;
        state().pending[cursor_ / 64] &= ~(std::uint64_t{1} << (cursor_ % 64));
        --pendingCount_;
        runChain(plan().chainAt(cursor_), sink);
        ++cursor_;
    }
    cursor_ = std::max(cursor_, end);
}

/// The chains that are left, and what waited for the end.
void Engine::walkRest(const Sink& sink) {
    runPending(static_cast<std::uint32_t>(plan().chains.size()), sink);
    ticking_ = false;
    cursor_ = 0;
    if (defers_) flush(sink);
    defers_ = false;
}

void Engine::walk(const Event& event, const Sink& sink) {
    if (midi::isNoteOff(event.bytes)) {
        // Whoever holds the note ends it, whether it still hears this channel or not.
        const bool held = notes_.find(inputKey(event)) != NoteMemory::nothing;
        if (someLate_) spreadLate();
        for (const std::uint32_t part : plan().turns) {
            if (held || state().parts[part].fingerTurned == serial_) finish(part, sink);
        }
        runPending(static_cast<std::uint32_t>(plan().chains.size()), sink);
        if (held && defers_) {
            defer({Deferred::What::forgotten, 0, 0, 0}, sink);
        } else if (held) {
            endForgottenNotes(event, sink);
        }
        if (someLate_) runLate(sink);
        walkRest(sink);
        return;
    }
    for (const std::uint32_t part : plan().receivers[static_cast<std::size_t>(midi::channelOf(event.bytes))])
        finish(part, sink);
    walkRest(sink);
}

/// Runs what stands before the end of an instrument's chains, then passes on what it passes. Who has left the
/// hand by then still ends notes.
void Engine::finish(std::uint32_t part, const Sink& sink) {
    runPending(plan().parts[part].endRank, sink);
    const bool inHand = isInHand(part);
    if (!inHand && !midi::isNoteOff(event_->bytes)) return;
    if (defers_) {
        defer({Deferred::What::finish, part, inHand ? Payload{1} : Payload{0}, 0}, sink);
    } else {
        finishNow(part, inHand, sink);
    }
}

/// inHand: whether the instrument was in hand when its turn came.
void Engine::finishNow(std::uint32_t place, bool inHand, const Sink& sink) {
    const Event& event = *event_;
    const Part& part = plan().parts[place];
    const auto& match = state().matches[place];
    const bool own = match.event == serial_;
    // What a shared chain makes of a finger is for those who know one finger only.
    const Matched fingers = part.keptLanes.empty() ? sharedFingers_ : Matched{};
    const bool taken = shared_.any || own || fingers.any;
    const bool kept = !taken || shared_.keep || fingers.keep || (own && match.keep);
    const bool turned = inHand && state().parts[place].fingerTurned == serial_;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    if (midi::isNoteOff(event.bytes)) {
        endNotesOf(event, part, sink);
        if (turned) tellFinger(place, sink);
    } else if (midi::kindOf(event.bytes) == midi::noteOn) {
        if (!comesTo(part, event.port, channel)) return;
        if (turned) tellFinger(place, sink);
        if (kept && part.pass.notes) beginNote(event, place, sink);
    } else if (midi::kindOf(event.bytes) == midi::keyPressure) {
        const bool passes = part.pass.notes && (taken ? kept : part.pass.unmatched);
        if (passes && comesTo(part, event.port, channel)) followNote(event, place, sink);
    } else {
        const bool always =
            midi::kindOf(event.bytes) == midi::controlChange && midi::isChannelMode(event.bytes[1]);
        if (always || (taken ? kept : part.pass.unmatched)) pass(event, place, sink);
    }
}

}  // namespace mellow::engine
