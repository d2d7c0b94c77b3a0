// The desk: surfaces on pages, moved by fingers, a pen, a mouse, keys, or a tablet over OSC.
//
// An element has a place on its page's grid and, but for tiles, a position for each of its axes; chains have
// it as their source. A page's grid is so many columns and rows, whatever the window's size.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <vector>

#include "core/model/field.h"

namespace mellow {

enum class ElementKind { pad, slider, dial, button, articulations, keys };
enum class Axis { x, y, touch };
inline constexpr std::size_t axisCount = 3;

struct DeskElement {
    std::string id;  ///< unique in the whole desk
    ElementKind kind = ElementKind::slider;
    std::string name;
    std::array<int, 4> place{0, 0, 1, 1};  ///< column, row, width, height
    bool latching = false;                 ///< of a button: it stays until it is pressed again
    std::vector<std::string> names;        ///< of articulation tiles
    double rest = 0;                ///< where it stands before it is moved, 0..1; of a pad on both axes
    bool springs = false;           ///< goes back to rest when let go
    std::string tone;               ///< one of the theme's own names; empty: its usual one
    int lowestKey = 48;             ///< of practice keys: the first that is drawn, 0..115
    std::vector<std::string> keys;  ///< of a computer keyboard that move it: a button's or a tile's each one
    Extras extras;
    bool operator==(const DeskElement&) const = default;
};

inline constexpr int mostLowestKey = 115;

struct DeskPage {
    std::string id;
    std::string name;
    int columns = 12;
    int rows = 8;
    std::vector<DeskElement> elements;
    Extras extras;
    bool operator==(const DeskPage&) const = default;
};

struct Desk {
    std::vector<DeskPage> pages;
    Extras extras;
    bool operator==(const Desk&) const = default;
};

/// True of elements that have a position, and so can be a source.
inline bool isSource(const DeskElement& element) {
    return element.kind != ElementKind::articulations && element.kind != ElementKind::keys;
}
/// How many axes an element has: a pad across, up, and its touch; all others one.
inline std::size_t axesOf(const DeskElement& element) {
    return element.kind == ElementKind::pad ? axisCount : isSource(element) ? 1 : 0;
}
/// Where an axis stands before it was moved; a pad's touch rests at 0.
inline double restOf(const DeskElement& element, Axis axis) {
    return element.kind == ElementKind::pad && axis == Axis::touch ? 0 : element.rest;
}
/// The address by which an element's axis is moved: "/ID", of a pad "/ID/x".
std::string addressOf(const DeskElement& element, Axis axis);
/// Which of `count` names a position between 0 and 1 chooses.
std::size_t nameAt(double position, std::size_t count);

/// Calls visit(element) for each element of a desk, page by page.
template<class DeskType, class Visit>
void forEachElement(DeskType& desk, Visit&& visit) {
    for (auto& page : desk.pages) {
        for (auto& element : page.elements) visit(element);
    }
}

}  // namespace mellow
