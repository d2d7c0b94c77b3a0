// The document, key by key (ensemble-format, version 1). This file can be laid beside the format's page.
#pragma once

#include "core/model/described.h"
#include "core/model/ensemble.h"
#include "core/model/ensemble_words.h"
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
        Key{"parameters", &Part::parameters},
        Key{"usedControllers", &Part::usedControllers},
        Key{"tieLines", &Part::tieLines},
    };
};

}  // namespace mellow
