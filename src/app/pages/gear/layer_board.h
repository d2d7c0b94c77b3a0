// Layers drawn over a keyboard: each instrument is a rectangle, its keys across and its velocities up.
//
// Edges and insides are dragged, by mouse or keys; where a neighbour fades into another the two curves of
// their power cross over the overlap. What the hands play stands as a point where it was struck, so that one
// sees which layer answers.
#pragma once

#include <QWidget>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "app/acts/workspace.h"
#include "core/layering/layering.h"

namespace mellow::app {

class LayerBoard : public QWidget {
    Q_OBJECT

 public:
    LayerBoard(Workspace& workspace, QWidget* parent = nullptr);

    /// Whose layers are shown, by id, in their order.
    void show(std::vector<std::string> instruments);
    [[nodiscard]] const std::vector<std::string>& shown() const { return shown_; }
    void select(const std::string& instrument);
    /// Empty: nothing is.
    [[nodiscard]] const std::string& selected() const { return selected_; }

    /// Where an area is drawn.
    [[nodiscard]] QRectF rectOf(const layering::Area& area) const;
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;

 signals:
    void selectionChanged();
    /// A fade was asked for, by a double click on it.
    void fadeOpened(const std::string& instrument, const std::string& chain);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

 private:
    struct Drag {
        layering::Area area;  ///< as it was
        layering::Grip grip;
        std::vector<layering::Fade> fades;  ///< as they were
        QPointF from;
        Gesture gesture = 0;
    };
    [[nodiscard]] const Instrument* instrument(const std::string& id) const;
    [[nodiscard]] QRectF field() const;
    [[nodiscard]] double keyWidth() const { return field().width() / 128; }
    [[nodiscard]] double velocityHeight() const { return field().height() / 127; }
    [[nodiscard]] std::string layerAt(const QPointF& at) const;
    [[nodiscard]] std::optional<layering::Grip> gripAt(const std::string& layer, const QPointF& at) const;
    void hear(const io::Happening& happening);
    void place(const layering::Area& area);
    void selectNext(int by);
    void say();
    void paintKeys(QPainter& painter) const;
    void paintLayers(QPainter& painter) const;
    void paintFades(QPainter& painter) const;
    void paintNames(QPainter& painter) const;
    [[nodiscard]] QRectF labelPlace(const QRectF& within, const QSizeF& size,
                                    const std::vector<QRectF>& taken) const;
    void paintStruck(QPainter& painter) const;

    Workspace& workspace_;
    std::vector<std::string> shown_;
    std::string selected_;
    std::optional<Drag> drag_;
    std::map<int, int> struck_;  ///< velocities of keys that are down
};

}  // namespace mellow::app
