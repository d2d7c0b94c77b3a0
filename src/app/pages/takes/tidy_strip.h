// The strip that asks how much: the numbers of one stroke, what would become of the selection, and Make it.
//
// While it is open the lanes show the stroke as a faint line; nothing is changed until it is made.
#pragma once

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <map>

#include "app/pages/takes/take_view.h"
#include "app/pages/takes/tidy_ops.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

class TidyStrip : public QWidget {
    Q_OBJECT

 public:
    TidyStrip(TakeWork& work, TakeView& view, QWidget* parent = nullptr);

    /// Asks for a stroke's numbers; the same again closes it.
    void open(const TidyOp& op);
    void close();
    [[nodiscard]] const TidyOp* op() const { return op_; }
    /// Makes what is previewed.
    void make();
    [[nodiscard]] QString text() const { return said_->text(); }
    [[nodiscard]] NumberField* field(int number) { return fields_[static_cast<std::size_t>(number)]; }

 signals:
    void opened(const QString& id);

 protected:
    void keyPressEvent(QKeyEvent* event) override;

 private:
    void refresh();
    void chooseAllLanes();
    [[nodiscard]] std::vector<LaneEdit> edits() const;

    TakeWork& work_;
    TakeView& view_;
    const TidyOp* op_ = nullptr;
    bool choseAll_ = false;  ///< since nothing was; it is nothing again when this closes
    std::map<std::string, std::vector<double>> remembered_;  ///< numbers by stroke
    QLabel* title_;
    QHBoxLayout* numbers_;
    ElidedLabel* said_;
    QPushButton* make_;
    std::vector<NumberField*> fields_;
    std::vector<QLabel*> labels_;
};

}  // namespace mellow::app
