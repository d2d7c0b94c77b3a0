#include "tools/balance_scenes.h"

#include "app/pages/balance/balance_page.h"
#include "app/pages/balance/sound_dialog.h"
#include "app/pages/sheet/sheet_page.h"

namespace mellow::tools {

using namespace mellow::app;

namespace {

void waitFor(BalancePage& page) {
    constexpr int longest = 400;  // times a tenth of a second
    for (int i = 0; i < longest && (page.balancing().worker().isBusy() || page.section().isBusy()); ++i)
        run(100);
}

BalancePage& showBalance(MainWindow& window, const char* instrument) {
    window.selection().go(BalancePlace{instrument});
    auto& page = *window.findChild<BalancePage*>();
    run(100);
    waitFor(page);
    return page;
}

balance::Goal line(std::vector<std::pair<double, double>> points) {
    balance::Goal goal;
    goal.kind = balance::Goal::Kind::line;
    goal.points = std::move(points);
    return goal;
}

void measured(MainWindow& window) {
    showBalance(window, "whistles");
}
void twelveKeys(MainWindow& window) {
    BalancePage& page = showBalance(window, "glass");
    page.balancing().setPositions(24);
    page.balancing().setKeys({36, 41, 46, 51, 56, 60, 65, 70, 75, 80, 85, 90});
    waitFor(page);
}
void noRoom(MainWindow& window) {
    BalancePage& page = showBalance(window, "glass");
    page.balancing().setGoal(line({{0, -45}, {1, -20}}));
    page.balancing().level();
    waitFor(page);
}
void quiet(MainWindow& window) {
    showBalance(window, "hurdy");
}
void all(MainWindow& window) {
    BalancePage& page = showBalance(window, "whistles");
    page.section().measureAll();
    waitFor(page);
}
/// What was measured of all, as columns of the Sheet.
void onTheSheet(MainWindow& window) {
    BalancePage& page = showBalance(window, "whistles");
    page.section().measureAll();
    waitFor(page);
    page.section().keepAll();
    window.selection().go(SheetPlace{});
    auto& sheet = *window.findChild<SheetPage*>();
    QStringList columns = usualSheetColumns();
    for (const char* key : {"loudAtRest", "loudAtHalf", "loudAtFull", "loudRange", "loudBump", "measured"})
        columns << QLatin1String(key);
    sheet.model().showColumns(columns);
    sheet.view().placeColumns();
    run(400);
}
void nothing(MainWindow& window) {
    window.newEnsemble();
    window.selection().go(BalancePlace{});
    run(300);
}
void drums(MainWindow& window) {
    showBalance(window, "drums");
}
void readSound(MainWindow& window) {
    BalancePage& page = showBalance(window, "whistles");
    auto* dialog = window.findChild<QPushButton*>(QStringLiteral("balanceRead"));
    dialog->click();
    run(300);
    (void)page;
}

}  // namespace

void balanceLevelled(MainWindow& window) {
    BalancePage& page = showBalance(window, "whistles");
    page.balancing().setGoal(line({{0, -40}, {1, -24}}));
    page.section().measureAll();
    waitFor(page);
    page.balancing().level();
    waitFor(page);
    // The wheel stands somewhere, and all instruments are read there.
    constexpr std::uint8_t wheel = 79;
    window.live().hands().sendTo("hands", midi::shortOf(std::array<std::uint8_t, 3>{0xB0, 1, wheel}));
    run(400);
}

std::span<const Shot> balanceShots() {
    static const std::vector<Shot> shots{
        {"balance-measured", duskTheme, 1.0, {1280, 800}, false, measured},
        {"balance-linen", linenTheme, 1.0, {1280, 800}, false, balanceLevelled},
        {"balance-small", linenTheme, 1.0, {1100, 700}, false, balanceLevelled},
        {"balance-wide", duskTheme, 1.0, {1920, 1080}, false, balanceLevelled},
        {"balance-large", duskTheme, 1.25, {1280, 800}, false, balanceLevelled},
        {"balance-keys", duskTheme, 1.0, {1280, 800}, false, twelveKeys},
        {"balance-no-room", duskTheme, 1.0, {1280, 800}, false, noRoom},
        {"balance-quiet", linenTheme, 1.0, {1280, 800}, false, quiet},
        {"balance-all", duskTheme, 1.0, {1280, 800}, false, all},
        {"balance-sheet", duskTheme, 1.0, {1280, 800}, false, onTheSheet},
        {"balance-drums", duskTheme, 1.0, {1100, 700}, false, drums},
        {"balance-nothing", duskTheme, 1.0, {1280, 800}, false, nothing},
        {"balance-read", duskTheme, 1.0, {1280, 800}, false, readSound},
    };
    return shots;
}

}  // namespace mellow::tools
