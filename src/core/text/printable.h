// Text that came from outside, made fit to be shown.
//
// A file may say anything: line breaks, escape codes that recolour a terminal, a million letters, half a
// character. A sentence that quotes it must still be one line that a person can read. So what cannot be seen
// is written as its code, what is not UTF-8 as its bytes, and what is too long loses its middle, between
// characters.
#pragma once

#include <string>
#include <string_view>

namespace mellow::text {

/// longest: characters; more lose their middle.
std::string printable(std::string_view text, std::size_t longest);

/// The same in quotation marks, at most forty characters of it.
std::string quoted(std::string_view text);

/// True of text that can stand in a line of words as one of them: there is some, and all of it can be seen,
/// without spaces. Ids and OSC addresses are so.
bool isOneWord(std::string_view text);

/// How many bytes the first character of a text that is not empty has; 0: it begins with none.
std::size_t characterSize(std::string_view text);

/// A word for the name of a file: lower-case letters and digits, hyphens between them, forty at most; `plain`
/// where there is none of those.
std::string fileWord(std::string_view text, std::string_view plain = "take");

}  // namespace mellow::text
