// Everything that checks found, in one list, each with its cures.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>

#include "app/acts/findings_view.h"
#include "app/acts/workspace.h"

namespace mellow::app {

class ChecksDialog : public QDialog {
    Q_OBJECT

 public:
    ChecksDialog(Workspace& workspace, QWidget* window);

 private:
    void follow();

    Workspace& workspace_;
    QLabel* count_;
    QCheckBox* notes_;
    FindingsView* findings_;
};

}  // namespace mellow::app
