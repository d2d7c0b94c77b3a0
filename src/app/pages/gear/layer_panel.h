// The layers of some instruments, and what is often done to them: laid side by side, from soft to loud, faded
// into a neighbour.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

#include "app/pages/gear/layer_board.h"
#include "app/widgets/elided_label.h"

namespace mellow::app {

class LayerPanel : public QWidget {
    Q_OBJECT

 public:
    explicit LayerPanel(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] LayerBoard& board() { return *board_; }
    void spread(layering::Along along);
    /// Of the selected layer and its neighbour.
    void crossfade(layering::Along along, layering::Fading fading);
    void removeCrossfade();

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void follow();
    void fillChoice();
    [[nodiscard]] std::vector<std::string> wanted() const;
    /// The neighbour that the selected layer is faded into: the one above, or below where there is none.
    [[nodiscard]] std::optional<std::string> neighbour(layering::Along along) const;

    Workspace& workspace_;
    QComboBox* choice_;
    ElidedLabel* words_;
    QLabel* empty_;
    LayerBoard* board_;
    QPushButton* sideBySide_;
    QPushButton* softToLoud_;
    QPushButton* fade_;
};

}  // namespace mellow::app
