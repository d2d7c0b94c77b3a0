#include "app/acts/reuse/run_dialog.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/cell_table.h"
#include "core/describe/sentence.h"

namespace mellow::app {

namespace {

QDialogButtonBox* addButtons(QDialog& dialog, QVBoxLayout& column, QPushButton& make) {
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(&make, QDialogButtonBox::AcceptRole);
    make.setDefault(true);
    buttons->addButton(RunDialog::tr("Cancel"), QDialogButtonBox::RejectRole);
    column.addWidget(buttons);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    return buttons;
}

}  // namespace

RunModel::RunModel(Ensemble ensemble, std::string instrument, QObject* parent)
    : CellModel(parent), ensemble_(std::move(ensemble)), instrument_(std::move(instrument)) {
    reshape();
}

const Instrument& RunModel::instrument() const {
    return *findById(ensemble_.instruments, instrument_);
}

void RunModel::show(std::vector<reuse::RunRow> rows) {
    rows_ = std::move(rows);
    reshape();
}

int RunModel::chains() const {
    return static_cast<int>(std::count_if(rows_.begin(), rows_.end(),
                                          [](const reuse::RunRow& each) { return !each.parameter.empty(); }));
}

void RunModel::turnAll() {
    const bool all =
        std::all_of(rows_.begin(), rows_.end(), [](const reuse::RunRow& each) { return each.falls; });
    for (reuse::RunRow& each : rows_) each.falls = !all;
    if (!rows_.empty()) emit dataChanged(index(0, falls), index(rowCount() - 1, falls));
}

QStringList RunModel::choices() const {
    QStringList words;
    for (const Parameter& parameter : instrument().parameters)
        words << tr("%1 (%2)").arg(nameToShow(nameOf(parameter)),
                                   toQt(describe::targetMessage(parameter.message)));
    return words << tr("Nothing");
}

std::vector<CellModel::Column> RunModel::cellColumns() const {
    return {{tr("Control")}, {tr("Leads to")}, {tr("Falls ☐")}};
}

QVariant RunModel::cell(int row, int column, int role) const {
    const reuse::RunRow& at = rows_[static_cast<std::size_t>(row)];
    const int place = static_cast<int>(placeOf(instrument().parameters, at.parameter));
    switch (column) {
        case control:
            return role == Qt::DisplayRole ? QVariant(toQt(describe::sourceName(ensemble_, at.source)))
                                           : QVariant();
        case leadsTo:
            if (role == Qt::EditRole) return place;
            if (role == choicesRole) return choices();
            return role == Qt::DisplayRole ? QVariant(choices().value(place)) : QVariant();
        default:
            return role == Qt::CheckStateRole ? QVariant(at.falls ? Qt::Checked : Qt::Unchecked) : QVariant();
    }
}

QStringList RunModel::type(const QString&, const std::vector<Typed>& cells) {
    for (const Typed& each : cells) {
        reuse::RunRow& at = rows_[static_cast<std::size_t>(each.row)];
        if (each.column == falls) {
            at.falls = each.value.toInt() == Qt::Checked;
        } else {
            const auto place = static_cast<std::size_t>(std::max(0, each.value.toInt()));
            const auto& parameters = instrument().parameters;
            at.parameter = place < parameters.size() ? parameters[place].id : std::string();
        }
        emit dataChanged(index(each.row, each.column), index(each.row, each.column));
    }
    return {};
}

Qt::ItemFlags RunModel::use(int, int column) const {
    if (column == leadsTo) return Qt::ItemIsEditable;
    return column == falls ? Qt::ItemIsUserCheckable : Qt::NoItemFlags;
}

RunDialog::RunDialog(Workspace& workspace, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      instrument_(workspace.selection.now().instrument),
      first_(new SourcePick(workspace, tr("First control"))),
      parameter_(new QComboBox),
      count_(new QSpinBox),
      bank_(new QSpinBox),
      nextBank_(new QSpinBox),
      make_(new QPushButton),
      why_(new QLabel),
      model_(new RunModel(workspace.document.ensemble(), instrument_, this)) {
    setObjectName(QStringLiteral("runDialog"));
    setWindowTitle(tr("A run of chains"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* help =
        new QLabel(tr("Move the first control, or choose it; then choose the first parameter and how "
                      "many there are."));
    help->setWordWrap(true);
    column->addWidget(help);
    auto* form = new QFormLayout;
    first_->setObjectName(QStringLiteral("runFirst"));
    form->addRow(tr("First control"), first_);
    const Instrument& instrument = model_->instrument();
    parameter_->setObjectName(QStringLiteral("runParameter"));
    for (const Parameter& parameter : instrument.parameters)
        parameter_->addItem(nameToShow(nameOf(parameter)));
    form->addRow(tr("First parameter"), parameter_);
    count_->setObjectName(QStringLiteral("runCount"));
    count_->setRange(1, 128);
    count_->setValue(std::min(9, static_cast<int>(instrument.parameters.size())));
    form->addRow(tr("How many"), count_);
    auto* banks = new QHBoxLayout;
    bank_->setObjectName(QStringLiteral("runBank"));
    bank_->setRange(0, 64);
    bank_->setSpecialValueText(tr("one bank"));
    bank_->setAccessibleName(tr("Controls in a bank"));
    nextBank_->setObjectName(QStringLiteral("runNextBank"));
    nextBank_->setRange(0, 16383);
    nextBank_->setAccessibleName(tr("Number at which the second bank begins"));
    banks->addWidget(bank_);
    banks->addWidget(new QLabel(tr("the second begins at")));
    banks->addWidget(nextBank_, 1);
    form->addRow(tr("Controls in a bank"), banks);
    column->addLayout(form);
    auto* table = new CellTable(*model_, QStringLiteral("runRows"), tr("Chains that will be made"));
    table->setRowHeight(32);
    table->setSelectionMode(QAbstractItemView::NoSelection);
    table->showChoices(RunModel::leadsTo);
    table->horizontalHeader()->setSectionResizeMode(RunModel::falls, QHeaderView::ResizeToContents);
    table->horizontalHeader()->setSectionsClickable(true);
    table->horizontalHeader()->setToolTip(tr("Click on Falls to tick all of them, or none"));
    connect(table->horizontalHeader(), &QHeaderView::sectionClicked, model_, [this](int section) {
        if (section == RunModel::falls) model_->turnAll();
    });
    column->addWidget(table, 1);
    why_->setObjectName(QStringLiteral("whyRunEnds"));
    why_->setProperty("role", "help");
    why_->setWordWrap(true);
    column->addWidget(why_);
    make_->setObjectName(QStringLiteral("makeRun"));
    auto* buttons = addButtons(*this, *column, *make_);
    connect(buttons, &QDialogButtonBox::accepted, this, &RunDialog::make);
    connect(first_, &SourcePick::changed, this, &RunDialog::propose);
    connect(parameter_, &QComboBox::currentIndexChanged, this, &RunDialog::propose);
    for (QSpinBox* box : {count_, bank_, nextBank_}) {
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        connect(box, &QSpinBox::valueChanged, this, &RunDialog::propose);
    }
    connect(model_, &QAbstractItemModel::dataChanged, this, [this] {
        make_->setText(tr("Make %n chain(s)", nullptr, model_->chains()));
        make_->setEnabled(model_->chains() > 0);
    });
    first_->listen(true);
    propose();
    resize(scaled(520), scaled(560));
}

void RunDialog::propose() {
    const Instrument& instrument = model_->instrument();
    reuse::RunWish wish;
    wish.first = first_->source();
    const auto place = static_cast<std::size_t>(std::max(0, parameter_->currentIndex()));
    if (place < instrument.parameters.size()) wish.firstParameter = instrument.parameters[place].id;
    wish.count = count_->value();
    wish.bank = bank_->value();
    wish.nextBank = nextBank_->value();
    nextBank_->setEnabled(wish.bank > 0);
    model_->show(reuse::run(model_->ensemble(), instrument, wish));
    why_->setText(toQt(reuse::whyRunEnds(model_->ensemble(), instrument, wish)));
    make_->setText(tr("Make %n chain(s)", nullptr, model_->chains()));
    make_->setEnabled(model_->chains() > 0);
}

void RunDialog::make() {
    std::vector<std::string> ids;
    workspace_.document.edit(tr("Make %n chain(s)", nullptr, model_->chains()),
                             [&](Ensemble& e) { ids = reuse::makeRun(e, instrument_, model_->rows()); });
    if (!ids.empty()) workspace_.selection.set({instrument_, ids.front(), Part::source, 0, 0});
    accept();
}

TwoKnobsDialog::TwoKnobsDialog(Workspace& workspace, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      instrument_(workspace.selection.now().instrument),
      chooses_(new SourcePick(workspace, tr("The knob that chooses"))),
      sets_(new SourcePick(workspace, tr("The knob that sets"))),
      parameters_(new QListWidget) {
    setObjectName(QStringLiteral("twoKnobsDialog"));
    setWindowTitle(tr("Two knobs for everything"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* help =
        new QLabel(tr("One knob walks through the parameters, the other sets the one it stands at. "
                      "Move the first, then the second, or choose them."));
    help->setWordWrap(true);
    column->addWidget(help);
    auto* form = new QFormLayout;
    chooses_->setObjectName(QStringLiteral("knobChooses"));
    sets_->setObjectName(QStringLiteral("knobSets"));
    form->addRow(tr("Chooses"), chooses_);
    form->addRow(tr("Sets"), sets_);
    column->addLayout(form);
    parameters_->setObjectName(QStringLiteral("knobParameters"));
    parameters_->setAccessibleName(tr("Parameters"));
    const Instrument* instrument = findById(workspace.document.ensemble().instruments, instrument_);
    for (const Parameter& parameter : instrument->parameters) {
        auto* item = new QListWidgetItem(nameToShow(nameOf(parameter)), parameters_);
        item->setData(Qt::UserRole, toQt(parameter.id));
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Checked);
    }
    column->addWidget(parameters_, 1);
    auto* make = new QPushButton(tr("Make the chain"));
    make->setObjectName(QStringLiteral("makeTwoKnobs"));
    auto* buttons = addButtons(*this, *column, *make);
    connect(buttons, &QDialogButtonBox::accepted, this, &TwoKnobsDialog::make);
    // Once the first has been moved the second is waited for.
    connect(chooses_, &SourcePick::heard, this, [this] {
        chooses_->listen(false);
        sets_->listen(true, chooses_->source());
    });
    connect(sets_, &SourcePick::heard, this, [this] { sets_->listen(false); });
    chooses_->listen(true);
    resize(scaled(420), scaled(440));
}

void TwoKnobsDialog::make() {
    std::vector<std::string> parameters;
    for (int i = 0; i < parameters_->count(); ++i) {
        if (parameters_->item(i)->checkState() == Qt::Checked)
            parameters.push_back(parameters_->item(i)->data(Qt::UserRole).toString().toStdString());
    }
    if (parameters.empty()) return workspace_.tell(tr("Tick the parameters that the knobs are to reach."));
    std::string id;
    workspace_.document.edit(tr("Make two knobs for everything"), [&](Ensemble& e) {
        id = reuse::makeTwoKnobs(e, instrument_, chooses_->source(), sets_->source(), parameters);
    });
    if (!id.empty()) workspace_.selection.set({instrument_, id, Part::source, 0, 0});
    accept();
}

}  // namespace mellow::app
