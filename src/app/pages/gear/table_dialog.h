// What of a pasted or imported table is understood, before it is taken: which column is which, and what
// becomes of each row.
//
// A list above each column says what it is taken for, and can say otherwise; the rows below follow at once.
#pragma once

#include <QDialog>
#include <functional>

#include "app/pages/gear/profile_model.h"

class QCheckBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace mellow::app {

class TableDialog : public QDialog {
    Q_OBJECT

 public:
    /// carry: reaches that do not fit a new range go to the same place in it.
    using Accepted = std::function<void(const profiles::Understood& how, bool carry)>;

    /// Asks, above a window. title: what is taken in.
    static TableDialog* ask(QWidget* window, const QString& title, ProfileModel& model,
                            const profiles::Table& table, Accepted accepted);

 private:
    TableDialog(const QString& title, ProfileModel& model, const profiles::Table& table, QWidget* window);
    void fill();
    void choose(int column, int place);
    void follow();

    ProfileModel& model_;
    profiles::Table table_;  ///< as much of it as is shown
    std::size_t rows_;       ///< that it has
    profiles::Understood how_;
    QTableWidget* shown_;
    QLabel* summary_;
    QCheckBox* carry_;
    QPushButton* accept_;
};

}  // namespace mellow::app
