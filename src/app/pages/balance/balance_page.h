// The Balance page: a floor plan of loudness. The hand's travel lies across, loudness up; what was measured,
// the line that it should follow, and the same after levelling.
#pragma once

#include <QLabel>

#include "app/pages/balance/balancing.h"
#include "app/pages/balance/level_panel.h"
#include "app/pages/balance/loudness_view.h"
#include "app/pages/balance/measure_panel.h"
#include "app/pages/balance/section_list.h"
#include "app/pages/page.h"

namespace mellow::app {

class BalancePage : public Page {
    Q_OBJECT

 public:
    explicit BalancePage(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] Balancing& balancing() { return *balancing_; }
    [[nodiscard]] Workspace& workspace() { return workspace_; }
    [[nodiscard]] LoudnessView& view() { return *view_; }
    [[nodiscard]] SectionList& section() { return *section_; }

    QWidget* makeLeft() override;
    QWidget* makeDetails() override;
    [[nodiscard]] bool wantsKeys() const override { return false; }
    [[nodiscard]] std::vector<PageActions> actions() const override;
    void begin() override { view_->setFocus(Qt::OtherFocusReason); }

 protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

 private:
    void build();
    void buildActions();
    void followSelection();
    void refresh();

    Workspace& workspace_;
    Balancing* balancing_;
    LoudnessView* view_;
    SectionList* section_;
    MeasurePanel* measure_;
    LevelPanel* level_;
    QLabel* title_;
    QLabel* about_;
    QLabel* doubts_;
    QLabel* after_;
    QLabel* empty_;
    QPushButton* add_ = nullptr;
    QWidget* pictures_;
    QList<QAction*> actions_;
};

}  // namespace mellow::app
