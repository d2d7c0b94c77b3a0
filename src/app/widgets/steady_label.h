// A label whose words change often. A QLabel has all layouts above it worked out anew at every change; this
// one asks for room only where its words need another height than before.
#pragma once

#include <QLabel>

namespace mellow::app {

class SteadyLabel : public QWidget {
    Q_OBJECT

 public:
    explicit SteadyLabel(QWidget* parent = nullptr) : QWidget(parent), label_(new QLabel(this)) {
        label_->setWordWrap(true);
        label_->setTextInteractionFlags(Qt::TextSelectableByMouse);
        QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Preferred);
        policy.setHeightForWidth(true);
        setSizePolicy(policy);
    }

    void setText(const QString& text) {
        if (text == label_->text()) return;
        label_->setText(text);
        if (heightForWidth(width()) != height()) updateGeometry();
    }
    [[nodiscard]] QLabel* label() const { return label_; }

    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override { return label_->heightForWidth(width); }
    [[nodiscard]] QSize sizeHint() const override { return label_->sizeHint(); }
    [[nodiscard]] QSize minimumSizeHint() const override { return label_->minimumSizeHint(); }

 protected:
    void resizeEvent(QResizeEvent*) override { label_->setGeometry(rect()); }

 private:
    QLabel* label_;
};

}  // namespace mellow::app
