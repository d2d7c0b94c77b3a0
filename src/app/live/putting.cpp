// What undo sends is what was seen to be there; a target of which nothing was known goes to its rest.
#include "app/live/putting.h"

#include <QUndoCommand>
#include <algorithm>

namespace mellow::app {

namespace {

class PutCommand : public QUndoCommand {
 public:
    PutCommand(const QString& text, Live& live, Placements before, Placements after)
        : QUndoCommand(text), live_(live), before_(std::move(before)), after_(std::move(after)) {}

    void undo() override { live_.place(before_); }
    void redo() override { live_.place(after_); }

 private:
    Live& live_;
    Placements before_;
    Placements after_;
};

}  // namespace

Whose whoseOf(const Selected& selected, DrawScope scope) {
    Whose whose;
    if (scope == DrawScope::everything) return whose;
    whose.owner = selected.instrument;
    if (scope == DrawScope::instrument || selected.part == Part::instrument) return whose;
    whose.chain = selected.chain;
    if (selected.part == Part::branch || selected.part == Part::branchStep)
        whose.branch = static_cast<std::uint32_t>(std::max(0, selected.index));
    return whose;
}

Putting::Putting(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {}

std::size_t Putting::rest(const Whose& whose) {
    Placements resting = atRest(document_.ensemble(), whose);
    // What nothing leads to any more belongs to its instrument, and to no chain of it.
    for (const Placement& left : live_.leftAtRest()) {
        if (!whose.chain && (!whose.owner || *whose.owner == left.owner)) resting.push_back(left);
    }
    return put(tr("Put to rest"), resting, resting);
}

std::size_t Putting::draw(const Whose& whose, std::uint64_t seed) {
    return put(tr("Draw values (seed %1)").arg(seed), drawn(document_.ensemble(), whose, seed),
               atRest(document_.ensemble(), whose));
}

std::size_t Putting::put(const QString& text, const Placements& placements, const Placements& resting) {
    if (placements.empty()) return 0;
    // What nothing is known of rests, as far as anybody can tell.
    Placements before = resting;
    for (Placement& each : before) {
        if (each.chain.empty()) continue;
        const ChainReading reading = live_.reading(each.owner, each.chain);
        const double stood = each.branch < reading.values.size() ? reading.values[each.branch] : -1;
        if (stood >= 0) each.position = stood;
    }
    document_.undoStack().push(new PutCommand(text, live_, std::move(before), placements));
    return placements.size();
}

}  // namespace mellow::app
