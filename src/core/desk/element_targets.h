// What elements of the desk lead to: every branch of every chain that an element moves, with what is needed
// to say where it stands now.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/desk.h"
#include "core/model/ensemble.h"
#include "core/model/law.h"

namespace mellow::desk {

struct ElementTarget {
    Axis axis = Axis::x;
    std::string owner;  ///< an instrument's id, or sharedOwner
    std::string chain;
    std::size_t branch = 0;
    std::string name;        ///< of the parameter, the tie line or the hand
    std::string instrument;  ///< its name; empty: it is in none
    Range range;
};

/// By element, in document order.
using ElementTargets = std::map<std::string, std::vector<ElementTarget>, std::less<>>;
ElementTargets elementTargets(const Ensemble& ensemble);

/// How what plays stands now, as whoever plays it says.
class Stands {
 public:
    virtual ~Stands() = default;
    /// Where an address of the desk was last moved to, 0..1; nothing before it was.
    [[nodiscard]] virtual std::optional<double> moved(std::string_view address) const = 0;
    /// The raw position, 0..1, that a branch last gave its target; −1 before.
    [[nodiscard]] virtual double branch(const ElementTarget& target) const = 0;
    /// Whether an instrument is in hand, and the place of the articulation that it plays; −1: none was
    /// chosen.
    [[nodiscard]] virtual bool inHand(const std::string& instrument) const = 0;
    [[nodiscard]] virtual int articulation(const std::string& instrument) const = 0;
};

/// Where an axis of an element has brought its targets.
struct Readout {
    std::string value;  ///< in the target's units, “–” before it moved; empty: the axis leads nowhere
    std::string name;   ///< whose it is
    bool operator==(const Readout&) const = default;
};
/// The first target whose instrument is in hand, or else the first.
Readout readoutOf(const std::vector<ElementTarget>& targets, Axis axis, const Stands& stands);

/// Who answers to a name of articulation tiles.
struct Answer {
    int inHand = 0;       ///< instruments that are
    int answering = 0;    ///< those of them that know the name
    int anywhere = 0;     ///< those of all that do
    bool chosen = false;  ///< one in hand plays it now
    bool operator==(const Answer&) const = default;
};
/// By the element's names; one after another.
std::vector<Answer> answersTo(const Ensemble& ensemble, const DeskElement& element, const Stands& stands);

}  // namespace mellow::desk
