// Changes to the desk: elements find places on the grid, so that nothing overlaps.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/model/ensemble.h"

namespace mellow {

/// Column, row, width, height.
using GridPlace = std::array<int, 4>;

inline constexpr int mostColumns = 48;
inline constexpr int mostRows = 32;

[[nodiscard]] bool overlap(const GridPlace& one, const GridPlace& other);
/// Whether a place lies on a page's grid and nothing but an element of that id (empty: nothing) is there.
[[nodiscard]] bool isFree(const DeskPage& page, const GridPlace& place, std::string_view except = {});
/// The first free place of a size, row by row; nothing where there is none.
[[nodiscard]] std::optional<GridPlace> freePlace(const DeskPage& page, int width, int height,
                                                 std::string_view except = {});

/// An element of a kind with an id that no other of the desk has. Its place is left to be found.
DeskElement newElement(const Ensemble& ensemble, ElementKind kind, std::string_view name);
DeskPage newDeskPage(const Ensemble& ensemble, std::string_view name);
/// How wide and high an element of a kind is at first, in squares of the grid.
std::array<int, 2> usualSize(ElementKind kind);

/// The element with an id, or nullptr.
DeskElement* findElement(Desk& desk, std::string_view id);
const DeskElement* findElement(const Desk& desk, std::string_view id);
/// The page on which an element is, or nullptr.
DeskPage* pageOf(Desk& desk, std::string_view element);

/// Removes an element. Chains that it moves are kept, for checks to name.
void removeElement(Ensemble& ensemble, std::string_view id);
/// Makes a chain from an element to a target over its whole range: a parameter of an instrument, or of
/// sharedOwner whatever a shared chain can lead to.
void leadElement(Ensemble& ensemble, const std::string& element, Axis axis, const std::string& owner,
                 const std::string& target);
/// Gives every chain that an element moves a copy that another moves.
void duplicateChainsOf(Ensemble& ensemble, std::string_view element, const std::string& copy);
/// A chain, by its owner (an instrument's id, or sharedOwner) and its id.
struct ChainOfOwner {
    std::string owner;
    std::string chain;
};
/// Gives every chain that an axis of an element moves a copy that a source moves, behind the others. Says
/// which were made.
std::vector<ChainOfOwner> followElement(Ensemble& ensemble, std::string_view element, Axis axis,
                                        const Source& source);
/// Gives the element at a place a new id; chains that it moved follow it, unless an earlier one has the old
/// id too.
void renewElement(Ensemble& ensemble, std::size_t page, std::size_t place);

}  // namespace mellow
