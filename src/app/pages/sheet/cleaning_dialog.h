// What nobody uses, each line to be ticked; what is ticked goes as one step of undo, and nothing that is sent
// changes by that.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <vector>

#include "app/document/document.h"
#include "app/widgets/tick_list.h"
#include "core/sheet/cleaning.h"

namespace mellow::app {

class CleaningDialog : public QDialog {
    Q_OBJECT

 public:
    explicit CleaningDialog(Document& document, QWidget* window);

 private:
    void show();
    void remove();

    Document& document_;
    QLabel* said_;
    TickList* list_;
    QPushButton* remove_;
    std::vector<sheet::Unused> unused_;
};

}  // namespace mellow::app
