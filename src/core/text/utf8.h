// Text from outside, made UTF-8 at the door.
//
// Spreadsheets export in the letters of their machine, sequencers write names in those of theirs, and a
// packet may hold any bytes. Inside the program text is UTF-8 (RFC 3629) and nothing else, so what comes in
// is asked once: it is UTF-8, or UTF-16 that says so by its byte order mark, or else it is taken for
// Windows-1252, of which Latin-1 is a part, and in which every byte means something.
#pragma once

#include <string>
#include <string_view>

namespace mellow::text {

/// True of text that is UTF-8 to its end.
bool isUtf8(std::string_view text);

struct Decoded {
    std::string text;       ///< UTF-8
    std::string_view from;  ///< what it was taken for: "UTF-8", "UTF-16" or "Windows-1252"
    [[nodiscard]] bool isGuess() const { return from == "Windows-1252"; }
};
/// Never fails.
Decoded toUtf8(std::string_view text);

}  // namespace mellow::text
