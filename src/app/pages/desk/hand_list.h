// Who is in hand: sections and instruments in the order in which they are chosen, with the number keys that
// choose them.
//
// A row that is dragged onto a section joins it; dragged between rows it changes the order. A honey dot
// stands before all who are in hand, whoever took them there.
#pragma once

#include <QAbstractListModel>
#include <QLabel>
#include <QListView>
#include <QStyledItemDelegate>
#include <memory>

#include "app/acts/workspace.h"
#include "app/live/in_hand.h"

namespace mellow::app {

class HandModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { entry = Qt::UserRole + 1, detail, key, inHand, isWhole };
    explicit HandModel(Workspace& workspace, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] Qt::DropActions supportedDropActions() const override { return Qt::MoveAction; }
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    bool dropMimeData(const QMimeData* data, Qt::DropAction action, int row, int column,
                      const QModelIndex& parent) override;
    /// Who is in hand may have changed.
    void refresh();

 private:
    void follow();
    [[nodiscard]] bool isHeld(const std::string& id) const;

    Workspace& workspace_;
    std::vector<std::string> entries_;
    std::vector<bool> held_;  ///< by entry: all of it is in hand
};

class HandList : public QWidget {
    Q_OBJECT

 public:
    explicit HandList(Workspace& workspace, QWidget* parent = nullptr);
    [[nodiscard]] HandModel& model() { return *model_; }
    [[nodiscard]] QListView& view() { return *view_; }

 private:
    void showMenu(const QPoint& at);
    void addSection();
    void sayArticulations();

    Workspace& workspace_;
    HandModel* model_;
    QListView* view_;
    std::unique_ptr<QStyledItemDelegate> delegate_;
    QLabel* plays_;
};

}  // namespace mellow::app
