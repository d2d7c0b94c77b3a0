// Many chains in one act: a run of controls to a run of parameters, shown as a list before it is made.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>

#include "app/acts/reuse/source_pick.h"
#include "app/widgets/cell_model.h"
#include "core/reuse/runs.h"

namespace mellow::app {

class RunModel : public CellModel {
    Q_OBJECT

 public:
    enum Column { control, leadsTo, falls, columns };

    RunModel(Ensemble ensemble, std::string instrument, QObject* parent = nullptr);

    [[nodiscard]] const Ensemble& ensemble() const { return ensemble_; }
    [[nodiscard]] const Instrument& instrument() const;
    void show(std::vector<reuse::RunRow> rows);
    [[nodiscard]] const std::vector<reuse::RunRow>& rows() const { return rows_; }
    /// How many chains the rows make.
    [[nodiscard]] int chains() const;
    /// All fall, or where all do already none.
    void turnAll();

 protected:
    [[nodiscard]] int cellRows() const override { return static_cast<int>(rows_.size()); }
    [[nodiscard]] std::vector<CellModel::Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;
    [[nodiscard]] Qt::ItemFlags use(int row, int column) const override;
    QStringList type(const QString& act, const std::vector<Typed>& cells) override;

 private:
    /// Parameters, and that a row leads nowhere.
    [[nodiscard]] QStringList choices() const;

    Ensemble ensemble_;  ///< as it was when the dialog opened
    std::string instrument_;
    std::vector<reuse::RunRow> rows_;
};

class RunDialog : public QDialog {
    Q_OBJECT

 public:
    RunDialog(Workspace& workspace, QWidget* window);

 private:
    void propose();
    void make();

    Workspace& workspace_;
    std::string instrument_;
    SourcePick* first_;
    QComboBox* parameter_;
    QSpinBox* count_;
    QSpinBox* bank_;
    QSpinBox* nextBank_;
    QPushButton* make_;
    QLabel* why_;
    RunModel* model_;
};

/// Two knobs for everything: one chooses among parameters, the other sets the chosen one.
class TwoKnobsDialog : public QDialog {
    Q_OBJECT

 public:
    TwoKnobsDialog(Workspace& workspace, QWidget* window);

 private:
    void make();

    Workspace& workspace_;
    std::string instrument_;
    SourcePick* chooses_;
    SourcePick* sets_;
    QListWidget* parameters_;
};

}  // namespace mellow::app
