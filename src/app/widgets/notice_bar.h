// A sentence that stays until it is dismissed, or until the page is left, with an act that it may offer. It
// has two lines; a longer one is read whole by a click on it.
#pragma once

#include <QFrame>
#include <QPushButton>
#include <functional>

#include "app/widgets/few_lines.h"

namespace mellow::app {

class NoticeBar : public QFrame {
    Q_OBJECT

 public:
    explicit NoticeBar(QWidget* parent = nullptr);

    /// action: what a button offers to do; empty: none.
    void say(const QString& sentence, const QString& action = {}, std::function<void()> act = {});
    /// Says what is of use only for the moment: it goes with the page.
    void hint(const QString& sentence);
    /// Another page is shown.
    void dropHint();
    /// What it says, or nothing.
    [[nodiscard]] QString text() const { return isOn_ ? text_->text() : QString(); }
    [[nodiscard]] bool isOn() const { return isOn_; }

 signals:
    void said();
    void dismissed();

 private:
    void dismiss();
    void showAll();

    FewLines* text_;
    QPushButton* act_;
    std::function<void()> action_;
    bool isOn_ = false;
    bool isHint_ = false;
};

}  // namespace mellow::app
