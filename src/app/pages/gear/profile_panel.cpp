// The table is the profile; a row of buttons does what is done often, a menu the rest. What is imported is
// merged: what has the same name and message takes the place of what was there, so that chains find it again.
#include "app/pages/gear/profile_panel.h"

#include <QClipboard>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHeaderView>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>
#include <memory>

#include "app/acts/reuse/reuse.h"
#include "app/acts/reuse/table_dialog.h"
#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/flow_layout.h"
#include "core/files/files.h"
#include "core/model/edit.h"
#include "core/profiles/name_document.h"
#include "core/profiles/select_text.h"
#include "core/reuse/parts.h"
#include "core/text/utf8.h"

namespace mellow::app {

namespace {

constexpr std::size_t largestImport = std::size_t{16} << 20;

bool isNames(const QString& path) {
    return path.endsWith(QLatin1String(".midnam"), Qt::CaseInsensitive);
}

struct Imported {
    std::string text;
    bool isGuess = false;  ///< it is not UTF-8
};

Result<Imported> importedText(const QString& path) {
    const std::string file = QFile::encodeName(path).toStdString();
    auto text = files::readTextFile(file);
    if (!text) return text.problem();
    if (text->size() > largestImport)
        return Problem{file, "it is larger than 16 MB", "import a profile, or a part of it"};
    const bool isGuess = text::toUtf8(*text).isGuess();
    return Imported{std::move(*text), isGuess};
}

}  // namespace

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
    menu->addAction(tr("Import CSV or .midnam…"), this, &ProfilePanel::importFile);
    menu->addAction(tr("Export as CSV or .midnam…"), this, &ProfilePanel::exportFile);
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
        if (model_->place().of == ProfilePlace::Of::parameters && instrument() != nullptr &&
            at.row() < static_cast<int>(instrument()->parameters.size()))
            workspace_.touched.touch(
                {instrument()->id, instrument()->parameters[static_cast<std::size_t>(at.row())].id});
        if (isOfArticulations() && !switchLearning_->isOn())
            workspace_.live.hands().choose(model_->place().id, static_cast<std::size_t>(at.row()));
    });
}

bool ProfilePanel::isOfArticulations() const {
    return model_->place().of == ProfilePlace::Of::articulations && instrument() != nullptr;
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

const Controller* ProfilePanel::controller() const {
    const ProfilePlace& place = model_->place();
    return place.isController() ? findById(workspace_.document.ensemble().controllers, place.id) : nullptr;
}

const Instrument* ProfilePanel::instrument() const {
    const ProfilePlace& place = model_->place();
    return place.isController() ? nullptr : findById(workspace_.document.ensemble().instruments, place.id);
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
    if (controller() == nullptr && instrument() == nullptr) {
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
    const bool any = controller() != nullptr || instrument() != nullptr;
    const bool rows = any && model_->rowCount() > 0;
    table_->setVisible(rows);
    empty_->setVisible(!rows);
    empty_->setText(
        !any ? tr("No controller and no instrument is here yet. Add a controller, or take one from the "
                  "library.")
        : controller() != nullptr
            ? tr("Nothing is known of it yet. Press Walk through and move each of its controls once, or add, "
                 "paste or import rows.")
        : isOfArticulations() ? tr("No way of playing is known of it yet. Press Learn switches and play its "
                                   "key switches, or add or "
                                   "paste what its chart says.")
                              : tr("It listens to nothing yet. Add, paste or import what its chart says."));
    walkButton_->setVisible(!isOfArticulations());
    walkButton_->setEnabled(controller() != nullptr);
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
    takeIn(tr("Paste rows"), std::move(table));
}

/// What is understood is shown before.
void ProfilePanel::takeIn(const QString& title, profiles::Table table) {
    if (controller() == nullptr && instrument() == nullptr)
        return workspace_.tell(tr("Choose first whose profile the table is."));
    TableDialog::takeIn(window(), title, *model_, std::move(table), workspace_.tell);
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
    if (walk_->isOn() || controller() == nullptr) {
        walk_->stop();
    } else {
        walk_->start(model_->place().id);
    }
    follow();
}

void ProfilePanel::importFile() {
    const QString path = QFileDialog::getOpenFileName(
        this, tr("Import a profile"), {}, tr("Tables and name documents (*.csv *.tsv *.txt *.midnam)"));
    if (!path.isEmpty()) importFrom(path);
}

void ProfilePanel::importFrom(const QString& path) {
    const QString saying = tr("Importing %1").arg(QFileInfo(path).fileName());
    const auto read = doneUnlessLeft({saying}, [path] { return importedText(path); });
    if (!read) return;
    if (!*read) return workspace_.tell(toQt(read->problem().sentence()));
    const auto& [text, isGuess] = **read;
    if (isGuess)
        workspace_.tell(tr("%1 is not UTF-8, and was read as Windows-1252; look at its letters.").arg(path));
    if (isNames(path)) return importNames(path, text);
    if (controller() == nullptr && instrument() == nullptr)
        return workspace_.tell(tr("Choose first whose profile the table is."));
    auto table = doneUnlessLeft({saying}, [text = text] { return profiles::parseTable(text); });
    if (!table) return;
    if (table->empty()) return workspace_.tell(tr("%1 holds no table.").arg(path));
    takeIn(saying, std::move(*table));
}

/// The controls of the document's only device join the instrument that is shown; several become instruments.
void ProfilePanel::importNames(const QString& path, const std::string& text) {
    const QString saying = tr("Importing %1").arg(QFileInfo(path).fileName());
    const auto parsed = doneUnlessLeft({saying}, [text] { return profiles::parseNames(text); });
    if (!parsed) return;
    const auto& named = *parsed;
    if (!named) return workspace_.tell(tr("%1: %2").arg(path, toQt(named.problem().sentence())));
    const std::string shown = instrument() != nullptr ? instrument()->id : std::string();
    const auto made = std::make_shared<ProfilePlace>(ProfilePlace::parameters(shown));
    const bool done =
        workspace_.document.editAside(tr("Import names"), saying, [shown, made, named](Ensemble& e) {
            Instrument* into = findById(e.instruments, shown);
            if (into != nullptr && named->instruments.size() == 1) {
                profiles::merge(into->parameters, named->instruments.front().parameters);
                return;
            }
            mellow::Part part;
            part.instruments = named->instruments;
            made->id = reuse::putInstruments(e, part).front();
        });
    if (!done) return;
    show(*made);
    QStringList remarks;
    for (const std::string& remark : named->remarks) remarks << toQt(remark);
    tellAll(remarks);
}

void ProfilePanel::exportFile() {
    const QString suggestion = choice_->currentText().section(QStringLiteral(" · "), 0, 0);
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Export the profile"), suggestion + QStringLiteral(".csv"),
                                     tr("Table (*.csv);;MIDI name document (*.midnam)"));
    if (!path.isEmpty()) exportTo(path);
}

void ProfilePanel::exportTo(const QString& path) {
    std::string text;
    QStringList remarks;
    if (isNames(path)) {
        if (instrument() == nullptr)
            return workspace_.tell(tr("A name document is of an instrument; choose one, or export as CSV."));
        const auto printed = profiles::printNames(*instrument());
        text = printed.text;
        for (const std::string& remark : printed.remarks) remarks << toQt(remark);
    } else {
        text = profiles::printCsv(model_->wholeTable());
    }
    const Outcome written = doneAside({tr("Writing %1").arg(QFileInfo(path).fileName())}, [&] {
        return files::writeFile(QFile::encodeName(path).toStdString(), std::string_view(text));
    });
    if (!written) return workspace_.tell(toQt(written.problem().sentence()));
    tellAll(remarks);
}

void ProfilePanel::keep() {
    const Ensemble& ensemble = workspace_.document.ensemble();
    if (controller() != nullptr)
        return workspace_.reuse.keep(reuse::takeController(ensemble, controller()->id, true));
    if (instrument() != nullptr)
        return workspace_.reuse.keep(reuse::takeInstrument(ensemble, instrument()->id));
    workspace_.tell(tr("There is nothing to keep yet."));
}

void ProfilePanel::swap() {
    if (controller() != nullptr) return workspace_.reuse.swapController(choice_, controller()->id);
    if (instrument() == nullptr) return;
    workspace_.selection.set({instrument()->id, {}, mellow::app::Part::instrument, 0, 0});
    workspace_.reuse.swapInstrument(choice_);
}

void ProfilePanel::removeProfile() {
    if (controller() == nullptr)
        return workspace_.tell(tr("An instrument is removed on the Chains page, where its chains are seen."));
    workspace_.document.edit(tr("Remove the controller"), [id = controller()->id](Ensemble& e) {
        std::erase_if(e.controllers, [&id](const Controller& each) { return each.id == id; });
    });
}

}  // namespace mellow::app
