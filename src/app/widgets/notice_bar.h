// A sentence across the window that stays until it is dismissed, with an act that it may offer.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <functional>

namespace mellow::app {

class NoticeBar : public QFrame {
    Q_OBJECT

 public:
    explicit NoticeBar(QWidget* parent = nullptr);

    /// action: what a button offers to do; empty: none.
    void say(const QString& sentence, const QString& action = {}, std::function<void()> act = {});
    /// What it says, or nothing.
    [[nodiscard]] QString text() const { return isHidden() ? QString() : text_->text(); }

 private:
    QLabel* text_;
    QPushButton* act_;
    std::function<void()> action_;
};

}  // namespace mellow::app
