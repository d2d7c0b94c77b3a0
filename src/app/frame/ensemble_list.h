// The ensemble on the left: one card an instrument, with where it goes, how it is doing, and its troubles,
// and a card for what they share.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QStyledItemDelegate>
#include <memory>

#include "app/acts/workspace.h"

namespace mellow::app {

class InstrumentModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { where = Qt::UserRole + 1, troubles, notes, levels, on, held, id };

    InstrumentModel(Document& document, Live& live, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

    /// Looks where the targets of the instruments from one row to another stand now.
    void refreshLevels(int first, int last);
    /// Looks who is in hand now.
    void refreshHands();

 private:
    /// What checks said of a card.
    struct Told {
        int troubles = 0;
        int notes = 0;
        bool operator==(const Told&) const = default;
    };

    void follow(const Change& change);
    void followFindings();
    [[nodiscard]] Told told(int row) const;
    [[nodiscard]] QStringList sentences(int row) const;
    [[nodiscard]] QList<float> levelsOf(const Instrument& instrument) const;
    [[nodiscard]] int rowsWanted() const;
    [[nodiscard]] QVariant sharedData(const QModelIndex& at, int role) const;

    Document& document_;
    Live& live_;
    int rows_ = 0;
    [[nodiscard]] bool isHeld(const Instrument& instrument) const;
    std::vector<bool> held_;
    std::vector<QList<float>> levels_;
    std::vector<Told> told_;  ///< by row
};

class EnsembleList : public QListView {
    Q_OBJECT

 public:
    explicit EnsembleList(Workspace& workspace, QWidget* parent = nullptr);
    /// True while a paint event that touches a part of the viewport is handled.
    [[nodiscard]] bool isPainting(const QRectF& part) const {
        return painted_.intersects(part.toAlignedRect());
    }

 protected:
    void paintEvent(QPaintEvent* event) override;
    // A chain that is dragged onto a card is given to its instrument.
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) override;

 private:
    void followSelection();
    void takeSelection();
    void showContextMenu(const QPoint& at);

    Workspace& workspace_;
    Document& document_;
    Selection& selection_;
    InstrumentModel model_;
    std::unique_ptr<QStyledItemDelegate> delegate_;
    QRegion painted_;
    bool following_ = false;  ///< the list moves to the selection, not the selection to the list
};

}  // namespace mellow::app
