// How tables of cells look and are handled: one look, boxes for choices, and the keys of a spreadsheet.
#pragma once

#include <QTableView>
#include <functional>
#include <vector>

#include "app/widgets/cell_model.h"

namespace mellow::app {

class CellTable : public QTableView {
    Q_OBJECT

 public:
    /// name: for those who look for it; title: for those who hear it.
    CellTable(CellModel& model, const QString& name, const QString& title, QWidget* parent = nullptr);

    /// Rows as high as this many pixels of a plain screen.
    void setRowHeight(int height);
    /// A column whose cells have choices (CellModel::choicesRole): a box stands in each.
    void showChoices(int column);
    /// Chosen rows, in order; columns likewise.
    [[nodiscard]] std::vector<std::size_t> chosenRows() const;
    [[nodiscard]] std::vector<int> chosenColumns() const;

 signals:
    /// By the keys of a spreadsheet, where somebody listens.
    void pasteAsked();
    void copyAsked();
    void removeAsked();

 protected:
    void keyPressEvent(QKeyEvent* event) override;

 private:
    void openBoxes();

    std::vector<int> choices_;  ///< columns that have them
};

}  // namespace mellow::app
