// The document, key by key (ensemble-format, version 1). This file can be laid beside the format's page.
#pragma once

#include "core/model/described.h"
#include "core/model/ensemble.h"
#include "core/model/ensemble_words.h"
#include "core/model/kept_keys.h"
#include "core/model/part.h"

namespace mellow {

template<>
struct Keys<BranchWindow> {
    static constexpr std::string_view name = "window";
    static constexpr auto all = std::tuple{
        Key{"low", &BranchWindow::low, Need::isWritten},
        Key{"high", &BranchWindow::high, Need::isWritten},
        Key{"outside", &BranchWindow::outside, Need::mayBeAbsent, outsideWords},
    };
};

template<>
struct Keys<Branch> {
    static constexpr std::string_view name = "branch";
    static constexpr auto all = std::tuple{
        Key{"target",
            &Branch::target,
            Need::isRequired,
            {},
            nullptr,
            "A parameter's id, tieLine:ID, or INSTRUMENT/PARAMETER in a shared chain."},
        Key{"on", &Branch::on},
        Key{"low", &Branch::low, Need::isRequired},
        Key{"high", &Branch::high, Need::isRequired},
        Key{"window", &Branch::window},
        Key{"steps", &Branch::steps},
        Key{"note", &Branch::note, Need::mayBeAbsent, {}, nullptr, "A person's words about it."},
    };
};

template<>
struct Keys<Fan> {
    static constexpr std::string_view name = "fan";
    static constexpr auto all = std::tuple{
        Key{"mode", &Fan::mode, Need::isWritten, fanWords},
        Key{"by", &Fan::by},
    };
};

template<>
struct Keys<Chain> {
    static constexpr std::string_view name = "chain";
    static constexpr auto all = std::tuple{
        Key{"id", &Chain::id, Need::isRequired},
        Key{"name", &Chain::name},
        Key{"on", &Chain::on},
        Key{"active", &Chain::active, Need::mayBeAbsent, activeWords},
        Key{"source", &Chain::source, Need::isRequired},
        Key{"keepOriginal", &Chain::keepOriginal},
        Key{"steps", &Chain::steps},
        Key{"fan", &Chain::fan},
        Key{"branches", &Chain::branches, Need::isRequired},
        Key{"handover", &Chain::handover, Need::mayBeAbsent, handoverWords},
    };
};

template<>
struct Keys<Display> {
    static constexpr std::string_view name = "display";
    static constexpr auto all = std::tuple{
        Key{"low", &Display::low},         Key{"high", &Display::high},
        Key{"unit", &Display::unit},       Key{"law", &Display::law, Need::mayBeAbsent, lawWords},
        Key{"choices", &Display::choices},
    };
};

/// What a message has beside its kind and number: one of these, as its kind says (MessageRow::part).
template<>
struct Keys<Message> {
    static constexpr std::string_view name = "message";
    static constexpr auto all = std::tuple{
        Key{"bank",
            &Message::bank,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Of a program: CC 0 and CC 32 before it.",
            "two numbers [msb, lsb]"},
        Key{"velocity", &Message::velocity, Need::mayBeAbsent, {}, nullptr, "Of a note."},
        Key{"address", &Message::address, Need::isRequired, {}, nullptr, "Of OSC."},
    };
};

template<>
struct Keys<Parameter> {
    static constexpr std::string_view name = "parameter";
    /// The choices of an articulation are those of its instrument, and are written there.
    static bool has(const Parameter& parameter, std::string_view key) {
        return key != "display" || parameter.message.kind != MessageKind::articulation;
    }
    static constexpr auto all = std::tuple{
        Key{"id", &Parameter::id, Need::isRequired},
        Key{"name", &Parameter::name},
        Key{"message", &Parameter::message, Need::isRequired, {}, messageKinds},
        Key{"display", &Parameter::display},
        Key{"rest", &Parameter::rest},
        Key{"centred", &Parameter::centred},
        Key{"mix", &Parameter::mix, Need::mayBeAbsent, mixWords},
        Key{"repeats", &Parameter::repeats},
        Key{"locked",
            &Parameter::locked,
            Need::mayBeAbsent,
            {},
            nullptr,
            "It stays where it is when values are drawn or put to rest."},
    };
};

template<>
struct Keys<Input> {
    static constexpr std::string_view name = "input";
    static constexpr auto all = std::tuple{
        Key{"port", &Input::port},
        Key{"channel", &Input::channel},
        PairKey<Input>{"keys", &Input::lowKey, &Input::highKey, "two key numbers [low, high]"},
        Key{"transpose", &Input::transpose},
        PairKey<Input>{"velocities", &Input::lowVelocity, &Input::highVelocity, "two velocities [low, high]"},
        Key{"zone", &Input::zone, Need::mayBeAbsent, zoneWords, nullptr,
            "Only what comes on the channels of that zone of its port."},
    };
};

template<>
struct Keys<Output> {
    static constexpr std::string_view name = "output";
    static constexpr auto all = std::tuple{
        Key{"port", &Output::port, Need::isRequired},
        Key{"channel", &Output::channel, Need::isRequired},
        Key{"onConnect", &Output::onConnect, Need::mayBeAbsent, onConnectWords, nullptr,
            "What it is sent when something is connected to its port: nothing, its resting values, or its "
            "last."},
        Key{"keepChannels",
            &Output::keepChannels,
            Need::mayBeAbsent,
            {},
            nullptr,
            "What comes on a member channel of a zone and passes keeps its channel."},
    };
};

template<>
struct Keys<Pass> {
    static constexpr std::string_view name = "pass";
    static constexpr auto all = std::tuple{
        Key{"notes", &Pass::notes},
        Key{"unmatched", &Pass::unmatched},
        Key{"sysex", &Pass::sysex},
        Key{"clock", &Pass::clock},
    };
};

/// What a message has beside its kind, as its kind says.
template<>
struct Keys<Select> {
    static constexpr std::string_view name = "select";
    static constexpr bool isOf(SelectKind kind, std::string_view key) {
        if (key == "number") return kind == SelectKind::note || kind == SelectKind::cc;
        if (key == "velocity" || key == "held") return kind == SelectKind::note;
        if (key == "value") return kind != SelectKind::note;
        return key != "bank" || kind == SelectKind::program;
    }
    static bool has(const Select& select, std::string_view key) { return isOf(select.kind, key); }
    static constexpr auto all = std::tuple{
        Key{"kind", &Select::kind, Need::isRequired, selectWords},
        Key{"number",
            &Select::number,
            Need::isRequired,
            {},
            nullptr,
            "The key of a note, the number of a control."},
        Key{"velocity", &Select::velocity, Need::mayBeAbsent, {}, nullptr, "Of a note."},
        Key{"held",
            &Select::held,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Of a note: its end comes when another articulation is chosen."},
        Key{"value", &Select::value, Need::isRequired},
        Key{"bank",
            &Select::bank,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Of a program: CC 0 and CC 32 before it.",
            "two numbers [msb, lsb]"},
    };
};

template<>
struct Keys<Articulation> {
    static constexpr std::string_view name = "articulation";
    static constexpr auto all = std::tuple{
        Key{"id", &Articulation::id, Need::isRequired},
        Key{"name", &Articulation::name},
        Key{"answersTo",
            &Articulation::answersTo,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Other names by which tiles choose it."},
        PairKey<Articulation>{"keys", &Articulation::lowKey, &Articulation::highKey,
                              "two key numbers [low, high]"},
        Key{"select",
            &Articulation::select,
            Need::isWritten,
            {},
            nullptr,
            "Sent in order when it is chosen."},
    };
};

template<>
struct Keys<Instrument> {
    static constexpr std::string_view name = "instrument";
    static constexpr auto all = std::tuple{
        Key{"id", &Instrument::id, Need::isRequired},
        Key{"name", &Instrument::name},
        Key{"on", &Instrument::on},
        Key{"input", &Instrument::input},
        Key{"output", &Instrument::output, Need::isRequired},
        Key{"pass", &Instrument::pass},
        Key{"parameters", &Instrument::parameters, Need::isRequired},
        Key{"articulations", &Instrument::articulations},
        Key{"chains", &Instrument::chains},
    };
};

template<>
struct Keys<ControllerControl> {
    static constexpr std::string_view name = "control";
    static constexpr auto all = std::tuple{
        Key{"id", &ControllerControl::id, Need::isRequired},
        Key{"name", &ControllerControl::name},
        Key{"message", &ControllerControl::message, Need::isRequired, {}, controlKinds},
        Key{"rest", &ControllerControl::rest, Need::mayBeAbsent, restWords},
    };
};

/// How a keyboard's zones of MIDI Polyphonic Expression lie, said by hand.
template<>
struct Keys<ZoneSettings> {
    static constexpr std::string_view name = "zones";
    static constexpr auto all = std::tuple{
        Key{"lower",
            &ZoneSettings::lower,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Member channels of the lower zone, 0 to 15; absent: as the keyboard's configuration message "
            "says."},
        Key{"upper", &ZoneSettings::upper, Need::mayBeAbsent, {}, nullptr, "The same of the upper zone."},
        Key{"noteBend",
            &ZoneSettings::noteBend,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Semitones to which the bend of a note in a zone reaches, until RPN 0 says."},
        Key{"allBend",
            &ZoneSettings::allBend,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Semitones to which the bend of a zone's manager reaches, until RPN 0 says."},
    };
};

template<>
struct Keys<Controller> {
    static constexpr std::string_view name = "controller";
    static constexpr auto all = std::tuple{
        Key{"id", &Controller::id, Need::isRequired},
        Key{"name", &Controller::name},
        Key{"port", &Controller::port, Need::isWritten},
        Key{"controls", &Controller::controls},
        Key{"handover", &Controller::handover, Need::mayBeAbsent, handoverWords},
        Key{"feedback", &Controller::feedback},
        Key{"zones", &Controller::zones},
    };
};

template<>
struct Keys<TieLine> {
    static constexpr std::string_view name = "tieLine";
    static constexpr auto all = std::tuple{
        Key{"id", &TieLine::id, Need::isRequired},
        Key{"name", &TieLine::name},
        Key{"rest", &TieLine::rest, Need::isWritten},
    };
};

template<>
struct Keys<Tempo> {
    static constexpr std::string_view name = "tempo";
    static constexpr auto all = std::tuple{
        Key{"bpm", &Tempo::bpm},
        Key{"follow", &Tempo::follow, Need::mayBeAbsent, followWords, nullptr,
            "Whose beat cycles in beats follow; bpm until that has spoken."},
        Key{"port", &Tempo::port, Need::mayBeAbsent, {}, nullptr, "Of the MIDI clock; any when absent."},
    };
};

template<>
struct Keys<Section> {
    static constexpr std::string_view name = "section";
    static constexpr auto all = std::tuple{
        Key{"id", &Section::id, Need::isRequired},
        Key{"name", &Section::name},
        Key{"instruments", &Section::instruments, Need::isWritten, {}, nullptr, {}, "an instrument's id"},
    };
};

template<>
struct Keys<DeskElement> {
    static constexpr std::string_view name = "deskElement";
    static constexpr auto all = std::tuple{
        Key{"id", &DeskElement::id, Need::isRequired},
        Key{"kind", &DeskElement::kind, Need::isRequired, elementWords},
        Key{"name", &DeskElement::name},
        Key{"place",
            &DeskElement::place,
            Need::isRequired,
            {},
            nullptr,
            "On the page's grid.",
            "four whole numbers [column, row, width, height]"},
        Key{"latching",
            &DeskElement::latching,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Of a button: it stays until it is pressed again."},
        Key{"names", &DeskElement::names, Need::mayBeAbsent, {}, nullptr, "Of articulation tiles."},
        Key{"rest",
            &DeskElement::rest,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Where it stands before it is moved, 0 to 1."},
        Key{"springs",
            &DeskElement::springs,
            Need::mayBeAbsent,
            {},
            nullptr,
            "It goes back to rest when it is let go."},
        Key{"tone",
            &DeskElement::tone,
            Need::mayBeAbsent,
            {},
            nullptr,
            "One of the theme's own names, such as honey."},
        Key{"lowestKey",
            &DeskElement::lowestKey,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Of practice keys: the first that is drawn."},
        Key{"keys",
            &DeskElement::keys,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Keys of a computer keyboard that move it.",
            "a key"},
    };
};

template<>
struct Keys<DeskPage> {
    static constexpr std::string_view name = "deskPage";
    static constexpr auto all = std::tuple{
        Key{"id", &DeskPage::id, Need::isRequired},
        Key{"name", &DeskPage::name},
        Key{"columns", &DeskPage::columns, Need::isWritten},
        Key{"rows", &DeskPage::rows, Need::isWritten},
        Key{"elements", &DeskPage::elements, Need::isWritten},
    };
};

template<>
struct Keys<Desk> {
    static constexpr std::string_view name = "desk";
    static constexpr auto all = std::tuple{
        Key{"pages", &Desk::pages, Need::isWritten},
    };
};

template<>
struct Keys<Ensemble> {
    static constexpr std::string_view name = "ensemble";
    static constexpr auto all = std::tuple{
        Key{"title", &Ensemble::title, Need::isRequired},
        Key{"controllers", &Ensemble::controllers},
        Key{"tieLines", &Ensemble::tieLines},
        Key{"instruments", &Ensemble::instruments, Need::isRequired},
        Key{"sharedChains", &Ensemble::sharedChains},
        Key{"inHand",
            &Ensemble::inHand,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Ids of the instruments in hand; absent: all.",
            "an instrument's id"},
        Key{"tempo", &Ensemble::tempo},
        Key{"sections", &Ensemble::sections},
        Key{"handOrder",
            &Ensemble::handOrder,
            Need::mayBeAbsent,
            {},
            nullptr,
            "Ids of instruments and sections, in the order in which the target hand chooses them.",
            "an id of an instrument or section"},
        Key{"desk", &Ensemble::desk},
        Key{"takes", &Ensemble::takes},
        Key{"measurements", &Ensemble::measurements},
    };
};

template<>
struct Keys<Part> {
    static constexpr std::string_view name = "part";
    static constexpr auto all = std::tuple{
        Key{"name", &Part::name},
        Key{"about", &Part::about},
        Key{"instruments", &Part::instruments},
        Key{"controllers", &Part::controllers},
        Key{"chains", &Part::chains},
        Key{"branches", &Part::branches},
        Key{"steps", &Part::steps},
        Key{"elements", &Part::elements},
        Key{"parameters", &Part::parameters},
        Key{"articulations", &Part::articulations},
        Key{"usedControllers", &Part::usedControllers},
        Key{"tieLines", &Part::tieLines},
        Key{"measurements", &Part::measurements},
    };
};

}  // namespace mellow
