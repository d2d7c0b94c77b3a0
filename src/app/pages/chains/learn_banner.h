// What is being learned, large enough to be read from where one plays: what to do, what was recognised and
// how surely, who else uses it, and what else it may have been.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <vector>

#include "app/workspace.h"

namespace mellow::app {

/// How sure one is, as a bar that fills.
class SureBar : public QWidget {
    Q_OBJECT

 public:
    explicit SureBar(QWidget* parent = nullptr);
    void show(double sure);
    [[nodiscard]] QSize sizeHint() const override;

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    double sure_ = 0;
};

class LearnBanner : public QFrame {
    Q_OBJECT

 public:
    explicit LearnBanner(Workspace& workspace, QWidget* parent = nullptr);

 private:
    void follow();
    void showOthers();
    [[nodiscard]] QString nameOfCandidate(const learning::Candidate& candidate) const;
    [[nodiscard]] QString usersOf(const learning::Candidate& candidate) const;

    Workspace& workspace_;
    Learn& learn_;
    QLabel* title_;
    QLabel* found_;
    SureBar* sure_;
    QLabel* users_;
    QWidget* others_;
    std::vector<QPushButton*> otherButtons_;
};

}  // namespace mellow::app
