// Taking parts out of ensembles, putting them elsewhere, and swapping halves.
#include <rapidcheck.h>
#include <QTemporaryDir>
#include <QtTest>

#include "core/checks/check.h"
#include "core/files/files.h"
#include "core/library/shelf.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/reuse/parts.h"
#include "core/reuse/runs.h"
#include "core/store/ensemble_json.h"
#include "core/store/part_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using reuse::By;

namespace {

Parameter toneInHertz(const std::string& id, int number) {
    Parameter tone = test::ccParameter(id, number);
    tone.name = "Tone";
    tone.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
    return tone;
}

/// "Swell" from the wheel of a controller to expression and tone of "one"; "two" has both under other ids,
/// its tone in per cent.
Ensemble twoInstruments() {
    Instrument one = test::instrument("one", 1);
    one.parameters = {test::ccParameter("expression", 11), toneInHertz("tone", 74)};
    Source wheel = makeSource(SourceKind::control);
    wheel.controller = "keys";
    wheel.control = "wheel";
    one.chains = {test::chain("swell", wheel, {test::step("bend", {0.35})},
                              {test::branch("expression", 30, 127), test::branch("tone", 20000, 20)})};
    one.chains.front().name = "Swell";
    Instrument two = test::instrument("two", 2);
    Parameter loud = test::ccParameter("loud", 11);
    loud.name = "Loudness";
    Parameter bright = test::ccParameter("bright", 20);
    bright.name = "Tone";
    bright.display = {0.0, 100.0, "%", Law::linear, {}, {}};
    two.parameters = {loud, bright};
    Ensemble ensemble = test::ensemble({one, two});
    Controller keys;
    keys.id = "keys";
    keys.name = "Two-wheel keys";
    keys.controls.emplace_back();
    keys.controls.back().id = "wheel";
    keys.controls.back().name = "Mod wheel";
    keys.controls.back().message.number = 1;
    ensemble.controllers = {keys};
    return ensemble;
}

const Instrument& instrumentOf(const Ensemble& ensemble, const std::string& id) {
    return *findById(std::as_const(ensemble.instruments), id);
}

int troubles(const Ensemble& ensemble) {
    int count = 0;
    for (const Finding& finding : check(ensemble)) count += finding.severity == Severity::trouble ? 1 : 0;
    return count;
}

}  // namespace

class ReuseTest : public QObject {
    Q_OBJECT

 private slots:
    /// Elements of the desk find places where there are any, and ids of their own.
    void elements() {
        Ensemble ensemble;
        ensemble.desk.pages.push_back(newDeskPage(ensemble, "Rain"));
        DeskPage& page = ensemble.desk.pages[0];
        page.columns = 4;
        page.rows = 2;
        for (const int column : {0, 2}) {
            DeskElement dial = newElement(ensemble, ElementKind::dial, "Drizzle");
            dial.place = {column, 0, 2, 1};
            ensemble.desk.pages[0].elements.push_back(dial);
        }
        const Part part = reuse::takeElements(ensemble, {"drizzle", "drizzle-2"});
        QCOMPARE(part.elements.size(), std::size_t{2});
        QCOMPARE(library::contents(part), std::string("2 desk elements"));
        const auto read = store::parsePart(store::printPart(part));
        QVERIFY(read && *read == part);
        QCOMPARE(reuse::putElements(ensemble, ensemble.desk.pages[0].id, part),
                 (std::vector<std::string>{"drizzle-3", "drizzle-4"}));
        // The page is full, and there is no other.
        QVERIFY(reuse::putElements(ensemble, ensemble.desk.pages[0].id, part).empty());
        QVERIFY(reuse::putElements(ensemble, "nowhere", part).empty());
        QCOMPARE(ensemble.desk.pages[0].elements.size(), std::size_t{4});
    }

    void anyPartIsTextAndBack() {
        QVERIFY(rc::check("print then parse", [] {
            test::RandomWorld world(
                *rc::gen::noShrink(rc::gen::resize(1000, rc::gen::arbitrary<std::uint32_t>())));
            const Ensemble ensemble = world.ensemble();
            for (const Instrument& instrument : ensemble.instruments) {
                std::vector<std::string> ids;
                for (const Chain& chain : instrument.chains) ids.push_back(chain.id);
                for (const Part& part : {reuse::takeInstrument(ensemble, instrument.id),
                                         reuse::takeChains(ensemble, instrument.id, ids)}) {
                    const auto again = store::parsePart(store::printPart(part));
                    RC_ASSERT(static_cast<bool>(again));
                    RC_ASSERT(*again == part);
                }
            }
        }));
    }
    void whatIsNoPartIsRefused() {
        const auto ensemble = store::parsePart(store::printEnsemble(twoInstruments()));
        QVERIFY(!ensemble);
        QCOMPARE(ensemble.problem().where, std::string("line 2, format"));
        QVERIFY(!store::parsePart("hello"));
    }

    /// Two chains of an instrument, pasted into a copy of it, do what they did; whatever they are.
    void pastedBesideItselfItDoesTheSame() {
        QVERIFY(rc::check("paste into the same instrument", [] {
            test::RandomWorld world(
                *rc::gen::noShrink(rc::gen::resize(1000, rc::gen::arbitrary<std::uint32_t>())));
            Ensemble ensemble = world.ensemble();
            RC_PRE(!ensemble.instruments.empty());
            const Instrument before = std::as_const(ensemble.instruments)[0];
            RC_PRE(!before.chains.empty());
            const Part part = reuse::takeChains(ensemble, before.id, {before.chains.front().id});
            const auto ids =
                reuse::putChains(ensemble, before.id, part, reuse::proposal(ensemble, before.id, part));
            RC_ASSERT(ids.size() == 1);
            const Instrument& after = std::as_const(ensemble.instruments)[0];
            RC_ASSERT(after.chains.size() == before.chains.size() + 1);
            Chain copy = *findById(after.chains, ids.front());
            RC_ASSERT(copy.id != before.chains.front().id);
            copy.id = before.chains.front().id;
            // Doubles by name and message are told apart by nobody; everything else is as it was.
            if (after.parameters == before.parameters) {
                for (std::size_t i = 0; i < copy.branches.size(); ++i)
                    copy.branches[i].target = before.chains.front().branches[i].target;
                RC_ASSERT(copy.steps == before.chains.front().steps);
                RC_ASSERT(copy.branches.size() == before.chains.front().branches.size());
            }
        }));
    }

    void aChainIsGivenByNameAndMessage() {
        Ensemble ensemble = twoInstruments();
        const Part part = reuse::takeChains(ensemble, "one", {"swell"});
        const reuse::Matches matches = reuse::proposal(ensemble, "two", part);
        QCOMPARE(matches.size(), 2U);
        QCOMPARE(*matches[0].to, std::string("loud"));
        QCOMPARE(matches[0].by, By::message);
        QCOMPARE(*matches[1].to, std::string("bright"));
        QCOMPARE(matches[1].by, By::name);
        const auto ids = reuse::putChains(ensemble, "two", part, matches);
        const Chain& given = *findById(instrumentOf(ensemble, "two").chains, ids.front());
        QCOMPARE(given.source.control, std::string("wheel"));
        QCOMPARE(std::get<double>(given.branches[0].low), 30.0);
        // Falling from the top of the range to its bottom, in the other's unit.
        QCOMPARE(std::get<double>(given.branches[1].low), 100.0);
        QCOMPARE(std::get<double>(given.branches[1].high), 0.0);
        QCOMPARE(troubles(ensemble), 0);
    }
    void whatIsNotThereIsMadeOrLeftOut() {
        Ensemble ensemble = twoInstruments();
        findById(ensemble.instruments, "two")->parameters.clear();
        const Part part = reuse::takeChains(ensemble, "one", {"swell"});
        reuse::Matches matches = reuse::proposal(ensemble, "two", part);
        QVERIFY(matches[0].make && !matches[0].to);
        matches[1].make = false;
        reuse::putChains(ensemble, "two", part, matches);
        const Instrument& two = instrumentOf(ensemble, "two");
        QCOMPARE(two.parameters.size(), 1U);
        QCOMPARE(two.parameters[0].message.number, 11);
        QCOMPARE(two.chains[0].branches.size(), 1U);
        QCOMPARE(troubles(ensemble), 0);
    }
    /// In an ensemble that has never seen the controller the chain follows its message.
    void anInstrumentOfTheLibraryWorksAtOnce() {
        const auto part = store::parsePart(store::printPart(reuse::takeInstrument(twoInstruments(), "one")));
        QVERIFY(static_cast<bool>(part));
        Ensemble fresh = test::ensemble({});
        const auto ids = reuse::putInstruments(fresh, *part);
        QCOMPARE(ids.size(), 1U);
        test::Feeder feeder(fresh);
        const auto sent = feeder.feed({"1000 any B0 01 7F"});
        QVERIFY2(std::find(sent.begin(), sent.end(), "1000 " + ids[0] + " B0 0B 7F") != sent.end(),
                 sent.empty() ? "nothing" : sent.front().c_str());
        QCOMPARE(troubles(fresh), 0);
        // Once more: beside the first, on a channel of its own.
        const auto again = reuse::putInstruments(fresh, *part);
        QVERIFY(again[0] != ids[0]);
        QVERIFY(instrumentOf(fresh, again[0]).output.channel != instrumentOf(fresh, ids[0]).output.channel);
    }
    /// Where it is known, the chain follows the controller; its control found by what it sends.
    void aKnownControllerIsFollowed() {
        const Part part = reuse::takeInstrument(twoInstruments(), "one");
        Ensemble other = test::ensemble({});
        Controller keys = twoInstruments().controllers.front();
        keys.id = "board";
        keys.controls.front().id = "modulation";
        other.controllers = {keys};
        reuse::putInstruments(other, part);
        const Chain& chain = std::as_const(other.instruments)[0].chains[0];
        QCOMPARE(chain.source.controller, std::string("board"));
        QCOMPARE(chain.source.control, std::string("modulation"));
    }
    void tieLinesComeAlong() {
        Ensemble ensemble = twoInstruments();
        ensemble.tieLines = {{"storm", "Storm", 0.25, {}}};
        Instrument& one = *findById(ensemble.instruments, "one");
        one.chains.front().branches.push_back(test::branch("tieLine:storm", 0, 1));
        const Part part = reuse::takeChains(ensemble, "one", {"swell"});
        Ensemble other = test::ensemble({test::instrument("far", 1)});
        other.tieLines = {{"storm", "Another", 0, {}}, {"wind", "Storm", 0, {}}};
        reuse::putChains(other, "far", part, reuse::proposal(other, "far", part));
        QCOMPARE(other.tieLines.size(), 2U);
        QCOMPARE(std::as_const(other.instruments)[0].chains[0].branches.back().target,
                 std::string("tieLine:wind"));
        Ensemble bare = test::ensemble({test::instrument("far", 1)});
        reuse::putChains(bare, "far", part, reuse::proposal(bare, "far", part));
        QCOMPARE(bare.tieLines.size(), 1U);
        QCOMPARE(bare.tieLines.front().rest, 0.25);
    }

    void anInstrumentIsSwapped() {
        Ensemble ensemble = twoInstruments();
        ensemble.sharedChains = {
            test::chain("all", test::ccSource(2), {}, {test::branch("one/tone", 20, 20000)})};
        const Instrument other = instrumentOf(ensemble, "two");
        reuse::Matches matches =
            reuse::matchParameters(instrumentOf(ensemble, "one").parameters, other.parameters);
        matches[0].to.reset();
        matches[0].make = false;
        const auto left = reuse::swapInstrument(ensemble, "one", other, matches);
        QCOMPARE(left.size(), 1U);
        QCOMPARE(left[0].what, std::string("expression"));
        QCOMPARE(left[0].where, std::string("Swell"));
        const Instrument& one = instrumentOf(ensemble, "one");
        QCOMPARE(one.parameters.size(), 2U);
        QCOMPARE(one.chains[0].branches.size(), 1U);
        QCOMPARE(one.chains[0].branches[0].target, std::string("bright"));
        QCOMPARE(ensemble.sharedChains[0].branches[0].target, std::string("one/bright"));
        QCOMPARE(std::get<double>(ensemble.sharedChains[0].branches[0].high), 100.0);
        QCOMPARE(troubles(ensemble), 0);
    }
    void aControllerIsSwapped() {
        Ensemble ensemble = twoInstruments();
        Instrument& two = *findById(ensemble.instruments, "two");
        // By message alone, from any port; and something that the new one has not.
        two.chains = {test::chain("byMessage", test::ccSource(1), {}, {test::branch("loud", 0, 127)}),
                      test::chain("pedal", test::ccSource(64), {}, {test::branch("bright", 0, 100)}),
                      test::chain("fromItsPort", test::ccSource(1), {}, {test::branch("loud", 0, 127)})};
        two.chains[2].source.controller = "keys";
        Controller& keys = ensemble.controllers.front();
        keys.controls.push_back({"pedal", "Pedal", {}, {}, {}});
        keys.controls.back().message.number = 64;
        Controller other;
        other.id = "stick";
        other.name = "Wind stick";
        other.port = "stick";
        other.controls.push_back({"breath", "Breath", {}, {}, {}});
        other.controls.back().message.number = 2;
        reuse::Matches matches = reuse::matchControls(keys.controls, other.controls);
        QVERIFY(!matches[0].to && !matches[1].to);
        matches[0].to = "breath";
        const auto left = reuse::swapController(ensemble, "keys", other, matches);
        QCOMPARE(left.size(), 1U);
        QCOMPARE(left[0].what, std::string("Pedal"));
        QCOMPARE(left[0].where, std::string("pedal"));
        QCOMPARE(ensemble.controllers[0].name, std::string("Wind stick"));
        QCOMPARE(ensemble.controllers[0].port, std::string("stick"));
        QCOMPARE(instrumentOf(ensemble, "one").chains[0].source.control, std::string("breath"));
        QCOMPARE(instrumentOf(ensemble, "two").chains[0].source.number, 2);
        QCOMPARE(instrumentOf(ensemble, "two").chains[1].source.number, 64);
        QCOMPARE(instrumentOf(ensemble, "two").chains[2].source.number, 2);
        QCOMPARE(instrumentOf(ensemble, "two").chains[2].source.controller, std::string("keys"));
        QCOMPARE(troubles(ensemble), 0);
    }

    void nineSlidersToNineDrawbars() {
        Instrument organ = test::instrument("organ", 1);
        organ.parameters.clear();
        for (int i = 0; i < 18; ++i)
            organ.parameters.push_back(test::ccParameter("bar-" + std::to_string(i), 70 + i));
        Ensemble ensemble = test::ensemble({organ});
        reuse::RunWish wish;
        wish.first = test::ccSource(20);
        wish.firstParameter = "bar-0";
        wish.count = 18;
        wish.bank = 9;
        wish.nextBank = 52;
        const auto rows = reuse::run(ensemble, organ, wish);
        QCOMPARE(rows.size(), 18U);
        QCOMPARE(rows[8].source.number, 28);
        QCOMPARE(rows[9].source.number, 52);
        QCOMPARE(rows[17].parameter, std::string("bar-17"));
        reuse::makeRun(ensemble, "organ", rows);
        test::Feeder feeder(ensemble);
        QCOMPARE(feeder.feed({"1 any B0 1C 40"}), std::vector<std::string>{"1 organ B0 4E 40"});
        QCOMPARE(feeder.feed({"2 any B0 34 7F"}), std::vector<std::string>{"2 organ B0 4F 7F"});
        QCOMPARE(troubles(ensemble), 0);
        // A run ends where controls or parameters do.
        wish.count = 200;
        QCOMPARE(reuse::run(ensemble, organ, wish).size(), 18U);
        wish.first.number = 125;
        wish.bank = 0;
        QCOMPARE(reuse::run(ensemble, organ, wish).size(), 3U);
    }
    void twoKnobsReachEverything() {
        Ensemble ensemble = twoInstruments();
        removeInstrument(ensemble, "one");
        const std::string id =
            reuse::makeTwoKnobs(ensemble, "two", test::ccSource(20), test::ccSource(21), {"loud", "bright"});
        QVERIFY(!id.empty());
        findById(findById(ensemble.instruments, "two")->chains, id)->handover = Handover::jump;
        test::Feeder feeder(ensemble);
        feeder.feed({"1 any B0 14 00"});
        const auto sent = feeder.feed({"2 any B0 15 10"});
        QCOMPARE(sent, std::vector<std::string>{"2 two B1 0B 10"});
        feeder.feed({"3 any B0 14 7F"});
        QCOMPARE(feeder.feed({"4 any B0 15 20"}), std::vector<std::string>{"4 two B1 14 20"});
    }

    void theLibraryIsAFolder() {
        QTemporaryDir folder;
        const std::filesystem::path at = folder.filePath("library").toStdString();
        QVERIFY(library::read(at).items.empty() && library::read(at).problems.empty());
        Part part = reuse::takeChains(twoInstruments(), "one", {"swell"});
        part.about = "A slow swell that darkens.";
        QVERIFY(static_cast<bool>(library::write(at, part, false)));
        const auto twice = library::write(at, part, false);
        QVERIFY(!twice && twice.problem().sentence().find("has one of that name") != std::string::npos);
        QVERIFY(static_cast<bool>(library::write(at, part, true)));
        QVERIFY(static_cast<bool>(library::write(at, reuse::takeInstrument(twoInstruments(), "two"), false)));
        QVERIFY(static_cast<bool>(files::writeFile(at / "broken.lever-part", std::string_view("{"))));
        const library::Shelf shelf = library::read(at);
        QCOMPARE(shelf.items.size(), 2U);
        QCOMPARE(shelf.problems.size(), 1U);
        QVERIFY(shelf.problems[0].sentence().find("broken.lever-part, line 1") != std::string::npos);
        QCOMPARE(library::find(shelf, "dark SWELL").size(), 1U);
        QCOMPARE(library::find(shelf, "").size(), 2U);
        QCOMPARE(library::find(shelf, "instrument").size(), 1U);
        QCOMPARE(library::find(shelf, "trombone").size(), 0U);
        part.name = " ";
        QVERIFY(!library::write(at, part, false));
    }
};

QTEST_GUILESS_MAIN(ReuseTest)
#include "reuse.moc"
