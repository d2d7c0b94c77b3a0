// The Chains page: the instrument's chains above, the selected one as a lever below.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QWidget>

#include "app/chains/chain_actions.h"
#include "app/chains/chain_list.h"
#include "app/chains/lever_view.h"

namespace mellow::app {

class ChainsPage : public QWidget {
    Q_OBJECT

 public:
    ChainsPage(Document& document, Selection& selection, Live& live, ChainActions& actions,
               QWidget* parent = nullptr);

    [[nodiscard]] ChainList& chains() { return *list_; }
    [[nodiscard]] LeverView& lever() { return *lever_; }

 signals:
    void refused(const QString& sentence);

 protected:
    void resizeEvent(QResizeEvent* event) override;

 private:
    void follow();
    void shareHeight();

    Document& document_;
    Selection& selection_;
    QLabel* title_;
    QLabel* summary_;
    QPushButton* add_;
    ChainList* list_;
    QScrollArea* scroll_;
    LeverView* lever_;
};

}  // namespace mellow::app
