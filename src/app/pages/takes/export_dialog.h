// Handing a take on: what comes of it, the hands, or how it sounds.
#pragma once

#include <QButtonGroup>
#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <functional>

#include "app/acts/workspace.h"
#include "app/takes/bounce_run.h"
#include "app/takes/take_work.h"

namespace mellow::app {

class ExportDialog : public QDialog {
    Q_OBJECT

 public:
    ExportDialog(Workspace& workspace, QWidget* window);

    enum class What { result, hands, sound };
    void choose(What what);
    /// Asks for a path with a suggestion; tests answer without a dialog.
    using AskPath = std::function<QString(const QString& suggestion, const QString& kinds)>;
    void onAskPath(AskPath ask) { askPath_ = std::move(ask); }
    /// Writes, where the person says.
    void write();
    /// Writes into a file. False when it cannot, which is said in the dialog; of a sound: begins to.
    bool writeTo(const QString& path);
    [[nodiscard]] QString said() const { return said_->text(); }

 signals:
    void written(const QStringList& files);

 private:
    [[nodiscard]] What what() const { return static_cast<What>(kinds_->checkedId()); }
    [[nodiscard]] std::vector<std::string> instruments() const;
    [[nodiscard]] std::optional<TimeSpan> range() const;
    bool isMeant(const QString& path);
    bool writeMidi(const QString& path);
    void bounce(const QString& path);
    void refresh();

    Workspace& workspace_;
    QButtonGroup* kinds_;
    QListWidget* instruments_;
    QCheckBox* selection_;
    QCheckBox* apart_;
    QLabel* said_;
    QProgressBar* progress_;
    QPushButton* write_;
    QPushButton* close_;
    BounceRun* run_ = nullptr;
    QString asked_;  ///< where something very long was to be written
    AskPath askPath_;
};

}  // namespace mellow::app
