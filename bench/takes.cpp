// Takes: how long until the page shows one, how smoothly it scrolls and zooms, how soon an edit of a chain is
// seen in the lanes below, how long a take of four hours takes to open and what memory, and how much faster
// than playing a bounce is. Prints "name value" lines; of tries, the best. usage: bench-takes
#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <algorithm>
#include <cmath>
#include <cstdio>

#include "app/pages/takes/takes_page.h"
#include "beginning.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "core/takes/take_folder.h"
#include "io/bounce/bounce.h"
#include "stretch.h"

using namespace mellow;
using bench::settle;

namespace {

constexpr std::int64_t second = 1'000'000;

/// So many events on twelve controls and a keyboard, evenly over a time.
Take longTake(std::int64_t length, std::size_t events) {
    Take take;
    take.tempos.push_back({0, 96});
    take.ports = {"practice-keys"};
    for (std::size_t i = 0; i < events; ++i) {
        const std::int64_t time = static_cast<std::int64_t>(i) * length / static_cast<std::int64_t>(events);
        const auto turn = static_cast<int>(i % 13);
        if (turn == 12) {
            const bool on = i / 13 % 2 == 0;
            take.add(time, 0,
                     midi::make(on ? midi::noteOn : midi::noteOff, 0, 48 + static_cast<int>(i / 26 % 24), 90)
                         .bytes());
            continue;
        }
        constexpr std::array<int, 12> controls{1, 2, 11, 67, 20, 21, 22, 23, 24, 25, 26, 27};
        const double phase = static_cast<double>(time) / 3e6 + turn;
        const int value = static_cast<int>(64 + 60 * std::sin(phase)) + static_cast<int>(i % 3);
        take.add(time, 0,
                 midi::make(midi::controlChange, 0, controls.at(static_cast<std::size_t>(turn)),
                            std::min(value, 127))
                     .bytes());
    }
    take.length = length;
    return take;
}

long residentKilobytes() {
    QFile status(QStringLiteral("/proc/self/status"));
    if (!status.open(QIODevice::ReadOnly)) return 0;
    for (const QByteArray& line : status.readAll().split('\n')) {
        if (line.startsWith("VmRSS:")) return line.mid(6).trimmed().split(' ').first().toLong();
    }
    return 0;
}

[[noreturn]] void fail(const Problem& problem) {
    std::fprintf(stderr, "%s\n", problem.sentence().c_str());
    std::exit(1);
}

Ensemble demo() {
    QFile file(QStringLiteral(":/demo/tin-observatory.lever"));
    if (!file.open(QIODevice::ReadOnly)) std::exit(1);
    auto ensemble = store::parseEnsemble(file.readAll().toStdString());
    if (!ensemble) fail(ensemble.problem());
    ensemble->takes.clear();
    return *ensemble;
}

/// A document with a take, on the disk.
QString documentWith(const QTemporaryDir& folder, const QString& name, const Take& take) {
    const std::filesystem::path path = folder.filePath(name + QStringLiteral(".lever")).toStdString();
    Ensemble ensemble = demo();
    KeptTake kept;
    kept.id = "long";
    const auto stored = storeTake(takesFolderOf(path), kept, take);
    if (!stored) fail(stored.problem());
    ensemble.takes.push_back(*stored);
    const auto written = files::writeFile(path, std::string_view(store::printEnsemble(ensemble)));
    if (!written) fail(written.problem());
    return QString::fromStdString(path.string());
}

double millisecondsOf(const std::function<void()>& what) {
    QElapsedTimer timer;
    timer.start();
    what();
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

void show(app::MainWindow& window) {
    window.selection().go(app::TakePlace{"long"});
    window.findChild<app::TakesPage*>()->view().repaint();
}

}  // namespace

int main(int argc, char** argv) {
    const bench::Beginning beginning(argc, argv);
    const QString tenMinutes =
        documentWith(beginning.folder, QStringLiteral("ten"), longTake(600 * second, 200'000));
    const QString fourHours =
        documentWith(beginning.folder, QStringLiteral("four"), longTake(4 * 3600 * second, 5'000'000));
    double opens = 1e9;
    for (int i = 0; i < 3; ++i) {
        app::MainWindow window(bench::quiet());
        window.resize(1280, 800);
        window.show();
        settle(300);
        opens = std::min(opens, millisecondsOf([&] {
                             window.openFile(tenMinutes);
                             show(window);
                         }));
    }
    std::printf("opens %.1f\n", opens);
    {
        app::MainWindow window(bench::quiet());
        window.resize(1280, 800);
        window.show();
        window.openFile(tenMinutes);
        show(window);
        settle(1500);
        auto& view = window.findChild<app::TakesPage*>()->view();
        double worst = 0;
        double sum = 0;
        constexpr int pictures = 240;
        for (int i = 0; i < pictures; ++i) {
            const double took = millisecondsOf([&] {
                app::TimeAxis axis = view.axis();
                i % 40 < 20 ? axis.zoom(i % 40 < 10 ? 0.8 : 1.25, 700)
                            : void(axis.begin += 30 * axis.microsPerPixel);
                view.setAxis(axis);
                view.repaint();
            });
            worst = std::max(worst, took);
            sum += took;
        }
        std::printf("picture %.2f\nworst %.2f\n", sum / pictures, worst);
        double results = 1e9;
        for (int i = 0; i < 4; ++i) {
            results =
                std::min(results, millisecondsOf([&] {
                             if (resultsOf(demo(), *window.takes().choice.take(), {"glass"}).lanes.empty())
                                 std::exit(1);
                         }));
        }
        std::printf("results %.1f\n", results);
        double edit = 1e9;
        for (int i = 0; i < 8; ++i) {
            const auto before = &view.rows().results();
            edit = std::min(edit, millisecondsOf([&] {
                                window.document().edit(QStringLiteral("Edit"), [i](Ensemble& e) {
                                    e.instruments[0].chains[0].branches[0].low = 20.0 + i;
                                });
                                while (&view.rows().results() == before)
                                    QApplication::processEvents(QEventLoop::AllEvents, 1);
                                view.repaint();
                            }));
            settle(100);
        }
        std::printf("edit %.1f\n", edit);
    }
    {
        app::MainWindow window(bench::quiet());
        window.resize(1280, 800);
        window.show();
        settle(300);
        const long before = residentKilobytes();
        std::printf("long %.0f\n", millisecondsOf([&] {
                        window.openFile(fourHours);
                        show(window);
                    }));
        settle(200);
        std::printf("memory %ld\n", (residentKilobytes() - before) / 1024);
    }
    QFile played(QStringLiteral(":/demo/tin-observatory.takes/barometer-falls-d664895c7ce3.mid"));
    if (!played.open(QIODevice::ReadOnly)) return 1;
    const QByteArray bytes = played.readAll();
    const auto take = readTake(
        {reinterpret_cast<const std::uint8_t*>(bytes.constData()), static_cast<std::size_t>(bytes.size())},
        {});
    if (!take) fail(take.problem());
    double bounce = 1e9;
    for (int i = 0; i < 2; ++i) {
        bounce = std::min(bounce, millisecondsOf([&] {
                              const auto made = io::bounce(
                                  demo(), take->take,
                                  beginning.folder.filePath(QStringLiteral("b.wav")).toStdString(), {}, {});
                              if (!made) fail(made.problem());
                          }));
    }
    std::printf("bounce %.1f\n", static_cast<double>(take->take.length) / 1e3 / bounce);
    return 0;
}
