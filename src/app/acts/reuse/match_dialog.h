// The table that says what takes whose place: a row for each thing that is referred to, with what it becomes
// here, which can be corrected before anything is done.
#pragma once

#include <QDialog>
#include <functional>
#include <vector>

#include "app/widgets/cell_model.h"
#include "core/reuse/matching.h"

namespace mellow::app {

/// One table of matches, such as those for one instrument.
struct MatchTable {
    QString title;   ///< whose: an instrument's name; empty where there is one table only
    std::string id;  ///< of that, for who asked
    reuse::Matches matches;
    std::vector<std::pair<QString, QString>> from;  ///< name and message of each match
    struct Choice {
        std::string id;
        QString name;
        QString message;
    };
    std::vector<Choice> to;  ///< what can take a place
    bool canMake = true;     ///< what is not there can be made
    QString makeWord;        ///< what making is called; empty: "make it"
};

class MatchModel : public CellModel {
    Q_OBJECT

 public:
    enum Column { what, becomes, because, columns };

    explicit MatchModel(std::vector<MatchTable> tables, QObject* parent = nullptr);

    [[nodiscard]] const std::vector<MatchTable>& tables() const { return tables_; }
    /// The first thing becomes the first that can take a place, the second the second, and so on.
    void matchInOrder();
    /// How many rows have found nothing.
    [[nodiscard]] int leftOver() const;

 protected:
    [[nodiscard]] int cellRows() const override;
    [[nodiscard]] std::vector<CellModel::Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;
    [[nodiscard]] Qt::ItemFlags use(int row, int column) const override;
    QStringList type(const QString& act, const std::vector<Typed>& cells) override;

 private:
    struct Place {
        std::size_t table;
        std::size_t match;
    };
    [[nodiscard]] Place placeOf(int row) const;
    /// What a row's thing can become, as words, and which it is.
    [[nodiscard]] QStringList choices(int row) const;
    [[nodiscard]] int chosen(int row) const;
    void choose(int row, std::size_t choice);

    std::vector<MatchTable> tables_;
};

class MatchDialog : public QDialog {
    Q_OBJECT

 public:
    using Accepted = std::function<void(const std::vector<MatchTable>&)>;

    /// Asks, above a window.
    static MatchDialog* ask(QWidget* window, const QString& title, const QString& help, const QString& button,
                            std::vector<MatchTable> tables, Accepted accepted);

 private:
    MatchDialog(const QString& title, const QString& help, const QString& button,
                std::vector<MatchTable> tables, QWidget* window);

    MatchModel* model_;
};

/// A table of an owner's parameters to be matched, with names and messages filled in.
MatchTable parameterTable(const std::vector<Parameter>& wanted, const std::vector<Parameter>& there,
                          reuse::Matches matches);
/// The same of controls; what has no match keeps its message.
MatchTable controlTable(const std::vector<ControllerControl>& wanted,
                        const std::vector<ControllerControl>& there, reuse::Matches matches);

}  // namespace mellow::app
