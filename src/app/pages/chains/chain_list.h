// The chains of the selected instrument, a row each: on or off, what moves it and where that stands, the
// response in small, the targets and a meter for each.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QStyledItemDelegate>

#include "app/document/selection.h"
#include "app/live/live.h"

namespace mellow::app {

class ChainModel : public QAbstractListModel {
    Q_OBJECT

 public:
    /// moving: what the bar and the meters of a row show, which is read from reading().
    enum Role { id = Qt::UserRole + 1, moving };

    ChainModel(Document& document, Selection& selection, Live& live, QObject* parent = nullptr);

    /// Who is to play its source and is not there; empty: nobody is missed.
    [[nodiscard]] QString waitsFor(const Chain& chain) const;
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    /// A dragged chain is a part, as text.
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;

    /// nullptr for shared chains.
    [[nodiscard]] const Instrument* instrument() const;
    [[nodiscard]] const std::vector<Chain>* chains() const;
    [[nodiscard]] const Chain* chain(int row) const;
    [[nodiscard]] ChainReading reading(int row) const;
    [[nodiscard]] int troubles(int row) const;
    [[nodiscard]] QStringList sentences(int row) const;
    [[nodiscard]] const Document& document() const { return document_; }

 private:
    void follow();
    void followEdit(const Change& change);
    void followFindings();
    void refreshMoving();

    Document& document_;
    Selection& selection_;
    Live& live_;
    std::string instrument_;
    int rows_ = 0;
    std::vector<int> troubles_;               ///< by row, as checks last said
    std::vector<std::vector<double>> shown_;  ///< the values that each row shows, to repaint only what moved
};

class ChainList : public QListView {
    Q_OBJECT

 public:
    ChainList(Document& document, Selection& selection, Live& live, QWidget* parent = nullptr);
    /// Where the dot that switches a row's chain on and off is, in the viewport.
    [[nodiscard]] QRect switchRect(int row) const;
    [[nodiscard]] QSize sizeHint() const override;
    /// The height that shows a number of rows whole.
    [[nodiscard]] int rowsHeight(int rows) const;
    /// True while a paint event that touches a part of the viewport is handled.
    [[nodiscard]] bool isPainting(const QRectF& part) const {
        return painted_.intersects(part.toAlignedRect());
    }

 protected:
    void mousePressEvent(QMouseEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void dataChanged(const QModelIndex& first, const QModelIndex& last, const QList<int>& roles) override;

 private:
    void followSelection();
    void showSelection();
    void takeSelection();
    [[nodiscard]] Selected selectedAt(const QModelIndex& at) const;
    void toggle(int row);

    Document& document_;
    Selection& selection_;
    ChainModel model_;
    std::unique_ptr<QStyledItemDelegate> delegate_;
    QRegion painted_;
    bool following_ = false;  ///< the list moves to the selection, not the selection to the list
};

}  // namespace mellow::app
