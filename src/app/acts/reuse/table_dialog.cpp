// Of a long table only the first rows are looked at and shown; all of it is taken.
#include "app/acts/reuse/table_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <memory>

#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

namespace {

constexpr std::size_t mostShown = 200;
constexpr int rowHeight = 30;

}  // namespace

TableDialog::TableDialog(const QString& title, ProfileModel& model, const profiles::Table& table,
                         QWidget* window)
    : QDialog(window),
      model_(model),
      table_(table.begin(), table.begin() + static_cast<std::ptrdiff_t>(std::min(table.size(), mostShown))),
      rows_(table.size()),
      how_(model.understood(table_)),
      shown_(new QTableWidget),
      summary_(new QLabel),
      carry_(new QCheckBox(tr("Carry reaches along: to the same place in the new range"))),
      accept_(nullptr) {
    setObjectName(QStringLiteral("tableDialog"));
    setWindowTitle(title);
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* help =
        new QLabel(tr("What each column is taken for stands above it; choose otherwise where it is "
                      "something else. Nothing is taken in before you say so."));
    help->setWordWrap(true);
    column->addWidget(help);
    shown_->setObjectName(QStringLiteral("tablePreview"));
    shown_->setAccessibleName(title);
    shown_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    shown_->setSelectionMode(QAbstractItemView::NoSelection);
    shown_->setShowGrid(false);
    shown_->verticalHeader()->hide();
    shown_->horizontalHeader()->hide();
    shown_->verticalHeader()->setDefaultSectionSize(scaled(rowHeight));
    shown_->setMinimumHeight(scaled(4 * rowHeight));
    column->addWidget(shown_, 1);
    summary_->setObjectName(QStringLiteral("tableSummary"));
    summary_->setWordWrap(true);
    column->addWidget(summary_);
    carry_->setObjectName(QStringLiteral("carryReaches"));
    carry_->setChecked(true);
    column->addWidget(carry_);
    auto* buttons = new QDialogButtonBox;
    accept_ = buttons->addButton(tr("Take in"), QDialogButtonBox::AcceptRole);
    accept_->setObjectName(QStringLiteral("acceptTable"));
    accept_->setDefault(true);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    fill();
    follow();
    constexpr int width = 820;
    constexpr int most = 560;
    resize(scaled(width), std::min(scaled(most), scaled(220) + scaled(rowHeight) * shown_->rowCount()));
    accept_->setFocus();
}

/// The lists on top, then the rows, and behind them what becomes of each.
void TableDialog::fill() {
    const int columns = static_cast<int>(how_.places.size());
    shown_->setColumnCount(columns + 1);
    shown_->setRowCount(static_cast<int>(table_.size()) + 1);
    constexpr int listsHeight = 40;
    shown_->setRowHeight(0, scaled(listsHeight));
    for (int c = 0; c < columns; ++c) {
        auto* choice = new QComboBox;
        choice->setObjectName(QStringLiteral("tableColumn%1").arg(c));
        choice->setAccessibleName(tr("Column %1 is taken for").arg(c + 1));
        choice->addItem(tr("left out"));
        for (int place = 0; place < model_.columnCount(); ++place)
            choice->addItem(model_.headerData(place, Qt::Horizontal, Qt::DisplayRole).toString());
        connect(choice, &QComboBox::activated, this, [this, c](int index) { choose(c, index - 1); });
        shown_->setCellWidget(0, c, choice);
    }
    for (int r = 0; r < static_cast<int>(table_.size()); ++r) {
        const profiles::Row& cells = table_[static_cast<std::size_t>(r)];
        for (int c = 0; c <= columns; ++c) {
            const bool there = c < static_cast<int>(cells.size());
            shown_->setItem(
                r + 1, c,
                new QTableWidgetItem(there ? nameToShow(cells[static_cast<std::size_t>(c)]) : QString()));
        }
    }
    for (int c = 0; c < columns; ++c)
        shown_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::Interactive);
    shown_->horizontalHeader()->setDefaultSectionSize(scaled(120));
    shown_->horizontalHeader()->setStretchLastSection(true);
}

/// A profile's column is one column of the table's at most.
void TableDialog::choose(int column, int place) {
    for (int& each : how_.places) {
        if (place >= 0 && each == place) each = -1;
    }
    how_.places[static_cast<std::size_t>(column)] = place;
    follow();
}

void TableDialog::follow() {
    using Becomes = ProfileModel::RowToTake::Becomes;
    const Theme& t = theme();
    const int last = static_cast<int>(how_.places.size());
    for (int c = 0; c < last; ++c)
        static_cast<QComboBox*>(shown_->cellWidget(0, c))
            ->setCurrentIndex(how_.places[static_cast<std::size_t>(c)] + 1);
    const ProfileModel::Preview preview = model_.preview(table_, how_);
    std::array<int, 4> counts{};
    for (std::size_t r = 0; r < preview.rows.size(); ++r) {
        const auto& [becomes, words, changes] = preview.rows[r];
        const bool isTitle = how_.titled && r == 0;
        const bool isNothing = becomes == Becomes::nothing;
        if (!isTitle) ++counts.at(static_cast<std::size_t>(becomes));
        const std::array said{tr("new"), tr("changed"), tr("as it is"), tr("left out")};
        QString what = isTitle ? tr("titles") : said.at(static_cast<std::size_t>(becomes));
        if (!changes.isEmpty()) what += QStringLiteral(": ") + changes;
        if (!words.isEmpty()) what += QStringLiteral(": ") + words;
        const int row = static_cast<int>(r) + 1;
        for (int c = 0; c <= last; ++c) {
            const bool isOut =
                isTitle || isNothing || (c < last && how_.places[static_cast<std::size_t>(c)] < 0);
            QTableWidgetItem* item = shown_->item(row, c);
            item->setForeground(c == last && !words.isEmpty() ? t.clay : isOut ? t.dim : t.ink);
            QFont font = bodyFont();
            font.setStrikeOut(isOut && c < last && !isTitle);
            item->setFont(font);
        }
        shown_->item(row, last)->setText(what);
        shown_->item(row, last)->setToolTip(what);
    }
    QStringList parts;
    const auto count = [&](Becomes becomes) { return counts.at(static_cast<std::size_t>(becomes)); };
    if (const int n = count(Becomes::aNewOne); n > 0) parts << tr("%n new", nullptr, n);
    if (const int n = count(Becomes::anotherOne); n > 0) parts << tr("%n changed", nullptr, n);
    if (const int n = count(Becomes::theSame); n > 0) parts << tr("%n as it is", nullptr, n);
    if (const int n = count(Becomes::nothing); n > 0) parts << tr("%n row(s) left out", nullptr, n);
    const auto out = std::count(how_.places.begin(), how_.places.end(), -1);
    if (out > 0) parts << tr("%n column(s) left out", nullptr, static_cast<int>(out));
    if (table_.size() < rows_) parts << tr("the first %1 of %2 rows are shown").arg(table_.size()).arg(rows_);
    summary_->setText(parts.join(QStringLiteral(" · ")));
    carry_->setVisible(preview.newRanges > 0);
    accept_->setEnabled(count(Becomes::nothing) <
                        static_cast<int>(preview.rows.size()) - (how_.titled ? 1 : 0));
}

QString TableDialog::listed(const QStringList& complaints) {
    constexpr qsizetype most = 2;
    QString words = complaints.mid(0, most).join(QStringLiteral("; "));
    if (complaints.size() > most)
        words += tr("; and %n more", nullptr, static_cast<int>(complaints.size() - most));
    return words + QLatin1Char('.');
}

TableDialog* TableDialog::takeIn(QWidget* window, const QString& title, ProfileModel& model,
                                 profiles::Table table, const std::function<void(const QString&)>& complain) {
    const auto all = std::make_shared<const profiles::Table>(std::move(table));
    auto* dialog = new TableDialog(title, model, *all, window);
    connect(dialog, &QDialog::accepted, &model, [dialog, title, all, &model, complain] {
        const auto complaints = model.take(*all, dialog->how_, dialog->carry_->isChecked(), title);
        if (complaints && !complaints->isEmpty()) complain(listed(*complaints));
    });
    dialog->open();
    return dialog;
}

}  // namespace mellow::app
