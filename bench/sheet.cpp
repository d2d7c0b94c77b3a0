// The sheet of the large ensemble (200 instruments, 16,000 rows): opened, searched, turned round and sorted
// in the window; many rows changed at once; written as PDF; compared with another; and the demo's sheet while
// it lives. Prints "name value" lines, milliseconds, the best of three.
#include <QElapsedTimer>
#include <QTimer>
#include <array>
#include <cstdio>

#include "app/pages/sheet/sheet_page.h"
#include "app/paper/paper_painter.h"
#include "beginning.h"
#include "core/compare/compare.h"
#include "core/sheet/bulk.h"
#include "orchestra.h"
#include "pictures.h"
#include "stretch.h"

using namespace mellow;

namespace {

template<class Act>
double took(Act&& act) {
    QElapsedTimer timer;
    timer.start();
    act();
    constexpr double nsAMs = 1e6;
    return static_cast<double>(timer.nsecsElapsed()) / nsAMs;
}

template<class Act>
void say(const char* name, Act&& act) {
    double best = 1e9;
    for (int i = 0; i < 3; ++i) best = std::min(best, act());
    std::printf("%s %.2f\n", name, best);
    std::fflush(stdout);
}

void inTheWindow(const QString& file) {
    app::MainWindow window(bench::quiet());
    window.files().onAsk([](QWidget*) { return app::MainWindow::Answer::discard; });
    window.resize(1280, 800);
    window.show();
    window.document().replace(bench::unalikeOrchestra(), file);
    bench::settle(500);
    auto& page = *window.findChild<app::SheetPage*>();
    const auto painted = [&window] {
        QApplication::processEvents();
        window.repaint();
    };
    say("openMs", [&] {
        window.selection().go(app::Selected{});
        bench::settle(50);
        // As if it were shown for the first time: another document.
        window.document().edit(QStringLiteral("Another"), [](Ensemble& e) { e.tempo.bpm += 1; });
        bench::settle(200);
        return took([&] {
            window.selection().go(app::SheetPlace{});
            painted();
        });
    });
    page.search().setText(QStringLiteral("x"));
    bench::settle(50);
    page.search().clear();
    bench::settle(50);
    say("typeMs", [&] {
        page.search().setText(QStringLiteral("player12"));
        const double time = took([&] { page.search().setText(QStringLiteral("player12 falls")); });
        page.search().clear();
        return time;
    });
    say("turnMs", [&] {
        return took([&] {
            page.turnTo(page.model().wish().by == sheet::Reading::move ? sheet::Reading::hear
                                                                       : sheet::Reading::move);
            painted();
        });
    });
    std::vector<AssignmentId> rows;
    for (const Assignment& row : assignmentsOf(window.document().ensemble())) rows.push_back(idOf(row));
    say("bulkMakeMs", [&] {
        sheet::Proposal made =
            sheet::proposalOf(window.document().ensemble(), rows, sheet::bulk::turnRound());
        return took([&] {
            window.document().edit(QStringLiteral("Turn"),
                                   [&made](Ensemble& e) { e = std::move(made.after); });
            painted();
        });
    });
    say("sortMs", [&] {
        return took([&] {
            emit page.view().sortAsked(page.model().columnOf("target"));
            painted();
        });
    });
}

/// 10,000 events a second move what the demo's sheet shows: pictures a second, and the share of a core that
/// all of it takes.
void livesOnTheSheet() {
    app::MainWindow window(bench::quiet());
    window.files().onAsk([](QWidget*) { return app::MainWindow::Answer::discard; });
    window.resize(1280, 800);
    window.openDemo();
    window.show();
    window.selection().go(app::SheetPlace{});
    bench::settle(1500);
    QElapsedTimer since;
    qint64 sent = 0;
    QTimer hands;
    hands.setTimerType(Qt::PreciseTimer);
    QObject::connect(&hands, &QTimer::timeout, [&] {
        constexpr int aMillisecond = 10;
        constexpr std::array controls{1, 2, 11, 64, 66, 67};
        for (const qint64 due = since.elapsed() * aMillisecond; sent < due; ++sent) {
            const auto at = static_cast<std::size_t>(sent);
            const int value = static_cast<int>(at / controls.size() / 8 % 128);
            window.live().hands().send(
                midi::make(midi::controlChange, 0, controls.at(at % controls.size()), value));
        }
    });
    since.start();
    hands.start(4);
    bench::settle(1500);
    bench::Pictures pictures(&window);
    double rate = 0;
    double share = 1000;
    constexpr int stretch = 4000;
    for (int i = 0; i < 3; ++i) {
        pictures.begin();
        const double before = bench::processorTime();
        bench::settle(stretch);
        rate = std::max(rate, pictures.count * 1000.0 / stretch);
        share = std::min(share, (bench::processorTime() - before) * 100 / stretch);
    }
    std::printf("pictures-a-second %.0f\nshare %.1f\n", rate, share);
}

void withoutAWindow() {
    const auto large = std::make_shared<const Ensemble>(bench::unalikeOrchestra());
    std::vector<AssignmentId> rows;
    for (const Assignment& row : assignmentsOf(*large)) rows.push_back(idOf(row));
    say("bulkMs",
        [&] { return took([&] { (void)sheet::proposalOf(*large, rows, sheet::bulk::turnRound()); }); });
    Ensemble other = *large;
    int changed = 0;
    for (Instrument& instrument : other.instruments) {
        for (Chain& chain : instrument.chains) {
            if (changed++ < 1000) chain.steps[1].values[0] = 0.77;
        }
    }
    say("compareMs", [&] {
        return took([&] {
            if (compare::differences(*large, other).size() != 1000) std::abort();
        });
    });
    say("pdfMs", [&] {
        return took([&] {
            const sheet::Sheet sheet(large);
            const sheet::Paper paper = sheet::paperOf(sheet, {}, {}, "");
            if (app::pdfOf(paper, QPageSize::A4).isEmpty()) std::abort();
        });
    });
}

}  // namespace

int main(int argc, char** argv) {
    const bench::Beginning beginning(argc, argv);
    const bool onlyLive = argc > 1 && std::string_view(argv[1]) == "live";
    if (!onlyLive) inTheWindow({});
    livesOnTheSheet();
    if (!onlyLive) withoutAWindow();
    return 0;
}
