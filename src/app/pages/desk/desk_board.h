// The board: a page of the desk laid out on its grid, whatever the window's size.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/pages/desk/surface.h"
#include "core/model/edit_desk.h"

namespace mellow::app {

class DeskBoard : public QWidget {
    Q_OBJECT

 public:
    explicit DeskBoard(Workspace& workspace, QWidget* parent = nullptr);

    /// Shows a page of the document; empty: none.
    void show(const std::string& page);
    [[nodiscard]] const DeskPage* page() const;
    [[nodiscard]] Surface* surface(const std::string& element) const;
    [[nodiscard]] const std::vector<std::unique_ptr<Surface>>& surfaces() const { return surfaces_; }
    /// Values may have moved.
    void refresh();

    /// Where a place of the grid is.
    [[nodiscard]] QRectF rectOf(const GridPlace& place) const;
    /// The square of the grid at a point, which may lie beside it.
    [[nodiscard]] QPoint squareAt(const QPointF& at) const;
    [[nodiscard]] QSize minimumSizeHint() const override;

 signals:
    void laidOut();

 protected:
    void resizeEvent(QResizeEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

 private:
    void layOut();

    Workspace& workspace_;
    std::string page_;
    std::vector<std::unique_ptr<Surface>> surfaces_;
};

}  // namespace mellow::app
