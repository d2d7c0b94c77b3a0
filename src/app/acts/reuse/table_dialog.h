// What of a pasted or imported table is understood, before it is taken: which column is which, and what
// becomes of each row.
//
// A list above each column says what it is taken for, and can say otherwise; the rows below follow at once.
#pragma once

#include <QDialog>
#include <functional>

#include "app/acts/reuse/profile_model.h"

class QCheckBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace mellow::app {

class TableDialog : public QDialog {
    Q_OBJECT

 public:
    /// Asks, above a window, and takes it in as was said. title: what is taken in. complain: is told what was
    /// not understood, as one sentence.
    static TableDialog* takeIn(QWidget* window, const QString& title, ProfileModel& model,
                               profiles::Table table, const std::function<void(const QString&)>& complain);
    /// The first complaints, and how many more there are.
    static QString listed(const QStringList& complaints);

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
