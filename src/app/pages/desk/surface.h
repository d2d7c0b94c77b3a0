// A surface: an element of the desk as a finger meets it.
//
// Whatever touches it, a finger on a screen, a pen, the mouse, keys, or a screen reader, becomes a finger at
// a place with a pressure; the kinds of surface make positions of that, send them, and show where the element
// stands: by its own finger, by another hand's, by a take or by a tablet, which all arrive the same way.
// Beside it, small and mint, stands what it leads to.
#pragma once

#include <QWidget>
#include <array>
#include <memory>

#include "app/acts/workspace.h"
#include "app/widgets/accessible.h"
#include "app/widgets/frame_pace.h"
#include "app/widgets/still_picture.h"
#include "core/desk/element_targets.h"

class QTouchEvent;

namespace mellow::app {

/// desk::Readout, fit to be shown.
struct Readout {
    QString value;
    QString name;
    bool operator==(const Readout&) const = default;
};

class Surface : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    /// parent: the board, whose pace of painting it keeps.
    Surface(Workspace& workspace, const DeskElement& element, QWidget* parent);
    ~Surface() override;

    [[nodiscard]] const DeskElement& element() const { return element_; }
    /// Shows the element as it is after an edit, and what it leads to.
    void show(const DeskElement& element, std::vector<desk::ElementTarget> targets);
    /// Values may have moved.
    void refresh();
    /// A key of the computer keyboard that is the element's own: its place among them.
    virtual void keyMoves(std::size_t key, bool down);

    [[nodiscard]] double spokenValue() const override { return position(Axis::x); }
    [[nodiscard]] QString spokenWords() const override;
    [[nodiscard]] bool canBeSet() const override { return true; }
    void setSpokenValue(double value) override { move(Axis::x, value); }

    /// Where an axis stands, 0 to 1.
    [[nodiscard]] double position(Axis axis) const { return at_.at(static_cast<std::size_t>(axis)); }
    [[nodiscard]] const Readout& readout(Axis axis) const {
        return readouts_.at(static_cast<std::size_t>(axis));
    }

 protected:
    /// A finger comes down, moves and goes; one at a time, the newest. fine: it moves by less than it says.
    virtual void press(const QPointF& at, double pressure) = 0;
    virtual void drag(const QPointF& at, const QPointF& by, double pressure, bool fine) = 0;
    virtual void lift() {}
    /// Steps by keys: a share of the travel on an axis.
    virtual void step(Axis axis, double by);
    virtual void pressReturn(bool) {}
    /// What stands still: label, track, grid; and what moves on it.
    virtual void paintStill(QPainter& painter) const = 0;
    virtual void paintMoving(QPainter& painter) const = 0;
    /// What of it is painted anew when it moves.
    [[nodiscard]] virtual QRegion movingArea() const { return rect(); }
    virtual void valuesMoved() {}
    virtual void elementChanged() {}

    /// Is painted with the next picture.
    void soon();
    [[nodiscard]] bool isTouched() const { return finger_ != nobody; }
    [[nodiscard]] QRectF inner() const;
    /// Sends a position, and shows it at once.
    void move(Axis axis, double position);
    /// As a finger that lets go does.
    void spring();
    void paintReadout(QPainter& painter, const QRectF& area, const Readout& readout,
                      Qt::Alignment alignment = Qt::AlignLeft) const;
    /// Below a readout, whose value it is: one line or two.
    void paintCaption(QPainter& painter, const QRectF& area, const QString& caption) const;
    /// What is said of where it leads: nothing where that has the element's own name.
    [[nodiscard]] QString caption() const;
    [[nodiscard]] QColor tone() const;
    [[nodiscard]] Live& live() const { return workspace_.live; }
    [[nodiscard]] const Workspace& workspace() const { return workspace_; }
    [[nodiscard]] const std::vector<desk::ElementTarget>& targets() const { return targets_; }

    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    static constexpr int nobody = -1;
    static constexpr int mouseFinger = 1 << 20;
    static constexpr int penFinger = mouseFinger + 1;
    void fingerDown(int finger, const QPointF& at, double pressure);
    void fingerMoves(int finger, const QPointF& at, double pressure, bool fine);
    void fingerUp(int finger);
    bool touch(QTouchEvent& event);

    Workspace& workspace_;
    DeskElement element_;
    QPointer<FramePace> pace_;
    std::vector<desk::ElementTarget> targets_;
    std::array<double, axisCount> at_{};
    std::array<Readout, axisCount> readouts_;
    int finger_ = nobody;
    QPointF fingerAt_;
    StillPicture still_;
};

/// A surface for an element, of its kind.
std::unique_ptr<Surface> makeSurface(Workspace& workspace, const DeskElement& element, QWidget* parent);

/// A colour of the theme by its name; honey for none.
QColor toneNamed(const std::string& name);
/// The names that an element's tone can have.
const QStringList& toneNames();

}  // namespace mellow::app
