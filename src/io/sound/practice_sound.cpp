// The format does not name this key, so it lives among an instrument's extras, as JSON text like every
// unknown key. Reading and writing it is finding it in that list; 0 is what is meant when it is absent, and
// is not written.
#include "io/sound/practice_sound.h"

#include <algorithm>
#include <charconv>

namespace mellow::io {

namespace {

constexpr std::string_view key = "practiceSound";

}  // namespace

int practiceSound(const Instrument& instrument) {
    for (const auto& [name, text] : instrument.extras) {
        if (name != key) continue;
        int program = 0;
        std::from_chars(text.data(), text.data() + text.size(), program);
        return std::clamp(program, 0, 127);
    }
    return 0;
}

void setPracticeSound(Instrument& instrument, int program) {
    for (auto& [name, text] : instrument.extras) {
        if (name != key) continue;
        text = std::to_string(program);
        return;
    }
    instrument.extras.emplace_back(key, std::to_string(program));
}

}  // namespace mellow::io
