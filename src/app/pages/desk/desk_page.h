// The Desk page: surfaces under the fingers of one hand while the other plays.
#pragma once

#include <QButtonGroup>
#include <QLabel>
#include <QPushButton>
#include <map>

#include "app/pages/desk/arranging.h"
#include "app/pages/desk/desk_board.h"
#include "app/pages/desk/element_details.h"
#include "app/pages/page.h"
#include "app/widgets/flow_layout.h"

namespace mellow::app {

class DeskPageView : public Page {
    Q_OBJECT

 public:
    explicit DeskPageView(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] DeskBoard& board() { return *board_; }
    [[nodiscard]] Arranging& arranging() { return *arranging_; }
    [[nodiscard]] bool isArranging() const { return arrange_->isChecked(); }
    void setArranging(bool on);
    enum class Filling { sliders, tiles, pad, faders };
    /// Lays out a run for what is in hand.
    void fill(Filling with);

    QWidget* makeDetails() override;
    QWidget* makeLeft() override;
    [[nodiscard]] bool wantsDetails() const override { return isArranging(); }
    [[nodiscard]] std::vector<PageActions> actions() const override;
    void begin() override;

 protected:
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    void buildBar();
    void buildTools();
    void buildActions();
    void follow();
    void buildChips();
    void learn();
    void turnPage(int by);
    void addPage();
    void showWhole(bool whole);
    void sayWhoStays();
    [[nodiscard]] std::string shownPage() const;
    [[nodiscard]] std::string entryInHand() const;
    [[nodiscard]] bool keyOfElement(QKeyEvent& event);

    Workspace& workspace_;
    DeskBoard* board_;
    Arranging* arranging_;
    ElementDetails* details_ = nullptr;
    QWidget* bar_;
    FlowLayout* chips_;  ///< a button for each page, and one that adds one
    QButtonGroup* chipGroup_;
    QWidget* tools_;
    QPushButton* arrange_;
    QPushButton* whole_;
    QLabel* said_;
    QList<QAction*> actions_;
    QList<QAction*> handActions_;
    std::map<int, std::pair<std::string, std::size_t>> keysDown_;  ///< by key code: the element, and its key
    bool isWhole_ = false;
};

}  // namespace mellow::app
