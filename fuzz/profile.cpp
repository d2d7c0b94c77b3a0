// A profile as a table of text and as a MIDI name document: never a crash, and what is made of it is written
// and read again as the same table.
#include <cstdlib>

#include "core/profiles/columns.h"
#include "core/profiles/message_text.h"
#include "core/profiles/name_document.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    (void)profiles::parseMessage(text);
    const auto table = profiles::parseTable(text);
    const auto said = profiles::thingsIn<mellow::Parameter>(table);
    (void)profiles::thingsIn<mellow::ControllerControl>(table);
    const auto printed = profiles::tableOf(said.things);
    if (size < 20000) {
        const auto again =
            profiles::thingsIn<mellow::Parameter>(profiles::parseTable(profiles::printCsv(printed)));
        if (again.things.size() != said.things.size()) std::abort();
    }
    const auto named = profiles::parseNames(text);
    if (!named) {
        if (named.problem().sentence().empty()) std::abort();
        return 0;
    }
    for (const Instrument& instrument : named->instruments) {
        if (!profiles::parseNames(profiles::printNames(instrument).text)) std::abort();
    }
    return 0;
}
