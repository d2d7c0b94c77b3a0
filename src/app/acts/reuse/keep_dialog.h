// A name and a sentence for what goes into the library.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>

#include "core/model/part.h"

namespace mellow::app {

class KeepDialog : public QDialog {
    Q_OBJECT

 public:
    static KeepDialog* ask(QWidget* window, mellow::Part part);

 private:
    KeepDialog(mellow::Part part, QWidget* window);
    void keep();

    mellow::Part part_;
    QLineEdit* name_;
    QLineEdit* about_;
    QLabel* trouble_;
    QCheckBox* replace_;
};

}  // namespace mellow::app
