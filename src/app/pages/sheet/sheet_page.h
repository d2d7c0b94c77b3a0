// The Sheet page: everything that moves anything in one table, to be searched, changed in place and changed
// many rows at once.
#pragma once

#include <QLabel>
#include <QPointer>
#include <QPushButton>

#include "app/pages/page.h"
#include "app/pages/sheet/asking.h"
#include "app/pages/sheet/bulk_acts.h"
#include "app/pages/sheet/numbers_panel.h"
#include "app/pages/sheet/sheet_files.h"
#include "app/pages/sheet/sheet_model.h"
#include "app/pages/sheet/sheet_search.h"
#include "app/pages/sheet/sheet_view.h"

namespace mellow::app {

class SheetPage : public Page {
    Q_OBJECT

 public:
    explicit SheetPage(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] SheetView& view() { return *view_; }
    [[nodiscard]] SheetModel& model() { return *model_; }
    [[nodiscard]] QLineEdit& search() { return *search_; }
    [[nodiscard]] QString summary() const { return summary_->text(); }
    /// Opens what asks how the chosen rows are to be changed; null where none are.
    QWidget* openBulk(const BulkKind& kind);
    void turnTo(sheet::Reading by);
    [[nodiscard]] SheetFiles& files() { return *files_; }
    [[nodiscard]] Asking& asking() { return *asking_; }
    [[nodiscard]] QString wayShown() const { return way_->text(); }

    QWidget* makeDetails() override;
    [[nodiscard]] bool wantsLeft() const override { return false; }
    [[nodiscard]] bool wantsKeys() const override { return false; }
    [[nodiscard]] std::vector<PageActions> actions() const override;
    /// A spreadsheet that is dropped on the sheet is read as one.
    Taken takeFile(const QString& path) override;
    void begin() override { view_->setFocus(Qt::OtherFocusReason); }

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    QWidget* buildBar();
    QWidget* buildAsked();
    QWidget* buildStrip();
    void buildActions();
    void buildFileActions();
    QAction* addAction(const QString& text, const QKeySequence& keys, const QString& tip,
                       std::function<void()> act);
    void connectAll();
    void wish(const std::function<void(sheet::Wish&)>& change);
    void find();
    void goToRows();
    void showGroups();
    void showColumns();
    void sortBy(int column);
    void showSorting();
    void followSelection();
    void followAsking();
    void sayWay();
    void refresh();
    void sayChosen();
    void saveLook();
    void loadLook();
    void copy();
    void paste();

    Workspace& workspace_;
    SheetModel* model_;
    SheetView* view_;
    Asking* asking_;
    SheetFiles* files_;
    QPushButton* byMove_;
    QPushButton* byHear_;
    SheetSearch* search_;
    QPushButton* ask_;
    QPushButton* group_;
    QPushButton* columns_;
    QLabel* summary_;
    QWidget* asked_;  ///< what is asked of, and the way through the row that is current
    QLabel* about_;
    QLabel* way_;
    QLabel* nothing_;
    QLabel* chosen_;
    QPointer<NumbersPanel> numbers_;
    std::vector<QPushButton*> bulkButtons_;
    QList<QAction*> actions_;
};

}  // namespace mellow::app
