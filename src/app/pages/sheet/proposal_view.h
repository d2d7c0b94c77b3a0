// What an edit of many rows would do, as a table: each row before and after, and what cannot be, with why.
#pragma once

#include <QLabel>
#include <QWidget>
#include <array>

#include "app/widgets/cell_table.h"
#include "core/sheet/proposal.h"

namespace mellow::app {

class ProposalModel : public CellModel {
    Q_OBJECT

 public:
    enum ColumnPlace { whose, what, before, after, columnTotal };
    explicit ProposalModel(QObject* parent = nullptr);

    void show(const sheet::Proposal& proposal);

 protected:
    [[nodiscard]] int cellRows() const override { return static_cast<int>(lines_.size()); }
    [[nodiscard]] std::vector<Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;

 private:
    struct Line {
        std::array<QString, columnTotal> texts;
        bool refused = false;
    };
    std::vector<Line> lines_;
};

class ProposalView : public QWidget {
    Q_OBJECT

 public:
    explicit ProposalView(QWidget* parent = nullptr);

    void show(const sheet::Proposal& proposal);
    /// Nothing is proposed yet, for this reason.
    void show(const QString& why);
    [[nodiscard]] QString summary() const { return summary_->text(); }
    [[nodiscard]] const ProposalModel& model() const { return *model_; }

 private:
    ProposalModel* model_;
    CellTable* table_;
    QLabel* summary_;
};

/// "3 rows change, 1 cannot be."
QString summaryOf(const sheet::Proposal& proposal);

}  // namespace mellow::app
