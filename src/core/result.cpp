// The sentence of a problem. Its parts quote files, so each is made printable and kept to a length at which a
// person still reads it.
#include "core/result.h"

#include "core/text/printable.h"

namespace mellow {

std::string Problem::sentence() const {
    constexpr std::size_t longestPlace = 300;
    constexpr std::size_t longestPart = 500;
    const std::string place = text::printable(where, longestPlace);
    const std::string cure = text::printable(mend, longestPart);
    return place + (place.empty() ? "" : ": ") + text::printable(what, longestPart) +
           (cure.empty() ? "" : "; " + cure);
}

}  // namespace mellow
