// The desk as a guest shows it: a tablet, or a page in a browser, that has no document of its own.
//
// A scene is a value: pages with their elements as they lie, where each axis stands and what that comes to,
// who answers to the names of tiles, who is in hand. It follows the document as a whole, and what plays by
// changes: each says what a guest has to show anew, by address. A guest that comes late is told the scene,
// and the changes from then on.
#pragma once

#include <array>
#include <string>
#include <variant>
#include <vector>

#include "core/desk/element_targets.h"

namespace mellow::desk {

struct SceneAxis {
    std::string address;  ///< "/ELEMENT", of a pad "/ELEMENT/x"
    double position = 0;  ///< 0..1
    Readout reads;        ///< what it has come to
    bool operator==(const SceneAxis&) const = default;
};

struct SceneElement {
    DeskElement element;
    std::vector<SceneAxis> axes;  ///< none of tiles and keys
    std::vector<Answer> answers;  ///< of tiles, by their names
    bool operator==(const SceneElement&) const = default;
};

struct ScenePage {
    std::string id;
    std::string name;
    int columns = 12;
    int rows = 8;
    std::vector<SceneElement> elements;
    bool operator==(const ScenePage&) const = default;
};

struct SceneHand {
    std::string id;  ///< an instrument's, or a section's
    std::string name;
    bool inHand = false;  ///< all of it is
    bool operator==(const SceneHand&) const = default;
};

/// An axis stands elsewhere.
struct AxisMoved {
    std::string address;
    double position = 0;
    bool operator==(const AxisMoved&) const = default;
};
/// What it has come to reads otherwise.
struct AxisReads {
    std::string address;
    Readout reads;
    bool operator==(const AxisReads&) const = default;
};
/// Others answer to the names of tiles, or another was chosen.
struct TilesAnswer {
    std::string address;  ///< "/ELEMENT"
    std::vector<Answer> answers;
    bool operator==(const TilesAnswer&) const = default;
};
/// Someone came into hand, or left it.
struct HandChanged {
    std::string id;
    bool inHand = false;
    bool operator==(const HandChanged&) const = default;
};
using SceneChange = std::variant<AxisMoved, AxisReads, TilesAnswer, HandChanged>;

class Scene {
 public:
    /// Follows the document: pages, elements and the hand as they are now; everything stands where it stood,
    /// or rests, until update() says.
    void follow(const Ensemble& ensemble);
    /// Reads how everything stands; what is other than before, in the order of the pages.
    std::vector<SceneChange> update(const Stands& stands);

    [[nodiscard]] const std::vector<ScenePage>& pages() const { return pages_; }
    [[nodiscard]] const std::vector<SceneHand>& hand() const { return hand_; }
    /// nullptr: there is no such axis.
    [[nodiscard]] const SceneAxis* axis(std::string_view address) const;
    /// All of it as changes, for a guest that has just come.
    [[nodiscard]] std::vector<SceneChange> whole() const;

 private:
    void update(SceneElement& element, const Stands& stands, std::vector<SceneChange>& changes) const;

    Ensemble ensemble_;
    ElementTargets targets_;
    std::vector<ScenePage> pages_;
    std::vector<SceneHand> hand_;
};

}  // namespace mellow::desk
