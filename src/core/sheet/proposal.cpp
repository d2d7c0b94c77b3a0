#include "core/sheet/proposal.h"

#include <algorithm>

#include "core/model/resolve.h"

namespace mellow::sheet {

namespace {

std::string say(const Ensemble& ensemble, const Assignment& row, std::string_view column) {
    return findAssignmentColumn(column)->text(ensemble, row);
}

/// What a row says in some columns.
std::vector<std::string> cellsOf(const Ensemble& ensemble, const Assignment& row,
                                 const std::vector<const AssignmentColumn*>& columns) {
    std::vector<std::string> cells;
    cells.reserve(columns.size());
    for (const AssignmentColumn* column : columns) cells.push_back(column->text(ensemble, row));
    return cells;
}

}  // namespace

std::string rowName(const Ensemble& ensemble, const Assignment& row) {
    const std::string move = say(ensemble, row, "move");
    const std::string target = say(ensemble, row, "target");
    const std::string instrument = say(ensemble, row, "instrument");
    std::string name = move;
    if (!target.empty()) name += (name.empty() ? "" : " to ") + target;
    return instrument.empty() ? name : name + ", " + instrument;
}

Proposal proposalOf(const Ensemble& ensemble, const std::vector<AssignmentId>& rows, const Bulk& bulk) {
    Proposal made;
    made.after = ensemble;
    const std::vector<Complaint> complaints = bulk.make(made.after, rows);
    std::vector<const AssignmentColumn*> columns;
    for (const std::string_view key : bulk.columns) columns.push_back(findAssignmentColumn(key));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const auto before = assignmentAt(ensemble, rows[i]);
        if (!before) continue;
        Item item{
            rows[i], rowName(ensemble, *before), {}, {}, i < complaints.size() ? complaints[i] : Complaint{}};
        if (!item.complaint) {
            item.becomes = bulk.becomes;
            const auto after = bulk.becomes.empty() ? assignmentAt(made.after, rows[i]) : before;
            const std::vector<std::string> was = cellsOf(ensemble, *before, columns);
            const std::vector<std::string> is =
                after && bulk.becomes.empty() ? cellsOf(made.after, *after, columns) : was;
            for (std::size_t c = 0; c < columns.size(); ++c) {
                if (was[c] != is[c]) item.cells.push_back({columns[c], was[c], is[c]});
            }
        }
        if (item.complaint) ++made.refused;
        if (item.changes()) ++made.changed;
        if (item.complaint || item.changes()) made.items.push_back(std::move(item));
    }
    return made;
}

}  // namespace mellow::sheet
