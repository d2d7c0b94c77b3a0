// The desk as a guest shows it: a guest that is told the scene once, and its changes from then on, always has
// what the desk has.
#include "core/desk/scene.h"

#include <QtTest>
#include <map>

#include "core/store/ensemble_json.h"
#include "support/build.h"

using namespace mellow;

namespace {

/// Stands as a test says.
struct Said : desk::Stands {
    std::map<std::string, double, std::less<>> positions;
    std::map<std::string, double> branches;  ///< by "owner/chain/branch"
    std::set<std::string> held;
    std::map<std::string, int> chosen;

    [[nodiscard]] std::optional<double> moved(std::string_view address) const override {
        const auto found = positions.find(address);
        return found == positions.end() ? std::nullopt : std::optional(found->second);
    }
    [[nodiscard]] double branch(const desk::ElementTarget& target) const override {
        const auto found =
            branches.find(target.owner + "/" + target.chain + "/" + std::to_string(target.branch));
        return found == branches.end() ? -1 : found->second;
    }
    [[nodiscard]] bool inHand(const std::string& instrument) const override {
        return held.contains(instrument);
    }
    [[nodiscard]] int articulation(const std::string& instrument) const override {
        const auto found = chosen.find(instrument);
        return found == chosen.end() ? -1 : found->second;
    }
};

/// What a guest knows that heard everything it was told.
struct Guest {
    std::map<std::string, double> positions;
    std::map<std::string, desk::Readout> reads;
    std::map<std::string, std::vector<desk::Answer>> answers;
    std::map<std::string, bool> hand;

    void hear(const std::vector<desk::SceneChange>& changes) {
        for (const desk::SceneChange& change : changes) {
            if (const auto* moved = std::get_if<desk::AxisMoved>(&change))
                positions[moved->address] = moved->position;
            if (const auto* read = std::get_if<desk::AxisReads>(&change)) reads[read->address] = read->reads;
            if (const auto* tiles = std::get_if<desk::TilesAnswer>(&change))
                answers[tiles->address] = tiles->answers;
            if (const auto* who = std::get_if<desk::HandChanged>(&change)) hand[who->id] = who->inHand;
        }
    }
    bool operator==(const Guest&) const = default;
};

DeskElement element(const char* id, ElementKind kind) {
    DeskElement made;
    made.id = made.name = id;
    made.kind = kind;
    return made;
}

Chain moves(const char* id, const char* name, const char* target) {
    Source source = makeSource(SourceKind::desk);
    source.values.at(0) = std::string(name);
    return test::chain(id, source, {}, {test::branch(target, 0, 127)});
}

/// A slider that moves glass' tone in Hz, a pad that nothing follows, and tiles.
Ensemble small() {
    Instrument glass = test::instrument("glass", 1);
    glass.parameters[1].display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
    glass.chains = {moves("slide", "rasp", "tone")};
    glass.articulations.resize(2);
    glass.articulations[0].id = glass.articulations[0].name = "long";
    glass.articulations[1].id = glass.articulations[1].name = "short";
    Instrument tin = test::instrument("tin", 2);
    tin.articulations.resize(1);
    tin.articulations[0].id = tin.articulations[0].name = "long";
    Ensemble ensemble = test::ensemble({glass, tin});
    DeskPage page;
    page.id = page.name = "night";
    page.elements = {element("rasp", ElementKind::slider), element("weather", ElementKind::pad),
                     element("tiles", ElementKind::articulations)};
    page.elements[0].rest = 0.25;
    page.elements[2].names = {"long", "short", "loud"};
    ensemble.desk.pages = {page};
    ensemble.handOrder = {"glass", "tin"};
    return ensemble;
}

}  // namespace

class DeskSceneTest : public QObject {
    Q_OBJECT

 private slots:
    void aSceneHasWhatTheDeskHas() {
        desk::Scene scene;
        scene.follow(small());
        QCOMPARE(scene.pages().size(), std::size_t{1});
        QCOMPARE(scene.pages()[0].name, std::string("night"));
        QCOMPARE(scene.pages()[0].elements.size(), std::size_t{3});
        QCOMPARE(scene.pages()[0].elements[1].axes.size(), std::size_t{3});
        QCOMPARE(scene.axis("/rasp")->position, 0.25);
        QCOMPARE(scene.hand().size(), std::size_t{2});
        QVERIFY(scene.axis("/nothing") == nullptr);
    }

    void onlyWhatChangedIsToldAndInTheTargetsUnits() {
        desk::Scene scene;
        scene.follow(small());
        Said stands;
        scene.update(stands);
        QVERIFY(scene.update(stands).empty());
        stands.positions["/rasp"] = 1;
        stands.branches["glass/slide/0"] = 1;
        const auto changes = scene.update(stands);
        QCOMPARE(changes.size(), std::size_t{2});
        QVERIFY(std::get<desk::AxisMoved>(changes[0]) == (desk::AxisMoved{"/rasp", 1}));
        QCOMPARE(QString::fromStdString(std::get<desk::AxisReads>(changes[1]).reads.value),
                 QStringLiteral("20 kHz"));
        QVERIFY(std::get<desk::AxisReads>(changes[1]) == (desk::AxisReads{"/rasp", {"20 kHz", "tone"}}));
        QVERIFY(scene.update(stands).empty());
        stands.held = {"glass"};
        stands.chosen["glass"] = 1;
        const auto hand = scene.update(stands);
        QCOMPARE(hand.size(), std::size_t{2});
        const auto& tiles = std::get<desk::TilesAnswer>(hand[0]).answers;
        // One in hand: it knows both and plays the second; two know "long", nobody knows "loud".
        QVERIFY((tiles == std::vector<desk::Answer>{{1, 1, 2, false}, {1, 1, 1, true}, {1, 0, 0, false}}));
        QVERIFY(std::get<desk::HandChanged>(hand[1]) == (desk::HandChanged{"glass", true}));
    }

    /// Whatever happens, who was told everything once and then the changes knows what one knows that is told
    /// everything now.
    void aGuestThatHearsChangesKnowsTheWhole() {
        const QByteArray text = test::sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
        const auto demo = store::parseEnsemble({text.data(), static_cast<std::size_t>(text.size())});
        QVERIFY(static_cast<bool>(demo));
        for (Ensemble ensemble : {small(), *demo}) {
            desk::Scene scene;
            scene.follow(ensemble);
            Said stands;
            Guest guest;
            scene.update(stands);
            guest.hear(scene.whole());
            QVERIFY(!guest.positions.empty());
            std::vector<std::string> addresses;
            for (const auto& [address, position] : guest.positions) addresses.push_back(address);
            std::uint32_t random = 7;
            const auto next = [&random](std::size_t below) {
                random = random * 1664525U + 1013904223U;
                return static_cast<std::size_t>(random >> 8) % below;
            };
            const desk::ElementTargets targets = desk::elementTargets(ensemble);
            for (int act = 0; act < 400; ++act) {
                stands.positions[addresses[next(addresses.size())]] = static_cast<double>(next(129)) / 128;
                const Instrument& who = ensemble.instruments[next(ensemble.instruments.size())];
                if (!stands.held.erase(who.id)) stands.held.insert(who.id);
                stands.chosen[who.id] = static_cast<int>(next(3)) - 1;
                for (const auto& [element, its] : targets) {
                    const auto& one = its[next(its.size())];
                    stands.branches[one.owner + "/" + one.chain + "/" + std::to_string(one.branch)] =
                        static_cast<double>(next(129)) / 128;
                }
                // An edit now and then: it keeps what it leaves alone.
                if (act % 50 == 49) {
                    ensemble.instruments[0].name += "x";
                    scene.follow(ensemble);
                }
                guest.hear(scene.update(stands));
                Guest late;
                late.hear(scene.whole());
                QVERIFY(guest == late);
            }
        }
    }
};

QTEST_GUILESS_MAIN(DeskSceneTest)
#include "desk_scene.moc"
