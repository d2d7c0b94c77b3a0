// Tablets over OSC: where to send to, who is there, and which address does what.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/acts/network_choice.h"
#include "app/acts/workspace.h"

namespace mellow::app {

class TabletDialog : public QDialog {
    Q_OBJECT

 public:
    TabletDialog(Workspace& workspace, QWidget* window);
    /// Opens it beside a window, or brings the one that is open to the front.
    static void open(Workspace& workspace, QWidget* window);

 private:
    void follow();
    void fillWaiting();
    void copy() const;

    Workspace& workspace_;
    QCheckBox* open_;
    QLabel* where_;
    NetworkChoice* from_;
    QLabel* there_;
    QVBoxLayout* waiting_ = nullptr;  ///< a button for each that is not told yet
    QStringList waitingNames_;
    QTableWidget* table_;
};

}  // namespace mellow::app
