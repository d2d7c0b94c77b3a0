// The sheet on screen: two lines a cell, heads of groups across, and what stands now beside them.
//
// Rows are chosen by choosing cells of them, so that the keys of a spreadsheet go on working; a click on a
// head chooses all its rows. While values move, only the cells of the moment that are on screen are asked
// what they say, and only those that say something else are painted.
#pragma once

#include <map>

#include "app/pages/sheet/sheet_model.h"
#include "app/widgets/cell_table.h"

namespace mellow::app {

class SheetView : public CellTable {
    Q_OBJECT

 public:
    explicit SheetView(SheetModel& model, QWidget* parent = nullptr);

    /// Whose rows are chosen, in the sheet's order.
    [[nodiscard]] std::vector<AssignmentId> chosen() const;
    void choose(const std::vector<AssignmentId>& ids);
    void chooseAll() { selectAll(); }
    /// Chooses one row and shows it.
    void goTo(const AssignmentId& id);
    /// Values have moved.
    void followValues();
    /// What is chosen as text with tabs, as a spreadsheet pastes it; empty: no cells are.
    [[nodiscard]] QString chosenText() const;
    /// Widths of columns as a person last had them, by key.
    [[nodiscard]] QStringList widths() const;
    void setWidths(const QStringList& widths);
    /// Columns were chosen or changed.
    void placeColumns();

 signals:
    void chosenChanged();
    /// Somebody wants to see the chain of a row.
    void chainAsked(const mellow::AssignmentId& id);
    void sortAsked(int column);
    void columnsMoved();

 protected:
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void changeEvent(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

 private:
    void placeRows();
    void keepPlace();
    void findPlace();
    /// How much narrower or wider than usual columns stand by the room that there is, 0.7 to 1.4.
    [[nodiscard]] double narrowing() const;
    void chooseGroup(int line, Qt::KeyboardModifiers modifiers);
    [[nodiscard]] std::pair<int, int> visibleLines() const;

    SheetModel& model_;
    std::vector<AssignmentId> kept_;  ///< chosen before the rows were arranged anew
    AssignmentId keptCurrent_;
    std::string keptGroup_;  ///< the group whose head was current; empty: a row was
    int keptColumn_ = 0;
    std::map<int, std::pair<SheetModel::Now, QString>> shown_;  ///< by line: what the moment's cells say
    QStringList widths_;  ///< as a person made them; empty: the usual ones
    double narrowed_ = 1;
};

}  // namespace mellow::app
