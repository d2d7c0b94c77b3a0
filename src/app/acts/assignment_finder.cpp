#include "app/acts/assignment_finder.h"

#include <QCoreApplication>
#include <memory>

#include "app/ground/words.h"
#include "app/widgets/finder.h"
#include "core/assignments/columns.h"
#include "core/sheet/proposal.h"
#include "core/sheet/sheet.h"

namespace mellow::app {

namespace {

constexpr std::size_t mostOffered = 60;

class Words {
    Q_DECLARE_TR_FUNCTIONS(AssignmentFinder)
};

QString say(const sheet::Sheet& sheet, int row, const char* column) {
    return toQt(sheet.text(*findAssignmentColumn(column), row));
}

/// Chains are shown as they are; what has none, on the sheet.
Address addressOf(const AssignmentId& id) {
    if (id.chain.empty()) return SheetPlace{id};
    return selectedOf(id);
}

}  // namespace

void findAssignment(Workspace& workspace, QWidget* at) {
    auto sheet = std::make_shared<sheet::Sheet>(workspace.document.shared());
    Finder::open(
        at, Words::tr("What moves what: falls, flute, cc 11, > 5 kHz…"),
        [sheet, &workspace](const QString& typed) {
            sheet::Wish wish;
            wish.find = typed.toStdString();
            std::vector<Found> found;
            for (const sheet::Group& group : sheet->arranged(wish).groups) {
                for (const int row : group.rows) {
                    if (found.size() == mostOffered) return found;
                    const AssignmentId id = idOf(sheet->rows()[static_cast<std::size_t>(row)]);
                    const QString reach = say(*sheet, row, "reach");
                    const QString way = say(*sheet, row, "way");
                    found.push_back({nameToShow(sheet::rowName(sheet->ensemble(),
                                                               sheet->rows()[static_cast<std::size_t>(row)])),
                                     say(*sheet, row, "sends"),
                                     way.isEmpty() ? reach : way + QStringLiteral("; ") + reach,
                                     [id, &workspace] { workspace.show(addressOf(id)); }});
                }
            }
            return found;
        });
}

}  // namespace mellow::app
