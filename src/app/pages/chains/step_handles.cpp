#include "app/pages/chains/step_handles.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

using Moves = Handle::Moves;

constexpr double narrowest = 0.005;  // between two points, so that x strictly rises

double rounded(double place) {
    return std::round(place * 1000) / 1000;
}

struct Words {
    Q_DECLARE_TR_FUNCTIONS(StepHandles)
};

struct Row {
    std::string_view kind;
    std::vector<Handle> (*handles)(const Step&);
    void (*move)(Step&, std::size_t handle, Point to);
    std::vector<Band> (*bands)(const Step&);
    QString (*help)();
};

// A drawn response.

std::vector<Handle> pointHandles(const Step& step) {
    std::vector<Handle> handles;
    for (const Point& point : pointsOf(step, 0)) handles.push_back({Moves::freely, point});
    return handles;
}
void movePoint(Step& step, std::size_t handle, Point to) {
    auto& points = std::get<std::vector<Point>>(step.values[0]);
    if (handle >= points.size()) return;
    points[handle].y = rounded(to.y);
    if (handle == 0 || handle + 1 >= points.size()) return;
    points[handle].x =
        rounded(std::clamp(to.x, points[handle - 1].x + narrowest, points[handle + 1].x - narrowest));
}

// A bend, by what it makes of the middle.

std::vector<Handle> bendHandles(const Step& step) {
    return {{Moves::upward, {0.5, shapePosition(step, 0.5)}}};
}
void moveBend(Step& step, std::size_t, Point to) {
    // y = ½^γ and γ = 8^b, so b = log8(log½ y).
    const double y = std::clamp(to.y, 0.004, 0.917);
    const double amount = std::log(std::log(y) / std::log(0.5)) / std::log(8.0);
    step.values[0] = std::clamp(std::round(amount * 100) / 100, -1.0, 1.0);
}

// Where a control rests, and where that is to land.

std::vector<Handle> restHandles(const Step& step) {
    return {{Moves::freely, {numberOf(step, 0), numberOf(step, 1)}}};
}
void moveRest(Step& step, std::size_t, Point to) {
    step.values[0] = std::clamp(rounded(to.x), 0.01, 0.99);
    step.values[1] = std::clamp(rounded(to.y), 0.01, 0.99);
}

// The part of the travel in use.

std::vector<Handle> windowHandles(const Step& step) {
    return {{Moves::across, {numberOf(step, 0), 0}}, {Moves::across, {numberOf(step, 1), 1}}};
}
void moveWindow(Step& step, std::size_t handle, Point to) {
    step.values[handle] = rounded(to.x);
}
std::vector<Band> windowBands(const Step& step) {
    const double low = std::min(numberOf(step, 0), numberOf(step, 1));
    const double high = std::max(numberOf(step, 0), numberOf(step, 1));
    return {{0, low, {}, true}, {low, high, {}, false}, {high, 1, {}, true}};
}

// A floor and a ceiling, each at its own end of the picture; neither is moved past the other.

std::vector<Handle> limitHandles(const Step& step) {
    return {{Moves::upward, {0, numberOf(step, 0)}}, {Moves::upward, {1, numberOf(step, 1)}}};
}
void moveLimit(Step& step, std::size_t handle, Point to) {
    const double other = numberOf(step, handle == 0 ? 1 : 0);
    step.values[handle] = rounded(handle == 0 ? std::min(to.y, other) : std::max(to.y, other));
}

// A gate: on from a threshold, off below it by the hysteresis.

std::vector<Handle> gateHandles(const Step& step) {
    return {{Moves::across, {numberOf(step, 0), 0.5}},
            {Moves::across, {std::max(0.0, numberOf(step, 0) - numberOf(step, 1)), 0.25}}};
}
void moveGate(Step& step, std::size_t handle, Point to) {
    if (handle == 0) {
        step.values[0] = rounded(to.x);
    } else {
        step.values[1] = rounded(std::clamp(numberOf(step, 0) - to.x, 0.0, 1.0));
    }
}
std::vector<Band> gateBands(const Step& step) {
    const double on = std::clamp(numberOf(step, 0), 0.0, 1.0);
    const double off = std::max(0.0, on - numberOf(step, 1));
    return {{0, off, Words::tr("off"), false}, {off, on, {}, true}, {on, 1, Words::tr("on"), false}};
}

// A latch flips where its input comes up through the middle.

std::vector<Band> latchBands(const Step&) {
    return {{0, 0.5, Words::tr("let go"), false}, {0.5, 1, Words::tr("pressed"), false}};
}
std::vector<Handle> noHandles(const Step&) {
    return {};
}
void stay(Step&, std::size_t, Point) {}

// A dead zone, by its two edges.

std::vector<Handle> deadHandles(const Step& step) {
    const double centre = numberOf(step, 0);
    const double half = numberOf(step, 1) / 2;
    return {{Moves::across, {std::max(0.0, centre - half), centre}},
            {Moves::across, {std::min(1.0, centre + half), centre}}};
}
void moveDead(Step& step, std::size_t, Point to) {
    step.values[1] = rounded(std::clamp(2 * std::abs(to.x - numberOf(step, 0)), 0.0, 1.0));
}
std::vector<Band> deadBands(const Step& step) {
    const auto edges = deadHandles(step);
    return {{edges[0].at.x, edges[1].at.x, Words::tr("dead"), true}};
}

// Levels are of one width, so an edge that is moved says how many there are.

int levelCount(const Step& step) {
    return std::max(2, static_cast<int>(numberOf(step, 0)));
}
std::vector<Handle> levelHandles(const Step& step) {
    std::vector<Handle> handles;
    const int count = levelCount(step);
    constexpr int most = 24;
    for (int k = 1; k < std::min(count, most); ++k)
        handles.push_back({Moves::across, {static_cast<double>(k) / count, (k - 0.5) / (count - 1)}});
    return handles;
}
void moveLevel(Step& step, std::size_t handle, Point to) {
    const double edge = static_cast<double>(handle + 1);
    constexpr double most = 128;
    step.values[0] = std::clamp(std::round(edge / std::max(to.x, 0.001)), std::max(2.0, edge + 1), most);
}
std::vector<Band> levelBands(const Step& step) {
    std::vector<Band> bands;
    const int count = levelCount(step);
    const auto& names = namesOf(step, 2);
    for (int k = 0; k < count; ++k) {
        const auto place = static_cast<std::size_t>(k);
        bands.push_back({static_cast<double>(k) / count, static_cast<double>(k + 1) / count,
                         place < names.size() ? toQt(names[place]) : QString::number(k + 1), false});
    }
    return bands;
}

std::vector<Band> noBands(const Step&) {
    return {};
}

const Row rows[] = {
    {"points", pointHandles, movePoint, noBands,
     [] { return Words::tr("Drag a point; double-click the line to add one; Delete removes it."); }},
    {"bend", bendHandles, moveBend, noBands, [] { return Words::tr("Drag the handle to bend the curve."); }},
    {"restAt", restHandles, moveRest, noBands,
     [] {
         return Words::tr("Drag the mark: across to where the control rests, upward to where that lands.");
     }},
    {"window", windowHandles, moveWindow, windowBands,
     [] { return Words::tr("Drag the edges of the part that is used."); }},
    {"limit", limitHandles, moveLimit, noBands,
     [] { return Words::tr("Drag the floor at the left, the ceiling at the right."); }},
    {"gate", gateHandles, moveGate, gateBands,
     [] { return Words::tr("Drag where it switches on, and how far below that it switches off."); }},
    {"latch", noHandles, stay, latchBands,
     [] { return Words::tr("Each time its input comes up through the middle, it flips."); }},
    {"deadZone", deadHandles, moveDead, deadBands,
     [] { return Words::tr("Drag the edges of the dead part."); }},
    {"levels", levelHandles, moveLevel, levelBands,
     [] { return Words::tr("Drag an edge: the levels stay even, and there are more or fewer."); }},
};

const Row* rowOf(const Step& step) {
    const auto found = std::find_if(std::begin(rows), std::end(rows),
                                    [&step](const Row& row) { return row.kind == step.kind->name; });
    return found == std::end(rows) ? nullptr : &*found;
}

}  // namespace

std::vector<Handle> handlesOf(const Step& step) {
    const Row* row = rowOf(step);
    return row == nullptr ? std::vector<Handle>() : row->handles(step);
}

std::vector<Band> bandsOf(const Step& step) {
    const Row* row = rowOf(step);
    return row == nullptr ? std::vector<Band>() : row->bands(step);
}

Step withHandleAt(const Step& step, std::size_t handle, Point to) {
    Step changed = step;
    const Row* row = rowOf(step);
    if (row != nullptr && handle < row->handles(step).size())
        row->move(changed, handle, {std::clamp(to.x, 0.0, 1.0), std::clamp(to.y, 0.0, 1.0)});
    return changed;
}

QString handleHelp(const Step& step) {
    const Row* row = rowOf(step);
    return row == nullptr ? QString() : row->help();
}

}  // namespace mellow::app
