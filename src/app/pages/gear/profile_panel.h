// The profile of what is selected, edited as a table, with everything that is done to profiles as a whole.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

#include "app/acts/reuse/profile_model.h"
#include "app/acts/workspace.h"
#include "app/pages/gear/profile_files.h"
#include "app/pages/gear/switch_learning.h"
#include "app/pages/gear/walk_through.h"
#include "app/widgets/cell_table.h"

namespace mellow::app {

class ProfilePanel : public QWidget {
    Q_OBJECT

 public:
    explicit ProfilePanel(Workspace& workspace, QWidget* parent = nullptr);

    /// Shows whose profile belongs to a port: the controller that plays there, or the instrument that plays
    /// to it. Nothing of that kind: what was shown stays.
    void showPort(bool input, const std::string& port);
    void show(const ProfilePlace& place);
    [[nodiscard]] ProfileModel& model() { return *model_; }
    [[nodiscard]] WalkThrough& walk() { return *walk_; }
    [[nodiscard]] ProfileFiles& files() { return *files_; }
    /// Whose profile it is, for people.
    [[nodiscard]] QString nameShown() const;

    // What the buttons and the menus of the page do.
    void addController();
    void addRow() { model_->addRow(); }
    void removeRows();
    void copyRows();
    void paste();
    void fillDown();
    void renumber();
    void walkThrough();
    void learnSwitches();
    /// Of the selected rows where there are several, or else of all.
    void transposeSwitches(int semitones);
    void keep();
    void swap();
    void removeProfile();

 private:
    QLayout* buildHead();
    void buildSwitches();
    QWidget* buildMore();
    void buildTable();
    void listen();
    void follow();
    void fillChoice();
    [[nodiscard]] bool isOfArticulations() const;
    void tellAll(const QStringList& complaints);

    Workspace& workspace_;
    QComboBox* choice_;
    std::vector<ProfilePlace> places_;  ///< what the choice offers
    QPushButton* walkButton_;
    QPushButton* switches_;
    QPushButton* transpose_;
    QLabel* walkText_;
    QLabel* empty_;
    ProfileModel* model_;
    ProfileFiles* files_;
    CellTable* table_;
    WalkThrough* walk_;
    SwitchLearning* switchLearning_;
    std::string port_;
};

}  // namespace mellow::app
