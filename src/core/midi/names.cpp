#include "core/midi/names.h"

#include <array>

#include "core/midi/message.h"

namespace mellow::midi {

namespace {

constexpr int octave = 12;

std::string named(int key, const char* sharp) {
    if (key < 0 || key > max7) return std::to_string(key);
    static constexpr std::array letters{'C', 'C', 'D', 'D', 'E', 'F', 'F', 'G', 'G', 'A', 'A', 'B'};
    const auto place = static_cast<std::size_t>(key % octave);
    std::string name(1, letters.at(place));
    if (place > 0 && letters.at(place - 1) == letters.at(place)) name += sharp;
    return name + std::to_string(key / octave - 1);
}

}  // namespace

std::string keyName(int key) {
    return named(key, "♯");
}

std::string keyToType(int key) {
    return named(key, "#");
}

std::string controlMessage(int number, bool isPair) {
    return "CC " + std::to_string(number) + (isPair ? ", 14-bit" : "");
}

std::string controlMeaning(int number) {
    if (isBankSelect(number)) return "bank select";
    if (isDataEntry(number)) return "data entry";
    return selectsRegister(number) ? "the choice of a register" : "";
}

}  // namespace mellow::midi
