// Reached through the window's own calls.
#include "tools/scenes.h"

#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
#include <QPushButton>
#include <cmath>

#include "app/acts/reuse/reuse.h"
#include "app/live/in_hand.h"
#include "app/pages/desk/desk_page.h"
#include "app/pages/gear/gear_page.h"
#include "app/pages/takes/takes_page.h"
#include "app/widgets/step_picker.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/steps/step.h"
#include "tools/balance_scenes.h"
#include "tools/sheet_scenes.h"

namespace mellow::tools {

void run(int milliseconds) {
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < milliseconds)
        QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 10);
}

using namespace mellow::app;

void selectSwell(MainWindow& window) {
    window.selection().set({"glass", "swell", app::Part::step, 1, 0});
}

/// The gesture tile has no practice key, so its part is played by messages.
void moveTile(MainWindow& window) {
    for (const auto& [number, value] : {std::pair{24, 96}, {25, 30}, {23, 20}, {22, 90}})
        window.live().hands().sendTo("gesture-tile",
                                     mellow::midi::make(mellow::midi::controlChange, 0, number, value));
}

/// A dialog or a list, opened the way a person opens it.
void act(MainWindow& window, const QString& text) {
    for (QAction* action : window.findChildren<QAction*>()) {
        if (QString(action->text()).remove(QLatin1Char('&')) == text && action->isVisible())
            return action->trigger();
    }
}

namespace {

void manyTargets(MainWindow& window) {
    window.document().edit(QStringLiteral("Targets"), [](mellow::Ensemble& e) {
        mellow::Instrument& glass = e.instruments[0];
        mellow::Chain& chain = glass.chains[0];
        for (const char* name : {"Rasp", "Air", "Breath of the hall", "Second voice"}) {
            glass.parameters.push_back(mellow::newParameter(glass));
            glass.parameters.back().name = name;
            chain.branches.push_back(mellow::wholeBranch(glass.parameters.back()));
        }
    });
    selectSwell(window);
}
void selectFlute(MainWindow& window) {
    window.selection().set({"flute", "breath", app::Part::branch, 1, 0});
}
void selectPoints(MainWindow& window) {
    window.selection().set({"glass", "half-light", app::Part::step, 0, 0});
}
void selectDrone(MainWindow& window) {
    window.selection().set({"drone", "barometer", app::Part::instrument, 0, 0});
}
void selectShared(MainWindow& window) {
    moveTile(window);
    window.selection().set({mellow::sharedOwner, "storm", app::Part::step, 0, 0});
}
void showGear(MainWindow& window) {
    moveTile(window);
    window.selection().go(GearPlace{true, "gesture-tile"});
}
/// As if the tile had lights.
void showFeedback(MainWindow& window) {
    window.document().edit(QStringLiteral("Motors and lights"), [](mellow::Ensemble& e) {
        for (mellow::Controller& controller : e.controllers) {
            if (controller.port == "gesture-tile") controller.feedback = "gesture-tile";
        }
    });
    run(100);
    showGear(window);
}
void showRack(MainWindow& window) {
    moveTile(window);
    window.selection().go(GearPlace{false, "practice-rack"});
}
void chooseStep(MainWindow& window) {
    selectSwell(window);
    run(100);
    StepPicker::open(window.findChild<QPushButton*>(QStringLiteral("addStep")),
                     window.document().ensemble().instruments[0].chains[0].steps, [](const auto&) {});
}
/// A stick that sends two things, for a chain of the flute.
void learn(MainWindow& window) {
    window.selection().set({"flute", "breath", app::Part::source, 0, 0});
    window.learn().start();
    for (int i = 0; i < 30; ++i) {
        window.live().hands().sendTo("gesture-tile",
                                     mellow::midi::make(mellow::midi::controlChange, 0, 22, i * 4));
        window.live().hands().sendTo("gesture-tile",
                                     mellow::midi::make(mellow::midi::controlChange, 0, 23, i * 2));
    }
}
void empty(MainWindow& window) {
    window.newEnsemble();
}

void trouble(MainWindow& window) {
    window.document().edit(QStringLiteral("Break a reference"), [](mellow::Ensemble& e) {
        e.instruments[2].chains[0].branches[0].target = "gone";
    });
    window.selection().set({"whistles", "top", app::Part::source, 0, 0});
}

void findATarget(MainWindow& window) {
    selectSwell(window);
    run(100);
    act(window, QStringLiteral("Add a target"));
}
void openLibrary(MainWindow& window) {
    selectSwell(window);
    run(100);
    act(window, QStringLiteral("From the library…"));
}
void openRun(MainWindow& window) {
    selectDrone(window);
    run(100);
    act(window, QStringLiteral("A run of chains…"));
}
void openKnobs(MainWindow& window) {
    selectDrone(window);
    run(100);
    act(window, QStringLiteral("Two knobs for everything…"));
}
void giveAChain(MainWindow& window) {
    window.selection().set({"glass", "swell", app::Part::source, 0, 0});
    run(100);
    window.reuse().giveTo({"flute", "drone"});
}
void keepAChain(MainWindow& window) {
    window.selection().set({"glass", "swell", app::Part::source, 0, 0});
    run(100);
    window.reuse().keep();
}
/// A pedal in named levels, a generator, a branch with a window and steps of its own, and an edit to look
/// back at.
void shape(MainWindow& window) {
    window.document().edit(QStringLiteral("Levels"), [](mellow::Ensemble& e) {
        mellow::Chain& chain = e.instruments[0].chains[2];
        mellow::Step levels = mellow::makeStep(*mellow::findStepKind("levels"));
        levels.values[0] = 4.0;
        levels.values[2] = std::vector<std::string>{"Calm", "Breeze", "Wind", "Storm"};
        chain.steps = {levels};
        mellow::Step smooth = mellow::makeStep(*mellow::findStepKind("smooth"));
        smooth.values = {1500.0, 1500.0, 0};
        chain.branches[0].steps = {smooth};
        chain.branches[0].window = mellow::BranchWindow{0.4, 1, mellow::Outside::clamp, {}};
    });
    window.document().edit(QStringLiteral("Reach"),
                           [](mellow::Ensemble& e) { e.instruments[0].chains[2].branches[0].low = 30.0; });
    window.selection().set({"glass", "half-light", app::Part::step, 0, 0});
}
void generate(MainWindow& window) {
    window.document().edit(QStringLiteral("Generator"), [](mellow::Ensemble& e) {
        mellow::Chain& chain = e.instruments[0].chains[0];
        chain.source = mellow::makeSource(mellow::SourceKind::lfo);
        chain.steps.erase(chain.steps.begin());
        chain.steps.push_back(mellow::makeStep(*mellow::findStepKind("gate")));
    });
    window.selection().set({"glass", "swell", app::Part::step, 1, 0});
}
void showProfile(MainWindow& window) {
    moveTile(window);
    window.selection().go(GearPlace{true, "gesture-tile"});
    run(100);
    window.findChild<GearPage*>()->showProfile(true);
}
void showArticulations(MainWindow& window) {
    mellow::app::takeIntoHand(window.document(), "glass");
    window.selection().go(GearPlace{false, "practice-rack"});
    run(100);
    window.findChild<GearPage*>()->showProfile(true);
    window.findChild<ProfilePanel*>()->show(ProfilePlace::articulations("glass"));
}
void showParameters(MainWindow& window) {
    showProfile(window);
    window.findChild<ProfilePanel*>()->show(ProfilePlace::parameters("drone"));
}

/// A section side by side, each faded into the next, and a chord.
void showLayers(MainWindow& window) {
    window.selection().go(GearPlace{true, "practice-keys"});
    run(100);
    auto* page = window.findChild<GearPage*>();
    page->showLayers();
    LayerBoard& board = page->layers().board();
    auto* whose = window.findChild<QComboBox*>(QStringLiteral("layersOf"));
    whose->setCurrentIndex(2);
    emit whose->activated(2);
    run(100);
    const auto ids = board.shown();
    using mellow::layering::Along;
    using mellow::layering::Fading;
    window.document().edit(QStringLiteral("Layers"), [&](mellow::Ensemble& e) {
        mellow::layering::place(e, ids[0], {24, 84, 1, 127});
        mellow::layering::spread(e, ids, Along::keys);
        for (std::size_t i = 0; i + 1 < ids.size(); ++i)
            mellow::layering::crossfade(e, ids[i], ids[i + 1], Along::keys, Fading::velocity);
    });
    board.select(ids[1]);
    for (const auto& [key, velocity] : {std::pair{40, 60}, {47, 92}, {52, 101}})
        window.live().hands().sendTo("practice-keys",
                                     mellow::midi::make(mellow::midi::noteOn, 0, key, velocity));
    run(300);
}
void showZones(MainWindow& window) {
    window.document().edit(QStringLiteral("Zones"), [](mellow::Ensemble& e) {
        e.controllers[0].zones.lower = 14;
        mellow::Chain& chain = e.instruments[0].chains[0];
        chain.source = mellow::makeSource(mellow::SourceKind::zoneNote);
        chain.source.controller = e.controllers[0].id;
    });
    window.selection().go(GearPlace{true, window.document().ensemble().controllers[0].port});
    run(300);
}
void showFinger(MainWindow& window) {
    showZones(window);
    const mellow::Instrument& first = window.document().ensemble().instruments[0];
    window.selection().go(Selected{first.id, first.chains[0].id, app::Part::source, 0, 0});
    run(200);
}

/// A finger on the pad, and the hands of the high winds.
void playDesk(MainWindow& window) {
    mellow::app::takeIntoHand(window.document(), "high-winds");
    window.selection().go(DeskPlace{"glass"});
    run(200);
    for (const auto& [address, value] : {std::pair{"/rasp", 0.3},
                                         {"/shiver", 0.1},
                                         {"/air", 0.55},
                                         {"/space", 0.65},
                                         {"/gale", 1.0},
                                         {"/frost", 0.4},
                                         {"/ways", 0.05}})
        window.live().hands().moveDesk(address, value);
    for (int i = 0; i <= 30; ++i) {
        const double t = i / 30.0;
        window.live().hands().moveDesk("/weather-hand/x", 0.2 + 0.4 * t);
        window.live().hands().moveDesk("/weather-hand/y", 0.22 + 0.45 * std::sqrt(t));
        run(20);
    }
}
void arrangeDesk(MainWindow& window) {
    playDesk(window);
    auto* page = window.findChild<DeskPageView*>();
    page->setArranging(true);
    page->arranging().select({"shiver"});
    run(200);
}
void playNine(MainWindow& window) {
    mellow::app::takeIntoHand(window.document(), "hurdy");
    window.selection().go(DeskPlace{"nine-strings"});
    run(200);
    for (int i = 1; i <= 9; ++i)
        window.live().hands().moveDesk("/string-" + std::to_string(i), 0.5 + 0.4 * std::sin(i));
    run(200);
}
void playWeather(MainWindow& window) {
    mellow::app::takeIntoHand(window.document(), "drone");
    window.selection().go(DeskPlace{"weather"});
    run(200);
    window.live().hands().moveDesk("/barometer/x", 0.7);
    window.live().hands().moveDesk("/barometer/y", 0.6);
    window.live().hands().moveDesk("/lamp-hand", 1);
    run(200);
}
/// Practice keys on the page instead of at the bottom.
void keysOnDesk(MainWindow& window) {
    window.document().edit(QStringLiteral("Keys"), [](mellow::Ensemble& e) {
        mellow::DeskPage& page = e.desk.pages[0];
        page.rows += 3;
        mellow::DeskElement keys = mellow::newElement(e, mellow::ElementKind::keys, "Keys of the other hand");
        keys.place = {0, page.rows - 3, page.columns, 3};
        keys.lowestKey = 36;
        page.elements.push_back(keys);
    });
    act(window, QStringLiteral("Practice keys"));
    playDesk(window);
    for (const int key : {48, 55, 64})
        window.live().hands().sendTo("practice-keys", mellow::midi::make(mellow::midi::noteOn, 0, key, 90));
    run(300);
}
void emptyDesk(MainWindow& window) {
    window.newEnsemble();
    window.selection().go(DeskPlace{});
    run(200);
}

TakesPage& showTakes(MainWindow& window) {
    window.selection().go(TakePlace{"barometer-falls"});
    auto& page = *window.findChild<TakesPage*>();
    run(400);
    return page;
}
/// The take in the middle of a swell, compared with the chains of before.
void takes(MainWindow& window) {
    TakesPage& page = showTakes(window);
    page.band().showInstrument("glass");
    page.band().markThen();
    window.document().edit(QStringLiteral("Edit"), [](mellow::Ensemble& e) {
        mellow::Chain& swell = e.instruments[0].chains[0];
        swell.branches[0].low = 45.0;
        swell.branches[0].high = 110.0;
    });
    TimeAxis axis = page.view().axis();
    axis.show(19e6, 66e6);
    page.view().setAxis(axis);
    const auto& lanes = window.takes().choice.lanes()->lanes;
    window.takes().choice.chooseLanes({lanes[0].subject, lanes[2].subject});
    window.takes().choice.setSpan({33'000'000, 46'000'000});
    window.takes().playing.locate(41'208'000);
    run(600);
}
void takesWhole(MainWindow& window) {
    TakesPage& page = showTakes(window);
    page.band().showInstrument("drone");
    run(400);
}
/// Thinning, previewed.
void takesTidy(MainWindow& window) {
    TakesPage& page = showTakes(window);
    window.takes().choice.chooseLanes({window.takes().choice.lanes()->lanes[0].subject});
    window.takes().choice.setSpan({20'000'000, 30'000'000});
    page.view().fitSelection();
    page.findChild<QAction*>(QStringLiteral("smooth"))->trigger();
    run(300);
}
void takesEmpty(MainWindow& window) {
    window.newEnsemble();
    window.selection().go(TakePlace{});
}

const std::vector<Shot> always{
    {"chains-dusk", duskTheme, 1.0, {1280, 800}, true, selectSwell},
    {"chains-linen", linenTheme, 1.0, {1280, 800}, true, selectSwell},
    {"branch", duskTheme, 1.0, {1280, 800}, true, selectFlute},
    {"instrument", duskTheme, 1.0, {1280, 800}, true, selectDrone},
    {"shared", duskTheme, 1.0, {1280, 800}, true, selectShared},
    {"desk-arranging", linenTheme, 1.0, {1280, 800}, false, arrangeDesk},
    {"desk", duskTheme, 1.0, {1280, 800}, false, playDesk},
    {"takes", duskTheme, 1.0, {1280, 800}, false, takes},
    {"gear", duskTheme, 1.0, {1280, 800}, true, showGear},
    {"sheet", duskTheme, 1.0, {1280, 800}, true, sheetWithRows},
    {"gear-profile", duskTheme, 1.0, {1280, 800}, true, showProfile},
    {"steps", linenTheme, 1.0, {1280, 800}, false, chooseStep},
    {"learn", duskTheme, 1.0, {1280, 800}, false, learn},
    {"trouble", duskTheme, 1.0, {1280, 800}, false, trouble},
    {"empty", duskTheme, 1.0, {1280, 800}, false, empty},
    {"small", duskTheme, 1.0, {1100, 700}, true, selectSwell},
    {"balance", duskTheme, 1.0, {1280, 800}, false, balanceLevelled},
    {"layers", duskTheme, 1.0, {1280, 800}, false, showLayers},
    {"wide", duskTheme, 1.0, {1920, 1080}, true, selectSwell},
};

void drawValues(MainWindow& window) {
    selectDrone(window);
    run(100);
    act(window, QStringLiteral("Draw values…"));
}
void allChecks(MainWindow& window) {
    trouble(window);
    run(100);
    act(window, QStringLiteral("All checks…"));
}
void helpForChains(MainWindow& window) {
    selectSwell(window);
    run(100);
    act(window, QStringLiteral("Help for this page"));
}

/// States to look at that are no page of their own; drawn only where they are asked for by name.
const std::vector<Shot> ifNamed{
    {"large-fonts", linenTheme, 1.25, {1280, 800}, true, selectSwell},
    {"drawn-points", duskTheme, 1.0, {1280, 800}, true, selectPoints},
    {"gear-linen", linenTheme, 1.0, {1100, 700}, true, showRack},
    {"takes-linen", linenTheme, 1.0, {1100, 700}, false, takesWhole},
    {"takes-tidy", linenTheme, 1.0, {1280, 800}, false, takesTidy},
    {"takes-large", duskTheme, 1.25, {1280, 800}, false, takes},
    {"takes-wide", duskTheme, 1.0, {1920, 1080}, false, takesWhole},
    {"takes-empty", duskTheme, 1.0, {1280, 800}, false, takesEmpty},
    {"eight-targets", linenTheme, 1.0, {1100, 700}, true, manyTargets},
    {"layers-linen", linenTheme, 1.0, {1100, 700}, false, showLayers},
    {"layers-large", linenTheme, 1.25, {1280, 800}, false, showLayers},
    {"layers-wide", duskTheme, 1.0, {1920, 1080}, false, showLayers},
    {"zones", duskTheme, 1.0, {1280, 800}, false, showZones},
    {"finger", linenTheme, 1.0, {1280, 800}, false, showFinger},
    {"target", duskTheme, 1.0, {1280, 800}, false, findATarget},
    {"library", linenTheme, 1.0, {1280, 800}, false, openLibrary},
    {"run", duskTheme, 1.0, {1280, 800}, false, openRun},
    {"knobs", linenTheme, 1.0, {1280, 800}, false, openKnobs},
    {"give", duskTheme, 1.0, {1280, 800}, false, giveAChain},
    {"draw", duskTheme, 1.0, {1280, 800}, false, drawValues},
    {"checks", linenTheme, 1.25, {1280, 800}, false, allChecks},
    {"help", duskTheme, 1.0, {1280, 800}, false, helpForChains},
    {"keep", linenTheme, 1.0, {1280, 800}, false, keepAChain},
    {"shape", duskTheme, 1.0, {1280, 800}, true, shape},
    {"generate", linenTheme, 1.0, {1100, 700}, true, generate},
    {"feedback", duskTheme, 1.0, {1280, 800}, true, showFeedback},
    {"articulations", duskTheme, 1.0, {1280, 800}, false, showArticulations},
    {"desk-linen", linenTheme, 1.0, {1100, 700}, false, playDesk},
    {"desk-wide", duskTheme, 1.0, {1920, 1080}, false, playDesk},
    {"desk-large", duskTheme, 1.25, {1280, 800}, false, playDesk},
    {"desk-nine", duskTheme, 1.0, {1280, 800}, false, playNine},
    {"desk-weather", linenTheme, 1.0, {1280, 800}, false, playWeather},
    {"desk-keys", duskTheme, 1.0, {1280, 800}, false, keysOnDesk},
    {"desk-keys-linen", linenTheme, 1.0, {1100, 700}, false, keysOnDesk},
    {"desk-empty", duskTheme, 1.0, {1100, 700}, false, emptyDesk},
    {"parameters", linenTheme, 1.0, {1100, 700}, true, showParameters},
};

}  // namespace

const std::vector<Shot>& mainShots() {
    return always;
}
const std::vector<Shot>& otherShots() {
    static const std::vector<Shot> all = [] {
        std::vector<Shot> shots = ifNamed;
        shots.insert(shots.end(), sheetShots().begin(), sheetShots().end());
        shots.insert(shots.end(), balanceShots().begin(), balanceShots().end());
        return shots;
    }();
    return all;
}

}  // namespace mellow::tools
