// Asks how many rows are to be changed at once, and shows row by row what would become of them before anybody
// agrees. What is agreed to is one step of undo.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QFormLayout>
#include <QPushButton>
#include <QTimer>
#include <vector>

#include "app/document/document.h"
#include "app/pages/sheet/bulk_acts.h"
#include "app/pages/sheet/proposal_view.h"

namespace mellow::app {

class BulkDialog : public QDialog {
    Q_OBJECT

 public:
    BulkDialog(Document& document, const BulkKind& kind, std::vector<AssignmentId> rows, QWidget* window);

    void chooseAct(int act);
    [[nodiscard]] ProposalView& proposal() { return *view_; }

 private:
    void buildAct();
    QWidget* buildAsk(const BulkAsk& ask, int place);
    void propose();
    void make();
    [[nodiscard]] QVariant answerOf(const BulkAsk& ask, const QWidget& field) const;

    Document& document_;
    std::vector<AssignmentId> rows_;
    std::vector<BulkAct> acts_;
    QComboBox* which_;
    QFormLayout* form_;
    ProposalView* view_;
    QPushButton* make_;
    std::vector<QWidget*> fields_;
    QTimer settle_;
    std::optional<sheet::Proposal> proposed_;
    std::shared_ptr<const Ensemble> of_;  ///< what the proposal was made for
    QString name_;
};

}  // namespace mellow::app
