// How loud each instrument is at the same gesture: at the place where the hand stands, and over all of the
// travel in five numbers.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <map>

#include "app/pages/balance/balancing.h"
#include "app/widgets/level_bar.h"

namespace mellow::app {

class SectionList : public QWidget {
    Q_OBJECT

 public:
    SectionList(Workspace& workspace, Balancing& balancing, QWidget* parent = nullptr);

    /// Shows the rows at the place where the hand stands.
    void showHand();
    /// What is read of an instrument at present; empty: it was not measured.
    [[nodiscard]] QString readingOf(const std::string& instrument) const;
    [[nodiscard]] bool isBusy() const { return worker_.isBusy(); }
    void measureAll();
    /// Keeps what was measured with the document.
    void keepAll();

 private:
    struct Row {
        QLabel* value;
        LevelBar* bar;
    };
    void rebuild();
    void addRow(const Instrument& instrument, const balance::Curve& curve);
    void refresh();
    void chooseReference();

    Workspace& workspace_;
    Balancing& balancing_;
    BalanceWorker worker_;
    QWidget* rows_;
    QPushButton* measure_;
    QPushButton* keep_;
    QPushButton* match_;
    std::map<std::string, Row> shown_;
    std::map<std::string, balance::Curve> curves_;
    std::optional<balance::Motion> measuredAlong_;
};

}  // namespace mellow::app
