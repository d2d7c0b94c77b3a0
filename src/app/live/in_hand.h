// Who is in hand, in words and on the keys, and taking others into it.
#pragma once

#include "app/document/document.h"
#include "app/live/live.h"
#include "app/widgets/practice_keys.h"

namespace mellow::app {

/// Takes an entry, or everyone, into hand, as an edit of the document.
void takeIntoHand(Document& document, const std::string& entry);
void takeEveryoneIntoHand(Document& document);
/// What the keys mean to those in hand: their key switches, and the keys on which what they play now sounds.
Keyboard::Meaning keysInHand(const Ensemble& ensemble, const Live& live);
/// The names of those in hand, for the header: a section's own where that is all of them.
QString whoIsInHand(const Ensemble& ensemble, const Live& live);

}  // namespace mellow::app
