// A chain as one plain sentence, the way a musician would say it:
// "Mod wheel 8–120, eased in, reaches Expression 30–127 and Tone 6.2 kHz falling to 400 Hz."
#pragma once

#include <limits>
#include <string>

#include "core/model/ensemble.h"
#include "core/model/resolve.h"

namespace mellow::describe {

/// What moves a chain: the name of a control of the ensemble's controllers that sends the same message, the
/// trade name of the message, or what a generator does.
std::string sourceName(const Ensemble& ensemble, const Source& source);

/// The message a source listens to: "CC 1", "pitch bend"; of a generator, what it is.
std::string sourceMessage(const Source& source);
std::string targetMessage(const Message& message);

/// A step with its numbers, short enough for a label: "Window 8–120", "Bend +0.35".
std::string stepLabel(const Step& step, int sourceMax);

/// "Expression 30–127", "Tone 6.2 kHz falling to 400 Hz".
std::string branchPhrase(const Ensemble& ensemble, const Instrument* instrument, const Branch& branch);

/// A branch's reach alone: "30–127", "6.2 kHz falling to 400 Hz", "always 64".
std::string reachWords(const Ensemble& ensemble, const Target& target, const Branch& branch);

/// What a chain does on the way to one of its targets, without its ends: "8–120, eased in"; of a chain alone
/// (nullptr) what its trunk does. Empty: nothing.
std::string wayWords(const Ensemble& ensemble, const Chain& chain, const Branch* branch);

/// The whole chain. instrument: the one it belongs to, or null for a shared chain.
/// most: so many targets are named at most, 1 or more; the others are counted, "and 20 more".
std::string chainSentence(const Ensemble& ensemble, const Instrument* instrument, const Chain& chain,
                          std::size_t most = std::numeric_limits<std::size_t>::max());

}  // namespace mellow::describe
