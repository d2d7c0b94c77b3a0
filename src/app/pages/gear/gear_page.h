// The Gear page: every port that the work uses, what it does, and what joins hands to sound.
#pragma once

#include <QLabel>
#include <QScrollArea>

#include "app/pages/gear/controls_model.h"
#include "app/pages/gear/layer_panel.h"
#include "app/pages/gear/port_activity.h"
#include "app/pages/gear/port_board.h"
#include "app/pages/gear/profile_panel.h"
#include "app/pages/page.h"
#include "app/widgets/cell_table.h"
#include "app/widgets/elided_label.h"

namespace mellow::app {

class GearPage : public Page {
    Q_OBJECT

 public:
    explicit GearPage(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] PortBoard& board() { return *board_; }
    [[nodiscard]] ControlsModel& controls() { return *controls_; }
    [[nodiscard]] ProfilePanel& profile() { return *profile_; }
    [[nodiscard]] LayerPanel& layers() { return *layers_; }
    /// Shows the profile, or what came and went.
    void showProfile(bool shown) { showBelow(shown ? Below::profile : Below::traffic); }
    void showLayers() { showBelow(Below::layers); }

    QWidget* makeDetails() override;
    [[nodiscard]] std::vector<PageActions> actions() const override;
    /// Profiles are read from CSV and name documents.
    Taken takeFile(const QString& path) override;
    void begin() override { board_->setFocus(Qt::OtherFocusReason); }

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    enum class Below { traffic, profile, layers };
    QLayout* buildTitles();
    QWidget* buildBelow();
    QLayout* buildTabs();
    void showBelow(Below what);
    void refresh();
    void follow();
    void buildActions();
    void buildLayerActions();

    Workspace& workspace_;
    PortActivity* activity_;
    PortBoard* board_;
    ElidedLabel* threads_;
    QLabel* tableTitle_;
    ControlsModel* controls_;
    CellTable* table_;
    ProfilePanel* profile_;
    QScrollArea* profileRoom_;
    LayerPanel* layers_;
    QPushButton* traffic_;
    QPushButton* profiles_;
    QPushButton* layered_;
    QList<QAction*> profileActions_;
    QList<QAction*> layerActions_;
};

}  // namespace mellow::app
