// The sheet as a table of cells: the lines of a core::Sheet as somebody wants to read them, and two columns
// that no document has: where things stand now, and how each row is just now.
//
// Only cells that are looked at are asked for. What stands now is no part of what the model tells of itself:
// it changes all the time, and who shows it asks when a picture is due.
#pragma once

#include <map>
#include <memory>

#include "app/acts/workspace.h"
#include "app/widgets/cell_model.h"
#include "core/profiles/delimited.h"
#include "core/sheet/sheet.h"

namespace mellow::app {

/// A column that is shown: one of the assignments', or one of the moment.
struct SheetColumn {
    std::string_view key;
    QString title;
    QString tip;
    const AssignmentColumn* said = nullptr;  ///< nullptr: of the moment
    std::string_view below = {};             ///< the column that is told small below it, unless it is shown
};
/// All that can be shown, in the order of the menu.
const std::vector<SheetColumn>& sheetColumns();
/// Those that are shown until somebody chooses others.
QStringList usualSheetColumns();

class SheetModel : public CellModel {
    Q_OBJECT

 public:
    enum Role {
        captionRole = Qt::UserRole + 200,  ///< what stands small below the text
        headRole,                          ///< of a group's head: its caption; invalid: it is a row
        foldedRole,
        troubleRole,  ///< something is wrong with it: a sentence
        repeatsRole   ///< it says what the row above says, and need not be read again
    };

    SheetModel(Document& document, const Live& live, QObject* parent = nullptr);

    [[nodiscard]] const sheet::Wish& wish() const { return wish_; }
    void setWish(sheet::Wish wish);
    /// By their keys, in the order in which they stand.
    void showColumns(const QStringList& keys);
    [[nodiscard]] QStringList shownColumns() const;
    [[nodiscard]] const SheetColumn& columnAt(int column) const {
        return *columns_[static_cast<std::size_t>(column)];
    }
    [[nodiscard]] int columnOf(std::string_view key) const;

    /// The document is another; nothing is worked out while nobody looks.
    void followDocument(bool shown);
    /// What checks say may be other than before.
    void followFindings();
    /// Ports have come or gone.
    void followPorts() {
        knowsWords_ = false;
        counts_.reset();
    }

    [[nodiscard]] const sheet::Sheet& sheet() const { return *sheet_; }
    [[nodiscard]] const sheet::Arranged& arranged() const { return arranged_; }
    [[nodiscard]] bool isHead(int line) const { return lineAt(line).row < 0; }
    [[nodiscard]] const sheet::Group& groupAt(int line) const { return arranged_.groups[lineAt(line).group]; }
    /// The row of a line that is none's head.
    [[nodiscard]] const Assignment& rowAt(int line) const {
        return sheet_->rows()[static_cast<std::size_t>(lineAt(line).row)];
    }
    [[nodiscard]] AssignmentId idAt(int line) const;
    [[nodiscard]] int lineOf(const AssignmentId& id) const;
    /// The rows of lines, those of a folded group's head included, each once, in the order of the sheet.
    [[nodiscard]] std::vector<AssignmentId> idsOf(const std::vector<std::size_t>& lines) const;
    void fold(int line, bool folded);

    /// Types cells of a spreadsheet from a cell on, as one act. What was refused, in words.
    QStringList pasteAt(const profiles::Table& table, const QModelIndex& from);

    /// How a row is just now.
    enum class Standing { alone, off, trouble, outOfHand, waits, quiet, speaks };
    struct State {
        Standing standing = Standing::alone;  ///< alone: it leads nowhere, or nothing moves it
        QString words;                        ///< "speaks", "waits for gesture-tile", "unmoved"
    };

    /// Where a row stands now: its target's value in words and as a place; its source's.
    struct Now {
        QString text;
        double position = -1;                 ///< of the target, −1: it has sent nothing yet
        double source = -1;                   ///< where what moves it stands
        Standing standing = Standing::quiet;  ///< where there is no value, why; the text says it then
        bool operator==(const Now&) const = default;
    };
    [[nodiscard]] Now nowAt(int line) const;
    [[nodiscard]] State stateAt(int line) const { return stateOf(rowAt(line), true); }
    /// How many rows wait for something, and how many have trouble.
    [[nodiscard]] std::pair<int, int> counts() const;

 signals:
    /// Lines are about to be others, and are others now.
    void arranging();
    void arrangedAnew();
    /// Columns stand in another order.
    void turned();

 protected:
    [[nodiscard]] int cellRows() const override { return static_cast<int>(arranged_.lines.size()); }
    [[nodiscard]] std::vector<Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;
    [[nodiscard]] Qt::ItemFlags use(int row, int column) const override;
    QStringList type(const QString& act, const std::vector<Typed>& cells) override;

 private:
    [[nodiscard]] const sheet::Line& lineAt(int line) const {
        return arranged_.lines[static_cast<std::size_t>(line)];
    }
    void arrange();
    void arrangeAnew();
    void turnColumns();
    void noteTroubles();
    /// moment: whether it speaks too, which is asked of who plays it.
    [[nodiscard]] State stateOf(const Assignment& row, bool moment) const;
    [[nodiscard]] ChainReading readingOf(const Assignment& row) const;
    [[nodiscard]] QString waitsFor(const Assignment& row) const;
    [[nodiscard]] QString sayAt(int line, int column) const;
    [[nodiscard]] QString captionAt(int line, int column) const;
    [[nodiscard]] QVariant headCell(int line, int column, int role) const;
    [[nodiscard]] QString troubleAt(int line) const;

    Document& document_;
    const Live& live_;
    std::unique_ptr<sheet::Sheet> sheet_;
    sheet::Arranged arranged_;
    sheet::Wish wish_;
    std::vector<const SheetColumn*> columns_;
    std::map<const Chain*, std::vector<std::pair<int, QString>>> troubles_;  ///< branch or −1, and a sentence
    mutable std::optional<std::pair<int, int>> counts_;
    bool isStale_ = true;
    bool knowsWords_ = false;  ///< the sheet has been told how its rows are, to find them by
};

}  // namespace mellow::app
