// What is being learned, in two lines: what to do; what was recognised and how surely, and who else uses it.
// Beside them what else it may have been, where a new chain leads, and the way to the next one.
#pragma once

#include <QFrame>
#include <QPushButton>
#include <vector>

#include "app/acts/workspace.h"
#include "app/widgets/few_lines.h"

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
    [[nodiscard]] QString cut(const QString& text) const;
    [[nodiscard]] QString usersOf(const learning::Candidate& candidate) const;

    Workspace& workspace_;
    Learn& learn_;
    FewLines* title_;
    FewLines* found_;
    SureBar* sure_;
    QPushButton* before_;
    QPushButton* target_;
    QPushButton* after_;
    QPushButton* next_;
    std::vector<QPushButton*> otherButtons_;
};

}  // namespace mellow::app
