// A table of cells: what all tables of the window have in common, whatever their rows are.
//
// Who has rows says how many there are, what a cell says, and what typing into cells does, in one act; from
// that come looking and changing cell by cell, filling down, typing a column that was copied elsewhere, and
// following what changes without losing one's place.
#pragma once

#include <QAbstractTableModel>
#include <QStringList>
#include <vector>

namespace mellow::app {

class CellModel : public QAbstractTableModel {
    Q_OBJECT

 public:
    using QAbstractTableModel::QAbstractTableModel;

    struct Column {
        QString title;
        QString tip = {};
    };
    /// What is typed into a cell. A row behind the last is made, where rows can be.
    struct Typed {
        int row = 0;
        int column = 0;
        QVariant value;
    };
    /// Roles of cells beside Qt's own.
    enum Role {
        choicesRole = Qt::UserRole + 100  ///< what a cell can be, as words; Qt::EditRole is its place there
    };

    /// Cells of a column below the first of some rows take the first one's value. What was refused, in words.
    QStringList fillDown(int column, const std::vector<std::size_t>& rows);
    /// Types texts downwards from a cell, as one act.
    QStringList typeDown(const QStringList& texts, const QModelIndex& from);

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 signals:
    /// What was typed is no value of its column.
    void refused(const QString& sentence);

 protected:
    [[nodiscard]] virtual int cellRows() const = 0;
    [[nodiscard]] virtual std::vector<Column> cellColumns() const = 0;
    [[nodiscard]] virtual QVariant cell(int row, int column, int role) const = 0;
    /// What a person can do with a cell beyond choosing it: Qt::ItemIsEditable, Qt::ItemIsUserCheckable.
    [[nodiscard]] virtual Qt::ItemFlags use(int row, int column) const;
    /// Types into cells, as one act; act: what it is called, empty where one cell is edited. Gives a
    /// complaint for each that is no value, empty for the others.
    virtual QStringList type(const QString& act, const std::vector<Typed>& cells);

    /// Rows or columns are others than before.
    void reshape();
    /// Cells may say something else; where there are as many rows as before one keeps one's place.
    void follow();

 private:
    [[nodiscard]] bool isInside(const QModelIndex& index) const;

    int rows_ = 0;
    std::vector<Column> columns_;
};

}  // namespace mellow::app
