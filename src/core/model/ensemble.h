// The ensemble: what the composer wants, as plain values.
//
// These structs are the document (ensemble-format, version 1), field by field, with ids where things refer to
// one another. They can be copied, compared and edited freely; nothing here runs. The compiler turns them
// into a plan, the store turns them into JSON and back. What a newer version wrote and this one does not know
// is kept beside each struct as JSON text (Extras), so that it survives a round trip untouched.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "core/midi/zone.h"
#include "core/model/articulation.h"
#include "core/model/desk.h"
#include "core/model/kept_curve.h"
#include "core/model/kept_take.h"
#include "core/model/kinds.h"
#include "core/model/shared_list.h"
#include "core/model/step.h"

namespace mellow {

inline constexpr std::string_view anyPort = "any";

/// A place in a parameter's range as the document writes it: a number in display units, or a word (a label of
/// a `choices` law, or "-inf" for decibel silence).
using Level = std::variant<double, std::string>;

enum class Law { linear, log, decibel, choices };
enum class Mix { latest, highest, lowest, sum, product, average };
enum class Outside { clamp, silent, rest };
enum class Active { always, inHand };
enum class FanMode { all, chosen };
enum class Handover { jump, meet, glide };
enum class Follow { none, clock, transport };
/// What an instrument is sent when something is connected to its port.
enum class OnConnect { nothing, rest, last };

/// How a parameter's raw range is shown. Absent bounds stand for the message's own (signal rules, section 4).
struct Display {
    std::optional<double> low;
    std::optional<double> high;
    std::string unit;
    std::optional<Law> law;
    std::vector<std::string> choices;
    Extras extras;
    bool operator==(const Display&) const = default;
};

struct Message {
    MessageKind kind = MessageKind::cc;
    int number = 0;                          ///< for the kinds that have one
    std::optional<std::array<int, 2>> bank;  ///< of a program: CC 0 and CC 32 before it, 0..127 each
    int velocity = 100;                      ///< of a note, 1..127
    std::string address;                     ///< of OSC
    std::vector<FieldValue> values;          ///< one for each of the kind's fields
    Extras extras;
    bool operator==(const Message&) const = default;
};

/// A named thing that an instrument listens to.
struct Parameter {
    std::string id;
    std::string name;
    Message message;
    Display display;
    std::optional<Level> rest;
    std::optional<bool> centred;
    Mix mix = Mix::latest;
    bool repeats = false;
    bool locked = false;  ///< stays where it is when values are drawn or put to rest
    Extras extras;
    bool operator==(const Parameter&) const = default;
};

struct BranchWindow {
    double low = 0;
    double high = 1;
    Outside outside = Outside::clamp;
    Extras extras;
    bool operator==(const BranchWindow&) const = default;
};

struct Branch {
    std::string target;  ///< parameter id, `tieLine:ID`, or INSTRUMENT/PARAMETER in a shared chain
    Level low = 0.0;     ///< reach in display units; low above high falls
    Level high = 127.0;
    std::optional<BranchWindow> window;
    std::vector<Step> steps;
    bool on = true;    ///< an off branch sends nothing
    std::string note;  ///< a person's words about it
    Extras extras;
    bool operator==(const Branch&) const = default;
};

struct Fan {
    FanMode mode = FanMode::all;
    std::optional<Source> by;  ///< the chooser, of the mode `chosen`
    Extras extras;
    bool operator==(const Fan&) const = default;
};

struct Chain {
    std::string id;
    std::string name;
    bool on = true;
    Active active = Active::always;
    Source source;
    bool keepOriginal = false;
    std::vector<Step> steps;
    Fan fan;
    std::vector<Branch> branches;
    std::optional<Handover> handover;  ///< absent: the controller's
    Extras extras;
    bool operator==(const Chain&) const = default;
};

struct Input {
    std::string port = std::string(anyPort);
    std::optional<int> channel;  ///< 1..16; absent: any
    int lowKey = 0;
    int highKey = 127;
    int transpose = 0;    ///< semitones
    int lowVelocity = 1;  ///< of note-ons: the velocity layer that it plays
    int highVelocity = 127;
    std::optional<midi::Zone> zone;  ///< only what comes on the channels of that zone of its port
    Extras extras;
    bool operator==(const Input&) const = default;
};

struct Output {
    std::string port;
    int channel = 1;  ///< 1..16
    OnConnect onConnect = OnConnect::nothing;
    bool keepChannels = false;  ///< what comes on a member channel of a zone and passes keeps its channel
    Extras extras = {};
    bool operator==(const Output&) const = default;
};

struct Pass {
    bool notes = true;
    bool unmatched = true;
    bool sysex = false;
    bool clock = false;
    Extras extras;
    bool operator==(const Pass&) const = default;
};

struct Instrument {
    std::string id;
    std::string name;
    bool on = true;  ///< an off instrument gets nothing but the ends of what it holds
    Input input;
    Output output;
    Pass pass;
    std::vector<Parameter> parameters;
    std::vector<Articulation> articulations;
    std::vector<Chain> chains;
    Extras extras;
    bool operator==(const Instrument&) const = default;
};

struct ControllerControl {
    std::string id;
    std::string name;
    Message message;
    std::optional<Rest> rest;
    Extras extras;
    bool operator==(const ControllerControl&) const = default;
};

/// Of a zone: as many members as the keyboard's configuration message says.
inline constexpr int byMessage = std::numeric_limits<int>::min();

/// The zones of a controller that bends and presses each note by itself, where a person says what they are.
struct ZoneSettings {
    int lower = byMessage;  ///< members, 0..15; 0: it has no such zone
    int upper = byMessage;
    double noteBend = midi::memberBend;  ///< semitones to which a note's bend reaches, until RPN 0 says
    double allBend = midi::managerBend;  ///< and the manager's
    Extras extras;
    bool operator==(const ZoneSettings&) const = default;
};

struct Controller {
    std::string id;
    std::string name;
    std::string port = std::string(anyPort);
    std::vector<ControllerControl> controls;
    std::optional<Handover> handover;
    std::string feedback;  ///< the port by which its motors and lights are told where they stand; empty: none
    ZoneSettings zones;
    Extras extras = {};
    bool operator==(const Controller&) const = default;
};

/// A named inner signal.
struct TieLine {
    std::string id;
    std::string name;
    double rest = 0;  ///< its position before anything has written it
    Extras extras;
    bool operator==(const TieLine&) const = default;
};

/// Whose beat cycles in beats follow (signal rules, section 9).
struct Tempo {
    double bpm = 120;  ///< quarter notes a minute, where nothing else says so or has spoken yet
    Follow follow = Follow::none;
    std::string port = std::string(anyPort);  ///< of the MIDI clock
    Extras extras;
    bool operator==(const Tempo&) const = default;
};

/// Instruments that come into hand together.
struct Section {
    std::string id;
    std::string name;
    std::vector<std::string> instruments;  ///< ids
    Extras extras;
    bool operator==(const Section&) const = default;
};

struct Ensemble {
    std::string title;
    std::vector<Controller> controllers;
    std::vector<TieLine> tieLines;
    SharedList<Instrument> instruments;
    std::vector<Chain> sharedChains;
    std::optional<std::vector<std::string>> inHand;
    Tempo tempo;
    std::vector<Section> sections;
    std::vector<std::string> handOrder;  ///< ids of instruments and sections, as the target `hand` chooses
    Desk desk;
    SharedList<KeptTake> takes;
    SharedList<KeptCurve> measurements;
    Extras extras;
    bool operator==(const Ensemble&) const = default;
};

/// Stands where an instrument's id would, for what belongs to the whole ensemble; no id has a line break.
inline const std::string sharedOwner = "\n";

inline constexpr std::string_view tieLineTarget = "tieLine:";
/// The target of a shared chain that chooses who is in hand.
inline constexpr std::string_view handTarget = "hand";

/// The tie line that a branch's target names ("tieLine:swell" gives "swell"), or nothing.
inline std::optional<std::string> tieLineOf(std::string_view target) {
    if (!target.starts_with(tieLineTarget)) return std::nullopt;
    return std::string(target.substr(tieLineTarget.size()));
}

/// A name for people: the name, or the id of what has none.
template<class Thing>
const std::string& nameOf(const Thing& thing) {
    return thing.name.empty() ? thing.id : thing.name;
}

/// The thing with an id, or nullptr. Works on any list of things that have one.
template<class List>
auto* findById(List& list, std::string_view id) {
    for (auto& each : list) {
        if (each.id == id) return &each;
    }
    return static_cast<decltype(&list.front())>(nullptr);
}

/// The place of the thing with an id, or the list's size.
template<class List>
std::size_t placeOf(const List& list, std::string_view id) {
    const auto found =
        std::find_if(list.begin(), list.end(), [id](const auto& each) { return each.id == id; });
    return static_cast<std::size_t>(found - list.begin());
}

/// As above, of a list whose other things stay shared.
template<class T>
T* findById(SharedList<T>& list, std::string_view id) {
    const std::size_t place = placeOf(list, id);
    return place < list.size() ? &list[place] : nullptr;
}

}  // namespace mellow
