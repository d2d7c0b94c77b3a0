// The model lays its tables end to end; a row knows whose it is. What a thing becomes is one choice:
// something that is there, to be made, or nothing.
#include "app/acts/reuse/match_dialog.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/cell_table.h"
#include "core/profiles/message_text.h"

namespace mellow::app {

MatchModel::MatchModel(std::vector<MatchTable> tables, QObject* parent)
    : CellModel(parent), tables_(std::move(tables)) {
    reshape();
}

MatchModel::Place MatchModel::placeOf(int row) const {
    auto left = static_cast<std::size_t>(row);
    for (std::size_t table = 0; table < tables_.size(); ++table) {
        if (left < tables_[table].matches.size()) return {table, left};
        left -= tables_[table].matches.size();
    }
    return {0, 0};
}

int MatchModel::cellRows() const {
    std::size_t rows = 0;
    for (const MatchTable& table : tables_) rows += table.matches.size();
    return static_cast<int>(rows);
}

std::vector<CellModel::Column> MatchModel::cellColumns() const {
    return {{tr("What")}, {tr("Becomes")}, {tr("Because")}};
}

QStringList MatchModel::choices(int row) const {
    const MatchTable& table = tables_[placeOf(row).table];
    QStringList words;
    for (const MatchTable::Choice& choice : table.to)
        words << (choice.message.isEmpty() ? choice.name : tr("%1 (%2)").arg(choice.name, choice.message));
    if (table.canMake) words << (table.makeWord.isEmpty() ? tr("Make it") : table.makeWord);
    words << tr("Leave it out");
    return words;
}

int MatchModel::chosen(int row) const {
    const Place place = placeOf(row);
    const MatchTable& table = tables_[place.table];
    const reuse::Match& match = table.matches[place.match];
    const int there = static_cast<int>(table.to.size());
    if (!match.to) return match.make && table.canMake ? there : there + (table.canMake ? 1 : 0);
    const auto found = std::find_if(table.to.begin(), table.to.end(),
                                    [&](const MatchTable::Choice& choice) { return choice.id == *match.to; });
    return static_cast<int>(found - table.to.begin());
}

QVariant MatchModel::cell(int row, int column, int role) const {
    const Place place = placeOf(row);
    const MatchTable& table = tables_[place.table];
    const reuse::Match& match = table.matches[place.match];
    const auto& [name, message] = table.from[place.match];
    if (column == becomes) {
        if (role == Qt::EditRole) return chosen(row);
        if (role == choicesRole) return choices(row);
        if (role == Qt::DisplayRole) return choices(row).value(chosen(row));
        return {};
    }
    if (role != Qt::DisplayRole && role != Qt::ToolTipRole) return {};
    if (column == what) {
        const QString words = message.isEmpty() ? name : tr("%1 (%2)").arg(name, message);
        return table.title.isEmpty() ? words : tr("%1: %2").arg(table.title, words);
    }
    if (!match.to) return match.make && table.canMake ? tr("not there yet") : tr("nothing takes its place");
    switch (match.by) {
        case reuse::By::both:
            return tr("same name and message");
        case reuse::By::name:
            return tr("same name");
        case reuse::By::message:
            return tr("same message");
        case reuse::By::nothing:
            return tr("your choice");
    }
    return {};
}

void MatchModel::choose(int row, std::size_t choice) {
    const Place place = placeOf(row);
    MatchTable& table = tables_[place.table];
    reuse::Match& match = table.matches[place.match];
    const bool there = choice < table.to.size();
    const std::optional<std::string> to = there ? std::optional(table.to[choice].id) : std::nullopt;
    const bool make = !there && table.canMake && choice == table.to.size();
    if (to == match.to && make == match.make) return;
    match = {match.from, to, make, reuse::By::nothing};
    emit dataChanged(index(row, 0), index(row, columns - 1));
}

QStringList MatchModel::type(const QString&, const std::vector<Typed>& cells) {
    for (const Typed& each : cells)
        choose(each.row, static_cast<std::size_t>(std::max(0, each.value.toInt())));
    return {};
}

Qt::ItemFlags MatchModel::use(int, int column) const {
    return column == becomes ? Qt::ItemIsEditable : Qt::NoItemFlags;
}

void MatchModel::matchInOrder() {
    int row = 0;
    for (MatchTable& table : tables_) {
        const auto many = static_cast<int>(table.to.size());
        for (int each = 0; each < static_cast<int>(table.matches.size()); ++each, ++row) {
            if (each < many) choose(row, static_cast<std::size_t>(each));
        }
    }
}

int MatchModel::leftOver() const {
    int left = 0;
    for (const MatchTable& table : tables_) {
        for (const reuse::Match& match : table.matches)
            left += !match.to && !(match.make && table.canMake) ? 1 : 0;
    }
    return left;
}

MatchDialog::MatchDialog(const QString& title, const QString& help, const QString& button,
                         std::vector<MatchTable> tables, QWidget* window)
    : QDialog(window), model_(new MatchModel(std::move(tables), this)) {
    setObjectName(QStringLiteral("matchDialog"));
    setWindowTitle(title);
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* words = new QLabel(help);
    words->setWordWrap(true);
    column->addWidget(words);
    auto* table = new CellTable(*model_, QStringLiteral("matches"), title);
    table->setRowHeight(32);
    table->setSelectionMode(QAbstractItemView::NoSelection);
    table->showChoices(MatchModel::becomes);
    column->addWidget(table, 1);
    auto* left = new QLabel;
    left->setObjectName(QStringLiteral("leftOver"));
    left->setProperty("role", "caption");
    const auto count = [this, left] {
        left->setText(model_->leftOver() == 0 ? tr("Nothing is left over.")
                                              : tr("%n left over", nullptr, model_->leftOver()));
    };
    connect(model_, &QAbstractItemModel::dataChanged, this, count);
    count();
    auto* buttons = new QDialogButtonBox;
    auto* accept = buttons->addButton(button, QDialogButtonBox::AcceptRole);
    accept->setObjectName(QStringLiteral("acceptMatches"));
    accept->setDefault(true);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    auto* order = new QPushButton(tr("In order"));
    order->setObjectName(QStringLiteral("matchInOrder"));
    order->setToolTip(tr("The first becomes the first, the second the second, whatever they are called"));
    connect(order, &QPushButton::clicked, model_, [this, table] {
        model_->matchInOrder();
        table->viewport()->update();
    });
    auto* foot = new QHBoxLayout;
    foot->addWidget(order);
    foot->addWidget(left, 1);
    foot->addWidget(buttons);
    column->addLayout(foot);
    constexpr int width = 720;
    constexpr int most = 460;
    resize(scaled(width), std::min(scaled(most), scaled(150) + scaled(32) * model_->rowCount()));
}

MatchDialog* MatchDialog::ask(QWidget* window, const QString& title, const QString& help,
                              const QString& button, std::vector<MatchTable> tables, Accepted accepted) {
    auto* dialog = new MatchDialog(title, help, button, std::move(tables), window);
    connect(dialog, &QDialog::accepted, window,
            [dialog, accepted = std::move(accepted)] { accepted(dialog->model_->tables()); });
    dialog->open();
    return dialog;
}

namespace {

template<class Thing>
MatchTable tableOf(const std::vector<Thing>& wanted, const std::vector<Thing>& there,
                   reuse::Matches matches) {
    MatchTable table;
    table.matches = std::move(matches);
    for (const Thing& thing : wanted)
        table.from.emplace_back(nameToShow(nameOf(thing)), toQt(profiles::messageText(thing.message)));
    for (const Thing& thing : there)
        table.to.push_back({thing.id, nameToShow(nameOf(thing)), toQt(profiles::messageText(thing.message))});
    return table;
}

}  // namespace

MatchTable parameterTable(const std::vector<Parameter>& wanted, const std::vector<Parameter>& there,
                          reuse::Matches matches) {
    return tableOf(wanted, there, std::move(matches));
}

MatchTable controlTable(const std::vector<ControllerControl>& wanted,
                        const std::vector<ControllerControl>& there, reuse::Matches matches) {
    MatchTable table = tableOf(wanted, there, std::move(matches));
    table.canMake = false;
    return table;
}

}  // namespace mellow::app
