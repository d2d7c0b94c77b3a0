// The band between hands and sound: whose chains are in force, since when they are compared, and how far what
// comes of the take differs from then.
#pragma once

#include <QDateTime>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "app/acts/workspace.h"
#include "app/takes/result_worker.h"
#include "app/takes/take_work.h"
#include "app/widgets/elided_label.h"

namespace mellow::app {

class TakeBand : public QWidget {
    Q_OBJECT

 public:
    explicit TakeBand(Workspace& workspace, QWidget* parent);

    /// The instrument whose lanes are shown; empty: all.
    [[nodiscard]] const std::string& instrument() const { return instrument_; }
    void showInstrument(const std::string& id);
    /// Keeps the chains as they are to be compared with; the newest of them is dropped by forgetThen().
    void markThen();
    void forgetThen();
    [[nodiscard]] bool hasThen() const { return then_ != nullptr; }
    [[nodiscard]] const std::shared_ptr<const Ensemble>& then() const { return then_; }
    /// Plays the chains as they were, or as they are.
    void hearThen(bool then);
    /// Works out what comes of the take anew, where that is seen.
    void ask();
    /// Whether something is being worked out.
    [[nodiscard]] bool isBusy() const { return now_.isBusy() || before_.isBusy(); }

 signals:
    void resultsChanged(std::shared_ptr<const mellow::Results> results);
    void thenChanged(std::shared_ptr<const mellow::Results> results);
    void exportAsked();
    /// Somebody drags the band by so many pixels.
    void dragged(int by);

 protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void follow(const Change& change);
    void chooseInstrument();
    void refresh();
    void compare();
    [[nodiscard]] std::shared_ptr<const Take> takeOfThen() const;
    [[nodiscard]] bool handsDiffer() const;
    [[nodiscard]] std::vector<std::string> wanted() const;

    Workspace& workspace_;
    ResultWorker now_;
    ResultWorker before_;
    std::string instrument_;
    bool all_ = false;
    int grip_ = 0;
    std::shared_ptr<const Ensemble> then_;
    std::shared_ptr<const Take> thenTake_;  ///< as it was then
    KeptTake thenKept_;                     ///< and as the document named it
    QDateTime thenAt_;
    bool hears_ = false;
    std::shared_ptr<const Results> results_;
    std::shared_ptr<const Results> thenResults_;
    QPushButton* who_;
    QLabel* state_;
    QPushButton* mark_;
    QPushButton* hear_;
    ElidedLabel* difference_;
    QPushButton* export_;
};

}  // namespace mellow::app
