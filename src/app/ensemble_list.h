// The ensemble on the left: one card an instrument, with where it goes, how it is doing, and its troubles.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QStyledItemDelegate>

#include "app/live.h"
#include "app/selection.h"

namespace mellow::app {

class InstrumentModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { where = Qt::UserRole + 1, troubles, notes, level, on, id };

    InstrumentModel(Document& document, Live& live, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

 private:
    void refreshLevels();

    Document& document_;
    Live& live_;
    int rows_ = 0;
    std::vector<double> levels_;
};

class EnsembleList : public QListView {
    Q_OBJECT

 public:
    EnsembleList(Document& document, Selection& selection, Live& live, QWidget* parent = nullptr);

 private:
    void followSelection();

    Document& document_;
    Selection& selection_;
    InstrumentModel model_;
};

}  // namespace mellow::app
