// Shows what would change, row by row, and makes it when a person agrees.
#pragma once

#include <QDialog>
#include <QPushButton>

#include "app/document/document.h"
#include "app/pages/sheet/proposal_view.h"

namespace mellow::app {

class ProposalDialog : public QDialog {
    Q_OBJECT

 public:
    /// name: of the step of undo, and of the dialog.
    ProposalDialog(Document& document, const QString& name, sheet::Proposal proposal, QWidget* window);

    [[nodiscard]] ProposalView& proposal() { return *view_; }

 private:
    void make();

    Document& document_;
    QString name_;
    sheet::Proposal proposal_;
    std::shared_ptr<const Ensemble> of_;
    ProposalView* view_;
};

}  // namespace mellow::app
