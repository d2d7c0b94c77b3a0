// Practice keys as an element of the desk: a keyboard where the other hand wants it, as wide as its place.
#pragma once

#include "app/pages/desk/surface.h"
#include "app/widgets/practice_keys.h"

namespace mellow::app {

class KeysSurface : public Surface {
    Q_OBJECT

 public:
    KeysSurface(Workspace& workspace, const DeskElement& element, QWidget* parent);
    ~KeysSurface() override;

    [[nodiscard]] Keyboard& keyboard() { return *keyboard_; }
    [[nodiscard]] QString spokenWords() const override { return {}; }
    [[nodiscard]] bool canBeSet() const override { return false; }

 protected:
    void press(const QPointF&, double) override {}
    void drag(const QPointF&, const QPointF&, double, bool) override {}
    void step(Axis, double) override {}
    void paintStill(QPainter& painter) const override;
    void paintMoving(QPainter&) const override {}
    void valuesMoved() override;
    void elementChanged() override;
    void resizeEvent(QResizeEvent* event) override;

 private:
    void layOut();

    Keyboard* keyboard_;
};

}  // namespace mellow::app
