// The kinds of surface. Each is one way in which a finger's place becomes positions.
#pragma once

#include <QElapsedTimer>
#include <QTimer>
#include <deque>

#include "app/pages/desk/surface.h"

namespace mellow::app {

/// Two axes and a touch; the finger's way of the last second trails behind it.
class PadSurface : public Surface {
    Q_OBJECT

 public:
    PadSurface(Workspace& workspace, const DeskElement& element, QWidget* parent);
    [[nodiscard]] QString spokenWords() const override;
    /// The part on which a finger moves it.
    [[nodiscard]] QRectF area() const;

 protected:
    void press(const QPointF& at, double pressure) override;
    void drag(const QPointF& at, const QPointF& by, double pressure, bool fine) override;
    void lift() override { spring(); }
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter& painter) const override;
    void valuesMoved() override;

 private:
    struct Step {
        qint64 time = 0;
        QPointF at;
    };
    [[nodiscard]] QPointF spot() const;
    void goTo(const QPointF& at, double pressure);
    void noteStep();
    void paintTrail(QPainter& painter) const;

    std::deque<Step> trail_;
    QPointF last_;
    QElapsedTimer clock_;
    QTimer fade_;
};

/// A value up and down.
class SliderSurface : public Surface {
    Q_OBJECT

 public:
    using Surface::Surface;
    [[nodiscard]] QRectF track() const;

 protected:
    void press(const QPointF& at, double pressure) override;
    void drag(const QPointF& at, const QPointF& by, double pressure, bool fine) override;
    void lift() override { spring(); }
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter& painter) const override;
    [[nodiscard]] QRegion movingArea() const override;

 private:
    /// Where it says what it leads to.
    [[nodiscard]] QRectF saying() const;
};

/// A value round an arc, which is dragged up and down.
class DialSurface : public Surface {
    Q_OBJECT

 public:
    using Surface::Surface;

 protected:
    void press(const QPointF&, double) override {}
    void drag(const QPointF& at, const QPointF& by, double pressure, bool fine) override;
    void lift() override { spring(); }
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter& painter) const override;

 private:
    [[nodiscard]] QRectF arc() const;
};

/// On while it is held, or until it is pressed again.
class ButtonSurface : public Surface {
    Q_OBJECT

 public:
    using Surface::Surface;
    void keyMoves(std::size_t key, bool down) override;
    [[nodiscard]] QString spokenWords() const override;

 protected:
    void press(const QPointF& at, double pressure) override;
    void drag(const QPointF&, const QPointF&, double, bool) override {}
    void lift() override;
    void step(Axis axis, double by) override;
    void pressReturn(bool down) override;
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter& painter) const override;

 private:
    void set(bool down);
};

/// Articulations by name.
class TileSurface : public Surface {
    Q_OBJECT

 public:
    using Surface::Surface;
    void keyMoves(std::size_t key, bool down) override;
    [[nodiscard]] QString spokenWords() const override;
    /// Where a tile is.
    [[nodiscard]] QRectF tile(std::size_t name) const;
    /// What is said on a tile: "2 of 3", "nobody".
    [[nodiscard]] QString answerOn(std::size_t name) const;
    [[nodiscard]] bool isChosen(std::size_t name) const;

 protected:
    void press(const QPointF& at, double pressure) override;
    void drag(const QPointF&, const QPointF&, double, bool) override {}
    void step(Axis axis, double by) override;
    void pressReturn(bool down) override;
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter& painter) const override;
    void valuesMoved() override;
    void elementChanged() override;

 private:
    [[nodiscard]] std::size_t columns() const;
    [[nodiscard]] std::vector<desk::Answer> answersNow() const;
    void choose(std::size_t name);

    std::vector<desk::Answer> answers_;
    std::size_t under_ = 0;  ///< the tile on which the keyboard stands
};

}  // namespace mellow::app
