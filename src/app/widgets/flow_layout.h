// A layout that sets widgets side by side and goes on in the next row when one is full.
#pragma once

#include <QLayout>
#include <vector>

namespace mellow::app {

class FlowLayout : public QLayout {
 public:
    explicit FlowLayout(int gap) : gap_(gap) { setContentsMargins(0, 0, 0, 0); }
    ~FlowLayout() override;

    void addItem(QLayoutItem* item) override { items_.push_back(item); }
    [[nodiscard]] int count() const override { return static_cast<int>(items_.size()); }
    [[nodiscard]] QLayoutItem* itemAt(int index) const override;
    QLayoutItem* takeAt(int index) override;
    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override { return arrange({0, 0, width, 0}, false); }
    [[nodiscard]] QSize sizeHint() const override { return minimumSize(); }
    [[nodiscard]] QSize minimumSize() const override;
    void setGeometry(const QRect& rect) override;

 private:
    using Items = std::vector<QLayoutItem*>;
    int arrange(const QRect& rect, bool move) const;
    void place(Items::const_iterator first, Items::const_iterator end, QPoint at, int height) const;

    Items items_;
    int gap_;
    int height_ = 0;  ///< of its rows at the width that it has
};

}  // namespace mellow::app
