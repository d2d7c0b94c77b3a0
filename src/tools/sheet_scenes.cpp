#include "tools/sheet_scenes.h"

#include <QDir>
#include <QStandardPaths>

#include "app/document/compare_dialog.h"
#include "app/pages/sheet/sheet_page.h"
#include "core/files/files.h"
#include "core/model/edit.h"
#include "core/store/ensemble_json.h"

namespace mellow::tools {

using namespace mellow::app;

namespace {

SheetPage& showSheet(MainWindow& window) {
    window.selection().go(SheetPlace{});
    auto& page = *window.findChild<SheetPage*>();
    run(200);
    return page;
}

}  // namespace

void sheetWithRows(MainWindow& window) {
    SheetPage& page = showSheet(window);
    page.view().choose({{"glass", "swell", 1, "", "", "", ""}, {"glass", "swell", 2, "", "", "", ""}});
}

namespace {

void sheetByHear(MainWindow& window) {
    SheetPage& page = showSheet(window);
    page.turnTo(mellow::sheet::Reading::hear);
    page.view().goTo({"hurdy", "swell", 0, "", "", "", ""});
}
void sheetFound(MainWindow& window) {
    SheetPage& page = showSheet(window);
    page.search().setText(QStringLiteral("cc 74"));
}
void sheetNothing(MainWindow& window) {
    SheetPage& page = showSheet(window);
    page.search().setText(QStringLiteral("trombone"));
}
void sheetEmpty(MainWindow& window) {
    window.newEnsemble();
    showSheet(window);
}
void sheetReach(MainWindow& window) {
    sheetWithRows(window);
    auto* page = window.findChild<SheetPage*>();
    page->openBulk(bulkKinds()[2]);
    run(200);
    auto* which = window.findChild<QComboBox*>(QStringLiteral("bulkWhich"));
    which->setCurrentIndex(1);
    run(200);
}
/// Two chains on one number, and how they can be parted.
void sheetNumber(MainWindow& window) {
    window.document().edit(QStringLiteral("Meet"), [](mellow::Ensemble& e) {
        mellow::findById(mellow::findById(e.instruments, "glass")->parameters, "vibrato-depth")
            ->message.number = 74;
    });
    showSheet(window);
    run(300);
    window.findChild<NumbersPanel*>()->choose(74);
    run(200);
}
void sheetAsked(MainWindow& window) {
    SheetPage& page = showSheet(window);
    page.asking().setOn(true);
    moveTile(window);
    run(300);
    page.view().setCurrentIndex(page.model().index(page.model().rowCount() - 1, 1));
}
void compareWithAnother(MainWindow& window) {
    selectSwell(window);
    const QString path = QDir(QStandardPaths::writableLocation(QStandardPaths::TempLocation))
                             .filePath(QStringLiteral("another.lever"));
    mellow::Ensemble other = window.document().ensemble();
    mellow::Instrument& glass = *mellow::findById(other.instruments, "glass");
    glass.chains[0].steps[1].values[0] = 0.5;
    glass.chains[0].branches[2].low = 500.0;
    glass.chains[1].name = "Glint";
    mellow::findById(other.instruments, "flute")->output.channel = 9;
    other.tempo.bpm = 96;
    const std::string text = mellow::store::printEnsemble(other);
    (void)mellow::files::writeFile(QFile::encodeName(path).toStdString(), text);
    auto* dialog = new CompareDialog(window.document(), &window);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
    dialog->compareWith(path);
    QFile::remove(path);
    run(200);
}
void cleanUp(MainWindow& window) {
    showSheet(window);
    act(window, QStringLiteral("Clean up…"));
}

}  // namespace

std::span<const Shot> sheetShots() {
    static const std::vector<Shot> shots{
        {"sheet-hear", linenTheme, 1.0, {1280, 800}, true, sheetByHear},
        {"sheet-small", linenTheme, 1.0, {1100, 700}, true, sheetFound},
        {"sheet-nothing", duskTheme, 1.0, {1280, 800}, false, sheetNothing},
        {"sheet-empty", linenTheme, 1.0, {1280, 800}, false, sheetEmpty},
        {"sheet-reach", duskTheme, 1.0, {1280, 800}, false, sheetReach},
        {"sheet-number", duskTheme, 1.0, {1280, 800}, true, sheetNumber},
        {"sheet-asked", linenTheme, 1.0, {1280, 800}, false, sheetAsked},
        {"compare", duskTheme, 1.0, {1280, 800}, false, compareWithAnother},
        {"cleaning", linenTheme, 1.0, {1280, 800}, false, cleanUp},
        {"sheet-large", duskTheme, 1.25, {1280, 800}, true, sheetWithRows},
        {"sheet-wide", duskTheme, 1.0, {1920, 1080}, true, sheetWithRows},
    };
    return shots;
}

}  // namespace mellow::tools
