// Drawing values for targets: whose, by which seed, and what is locked.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QSpinBox>

#include "app/acts/workspace.h"
#include "app/live/putting.h"

namespace mellow::app {

class DrawDialog : public QDialog {
    Q_OBJECT

 public:
    DrawDialog(Workspace& workspace, Putting& putting, QWidget* window);

 private:
    void follow();
    void draw();
    void rest();
    void lock(const QListWidgetItem& item);
    void report(std::size_t sent);
    [[nodiscard]] DrawScope scope() const { return static_cast<DrawScope>(scope_->currentIndex()); }

    Workspace& workspace_;
    Putting& putting_;
    QComboBox* scope_;
    QSpinBox* seed_;
    QListWidget* locks_;
    QLabel* said_;
    bool filling_ = false;
};

}  // namespace mellow::app
