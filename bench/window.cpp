// What the window costs with a hall full of instruments: opening it, and an edit by drag, from the mouse to
// the engine to the picture and what checks say. Prints one figure a line, "name value", in milliseconds of
// processor time of the whole program. usage: bench-window FOLDER
#include <QEventLoop>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <ctime>
#include <optional>

#include "app/document/keeper.h"
#include "beginning.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "orchestra.h"
#include "stretch.h"

using namespace mellow;
using bench::processorTime;
using bench::settle;

namespace {

/// What keeping the journal adds to an edit on the window's thread, in milliseconds.
double journalTime(const QString& file) {
    constexpr int edits = 400;
    const auto editing = [&file](bool kept) {
        app::Document document;
        if (!document.open(file)) return 0.0;
        std::optional<app::Keeper> keeper;
        if (kept) keeper.emplace(document);
        const double start = processorTime(CLOCK_THREAD_CPUTIME_ID);
        for (int i = 0; i < edits; ++i) {
            document.edit(QStringLiteral("Move a reach"), [i](Ensemble& e) {
                e.instruments[101].chains[7].branches[1].high = 60.0 + i % 60;
            });
        }
        const double took = processorTime(CLOCK_THREAD_CPUTIME_ID) - start;
        if (keeper) keeper->drop();
        return took / edits;
    };
    const double without = editing(false);
    return std::max(0.0, editing(true) - without);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) return 2;
    const bench::Beginning beginning(argc, argv);
    const QString file = QString::fromLocal8Bit(argv[1]) + QStringLiteral("/hall.lever");
    if (!files::writeFile(file.toStdString(), store::printEnsemble(bench::unalikeOrchestra()))) return 1;
    std::printf("journal-ms %.3f\n", journalTime(file));
    app::MainWindow window(bench::quiet());
    window.resize(1280, 800);
    window.newEnsemble();
    window.show();
    settle(1500);

    const double before = processorTime();
    if (!window.openFile(file)) return 1;
    window.selection().set({"player100", "c7", app::Part::branch, 1, 0});
    QApplication::processEvents();
    std::printf("open-ms %.0f\n", processorTime() - before);
    settle(1000);

    constexpr int edits = 200;
    const app::Gesture gesture = app::Document::newGesture();
    const double start = processorTime();
    for (int i = 0; i < edits; ++i) {
        window.document().edit(
            QStringLiteral("Move a reach"),
            [i](Ensemble& e) { e.instruments[101].chains[7].branches[1].high = 60.0 + i % 60; }, gesture);
        settle(16);
    }
    const double edited = processorTime() - start;
    const double rest = processorTime();
    for (int i = 0; i < edits; ++i) settle(16);
    std::printf("edit-ms %.2f\n", (edited - (processorTime() - rest)) / edits);
    return 0;
}
