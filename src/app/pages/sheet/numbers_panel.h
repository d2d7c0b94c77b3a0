// Which control numbers an output uses, as a field of 128, and what can be done where two meet.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>
#include <set>

#include "app/acts/findings_view.h"
#include "app/acts/workspace.h"
#include "app/widgets/cell_table.h"
#include "core/sheet/numbers.h"

namespace mellow::app {

/// The 128 numbers of an output, eight a row.
class NumbersModel : public CellModel {
    Q_OBJECT

 public:
    static constexpr int across = 8;
    enum Role { useRole = Qt::UserRole + 300, litRole };

    explicit NumbersModel(QObject* parent = nullptr);

    void show(sheet::NumberField field);
    [[nodiscard]] const sheet::NumberField& field() const { return field_; }
    [[nodiscard]] const sheet::NumberUse& at(int number) const {
        return field_.controls.at(static_cast<std::size_t>(number));
    }
    /// Numbers of rows that are chosen elsewhere.
    void light(const std::set<int>& numbers);
    /// "CC 74: sent by Swell to Glass harmonium".
    [[nodiscard]] QString words(int number) const;

 protected:
    [[nodiscard]] int cellRows() const override { return midi::controlCount / across; }
    [[nodiscard]] std::vector<Column> cellColumns() const override {
        return std::vector<Column>(static_cast<std::size_t>(across));
    }
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;

 private:
    sheet::NumberField field_;
    std::set<int> lit_;
};

class NumbersPanel : public QWidget {
    Q_OBJECT

 public:
    explicit NumbersPanel(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] NumbersModel& model() { return *model_; }
    /// Shows where rows that are chosen send, and which numbers are theirs.
    void light(const std::vector<AssignmentId>& rows);
    void choose(int number);

 signals:
    /// Somebody wants to see the rows of a number.
    void rowsAsked(const std::vector<mellow::AssignmentId>& rows);

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void buildLegend(QVBoxLayout& column);
    void refresh();
    void sayNumber();
    void useFreeNumber();
    [[nodiscard]] sheet::Outlet outlet() const;

    Workspace& workspace_;
    NumbersModel* model_;
    CellTable* table_;
    QComboBox* outlets_;
    QLabel* said_;
    QLabel* others_;
    FindingsView* findings_;
    QPushButton* free_;
    std::vector<sheet::Outlet> known_;
    int number_ = -1;
};

}  // namespace mellow::app
