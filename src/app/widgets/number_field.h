// A field for a number in real units. It shows the value with its unit, takes what people type ("6.2k",
// "-12 dB", "40%"), and says by its frame when that is no number. Up and Down change it, Shift for fine.
#pragma once

#include <QLineEdit>
#include <functional>
#include <optional>

namespace mellow::app {

class NumberField : public QLineEdit {
    Q_OBJECT

 public:
    explicit NumberField(QWidget* parent = nullptr);

    /// unit: as in core/text/numbers.h, or "share" for a value of 0..1 that is shown in per cent.
    void setUnit(const QString& unit);
    /// Bounds of what may be typed, and the step of one key press.
    void setBounds(double low, double high, double step);
    void setWhole(bool whole) { whole_ = whole; }
    /// Shows a value without telling anybody.
    void setValue(double value);
    [[nodiscard]] double value() const { return value_; }
    /// What stands in it while somebody types; nothing where that is no number.
    [[nodiscard]] std::optional<double> typed() const;

 signals:
    /// A person entered another value.
    void entered(double value);

 protected:
    bool event(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;

 private:
    void commit();
    void show();
    void markWrong(bool wrong);

    QString unit_;
    double value_ = 0;
    double low_ = -1e9;
    double high_ = 1e9;
    double step_ = 1;
    bool whole_ = false;
};

}  // namespace mellow::app
