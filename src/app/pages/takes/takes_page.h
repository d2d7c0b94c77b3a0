// The Takes page: what hands did and what comes of it, seen at once, tidied, compared and handed on.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "app/pages/page.h"
#include "app/pages/takes/take_band.h"
#include "app/pages/takes/take_overview.h"
#include "app/pages/takes/take_view.h"
#include "app/pages/takes/tidy_strip.h"
#include "app/takes/lane_clipboard.h"
#include "app/widgets/moving_text.h"

namespace mellow::app {

class ImportDialog;

class TakesPage : public Page {
    Q_OBJECT

 public:
    explicit TakesPage(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] TakeView& view() { return *view_; }
    [[nodiscard]] Workspace& workspace() { return workspace_; }
    [[nodiscard]] TidyStrip& strip() { return *strip_; }
    [[nodiscard]] TakeBand& band() { return *band_; }

    QWidget* makeDetails() override;
    [[nodiscard]] bool wantsDetails() const override { return false; }
    [[nodiscard]] bool wantsLeft() const override { return false; }
    [[nodiscard]] bool wantsKeys() const override { return false; }
    [[nodiscard]] std::vector<PageActions> actions() const override;
    Taken takeFile(const QString& path) override;
    void begin() override { view_->setFocus(Qt::OtherFocusReason); }
    /// What a person says of an import, and of a name; tests answer without a dialog.
    using AskImport = std::function<bool(ImportDialog&)>;
    using AskText = std::function<std::optional<QString>(const QString& title, const QString& label,
                                                         const QString& text)>;
    void onAskImport(AskImport ask) { askImport_ = std::move(ask); }
    void onAskText(AskText ask) { askText_ = std::move(ask); }
    /// Reads a MIDI file as a take. False when it cannot; that has been told.
    bool importFile(const QString& path);
    void renameTake();
    void typeSpan();
    void cue(int place);

 protected:
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    QWidget* buildBar();
    QPushButton* addButton(QAction* action, const char* name);
    void buildActions();
    void buildTidyActions();
    QAction* make(QList<QAction*>& list, const char* name, const QString& text, const QKeySequence& keys,
                  const QString& tip, std::function<void()> act);
    void placeBand();
    void refresh();
    void showPosition();
    void showTakes();
    void tellIfAny(const QString& sentence);
    void turnUnit();
    void exportTake();

    Workspace& workspace_;
    TakeWork& work_;
    TakeView* view_;
    TakeOverview* overview_;
    TakeBand* band_;
    TidyStrip* strip_;
    QPushButton* which_;
    QLabel* caption_;
    MovingText* position_;
    QPushButton* unit_;
    QPushButton* chosen_;
    QList<QAction*> takeActions_;
    QList<QAction*> tidyActions_;
    std::map<std::string, QAction*> named_;
    LaneClipboard clipboard_;
    AskImport askImport_;
    AskText askText_;
};

}  // namespace mellow::app
