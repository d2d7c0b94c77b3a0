// A box for a choice is open as long as its row is shown, so that one click changes it.
#include "app/widgets/cell_table.h"

#include <QComboBox>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMetaMethod>
#include <QStyledItemDelegate>
#include <set>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

class ChoiceDelegate : public QStyledItemDelegate {
 public:
    using QStyledItemDelegate::QStyledItemDelegate;

    /// The box stands over the cell, and says what it says.
    void paint(QPainter*, const QStyleOptionViewItem&, const QModelIndex&) const override {}
    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem&,
                          const QModelIndex& index) const override {
        auto* box = new QComboBox(parent);
        box->addItems(index.data(CellModel::choicesRole).toStringList());
        box->setAccessibleName(index.siblingAtColumn(0).data().toString());
        connect(box, &QComboBox::activated, this,
                [this, box] { emit const_cast<ChoiceDelegate*>(this)->commitData(box); });
        return box;
    }
    void setEditorData(QWidget* editor, const QModelIndex& index) const override {
        static_cast<QComboBox*>(editor)->setCurrentIndex(index.data(Qt::EditRole).toInt());
    }
    void setModelData(QWidget* editor, QAbstractItemModel* model, const QModelIndex& index) const override {
        model->setData(index, static_cast<QComboBox*>(editor)->currentIndex(), Qt::EditRole);
    }
};

}  // namespace

CellTable::CellTable(CellModel& model, const QString& name, const QString& title, QWidget* parent)
    : QTableView(parent) {
    setObjectName(name);
    setAccessibleName(title);
    setModel(&model);
    verticalHeader()->hide();
    setShowGrid(false);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    horizontalHeader()->setHighlightSections(false);
    connect(&model, &QAbstractItemModel::modelReset, this, &CellTable::openBoxes);
}

void CellTable::setRowHeight(int height) {
    verticalHeader()->setDefaultSectionSize(scaled(height));
}

void CellTable::showChoices(int column) {
    setItemDelegateForColumn(column, new ChoiceDelegate(this));
    choices_.push_back(column);
    openBoxes();
}

void CellTable::openBoxes() {
    for (const int column : choices_) {
        for (int row = 0; row < model()->rowCount(); ++row) openPersistentEditor(model()->index(row, column));
    }
}

std::vector<std::size_t> CellTable::chosenRows() const {
    std::set<std::size_t> rows;
    for (const QItemSelectionRange& range : selectionModel()->selection()) {
        for (int row = range.top(); row <= range.bottom(); ++row) rows.insert(static_cast<std::size_t>(row));
    }
    return {rows.begin(), rows.end()};
}

std::vector<int> CellTable::chosenColumns() const {
    std::set<int> columns;
    for (const QItemSelectionRange& range : selectionModel()->selection()) {
        for (int column = range.left(); column <= range.right(); ++column) columns.insert(column);
    }
    return {columns.begin(), columns.end()};
}

void CellTable::keyPressEvent(QKeyEvent* event) {
    const auto asks = [this](auto signal) {
        if (!isSignalConnected(QMetaMethod::fromSignal(signal))) return false;
        emit(this->*signal)();
        return true;
    };
    if (event->matches(QKeySequence::Paste) && asks(&CellTable::pasteAsked)) return;
    if (event->matches(QKeySequence::Copy) && asks(&CellTable::copyAsked)) return;
    if (event->key() == Qt::Key_Delete && asks(&CellTable::removeAsked)) return;
    QTableView::keyPressEvent(event);
}

}  // namespace mellow::app
