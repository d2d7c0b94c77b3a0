// Describing a struct of the document once.
//
// A description lists the keys of a struct in the order of the format: what each is called, which member it
// is, and whether it may be left out. Reading, writing, what a key means when it is absent, and the JSON
// Schema are all read off it, so that a new key is one line. What a member starts as in the struct is what is
// meant when its key is absent.
#pragma once

#include <span>
#include <string_view>
#include <tuple>

#include "core/model/kinds.h"

namespace mellow {

enum class Need {
    mayBeAbsent,  ///< and is left out of what is written where it says what absence would
    isWritten,    ///< may be absent, and is always written
    isRequired,
};

template<class Struct, class Member>
struct Key {
    constexpr Key(std::string_view key, Member Struct::*at, Need needed = Need::mayBeAbsent,
                  std::span<const std::string_view> enumerators = {},
                  std::span<const MessageRow> (*kinds)() = nullptr, std::string_view sentence = {},
                  std::string_view element = "a name")
        : name(key),
          member(at),
          need(needed),
          words(enumerators),
          messages(kinds),
          about(sentence),
          each(element) {}

    std::string_view name;
    Member Struct::*member;
    Need need;
    std::span<const std::string_view> words;    ///< of an enumerator, in its order
    std::span<const MessageRow> (*messages)();  ///< of a message: the kinds that it may be of
    std::string_view about;                     ///< one sentence, for the schema
    std::string_view each;                      ///< of a list of texts: what each is; of a pair, what it is
};

/// Two whole numbers in one key, as a list.
template<class Struct>
struct PairKey {
    std::string_view name;
    int Struct::*first;
    int Struct::*second;
    std::string_view wanted;  ///< for a complaint: "two key numbers [low, high]"
};

/// Specialised for each described struct: `static constexpr auto all`, a tuple of Key and PairKey, and
/// `static constexpr std::string_view name`, which is its name in the schema.
template<class Struct>
struct Keys;

template<class Struct>
concept Described = requires {
    Keys<Struct>::all;
};

/// Whether a struct has a key: most have all, and those that come in kinds the keys of their kind, by a
/// function `has` of their description. Keys that say the kind come first.
template<Described Struct>
bool hasKey([[maybe_unused]] const Struct& value, [[maybe_unused]] std::string_view key) {
    if constexpr (requires { Keys<Struct>::has(value, key); }) {
        return Keys<Struct>::has(value, key);
    } else {
        return true;
    }
}

/// Calls visit(key) for each key of a struct, in order.
template<Described Struct, class Visit>
constexpr void forEachKey(Visit&& visit) {
    std::apply([&visit](const auto&... key) { (visit(key), ...); }, Keys<Struct>::all);
}

}  // namespace mellow
