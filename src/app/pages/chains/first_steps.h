// From nothing to a moving meter in three steps, with hardware or without.
//
// It is shown while an ensemble has no instrument, and stays until its three steps are done or it is put
// away. Each step is what one would do anyway; it ticks itself off when that has happened, however it was
// done.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <array>

#include "app/acts/workspace.h"
#include "app/widgets/level_bar.h"

namespace mellow::app {

class FirstSteps : public QFrame {
    Q_OBJECT

 public:
    explicit FirstSteps(Workspace& workspace, QWidget* parent = nullptr);

    /// The step that is to be done next, 1 to 3; 0: all are done.
    [[nodiscard]] int next() const;
    /// As wide as its widest card: one alone can be shown.
    [[nodiscard]] QSize minimumSizeHint() const override;

 protected:
    bool event(QEvent* event) override;
    void changeEvent(QEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

 private:
    struct Card {
        QFrame* frame = nullptr;
        QLabel* number = nullptr;
        QLabel* title = nullptr;
        QLabel* words = nullptr;
    };
    Card addCard(QWidget* row, const QString& title, const QString& words);
    void follow();
    void followValue();
    void shareRoom();
    void needRoom();
    void settle();
    [[nodiscard]] const Chain* firstChain(std::string& owner) const;

    Workspace& workspace_;
    std::array<Card, 3> cards_;
    LevelBar* meter_;
    QPushButton* away_;
    QTimer settles_;
    bool began_ = false;  ///< the ensemble was empty, and the steps are not done
    bool moved_ = false;
};

}  // namespace mellow::app
