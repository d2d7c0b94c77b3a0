// Everything that checks found, in one list, each with its cures.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>

#include "app/widgets/findings_view.h"
#include "app/workspace.h"

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
