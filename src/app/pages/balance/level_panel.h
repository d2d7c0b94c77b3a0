// Levelling: by which parameter, how near, and what comes of it. It stands on the right of the Balance page.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "app/pages/balance/balancing.h"
#include "app/pages/balance/hearing.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

class LevelPanel : public QWidget {
    Q_OBJECT

 public:
    LevelPanel(Workspace& workspace, Balancing& balancing, QWidget* parent = nullptr);

    /// Chooses another instrument, whose loudness this one is to follow.
    void chooseOther();
    void evenOverKeys();
    void holdBelow();
    void makeEqual();
    [[nodiscard]] Hearing& hearing() { return hearing_; }

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void build();
    QWidget* buildGoals();
    QWidget* buildAlso();
    void refresh();
    void refreshParameters();
    void refreshGoals();
    void refreshHeard();
    void chooseGoal(int place);
    void showState();
    void popUp(QMenu* menu, QPushButton* under);

    Workspace& workspace_;
    Balancing& balancing_;
    Hearing hearing_;
    QLabel* about_;
    QComboBox* by_;
    QComboBox* goal_;
    NumberField* within_;
    NumberField* ceiling_;
    QLabel* words_;
    QLabel* room_;
    QPushButton* work_;
    QPushButton* take_;
    QPushButton* hear_;
    QComboBox* heard_;
    QPushButton* other_;
    QPushButton* even_;
    QPushButton* below_;
    QPushButton* equal_;
};

}  // namespace mellow::app
