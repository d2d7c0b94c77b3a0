#include "app/pages/sheet/proposal_dialog.h"

#include <QDialogButtonBox>
#include <QVBoxLayout>

#include "app/ground/theme.h"

namespace mellow::app {

ProposalDialog::ProposalDialog(Document& document, const QString& name, sheet::Proposal proposal,
                               QWidget* window)
    : QDialog(window),
      document_(document),
      name_(name),
      proposal_(std::move(proposal)),
      of_(document.shared()),
      view_(new ProposalView) {
    setObjectName(QStringLiteral("proposalDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(name);
    resize(scaled(720), scaled(460));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->addWidget(view_, 1);
    auto* buttons = new QDialogButtonBox;
    auto* make = buttons->addButton(tr("Make it"), QDialogButtonBox::AcceptRole);
    make->setObjectName(QStringLiteral("proposalMake"));
    make->setDefault(true);
    make->setEnabled(proposal_.changed > 0 && !document.isReadOnly());
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    column->addWidget(buttons);
    view_->show(proposal_);
    connect(buttons, &QDialogButtonBox::accepted, this, &ProposalDialog::make);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    // What is shown was worked out for the ensemble as it was: an edit that comes between would be lost.
    connect(&document_, &Document::changed, this, [this, make] {
        if (document_.shared() == of_) return;
        make->setEnabled(false);
        view_->show(tr("The ensemble was changed meanwhile. Read the file again."));
    });
}

void ProposalDialog::make() {
    disconnect(&document_, nullptr, this, nullptr);
    document_.edit(name_, [this](Ensemble& ensemble) { ensemble = proposal_.after; });
    accept();
}

}  // namespace mellow::app
