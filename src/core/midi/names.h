// Messages in words: as a musician reads them, and as they are typed into a table.
#pragma once

#include <string>

namespace mellow::midi {

/// "C4", "F♯-1": middle C (60) is C4. What is no key is told as its number.
std::string keyName(int key);
/// The same in letters that every keyboard has: "F#-1".
std::string keyToType(int key);
/// "CC 1", and of a pair "CC 1, 14-bit". number: the control's, of a pair the lower one.
std::string controlMessage(int number, bool isPair);
/// What a control is for that is more than a value: "bank select", "data entry", "the choice of a register";
/// empty: it is an ordinary one, or a command to the channel (isChannelMode()).
std::string controlMeaning(int number);

}  // namespace mellow::midi
