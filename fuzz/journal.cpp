// The journal: whatever is in one, reading it never crashes, and what was read can be written and read again.
#include <cstdlib>
#include <string_view>

#include "core/store/journal.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto read = store::readJournal({reinterpret_cast<const char*>(data), size});
    if (!read) return 0;
    const std::string text = store::journalHead() + store::journalRecord(nullptr, read->ensemble, read->time);
    const auto again = store::readJournal(text);
    if (!again || !(again->ensemble == read->ensemble)) std::abort();
    return 0;
}
