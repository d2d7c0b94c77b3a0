// The kinds of message, by the list in model/kinds.h: an enumerator is its row's place.
#include <algorithm>
#include <iterator>
#include <vector>

#include "core/model/kinds.h"

namespace mellow {

#define MELLOW_DECLARE(name) extern const MessageRow name##Message;
MELLOW_MESSAGES(MELLOW_DECLARE)
#undef MELLOW_DECLARE

namespace {

const std::vector<MessageRow>& rows() {
#define MELLOW_ROW(name) name##Message,
    static const std::vector<MessageRow> all{MELLOW_MESSAGES(MELLOW_ROW)};
#undef MELLOW_ROW
    return all;
}

}  // namespace

std::span<const MessageRow> messageKinds() {
    return std::span(rows()).first(rows().size() - 1);
}
std::span<const MessageRow> controlKinds() {
    static const std::vector<MessageRow> sent = [] {
        std::vector<MessageRow> some;
        std::copy_if(rows().begin(), rows().end(), std::back_inserter(some),
                     [](const MessageRow& row) { return row.heard != nullptr; });
        return some;
    }();
    return sent;
}
const MessageRow& row(MessageKind kind) {
    return rows()[static_cast<std::size_t>(kind)];
}

}  // namespace mellow
