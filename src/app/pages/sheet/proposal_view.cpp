#include "app/pages/sheet/proposal_view.h"

#include <QHeaderView>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

ProposalModel::ProposalModel(QObject* parent) : CellModel(parent) {
    reshape();
}

void ProposalModel::show(const sheet::Proposal& proposal) {
    lines_.clear();
    for (const std::string& remark : proposal.remarks) lines_.push_back({{toQt(remark), {}, {}, {}}, true});
    for (const sheet::Item& item : proposal.items) {
        const QString name = nameToShow(item.name);
        if (item.complaint) lines_.push_back({{name, tr("cannot be"), {}, toQt(*item.complaint)}, true});
        if (!item.becomes.empty()) lines_.push_back({{name, {}, {}, toQt(item.becomes)}, false});
        for (const sheet::CellChange& cell : item.cells)
            lines_.push_back({{name, toQt(cell.column->title), toQt(cell.before), toQt(cell.after)}, false});
    }
    reshape();
}

std::vector<CellModel::Column> ProposalModel::cellColumns() const {
    return {{tr("Row")}, {tr("What")}, {tr("Before")}, {tr("After")}};
}

QVariant ProposalModel::cell(int row, int column, int role) const {
    const Line& line = lines_[static_cast<std::size_t>(row)];
    const QString& text = line.texts[static_cast<std::size_t>(column)];
    if (role == Qt::DisplayRole)
        return text.isEmpty() && column == before && !line.refused ? QStringLiteral("–") : text;
    if (role == Qt::ToolTipRole) return text;
    if (role == Qt::ForegroundRole && line.refused) return theme().clay;
    if (role == Qt::ForegroundRole && column == before) return theme().dim;
    return {};
}

ProposalView::ProposalView(QWidget* parent)
    : QWidget(parent),
      model_(new ProposalModel(this)),
      table_(new CellTable(*model_, QStringLiteral("proposal"), tr("What would change"))),
      summary_(new QLabel) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(scaled(6));
    summary_->setObjectName(QStringLiteral("proposalSummary"));
    summary_->setWordWrap(true);
    column->addWidget(summary_);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setRowHeight(26);
    table_->horizontalHeader()->setSectionResizeMode(ProposalModel::what, QHeaderView::ResizeToContents);
    for (const int side : {ProposalModel::before, ProposalModel::after}) {
        table_->horizontalHeader()->setSectionResizeMode(side, QHeaderView::Interactive);
        table_->horizontalHeader()->resizeSection(side, scaled(160));
    }
    column->addWidget(table_, 1);
}

QString summaryOf(const sheet::Proposal& proposal) {
    const int changed = static_cast<int>(proposal.changed);
    const int refused = static_cast<int>(proposal.refused + proposal.remarks.size());
    if (changed == 0 && refused == 0) return ProposalView::tr("Nothing would change.");
    const QString changes = ProposalView::tr("%n row(s) would change", nullptr, changed);
    if (refused == 0) return changes + QLatin1Char('.');
    return changes + QStringLiteral(", ") + ProposalView::tr("%1 cannot be.").arg(refused);
}

void ProposalView::show(const sheet::Proposal& proposal) {
    model_->show(proposal);
    summary_->setText(summaryOf(proposal));
}

void ProposalView::show(const QString& why) {
    model_->show({});
    summary_->setText(why);
}

}  // namespace mellow::app
