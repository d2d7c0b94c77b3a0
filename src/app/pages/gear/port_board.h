// The board of ports: cards of the hands on the left, of the sound on the right, and threads between them
// where chains lead from one to the other.
#pragma once

#include <QWidget>
#include <optional>

#include "app/pages/gear/port_cards.h"

namespace mellow::app {

class PortBoard : public QWidget {
    Q_OBJECT

 public:
    explicit PortBoard(QWidget* parent = nullptr);

    void show(const PortCards& cards);
    void select(const PortName& port);
    [[nodiscard]] const PortCards& cards() const { return cards_; }
    /// Where the card of a port is; empty when there is none.
    [[nodiscard]] QRect rectOf(const PortName& port) const;
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override { return sizeHint(); }

 signals:
    void selected(const mellow::app::PortName& port);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    [[nodiscard]] QRect cardRect(bool input, std::size_t place) const;
    void paintThreads(QPainter& painter) const;
    void paintCard(QPainter& painter, const PortCard& card, const QRect& rect) const;
    [[nodiscard]] std::optional<std::size_t> placeOf(const PortName& port) const;

    PortCards cards_;
    PortName selected_;
};

}  // namespace mellow::app
