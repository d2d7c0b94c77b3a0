// Choosing a kind of step by what it would do: a small picture of each behind the steps that are there
// already, and a sentence. Letters find by name and sentence, numbers behind them are the step's ("limit 0
// 70"), arrows walk, Enter takes.
#pragma once

#include <QAbstractListModel>
#include <QFrame>
#include <QLineEdit>
#include <QListView>
#include <functional>
#include <vector>

#include "core/steps/example.h"
#include "core/steps/typed.h"

namespace mellow::app {

class StepKindModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { help = Qt::UserRole + 1 };

    /// behind: the steps that the new one would stand behind.
    explicit StepKindModel(std::vector<Step> behind, QObject* parent = nullptr);
    /// Shows those whose name or sentence has all of the words, and which take what is typed behind them.
    void find(const QString& typed);
    /// As it would be added.
    [[nodiscard]] const Step& step(int row) const { return shown_[static_cast<std::size_t>(row)].step; }
    [[nodiscard]] const StepKind& kind(int row) const { return *step(row).kind; }
    [[nodiscard]] const StepExample& example(int row) const {
        return shown_[static_cast<std::size_t>(row)].example;
    }

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

 private:
    struct Entry {
        Step step;
        StepExample example;
        bool hasValues = false;  ///< that were typed
    };
    [[nodiscard]] QString whatItDoes(int row) const;

    std::vector<Step> behind_;
    std::vector<Entry> all_;
    std::vector<Entry> shown_;
};

class StepPicker : public QFrame {
    Q_OBJECT

 public:
    explicit StepPicker(std::vector<Step> behind, QWidget* parent = nullptr);

    /// Opens one at a widget. chosen: called with the step that a person takes, if any.
    static StepPicker* open(QWidget* at, std::vector<Step> behind, std::function<void(const Step&)> chosen);

 signals:
    void chosen(const mellow::Step& step);

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    void take(const QModelIndex& at);
    void begin();

    StepKindModel model_;
    QLineEdit* words_;
    QListView* list_;
};

}  // namespace mellow::app
