// Rows are counted when they were told to be others, and not each time that a view asks.
#include "app/widgets/cell_model.h"

#include <utility>

namespace mellow::app {

void CellModel::reshape() {
    beginResetModel();
    rows_ = cellRows();
    columns_ = cellColumns();
    endResetModel();
}

void CellModel::follow() {
    if (cellRows() != rows_) return reshape();
    if (rows_ > 0) emit dataChanged(index(0, 0), index(rows_ - 1, columnCount() - 1));
}

int CellModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : rows_;
}

int CellModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(columns_.size());
}

bool CellModel::isInside(const QModelIndex& index) const {
    return index.isValid() && index.row() < rows_ && index.column() < columnCount();
}

QVariant CellModel::data(const QModelIndex& index, int role) const {
    return isInside(index) ? cell(index.row(), index.column(), role) : QVariant();
}

Qt::ItemFlags CellModel::use(int, int) const {
    return Qt::NoItemFlags;
}

QStringList CellModel::type(const QString&, const std::vector<Typed>&) {
    return {};
}

Qt::ItemFlags CellModel::flags(const QModelIndex& index) const {
    const Qt::ItemFlags plain = QAbstractTableModel::flags(index);
    return isInside(index) ? plain | use(index.row(), index.column()) : plain;
}

bool CellModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    const bool types = role == Qt::EditRole || role == Qt::CheckStateRole;
    if (!types || !isInside(index) || value == data(index, role)) return false;
    const QStringList complaints = type(QString(), {{index.row(), index.column(), value}});
    for (const QString& complaint : complaints) {
        if (!complaint.isEmpty()) emit refused(complaint + QLatin1Char('.'));
    }
    return complaints.join(QString()).isEmpty();
}

QStringList CellModel::fillDown(int column, const std::vector<std::size_t>& rows) {
    if (rows.empty() || static_cast<int>(rows.front()) >= rows_) return {};
    const QVariant value = data(index(static_cast<int>(rows.front()), column), Qt::EditRole);
    std::vector<Typed> cells;
    for (const std::size_t row : rows) {
        if (row != rows.front() && static_cast<int>(row) < rows_)
            cells.push_back({static_cast<int>(row), column, value});
    }
    QStringList complaints = type(tr("Fill down"), cells);
    complaints.removeAll(QString());
    return complaints;
}

QStringList CellModel::typeDown(const QStringList& texts, const QModelIndex& from) {
    std::vector<Typed> cells;
    for (int i = 0; i < texts.size(); ++i)
        cells.push_back({std::max(0, from.row()) + i, std::max(0, from.column()), texts[i]});
    const QStringList said = type(tr("Paste %n row(s)", nullptr, static_cast<int>(texts.size())), cells);
    QStringList complaints;
    for (int i = 0; i < said.size(); ++i) {
        if (!said[i].isEmpty()) complaints << tr("row %1: %2").arg(i + 1).arg(said[i]);
    }
    return complaints;
}

QVariant CellModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) return {};
    const Column& column = columns_[static_cast<std::size_t>(section)];
    if (role == Qt::DisplayRole) return column.title;
    return role == Qt::ToolTipRole && !column.tip.isEmpty() ? QVariant(column.tip) : QVariant();
}

}  // namespace mellow::app
