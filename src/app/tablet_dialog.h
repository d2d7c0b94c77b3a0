// Tablets over OSC: where to send to, who is there, and which address does what.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QTableWidget>

#include "app/workspace.h"

namespace mellow::app {

class TabletDialog : public QDialog {
    Q_OBJECT

 public:
    TabletDialog(Workspace& workspace, QWidget* window);
    /// Opens it beside a window, or brings the one that is open to the front.
    static void open(Workspace& workspace, QWidget* window);

 private:
    void follow();
    void copy() const;

    Workspace& workspace_;
    QCheckBox* open_;
    QLabel* where_;
    QLabel* there_;
    QTableWidget* table_;
};

}  // namespace mellow::app
