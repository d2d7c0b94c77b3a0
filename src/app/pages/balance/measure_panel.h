// What is measured: the instrument, what moves it, and how. It stands on the left of the Balance page.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QWidget>

#include "app/pages/balance/balancing.h"
#include "app/widgets/level_bar.h"
#include "app/widgets/number_field.h"
#include "app/widgets/short_list.h"

namespace mellow::app {

/// A list that is filled when it opens.
class LateList : public ShortList {
    Q_OBJECT

 public:
    using ShortList::ShortList;
    void showPopup() override {
        emit opening();
        ShortList::showPopup();
    }

 signals:
    void opening();
};

class MeasurePanel : public QWidget {
    Q_OBJECT

 public:
    MeasurePanel(Workspace& workspace, Balancing& balancing, QWidget* parent = nullptr);

    /// Adds something below what is measured.
    void addBelow(QWidget* widget);

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void build();
    void connectAll();
    void refresh();
    void refreshLists();
    void enterKeys();
    QWidget* buildRecording();
    void fillHeard();
    void hear(int place);
    void showHeard();
    void showState();
    void showPeaks();

    Workspace& workspace_;
    Balancing& balancing_;
    QComboBox* instrument_;
    QComboBox* moved_;
    LateList* heard_;
    LevelBar* level_;
    QTimer peaks_;
    QLineEdit* keys_;
    NumberField* velocity_;
    NumberField* positions_;
    NumberField* hold_;
    NumberField* settle_;
    QPushButton* measure_;
    QPushButton* keep_;
    QPushButton* write_;
    QPushButton* read_;
    QProgressBar* progress_;
    QLabel* status_;
    std::vector<balance::Motion> motions_;
    bool filling_ = false;
};

}  // namespace mellow::app
