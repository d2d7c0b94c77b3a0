// What differs between the document and another: the file as it is on the disk, a version that was kept, or
// any other ensemble. Each difference can be ticked, and what is ticked is taken over as one step of undo.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <functional>
#include <vector>

#include "app/document/document.h"
#include "app/widgets/tick_list.h"
#include "core/compare/compare.h"

namespace mellow::app {

class CompareDialog : public QDialog {
    Q_OBJECT

 public:
    explicit CompareDialog(Document& document, QWidget* parent = nullptr);

    /// Compares with an ensemble in a file.
    void compareWith(const QString& path);
    /// Who asks for a file; a test answers itself.
    void onAskPath(std::function<QString(QWidget*)> ask) { askPath_ = std::move(ask); }
    [[nodiscard]] QString summary() const { return said_->text(); }

 private:
    void fillChoices();
    void choose(int choice);
    void show();
    void takeOver();
    Outcome bringFiles(const Ensemble& before);

    Document& document_;
    std::function<QString(QWidget*)> askPath_;
    QComboBox* with_;
    QLabel* said_;
    TickList* list_;
    QPushButton* take_;
    std::optional<Ensemble> other_;
    QString otherPath_;
    std::vector<compare::Difference> differences_;
};

}  // namespace mellow::app
