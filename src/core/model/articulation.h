// An articulation: a way of playing that an instrument knows by a name of its own, and what it must be sent
// to play so (signal rules, section 10).
//
// Instruments are told in four ways: by a key switch, a control, a program, or by playing on another channel;
// and many by several of these at once. So an articulation has a list of them, which is sent in its order
// when it is chosen. Its name is what a tile, a chain's reach and a person say; other names that mean the
// same on other instruments are what it answers to.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/field.h"

namespace mellow {

struct Instrument;
struct Parameter;

enum class SelectKind { note, cc, program, channel };

/// One message of those that choose an articulation.
struct Select {
    SelectKind kind = SelectKind::note;
    int number = 0;                          ///< the key of a note, the number of a control: 0..127
    int velocity = 100;                      ///< of a note, 1..127
    bool held = false;                       ///< of a note: its end comes when another is chosen
    int value = 0;                           ///< of a control and a program 0..127, of a channel 1..16
    std::optional<std::array<int, 2>> bank;  ///< of a program: CC 0 and CC 32 before it, 0..127 each
    Extras extras;
    bool operator==(const Select&) const = default;
};

struct Articulation {
    std::string id;
    std::string name;
    std::vector<std::string> answersTo;  ///< other names by which tiles choose it
    int lowKey = 0;                      ///< the keys on which it sounds
    int highKey = 127;
    std::vector<Select> select;  ///< sent in order when it is chosen
    Extras extras;
    bool operator==(const Articulation&) const = default;
};

/// Why a message cannot be sent ("velocity 0 is outside 1 to 127"), or nothing. An articulation of which one
/// cannot be sent sends none.
std::string flawOf(const Select& select);
bool canBeSent(const Articulation& articulation);
/// Brings what a message forbids to the nearest that it allows.
void keepInside(Select& select);
/// True when an articulation has a name or answers to it, in whatever case.
bool answers(const Articulation& articulation, std::string_view name);

/// Lets the choices of articulation parameters be articulations, by name and in order. The document does not
/// repeat them, so this is asked wherever an instrument was read or edited.
void nameArticulations(std::vector<Parameter>& parameters, const std::vector<Articulation>& articulations);
void nameArticulations(Instrument& instrument);
/// True where that would change nothing.
bool areArticulationsNamed(const Instrument& instrument);

}  // namespace mellow
