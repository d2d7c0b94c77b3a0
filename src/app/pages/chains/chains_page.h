// The Chains page: the instrument's chains above, the selected one as a lever below.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QWidget>

#include "app/pages/chains/chain_list.h"
#include "app/pages/chains/lever_view.h"
#include "app/pages/page.h"

namespace mellow::app {

class ChainsPage : public Page {
    Q_OBJECT

 public:
    explicit ChainsPage(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] ChainList& chains() { return *list_; }
    [[nodiscard]] LeverView& lever() { return *lever_; }

    QWidget* makeDetails() override;
    [[nodiscard]] std::vector<PageActions> actions() const override;
    void begin() override { list_->setFocus(Qt::OtherFocusReason); }

 protected:
    void resizeEvent(QResizeEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    void follow();
    void followFindings();
    void showSummary();
    void shareHeight();

    void buildActions();
    void openRun(bool knobs);
    void showContextMenu(const QPoint& at);

    Workspace& workspace_;
    Document& document_;
    Selection& selection_;
    QList<QAction*> editActions_;
    QList<QAction*> chainActions_;
    QAction* showsBefore_ = nullptr;
    QAction* follows_ = nullptr;  ///< the chain leads to what is touched
    QLabel* title_;
    QLabel* summary_;
    QString counts_;  ///< how many chains and targets
    QString state_;   ///< how many troubles
    QPushButton* add_;
    ChainList* list_;
    QScrollArea* scroll_;
    LeverView* lever_;
};

}  // namespace mellow::app
