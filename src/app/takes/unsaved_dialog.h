// Recordings that were made in ensembles that were never saved, and that nothing open here names: they wait
// until a person takes them into an ensemble, or clears them away.
#pragma once

#include <QDialog>
#include <QPushButton>
#include <QTreeWidget>
#include <set>
#include <string>

#include "app/takes/take_work.h"

namespace mellow::app {

class UnsavedDialog : public QDialog {
    Q_OBJECT

 public:
    UnsavedDialog(Document& document, TakeWork& takes, QWidget* parent = nullptr);

 private:
    [[nodiscard]] std::set<std::string> named() const;
    void fill();
    void follow();
    void bringIn();
    void clearAway();

    Document& document_;
    TakeWork& takes_;
    QTreeWidget* list_;
    QPushButton* bring_;
    QPushButton* clear_;
};

}  // namespace mellow::app
