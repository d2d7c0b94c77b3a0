// Numbers, keys and channels are few, so that things meet: two chains on one message, a parameter that
// another lane shares, a pair and its half. Hands move in runs, as hands do, with small steps and short
// times, since much of what remembers only shows in those. Every kind and every choice comes up; some of what
// is made cannot run, and must be left alone.
#include "support/random_ensemble.h"

#include <algorithm>
#include <array>

#include "core/model/law.h"
#include "core/steps/step.h"

namespace mellow::test {

namespace {
// Few numbers, so that chains, parameters and messages meet.
constexpr std::array<int, 9> numbers{1, 2, 10, 11, 64, 74, 121, 6, 33};
constexpr std::array<const char*, 2> tieLines{"storm", "calm"};
constexpr std::array<const char*, 6> controls{"wheel", "fine", "switch", "bent", "tile", "endless"};
constexpr std::array<const char*, 2> addresses{"/tile/tilt", "/wind"};
constexpr std::array<const char*, 6> formulas{
    "x^2", "sqrt(x-0.3)", "0.5+0.5*sin(6.28*x)", "x>0.5 ? 1-x : 0/0", "1/x-1", "x y"};
constexpr std::array<const char*, 3> ports{"keys", "pads", "wind"};
constexpr std::array<const char*, 4> articulationNames{"Long", "Short", "Plucked", "Trill"};
constexpr std::array<const char*, 4> elements{"pad", "air", "gale", "tiles"};
constexpr std::array<const char*, 6> addressesOfDesk{"/pad/x", "/pad/y", "/pad/touch",
                                                     "/air",   "/gale",  "/tiles"};
}  // namespace

template<class List>
const auto& RandomWorld::oneOf(const List& list) {
    return list[static_cast<std::size_t>(below(static_cast<int>(std::size(list))))];
}

std::string RandomWorld::port() {
    if (moves_ || goesOn_) return lastPort_;
    return lastPort_ = anotherPort();
}

std::string RandomWorld::anotherPort() {
    return oneIn(10) ? std::string(anyPort) : oneOf(ports);
}

std::int64_t RandomWorld::gap() {
    moves_ = toCome_.empty() && !oneIn(3) && movesOn();
    if (moves_) return below(6000);
    if (oneIn(3)) return 0;
    return oneIn(20) ? below(400000) : below(4000);
}

double RandomWorld::numberFor(const Field& field) {
    const double width = std::min(field.high, 200.0) - field.low;
    const double value = field.low + unit() * width * (oneIn(3) ? 1 : 0.1);
    return field.type == Field::Type::whole ? std::floor(value) : value;
}

Source RandomWorld::source() {
    static constexpr std::array common{SourceKind::cc,   SourceKind::cc,       SourceKind::cc,
                                       SourceKind::bend, SourceKind::pressure, SourceKind::velocity};
    static constexpr std::array rare{
        SourceKind::cc14,     SourceKind::keyPressure, SourceKind::releaseVelocity,
        SourceKind::key,      SourceKind::rpn,         SourceKind::keyNumber,
        SourceKind::program,  SourceKind::nrpn,        SourceKind::relative,
        SourceKind::control,  SourceKind::tieLine,     SourceKind::lfo,
        SourceKind::envelope, SourceKind::walk,        SourceKind::osc,
        SourceKind::tieLine,  SourceKind::rpn,         SourceKind::cc14,
        SourceKind::desk,     SourceKind::desk};
    const auto ordinary = [this] { return oneIn(2) ? oneOf(common) : oneOf(rare); };
    Source source = makeSource(zones_ && oneIn(3) ? SourceKind::zoneNote : ordinary());
    const auto& kind = row(source.kind);
    if (kind.kind == SourceKind::cc || kind.kind == SourceKind::relative)
        source.number = numbers[static_cast<std::size_t>(below(6))];
    if (kind.kind == SourceKind::cc14) source.number = oneIn(30) ? 40 : oneOf(std::array{1, 2, 6});
    if (kind.kind == SourceKind::key) source.number = 58 + below(6);
    if (kind.kind == SourceKind::rpn || kind.kind == SourceKind::nrpn) source.number = below(3);
    if (kind.kind == SourceKind::program && oneIn(2)) source.number = below(3);
    if (oneIn(kind.kind == SourceKind::zoneNote ? 12 : 4)) source.channel = 1 + below(2);
    if (oneIn(5) || kind.kind == SourceKind::control) source.controller = "controller";
    if (kind.kind == SourceKind::control) source.control = oneOf(controls);
    if (kind.kind == SourceKind::tieLine) source.tieLine = oneOf(tieLines);
    if (kind.kind == SourceKind::desk) {
        const char* element = oneOf(elements);
        source.values = {std::string(oneIn(30) ? "gone" : element), below(3)};
        return source;
    }
    if (oneIn(5)) source.rest = oneIn(2) ? Rest::middle : Rest::low;
    for (std::size_t i = 0; i < kind.fields.size(); ++i) {
        const Field& field = kind.fields[i];
        if (field.type == Field::Type::choice)
            source.values[i] = below(static_cast<int>(field.choices.size()));
        if (field.type == Field::Type::number || field.type == Field::Type::whole)
            source.values[i] = numberFor(field);
        if (field.type == Field::Type::text) source.values[i] = std::string(oneOf(addresses));
        if (field.key == "beats" && oneIn(2)) source.values[i] = 0.0;
    }
    return source;
}

Step RandomWorld::step() {
    static constexpr std::array names{"window",  "reverse", "bend",    "points",   "smooth",
                                      "smooth",  "sCurve",  "restAt",  "deadZone", "levels",
                                      "gate",    "latch",   "scale",   "thin",     "hold",
                                      "combine", "combine", "formula", "limit"};
    Step step = makeStep(*findStepKind(oneOf(names)));
    if (step.with) step.with = source();
    if (step.kind->name == "combine") step.values = {below(7)};
    if (step.kind->name == "formula") step.values = {std::string(oneOf(formulas))};
    step.on = !oneIn(10);
    if (step.kind->name == "window") step.values = {unit(), oneIn(8) ? 0.5 : unit()};
    if (step.kind->name == "bend") step.values = {unit() * 2 - 1};
    if (step.kind->name == "smooth") {
        step.values = {oneIn(4) ? 0.0 : static_cast<double>(below(60)),
                       oneIn(4) ? 0.0 : static_cast<double>(below(60)), below(2)};
    }
    if (step.kind->name == "hold") step.values = {below(2)};
    if (step.kind->name == "sCurve") step.values = {unit() * 2 - 1};
    if (step.kind->name == "restAt") step.values = {0.01 + unit() * 0.98, 0.01 + unit() * 0.98};
    if (step.kind->name == "deadZone") step.values = {unit(), unit() * (oneIn(4) ? 1.0 : 0.3)};
    if (step.kind->name == "levels")
        step.values = {static_cast<double>(2 + below(6)), unit() * 0.6, std::vector<std::string>{}};
    if (step.kind->name == "gate") step.values = {unit(), unit() * 0.2};
    if (step.kind->name == "scale") step.values = {unit() * 4 - 2, unit() * 2 - 1};
    if (step.kind->name == "limit") {
        const double a = unit() * 1.2 - 0.1;
        const double b = unit();
        step.values = {std::min(a, b), oneIn(40) ? std::min(a, b) - 0.1 : std::max(a, b)};  // Seldom a fault.
    }
    if (step.kind->name == "thin")
        step.values = {oneIn(3) ? 0.0 : unit() * 0.2, oneIn(3) ? 0.0 : static_cast<double>(below(30))};
    if (step.kind->name == "points") {
        std::vector<Point> points{{0, unit()}};
        for (int i = 1; i < 2 + below(4); ++i) points.push_back({i / 6.0, unit()});
        points.push_back({1, unit()});
        step.values = {points, below(2)};
    }
    return step;
}

Select RandomWorld::select() {
    Select select;
    select.kind = static_cast<SelectKind>(below(4));
    switch (select.kind) {
        case SelectKind::note:
            select.number = 56 + below(6);
            if (oneIn(3)) select.velocity = 1 + below(127);
            select.held = oneIn(2);
            break;
        case SelectKind::cc:
            select.number = oneOf(numbers);
            select.value = below(4);
            break;
        case SelectKind::program:
            select.value = below(4);
            if (oneIn(3)) select.bank = {below(2), below(2)};
            break;
        case SelectKind::channel:
            select.value = oneIn(30) ? 17 : 1 + below(4);
            break;
    }
    return select;
}

Articulation RandomWorld::articulation(int index) {
    Articulation articulation;
    articulation.id = "a" + std::to_string(index);
    if (!oneIn(4)) articulation.name = oneOf(articulationNames);
    if (oneIn(3)) articulation.answersTo.emplace_back(oneOf(articulationNames));
    for (int i = 0; i < below(4); ++i) articulation.select.push_back(select());
    return articulation;
}

Desk RandomWorld::desk() {
    Desk desk;
    DeskPage page;
    page.id = "page";
    const auto add = [&](const char* id, ElementKind kind) {
        DeskElement element;
        element.id = id;
        element.kind = kind;
        if (oneIn(2)) element.rest = unit();
        element.latching = oneIn(2);
        page.elements.push_back(element);
    };
    add("pad", ElementKind::pad);
    add("air", oneIn(2) ? ElementKind::slider : ElementKind::dial);
    add("gale", oneIn(15) ? ElementKind::keys : ElementKind::button);
    add("tiles", ElementKind::articulations);
    for (int i = 0; i < below(5); ++i)
        page.elements.back().names.emplace_back(oneIn(4) ? "trill" : oneOf(articulationNames));
    desk.pages.push_back(std::move(page));
    return desk;
}

DeskMove RandomWorld::deskMove() {
    return {oneIn(30) ? "/nowhere" : oneOf(addressesOfDesk), oneIn(8) ? below(2) : unit()};
}

void RandomWorld::changeSections(Ensemble& ensemble) {
    ensemble.sections.clear();
    ensemble.handOrder.clear();
    for (const char* id : {"high", "low"}) {
        Section section;
        section.id = id;
        for (const Instrument& instrument : ensemble.instruments) {
            if (oneIn(2)) section.instruments.push_back(instrument.id);
        }
        ensemble.sections.push_back(section);
        if (oneIn(2)) ensemble.handOrder.push_back(section.id);
    }
    for (const Instrument& instrument : ensemble.instruments) {
        if (!oneIn(3)) ensemble.handOrder.push_back(instrument.id);
    }
    if (oneIn(8)) ensemble.handOrder.emplace_back("nobody");
}

Parameter RandomWorld::articulationParameter(const Instrument& instrument, int index) {
    Parameter parameter;
    parameter.id = "p" + std::to_string(index);
    parameter.message.kind = MessageKind::articulation;
    parameter.mix = oneIn(5) ? static_cast<Mix>(below(6)) : Mix::latest;
    parameter.repeats = oneIn(6);
    Instrument naming;
    naming.articulations = instrument.articulations;
    naming.parameters.push_back(parameter);
    nameArticulations(naming);
    return naming.parameters.front();
}

Parameter RandomWorld::parameter(int index) {
    static constexpr std::array kinds{MessageKind::cc,          MessageKind::cc,       MessageKind::cc,
                                      MessageKind::bend,        MessageKind::pressure, MessageKind::cc14,
                                      MessageKind::rpn,         MessageKind::nrpn,     MessageKind::note,
                                      MessageKind::keyPressure, MessageKind::velocity, MessageKind::rpn,
                                      MessageKind::program,     MessageKind::osc};
    Parameter parameter;
    parameter.id = "p" + std::to_string(index);
    Message& message = parameter.message;
    message.kind = oneOf(kinds);
    if (message.kind == MessageKind::cc)
        message.number = oneIn(4) ? oneOf(std::array{7, 8, 71, 78}) : oneOf(numbers);
    if (message.kind == MessageKind::cc14) message.number = oneOf(std::array{1, 6, 7, 10, 11});
    if (message.kind == MessageKind::rpn || message.kind == MessageKind::nrpn) message.number = below(3);
    if (message.kind == MessageKind::note) message.number = 58 + below(6);
    if (message.kind == MessageKind::program && oneIn(2)) message.bank = {below(2), below(3)};
    if (message.kind == MessageKind::osc) message.address = oneOf(addresses);
    parameter.mix = oneIn(3) ? static_cast<Mix>(below(6)) : Mix::latest;
    switch (below(6)) {
        case 0:
            parameter.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
            break;
        case 1:
            parameter.display = {{}, {}, "dB", Law::decibel, {}, {}};
            if (oneIn(2)) parameter.display.high = 6.0;
            break;
        case 2:
            parameter.display = {-100.0, 100.0, "%", {}, {}, {}};
            break;
        case 3:
            parameter.display = {{}, {}, "", Law::choices, {"off", "half", "full"}, {}};
            break;
        default:
            break;
    }
    if (oneIn(5)) parameter.centred = oneIn(2);
    if (oneIn(3)) parameter.rest = level(parameter);
    parameter.repeats = oneIn(6);
    return parameter;
}

Level RandomWorld::level(const Parameter& parameter) {
    if (parameter.display.law == Law::decibel && oneIn(4)) return std::string("-inf");
    const double q = oneIn(20) ? 1.3 : unit();
    const std::vector<std::string>& choices = parameter.display.choices;
    if (parameter.display.law == Law::choices && choices.empty()) return unit();
    if (parameter.display.law == Law::choices)
        return choices[static_cast<std::size_t>(below(static_cast<int>(choices.size())))];
    const double value = displayValue(rangeOf(parameter), q);
    return std::isfinite(value) ? Level(value) : Level(std::string("-inf"));
}

Branch RandomWorld::branch(const Instrument& instrument) {
    Branch branch;
    const Parameter& target =
        instrument
            .parameters[static_cast<std::size_t>(below(static_cast<int>(instrument.parameters.size())))];
    branch.target = oneIn(30) ? "nowhere" : target.id;
    branch.low = level(target);
    branch.high = level(target);
    if (oneIn(6)) {
        branch.target = std::string(tieLineTarget) + oneOf(tieLines);
        branch.low = unit();
        branch.high = unit();
    }
    branch.on = !oneIn(10);
    if (oneIn(4)) branch.window = BranchWindow{unit(), unit(), static_cast<Outside>(below(3)), {}};
    for (int i = 0; i < below(3); ++i) branch.steps.push_back(step());
    return branch;
}

Chain RandomWorld::chain(const Instrument& instrument, int index) {
    Chain chain;
    chain.id = "c" + std::to_string(index);
    chain.on = !oneIn(8);
    chain.source = source();
    chain.keepOriginal = oneIn(5);
    for (int i = 0; i < below(4); ++i) chain.steps.push_back(step());
    for (int i = 0; i < below(4); ++i) chain.branches.push_back(branch(instrument));
    if (oneIn(4)) {
        chain.fan.mode = FanMode::chosen;
        chain.fan.by = source();
    }
    if (oneIn(4)) chain.active = Active::inHand;
    if (oneIn(4)) chain.handover = static_cast<Handover>(below(3));
    return chain;
}

Instrument RandomWorld::instrument(int index) {
    Instrument instrument;
    instrument.id = "i" + std::to_string(index);
    instrument.on = !oneIn(10);
    if (oneIn(3)) instrument.input.port = oneOf(ports);
    if (oneIn(zones_ ? 8 : 3)) instrument.input.channel = 1 + below(2);
    if (zones_ && oneIn(3)) instrument.input.zone = static_cast<midi::Zone>(below(2));
    if (oneIn(3)) {
        instrument.input.lowKey = below(70);
        instrument.input.highKey = 60 + below(68);
        instrument.input.transpose = below(49) - 24;
    }
    if (oneIn(4)) {
        instrument.input.lowVelocity = 1 + below(80);
        instrument.input.highVelocity = 60 + below(68);
    }
    if (oneIn(2)) {
        for (int i = 0; i < 1 + below(4); ++i) instrument.articulations.push_back(articulation(i));
    }
    instrument.output = {oneIn(2) ? "rack" : "hall", 1 + below(3), OnConnect::nothing, {}};
    instrument.output.keepChannels = zones_ && oneIn(3);
    instrument.pass = {!oneIn(6), !oneIn(4), oneIn(2), oneIn(2), {}};
    for (int i = 0; i < 1 + below(4); ++i) {
        const bool chooses = !instrument.articulations.empty() && oneIn(3);
        instrument.parameters.push_back(chooses ? articulationParameter(instrument, i) : parameter(i));
    }
    for (int i = 0; i < below(5); ++i) instrument.chains.push_back(chain(instrument, i));
    return instrument;
}

/// A chain that leads from anywhere to any instrument.
Chain RandomWorld::sharedChain(const Ensemble& ensemble, int index) {
    const Instrument& instrument = oneOf(ensemble.instruments);
    Chain shared = chain(instrument, index);
    for (Branch& branch : shared.branches) {
        if (!ensemble.handOrder.empty() && oneIn(5)) {
            branch.target = std::string(handTarget);
            branch.low = oneOf(ensemble.handOrder);
            branch.high = oneOf(ensemble.handOrder);
        } else if (!tieLineOf(branch.target)) {
            branch.target.insert(0, instrument.id + "/");
        }
    }
    return shared;
}

Ensemble RandomWorld::ensemble() {
    Ensemble ensemble;
    ensemble.title = "Random";
    zones_ = oneIn(2);
    Controller controller;
    controller.id = "controller";
    controller.port = oneIn(4) ? std::string(anyPort) : oneOf(ports);
    if (zones_) changeZones(controller);
    const std::array kinds{MessageKind::cc,   MessageKind::cc14, MessageKind::note,
                           MessageKind::bend, MessageKind::osc,  MessageKind::relative};
    for (std::size_t i = 0; i < controls.size(); ++i) {
        Message message;
        message.kind = kinds.at(i);
        if (message.kind == MessageKind::note) message.number = 60;
        if (message.kind == MessageKind::cc) message.number = 11;
        if (message.kind == MessageKind::cc14) message.number = 2;
        if (message.kind == MessageKind::osc) message.address = oneOf(addresses);
        if (message.kind == MessageKind::relative) {
            message.number = 74;
            message.values = {below(3), static_cast<double>(1 + below(4))};
        }
        controller.controls.push_back(
            {controls.at(i), "", message, oneIn(3) ? std::optional(Rest::middle) : std::nullopt, {}});
    }
    if (oneIn(2)) controller.handover = static_cast<Handover>(below(3));
    ensemble.controllers.push_back(controller);
    if (oneIn(2)) changeTempo(ensemble);
    for (const char* id : tieLines) ensemble.tieLines.push_back({id, "", unit(), {}});
    ensemble.desk = desk();
    for (int i = 0; i < 1 + below(4); ++i) ensemble.instruments.push_back(instrument(i));
    if (oneIn(2)) changeSections(ensemble);
    for (int i = 0; i < below(4); ++i) ensemble.sharedChains.push_back(sharedChain(ensemble, i));
    if (oneIn(2)) changeHands(ensemble);
    for (int i = 0; i < below(3); ++i) ensemble.measurements.push_back(measurement(ensemble, i));
    return ensemble;
}

KeptCurve RandomWorld::measurement(const Ensemble& ensemble, int place) {
    KeptCurve curve;
    curve.id = "measured" + std::to_string(place);
    if (oneIn(2)) curve.name = "Swell";
    const auto& all = ensemble.instruments;
    curve.instrument =
        oneIn(4) ? "gone" : all[static_cast<std::size_t>(below(static_cast<int>(all.size())))].id;
    curve.moved = oneIn(3) ? "velocity" : "cc " + std::to_string(oneOf(numbers));
    curve.heardFrom = oneIn(2) ? "Practice rack" : "known-synth:left";
    curve.file = oneIn(4) ? "../elsewhere.json" : "swell-0123.json";
    if (oneIn(2)) curve.sha256 = "0123";
    if (oneIn(2)) curve.measured = "2026-05-04T03:02:01Z";
    if (oneIn(2)) curve.state = "0123456789abcdef";
    const auto level = [this] { return oneIn(3) ? std::nullopt : std::optional<double>(-below(70)); };
    curve.rest = level();
    curve.half = level();
    curve.full = level();
    curve.range = level();
    curve.bump = level();
    return curve;
}

void RandomWorld::changeZones(Controller& controller) {
    const auto members = [this] { return oneIn(2) ? byMessage : oneIn(4) ? below(17) : below(4); };
    controller.zones.lower = members();
    controller.zones.upper = members();
    controller.zones.noteBend = oneIn(2) ? 48 : below(100);
    if (oneIn(3)) controller.zones.allBend = below(100);
}

void RandomWorld::changeTempo(Ensemble& ensemble) {
    ensemble.tempo = {};
    ensemble.tempo.bpm = oneIn(10) ? 0 : 30 + below(200);
    if (!oneIn(3)) ensemble.tempo.follow = oneIn(4) ? Follow::transport : Follow::clock;
    if (oneIn(3)) ensemble.tempo.port = oneOf(ports);
}

void RandomWorld::changeHands(Ensemble& ensemble) {
    ensemble.inHand.reset();
    if (oneIn(4)) return;
    ensemble.inHand.emplace();
    for (const Instrument& instrument : ensemble.instruments) {
        if (oneIn(2)) ensemble.inHand->push_back(instrument.id);
    }
}

void RandomWorld::edit(Ensemble& ensemble) {
    if (ensemble.instruments.empty() || oneIn(10)) {
        ensemble.instruments.push_back(instrument(100 + below(1000000)));
        return;
    }
    const auto at = static_cast<std::size_t>(below(static_cast<int>(ensemble.instruments.size())));
    Instrument& chosen = ensemble.instruments[at];
    switch (below(14)) {
        case 11:
            if (chosen.articulations.empty() || oneIn(2)) {
                chosen.articulations.push_back(articulation(100 + below(100000)));
            } else if (oneIn(2)) {
                chosen.articulations.erase(chosen.articulations.begin());
            } else {
                chosen.articulations.front().select.push_back(select());
            }
            nameArticulations(chosen);
            break;
        case 12:
            changeSections(ensemble);
            break;
        case 13:
            if (oneIn(2)) {
                ensemble.desk = desk();
            } else {
                chosen.input.lowVelocity = 1 + below(100);
            }
            break;
        case 10:
            changeTempo(ensemble);
            break;
        case 8:
            changeHands(ensemble);
            break;
        case 9:
            if (!ensemble.sharedChains.empty() && oneIn(2)) ensemble.sharedChains.pop_back();
            ensemble.sharedChains.push_back(sharedChain(ensemble, below(100)));
            break;
        case 5:
            chosen.on = !chosen.on;
            break;
        case 0:
            chosen.output.channel = 1 + below(3);
            break;
        case 1:
            chosen.input.transpose = below(25) - 12;
            if (zones_ && oneIn(2)) changeZones(ensemble.controllers.front());
            if (zones_ && oneIn(2)) chosen.output.keepChannels = !chosen.output.keepChannels;
            break;
        case 2:
            chosen.pass.notes = !chosen.pass.notes;
            break;
        case 3:
            ensemble.instruments.erase(ensemble.instruments.begin() + static_cast<std::ptrdiff_t>(at));
            break;
        case 4:
            std::swap(ensemble.instruments.front(), ensemble.instruments.back());
            break;
        default:
            if (chosen.chains.empty()) {
                chosen.chains.push_back(chain(chosen, below(3)));
            } else {
                Chain& edited = chosen.chains.front();
                if (oneIn(3)) edited.on = !edited.on;
                if (oneIn(3) && !edited.steps.empty()) edited.steps.front() = step();
                if (oneIn(3) && !edited.branches.empty()) edited.branches.back() = branch(chosen);
                if (oneIn(4)) edited.steps.push_back(step());
                if (oneIn(8)) edited.source = source();
                if (oneIn(8)) edited.handover = static_cast<Handover>(below(3));
                if (oneIn(8) && edited.fan.by) edited.fan.by = source();
                if (oneIn(4) && !edited.steps.empty()) edited.steps.back().on = !edited.steps.back().on;
                if (oneIn(4) && !edited.branches.empty()) edited.branches[0].on = !edited.branches[0].on;
            }
    }
}

/// True when a hand that has begun to move can go on.
bool RandomWorld::movesOn() const {
    if (last_.empty()) return false;
    const int kind = last_[0] & 0xF0;
    return kind == 0xB0 ? last_[1] < 120 : kind == 0xA0 || kind == 0xD0 || kind == 0xE0;
}

/// A keyboard says what one of its zones is, or how far its bends reach.
void RandomWorld::configureZone() {
    const bool whole = oneIn(2);
    const auto channel = whole ? 15 * below(2) : (oneIn(2) ? 15 - below(3) : below(3));
    const auto status = static_cast<std::uint8_t>(0xB0 + channel);
    const auto number = static_cast<std::uint8_t>(whole ? 6 : 0);
    const auto value = static_cast<std::uint8_t>(whole ? below(oneIn(3) ? 17 : 4) : below(50));
    toCome_ = {{status, 6, value}, {status, 100, number}, {status, 101, 0}};
    if (!whole && oneIn(2))
        toCome_.insert(toCome_.begin(), {status, 38, static_cast<std::uint8_t>(below(128))});
}

std::vector<std::uint8_t> RandomWorld::message() {
    if (!moves_ && zones_ && toCome_.empty() && oneIn(30)) configureZone();
    goesOn_ = toCome_.size() > 1;
    if (!toCome_.empty()) {
        last_ = toCome_.back();
        toCome_.pop_back();
        return last_;
    }
    if (moves_) {
        const int moved = last_.back() + below(31) - 15;
        last_.back() = static_cast<std::uint8_t>(std::clamp(moved, 0, 127));
        return last_;
    }
    return last_ = anotherMessage();
}

std::vector<std::uint8_t> RandomWorld::anotherMessage() {
    const auto data = [this] {
        return static_cast<std::uint8_t>(oneIn(6) ? (oneIn(2) ? 0 : 127) : below(128));
    };
    const auto channel = zones_ && oneIn(5) ? 13 + below(3) : below(3);
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + channel); };
    const auto key = static_cast<std::uint8_t>(oneIn(10) ? below(128) : 58 + below(6));
    switch (below(16)) {
        case 0:
        case 1:
            return {status(0x90), key, static_cast<std::uint8_t>(1 + below(127))};
        case 2:
            return {status(0x80), key, data()};
        case 3:
            return {status(0x90), key, 0};
        case 4:
            return {status(0xA0), key, data()};
        case 5:
        case 6:
            return {status(0xE0), data(), data()};
        case 7:
            return {status(0xD0), data()};
        case 8:
            return {status(0xC0), static_cast<std::uint8_t>(oneIn(2) ? below(3) : data())};
        case 9:
            if (oneIn(4)) return {0xF0, 0x7D, data(), 0xF7};
            return {static_cast<std::uint8_t>(oneIn(3) ? 0xF6 : 0xF8)};
        case 10:
            if (oneIn(3)) return {status(0xB0), static_cast<std::uint8_t>(120 + below(8)), 0};
            [[fallthrough]];
        case 11:
            return {status(0xB0), static_cast<std::uint8_t>(oneOf(std::array{6, 38, 6, 38, 96, 97})),
                    zones_ && oneIn(2) ? static_cast<std::uint8_t>(below(17)) : data()};
        case 12: {
            if (oneIn(10)) return {status(0xB0), static_cast<std::uint8_t>(98 + below(4)), 127};
            const bool high = oneIn(2);
            return {status(0xB0), static_cast<std::uint8_t>((oneIn(2) ? 98 : 100) + (high ? 1 : 0)),
                    static_cast<std::uint8_t>(high                 ? 0
                                              : zones_ && oneIn(2) ? 6 * below(2)
                                                                   : below(3))};
        }
        case 13:
            return {status(0xB0), static_cast<std::uint8_t>(oneOf(std::array{1, 33, 2, 34, 66, 69})), data()};
        default:
            return {status(0xB0),
                    static_cast<std::uint8_t>(oneIn(12) ? below(128)
                                                        : numbers[static_cast<std::size_t>(below(6))]),
                    data()};
    }
}

}  // namespace mellow::test
