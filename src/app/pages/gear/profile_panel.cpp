// The table is the profile; a row of buttons does what is done often, a menu the rest.
#include "app/pages/gear/profile_panel.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHeaderView>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>

#include "app/acts/reuse/reuse.h"
#include "app/acts/reuse/table_dialog.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/flow_layout.h"
#include "core/model/edit.h"
#include "core/profiles/select_text.h"
#include "core/reuse/parts.h"

namespace mellow::app {

ProfilePanel::ProfilePanel(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      choice_(new QComboBox),
      walkButton_(new QPushButton(tr("Walk through"))),
      switches_(new QPushButton(tr("Learn switches"))),
      transpose_(new QPushButton(tr("Transpose"))),
      walkText_(new QLabel),
      empty_(new QLabel),
      model_(new ProfileModel(workspace.document, this)),
      files_(new ProfileFiles(workspace, *model_, this)),
      table_(new CellTable(*model_, QStringLiteral("profileTable"), tr("Profile"))),
      walk_(new WalkThrough(workspace.document, workspace.live, this)),
      switchLearning_(new SwitchLearning(workspace.document, workspace.live, this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(scaled(6));
    column->addLayout(buildHead());
    walkText_->setObjectName(QStringLiteral("walkText"));
    walkText_->setWordWrap(true);
    walkText_->setProperty("role", "help");
    column->addWidget(walkText_);
    buildTable();
    column->addWidget(table_, 1);
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setProperty("role", "help");
    empty_->setObjectName(QStringLiteral("profileEmpty"));
    empty_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored);
    column->addWidget(empty_, 1);
    listen();
    follow();
}

QLayout* ProfilePanel::buildHead() {
    auto* head = new FlowLayout(scaled(6));
    choice_->setObjectName(QStringLiteral("profile"));
    choice_->setAccessibleName(tr("Profile"));
    choice_->setToolTip(tr("Whose profile: a controller’s controls, or an instrument’s parameters"));
    choice_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    head->addWidget(choice_);
    const auto add = [&](const QString& text, const QString& tip, const char* name, auto act) {
        auto* button = new QPushButton(text);
        button->setToolTip(tip);
        button->setObjectName(QLatin1String(name));
        connect(button, &QPushButton::clicked, this, act);
        head->addWidget(button);
        return button;
    };
    walkButton_->setObjectName(QStringLiteral("walkThrough"));
    walkButton_->setCheckable(true);
    walkButton_->setToolTip(tr("Move each control once, and the profile writes itself"));
    connect(walkButton_, &QPushButton::clicked, this, &ProfilePanel::walkThrough);
    head->addWidget(walkButton_);
    buildSwitches();
    head->addWidget(switches_);
    head->addWidget(transpose_);
    add(tr("Add"), tr("Add a row"), "addRow", [this] { addRow(); });
    add(tr("Paste"), tr("Paste rows or a column from a spreadsheet (Ctrl+V)"), "pasteRows",
        [this] { paste(); });
    add(tr("Fill down"), tr("The selected cells take the first one’s value (Ctrl+J)"), "fillDown",
        [this] { fillDown(); });
    add(tr("Renumber"), tr("The selected rows are numbered on from the first (Ctrl+Shift+J)"), "renumber",
        [this] { renumber(); });
    head->addWidget(buildMore());
    return head;
}

/// What only articulations have.
void ProfilePanel::buildSwitches() {
    switches_->setObjectName(QStringLiteral("learnSwitches"));
    switches_->setCheckable(true);
    switches_->setToolTip(tr("Play its key switches, one for each row from the selected one on"));
    connect(switches_, &QPushButton::clicked, this, &ProfilePanel::learnSwitches);
    transpose_->setObjectName(QStringLiteral("transposeSwitches"));
    transpose_->setToolTip(
        tr("Move the key switches of the selected rows, or of all, where a chart counts otherwise"));
    auto* moves = new QMenu(transpose_);
    for (const int by : {12, 1, -1, -12}) {
        const QString words = std::abs(by) == 1 ? (by > 0 ? tr("A semitone up") : tr("A semitone down"))
                                                : (by > 0 ? tr("An octave up") : tr("An octave down"));
        moves->addAction(words, this, [this, by] { transposeSwitches(by); });
    }
    transpose_->setMenu(moves);
}

QWidget* ProfilePanel::buildMore() {
    auto* more = new QPushButton(tr("More"));
    more->setObjectName(QStringLiteral("profileMore"));
    auto* menu = new QMenu(more);
    menu->addAction(tr("Add a controller"), this, &ProfilePanel::addController);
    menu->addSeparator();
    menu->addAction(tr("Import CSV or .midnam…"), files_, &ProfileFiles::read);
    menu->addAction(tr("Export as CSV or .midnam…"), this, [this] { files_->write(nameShown()); });
    menu->addSeparator();
    menu->addAction(tr("Keep in the library…"), this, &ProfilePanel::keep);
    menu->addAction(tr("From the library…"), this, [this] { workspace_.reuse.find(choice_); });
    menu->addAction(tr("Swap for another…"), this, &ProfilePanel::swap);
    menu->addSeparator();
    menu->addAction(tr("Copy the selected rows"), this, &ProfilePanel::copyRows);
    menu->addAction(tr("Remove the selected rows"), this, &ProfilePanel::removeRows);
    menu->addAction(tr("Remove the controller"), this, &ProfilePanel::removeProfile);
    more->setMenu(menu);
    return more;
}

void ProfilePanel::buildTable() {
    table_->setRowHeight(26);
    // It takes what height there is, and needs that of its head and three rows.
    table_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored);
    table_->setMinimumHeight(scaled(104));
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                            QAbstractItemView::AnyKeyPressed);
    table_->horizontalHeader()->setMinimumSectionSize(scaled(44));
    table_->setTabKeyNavigation(false);
    connect(table_, &CellTable::pasteAsked, this, &ProfilePanel::paste);
    connect(table_, &CellTable::copyAsked, this, &ProfilePanel::copyRows);
    connect(table_, &CellTable::removeAsked, this, &ProfilePanel::removeRows);
}

void ProfilePanel::listen() {
    connect(files_, &ProfileFiles::brought, this, &ProfilePanel::show);
    connect(choice_, &QComboBox::activated, this, [this](int chosen) {
        if (chosen >= 0 && chosen < static_cast<int>(places_.size()))
            show(places_[static_cast<std::size_t>(chosen)]);
    });
    connect(model_, &ProfileModel::refused, this,
            [this](const QString& sentence) { workspace_.tell(sentence); });
    connect(&workspace_.document, &Document::changed, this, [this](const Change& change) {
        // Profiles do not hang on chains.
        const bool chainsAlone = change.chains && !change.everything && !change.order && !change.controllers;
        if (!chainsAlone) follow();
    });
    connect(walk_, &WalkThrough::changed, this, [this] {
        follow();
        if (walk_->last()) table_->selectRow(static_cast<int>(*walk_->last()));
    });
    connect(switchLearning_, &SwitchLearning::changed, this, [this] {
        follow();
        if (switchLearning_->isOn()) table_->selectRow(static_cast<int>(switchLearning_->row()));
    });
    // A click on a parameter touches it; one on an articulation tries it.
    connect(table_, &QTableView::clicked, this, [this](const QModelIndex& at) {
        if (model_->place().of == ProfilePlace::Of::parameters && model_->instrument() != nullptr &&
            at.row() < static_cast<int>(model_->instrument()->parameters.size()))
            workspace_.touched.touch(
                {model_->instrument()->id,
                 model_->instrument()->parameters[static_cast<std::size_t>(at.row())].id});
        if (isOfArticulations() && !switchLearning_->isOn())
            workspace_.live.hands().choose(model_->place().id, static_cast<std::size_t>(at.row()));
    });
}

bool ProfilePanel::isOfArticulations() const {
    return model_->place().of == ProfilePlace::Of::articulations && model_->instrument() != nullptr;
}

void ProfilePanel::learnSwitches() {
    if (switchLearning_->isOn() || !isOfArticulations()) {
        switchLearning_->stop();
    } else {
        const auto chosen = table_->chosenRows();
        switchLearning_->start(model_->place().id, chosen.empty() ? 0 : chosen.front());
    }
    follow();
}

void ProfilePanel::transposeSwitches(int semitones) {
    if (!isOfArticulations()) return;
    const auto chosen = table_->chosenRows();
    bool fits = true;
    workspace_.document.edit(tr("Transpose the key switches"), [&](Ensemble& e) {
        Instrument* found = findById(e.instruments, model_->place().id);
        if (found != nullptr)
            fits = profiles::transposeSwitches(
                found->articulations, chosen.size() > 1 ? chosen : std::vector<std::size_t>(), semitones);
    });
    if (!fits) workspace_.tell(tr("A key switch would leave the keyboard."));
}

QString ProfilePanel::nameShown() const {
    return choice_->currentText().section(QStringLiteral(" · "), 0, 0);
}

void ProfilePanel::fillChoice() {
    const Ensemble& ensemble = workspace_.document.ensemble();
    std::vector<ProfilePlace> places;
    QStringList names;
    for (const Controller& each : ensemble.controllers) {
        places.push_back(ProfilePlace::controls(each.id));
        names << tr("%1 · controls").arg(nameToShow(nameOf(each)));
    }
    for (const Instrument& each : ensemble.instruments) {
        places.push_back(ProfilePlace::parameters(each.id));
        names << tr("%1 · parameters").arg(nameToShow(nameOf(each)));
        places.push_back(ProfilePlace::articulations(each.id));
        names << tr("%1 · articulations").arg(nameToShow(nameOf(each)));
    }
    QStringList shown;
    for (int i = 0; i < choice_->count(); ++i) shown << choice_->itemText(i);
    if (places != places_ || names != shown) {
        places_ = std::move(places);
        choice_->clear();
        choice_->addItems(names);
    }
    const auto found = std::find(places_.begin(), places_.end(), model_->place());
    choice_->setCurrentIndex(found == places_.end() ? -1 : static_cast<int>(found - places_.begin()));
    choice_->setVisible(!places_.empty());
}

void ProfilePanel::follow() {
    if (model_->controller() == nullptr && model_->instrument() == nullptr) {
        // What was shown is gone, or nothing was yet.
        const Ensemble& ensemble = workspace_.document.ensemble();
        ProfilePlace next;
        if (!ensemble.controllers.empty()) {
            next = ProfilePlace::controls(ensemble.controllers.front().id);
        } else if (!ensemble.instruments.empty()) {
            next = ProfilePlace::parameters(ensemble.instruments.front().id);
        }
        model_->show(next);
    }
    fillChoice();
    const bool any = model_->controller() != nullptr || model_->instrument() != nullptr;
    const bool rows = any && model_->rowCount() > 0;
    table_->setVisible(rows);
    empty_->setVisible(!rows);
    empty_->setText(
        !any ? tr("No controller and no instrument is here yet. Add a controller, or take one from the "
                  "library.")
        : model_->controller() != nullptr
            ? tr("Nothing is known of it yet. Press Walk through and move each of its controls once, or add, "
                 "paste or import rows.")
        : isOfArticulations() ? tr("No way of playing is known of it yet. Press Learn switches and play its "
                                   "key switches, or add or "
                                   "paste what its chart says.")
                              : tr("It listens to nothing yet. Add, paste or import what its chart says."));
    walkButton_->setVisible(!isOfArticulations());
    walkButton_->setEnabled(model_->controller() != nullptr);
    walkButton_->setChecked(walk_->isOn());
    switches_->setVisible(isOfArticulations());
    transpose_->setVisible(isOfArticulations());
    switches_->setChecked(switchLearning_->isOn());
    walkText_->setVisible(walk_->isOn() || switchLearning_->isOn());
    walkText_->setText(switchLearning_->isOn() ? switchLearning_->says() : walk_->says());
}

void ProfilePanel::show(const ProfilePlace& place) {
    if (switchLearning_->isOn() && place != model_->place()) switchLearning_->stop();
    if (walk_->isOn() && (!place.isController() || place.id != walk_->controller())) walk_->stop();
    model_->show(place);
    follow();
}

void ProfilePanel::showPort(bool input, const std::string& port) {
    port_ = input ? port : std::string();
    const Ensemble& ensemble = workspace_.document.ensemble();
    if (input) {
        for (const Controller& each : ensemble.controllers) {
            if (each.port == port) return show(ProfilePlace::controls(each.id));
        }
        return;
    }
    for (const Instrument& each : ensemble.instruments) {
        if (each.output.port == port) return show(ProfilePlace::parameters(each.id));
    }
}

void ProfilePanel::addController() {
    ProfilePlace made = ProfilePlace::controls({});
    workspace_.document.edit(tr("Add a controller"), [&](Ensemble& e) {
        Controller controller;
        controller.name = "New controller";
        controller.id = made.id = newId(e.controllers, controller.name);
        controller.port = port_.empty() ? std::string(anyPort) : port_;
        e.controllers.push_back(std::move(controller));
    });
    show(made);
}

void ProfilePanel::tellAll(const QStringList& complaints) {
    if (!complaints.isEmpty()) workspace_.tell(TableDialog::listed(complaints));
}

void ProfilePanel::removeRows() {
    const auto chosen = table_->chosenRows();
    if (chosen.empty()) return workspace_.tell(tr("Select the rows to remove."));
    model_->removeThings(chosen);
}

void ProfilePanel::copyRows() {
    const auto chosen = table_->chosenRows();
    if (chosen.empty()) return;
    const auto table = chosen.size() == static_cast<std::size_t>(model_->rowCount()) ? model_->wholeTable()
                                                                                     : model_->table(chosen);
    QGuiApplication::clipboard()->setText(toQt(profiles::printCells(table)));
}

void ProfilePanel::paste() {
    const QString text = QGuiApplication::clipboard()->text();
    if (text.trimmed().isEmpty()) return workspace_.tell(tr("The clipboard holds no text to paste."));
    profiles::Table table = profiles::parseTable(text.toStdString());
    const bool oneColumn =
        std::all_of(table.begin(), table.end(), [](const auto& row) { return row.size() == 1; });
    if (oneColumn) {
        QStringList texts;
        for (const auto& row : table) texts << toQt(row.front());
        return tellAll(model_->typeDown(texts, table_->currentIndex()));
    }
    files_->takeIn(tr("Paste rows"), std::move(table));
}

void ProfilePanel::fillDown() {
    const auto chosen = table_->chosenRows();
    if (chosen.size() < 2) return workspace_.tell(tr("Select the cell to copy and those below it."));
    QStringList complaints;
    for (const int column : table_->chosenColumns()) complaints << model_->fillDown(column, chosen);
    tellAll(complaints);
}

void ProfilePanel::renumber() {
    const auto chosen = table_->chosenRows();
    if (chosen.size() < 2) return workspace_.tell(tr("Select the rows to number on from the first."));
    model_->renumber(chosen);
}

void ProfilePanel::walkThrough() {
    if (walk_->isOn() || model_->controller() == nullptr) {
        walk_->stop();
    } else {
        walk_->start(model_->place().id);
    }
    follow();
}

void ProfilePanel::keep() {
    const Ensemble& ensemble = workspace_.document.ensemble();
    if (model_->controller() != nullptr)
        return workspace_.reuse.keep(reuse::takeController(ensemble, model_->controller()->id, true));
    if (model_->instrument() != nullptr)
        return workspace_.reuse.keep(reuse::takeInstrument(ensemble, model_->instrument()->id));
    workspace_.tell(tr("There is nothing to keep yet."));
}

void ProfilePanel::swap() {
    if (model_->controller() != nullptr)
        return workspace_.reuse.swapController(choice_, model_->controller()->id);
    if (model_->instrument() == nullptr) return;
    workspace_.selection.set({model_->instrument()->id, {}, mellow::app::Part::instrument, 0, 0});
    workspace_.reuse.swapInstrument(choice_);
}

void ProfilePanel::removeProfile() {
    if (model_->controller() == nullptr)
        return workspace_.tell(tr("An instrument is removed on the Chains page, where its chains are seen."));
    workspace_.document.edit(tr("Remove the controller"), [id = model_->controller()->id](Ensemble& e) {
        std::erase_if(e.controllers, [&id](const Controller& each) { return each.id == id; });
    });
}

}  // namespace mellow::app
