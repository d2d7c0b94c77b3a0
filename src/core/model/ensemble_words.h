// The words of the ensemble format that stand for enumerators, in enumerator order.
#pragma once

#include <array>
#include <string_view>

namespace mellow {

inline constexpr std::string_view formatName = "mellow-lever/ensemble";
inline constexpr std::array<std::string_view, 4> lawWords{"linear", "log", "decibel", "choices"};
inline constexpr std::array<std::string_view, 6> mixWords{"latest", "highest", "lowest",
                                                          "sum",    "product", "average"};
inline constexpr std::array<std::string_view, 3> outsideWords{"clamp", "silent", "rest"};
inline constexpr std::array<std::string_view, 2> activeWords{"always", "inHand"};
inline constexpr std::array<std::string_view, 2> restWords{"low", "middle"};
inline constexpr std::array<std::string_view, 2> fanWords{"all", "chosen"};
inline constexpr std::array<std::string_view, 3> handoverWords{"jump", "meet", "glide"};
inline constexpr std::array<std::string_view, 3> followWords{"none", "clock", "transport"};
inline constexpr std::array<std::string_view, 3> onConnectWords{"nothing", "rest", "last"};
inline constexpr std::array<std::string_view, 4> selectWords{"note", "cc", "program", "channel"};
inline constexpr std::array<std::string_view, 6> elementWords{"pad",    "slider",        "dial",
                                                              "button", "articulations", "keys"};
inline constexpr std::array<std::string_view, 2> zoneWords{"lower", "upper"};
inline constexpr std::array<std::string_view, 3> axisWords{"x", "y", "touch"};

}  // namespace mellow
