// What stands in the place of a chain where there is none: what is missing, and the acts that make it.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "app/acts/workspace.h"

namespace mellow::app {

class EmptyLever : public QWidget {
    Q_OBJECT

 public:
    explicit EmptyLever(Workspace& workspace, QWidget* parent = nullptr);
    /// Says what is missing now.
    void follow();

 private:
    Workspace& workspace_;
    QLabel* text_;
    QPushButton* act_;
    QPushButton* learn_;
};

}  // namespace mellow::app
