// The list of rules. A new one is a file beside this and its name here; two findings about one place are told
// in this order.
#include <array>

#include "core/checks/rules.h"

#define MELLOW_RULES(RULE) /* those that stop what they find come first */ \
    RULE(referenceToNothing)                                               \
    RULE(impossibleValue)                                                  \
    RULE(circleOfTieLines)                                                 \
    RULE(reachOutsideRange)                                                \
    RULE(reachOfOneNumber)                                                 \
    RULE(chainWithoutEffect)                                               \
    RULE(branchesThatMeet)                                                 \
    RULE(instrumentsOnOneMessage)                                          \
    RULE(loneTieLine)                                                      \
    RULE(halfOfAPair)                                                      \
    RULE(controlWithAMeaning)                                              \
    RULE(neverReached)                                                     \
    RULE(restBetweenLevels)                                                \
    RULE(formulaWithoutNumber)                                             \
    RULE(unfitId)                                                          \
    RULE(nothingPassesIn)                                                  \
    RULE(standingStill)                                                    \
    RULE(keySwitchAmongKeys)                                               \
    RULE(articulationsAlike)                                               \
    RULE(keysWithoutSound)                                                 \
    RULE(tileWithoutAnswer)                                                \
    RULE(outsideTheHand)                                                   \
    RULE(deskLayout)                                                       \
    RULE(zonesOfKeyboards)

namespace mellow::checks {

#define MELLOW_DECLARE(name) extern const Rule name;
MELLOW_RULES(MELLOW_DECLARE)
#undef MELLOW_DECLARE

std::span<const Rule* const> rules() {
#define MELLOW_LIST(name) &name,
    static constexpr std::array list{MELLOW_RULES(MELLOW_LIST)};
#undef MELLOW_LIST
    return list;
}

}  // namespace mellow::checks
