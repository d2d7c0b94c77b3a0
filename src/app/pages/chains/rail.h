// A rail: the travel of a source or the range of a target, upright, with the part in use lit between two
// grips and the present value riding on it. A source's value is a round bead in honey, a target's a pointed
// tab in mint; a rail whose grips are crossed says that it falls.
//
// Grips are dragged (Shift for fine), or moved with Up and Down after Left or Right has chosen one; dragging
// between them shifts both; double-clicking a number types it. The rail knows positions from 0 to 1 only:
// what they are called is handed in.
#pragma once

#include <QLineEdit>
#include <QWidget>
#include <deque>
#include <functional>
#include <optional>

#include "app/document/document.h"
#include "app/widgets/accessible.h"
#include "app/widgets/still_picture.h"
#include "core/steps/step.h"

namespace mellow::app {

/// What a rail shows.
struct RailContent {
    QString name;
    QString top, bottom;        ///< the ends of the range, in units
    QString lowText, highText;  ///< the grips, in units
    QString valueText;
    QString tip;
    double low = 0, high = 1;  ///< grips, as positions
    double value = 0;          ///< bead or tab, as a position
    double goal = -1;          ///< where the value is going, where it trails; −1: it is there
    bool hasValue = false;
    std::vector<Step> steps;                          ///< what happens on the way to this rail alone
    std::optional<std::pair<double, double>> window;  ///< the part of the chain's travel that it follows
    std::optional<std::pair<double, double>> before;  ///< the grips before the newest edit
    bool traces = false;                              ///< where its value was is drawn behind it
    bool active = true;                               ///< false: the chain does not run, or the branch is off
    bool operator==(const RailContent&) const = default;

    /// Everything but the value.
    [[nodiscard]] bool standsAs(const RailContent& other) const {
        RailContent same = other;
        same.value = value;
        same.hasValue = hasValue;
        same.goal = goal;
        same.valueText = valueText;
        return *this == same;
    }
};

class Rail : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    [[nodiscard]] double spokenValue() const override { return content_.value; }
    [[nodiscard]] QString spokenWords() const override;

    enum class Side { source, target };
    enum class Grip { low, high };

    explicit Rail(Side side, QWidget* parent = nullptr);

    void show(const RailContent& content);
    [[nodiscard]] const RailContent& content() const { return content_; }
    void setSelected(bool selected);
    /// Its numbers find no room beside the grips.
    [[nodiscard]] bool needsRoom() const;
    /// Numbers stand above and below the grips.
    void setNarrow(bool narrow);
    /// Where the thread to or from the present value ends, in this widget.
    [[nodiscard]] QPointF valuePoint() const;
    [[nodiscard]] QPointF gripPoint(Grip grip) const;
    [[nodiscard]] QRectF numberRect(Grip grip) const;
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;

    /// Where an end of the whole range is written, to be clicked for what the range is.
    [[nodiscard]] QRectF endRect(bool top) const;

 signals:
    void picked();
    /// A person wants to see and change the parameter itself.
    void parameterAsked();
    /// A person moved the grips.
    void moved(double low, double high, mellow::app::Gesture gesture);
    /// A person typed a number for a grip.
    void typed(mellow::app::Rail::Grip grip, const QString& text);
    /// Its width or its numbers are others than before.
    void roomChanged();

 protected:
    void resizeEvent(QResizeEvent*) override { emit roomChanged(); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    enum class Drag { none, low, high, span };

    [[nodiscard]] QRectF track() const;
    [[nodiscard]] double yOf(double position) const;
    [[nodiscard]] QColor color() const;
    void paintStill(QPainter& painter) const;
    void paintValue(QPainter& painter) const;
    void repaintAll();
    void drawOver(QPainter& painter, const QRectF& place, const QString& text) const;
    [[nodiscard]] bool isOnEnd(const QPointF& at) const;
    void paintGrip(QPainter& painter, Grip grip) const;
    void paintOwn(QPainter& painter) const;
    void paintTrace(QPainter& painter) const;
    void openEditor(Grip grip);
    void nudge(double amount);

    Side side_;
    RailContent content_;
    StillPicture still_;
    std::deque<float> trace_;  ///< where the value was at the last pictures, the newest first
    bool selected_ = false;
    bool narrow_ = false;
    Grip chosen_ = Grip::high;
    Drag drag_ = Drag::none;
    Gesture gesture_ = 0;
    QPointF pressed_;
    double pressedLow_ = 0, pressedHigh_ = 1;
    QLineEdit* editor_ = nullptr;
};

}  // namespace mellow::app
