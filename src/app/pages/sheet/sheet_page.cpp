// The bar above, the rows, the strip of what can be done to many of them. What the buttons do are actions,
// which stand in the menu too.
#include "app/pages/sheet/sheet_page.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/sheet/bulk_dialog.h"
#include "app/pages/sheet/cleaning_dialog.h"
#include "app/pages/sheet/sheet_look.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/make_action.h"
#include "core/profiles/delimited.h"

namespace mellow::app {

namespace {

struct GroupingName {
    sheet::Grouping grouping;
    QString name;
};
std::vector<GroupingName> groupings() {
    return {{sheet::Grouping::controller, SheetPage::tr("By controller")},
            {sheet::Grouping::instrument, SheetPage::tr("By instrument")},
            {sheet::Grouping::port, SheetPage::tr("By port")},
            {sheet::Grouping::none, SheetPage::tr("Not grouped")}};
}

QPushButton* plainButton(const QString& text, const char* name, const QString& tip) {
    auto* button = new QPushButton(text);
    button->setObjectName(QLatin1String(name));
    button->setProperty("role", "plain");
    button->setToolTip(tip);
    return button;
}

}  // namespace

SheetPage::SheetPage(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      model_(new SheetModel(workspace.document, workspace.live, this)),
      view_(new SheetView(*model_)),
      asking_(new Asking(workspace, this)),
      files_(new SheetFiles(workspace, this)),
      byMove_(plainButton(tr("By what I move"), "sheetByMove", tr("Turn the sheet round (T)"))),
      byHear_(plainButton(tr("By what I hear"), "sheetByHear", tr("Turn the sheet round (T)"))),
      search_(new SheetSearch),
      ask_(plainButton(
          tr("What does this do?"), "sheetAsk",
          tr("Move a control, touch a target or click a row, and see what belongs to it (I; held, "
             "as long as it is held)"))),
      group_(plainButton({}, "sheetGroup", tr("How rows are grouped"))),
      columns_(plainButton(tr("Columns…"), "sheetColumns", tr("Which columns are shown"))),
      summary_(new QLabel),
      asked_(new QWidget),
      about_(new QLabel),
      way_(new QLabel),
      nothing_(new QLabel),
      chosen_(new QLabel) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(14), scaled(10), scaled(14), scaled(8));
    column->setSpacing(scaled(8));
    column->addWidget(buildBar());
    column->addWidget(buildAsked());
    column->addWidget(view_, 1);
    nothing_->setObjectName(QStringLiteral("sheetNothing"));
    nothing_->setAlignment(Qt::AlignCenter);
    nothing_->setWordWrap(true);
    nothing_->setProperty("role", "help");
    nothing_->setTextFormat(Qt::PlainText);
    column->addWidget(nothing_, 1);
    column->addWidget(buildStrip());
    buildActions();
    buildFileActions();
    loadLook();
    connectAll();
}

QWidget* SheetPage::buildBar() {
    auto* bar = new QWidget;
    auto* flow = new FlowLayout(scaled(6));
    bar->setLayout(flow);
    byMove_->setCheckable(true);
    byHear_->setCheckable(true);
    ask_->setCheckable(true);
    auto* print =
        plainButton(tr("Print…"), "sheetPrint", tr("Print what the search finds, for the wall (Ctrl+P)"));
    connect(print, &QPushButton::clicked, this, [this] { files_->print(model_->wish()); });
    for (QWidget* each :
         std::initializer_list<QWidget*>{byMove_, byHear_, search_, ask_, group_, columns_, print})
        flow->addWidget(each);
    return bar;
}

/// What is asked of, and the way through one row; two lines, whatever they say.
QWidget* SheetPage::buildAsked() {
    auto* column = new QVBoxLayout(asked_);
    column->setContentsMargins(scaled(10), scaled(6), scaled(10), scaled(6));
    column->setSpacing(scaled(2));
    asked_->setObjectName(QStringLiteral("asked"));
    about_->setObjectName(QStringLiteral("askedAbout"));
    way_->setObjectName(QStringLiteral("askedWay"));
    way_->setFont(numberFont());
    for (QLabel* label : {about_, way_}) {
        label->setTextFormat(Qt::PlainText);
        label->setWordWrap(true);
        column->addWidget(label);
    }
    about_->setProperty("role", "section");
    asked_->hide();
    return asked_;
}

/// What can be done to many rows; it is always there, so that it comes and goes under nobody's hand.
QWidget* SheetPage::buildStrip() {
    auto* strip = new QWidget;
    strip->setObjectName(QStringLiteral("bulkStrip"));
    auto* row = new QHBoxLayout(strip);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(scaled(10));
    chosen_->setObjectName(QStringLiteral("sheetChosen"));
    chosen_->setProperty("role", "section");
    row->addWidget(chosen_);
    auto* inner = new QWidget;
    auto* flow = new FlowLayout(scaled(6));
    inner->setLayout(flow);
    row->addWidget(inner, 1);
    summary_->setObjectName(QStringLiteral("sheetSummary"));
    summary_->setProperty("role", "caption");
    row->addWidget(summary_);
    for (const BulkKind& kind : bulkKinds()) {
        auto* button = new QPushButton(kind.title());
        button->setObjectName(QStringLiteral("bulk-") + QLatin1String(kind.id));
        button->setToolTip(kind.tip());
        connect(button, &QPushButton::clicked, this, [this, &kind] { openBulk(kind); });
        flow->addWidget(button);
        bulkButtons_.push_back(button);
    }
    return strip;
}

QAction* SheetPage::addAction(const QString& text, const QKeySequence& keys, const QString& tip,
                              std::function<void()> act) {
    actions_ << makeAction(this, text, keys, tip, [act = std::move(act)] { act(); });
    return actions_.back();
}

void SheetPage::buildActions() {
    addAction(tr("&Turn round"), QKeySequence(Qt::Key_T), tr("By what I move, or by what I hear"), [this] {
        turnTo(model_->wish().by == sheet::Reading::move ? sheet::Reading::hear : sheet::Reading::move);
    });
    addAction(tr("&Search"), QKeySequence::Find, tr("Search the sheet as you type"), [this] {
        search_->setFocus(Qt::ShortcutFocusReason);
        search_->selectAll();
    });
    addAction(tr("&What does this do?"), QKeySequence(Qt::Key_I),
              tr("Move a control, touch a target or click a row, and see what belongs to it"),
              [this] { asking_->setOn(!asking_->isOn()); })
        ->setAutoRepeat(false);
    addAction(tr("Choose &all"), QKeySequence::SelectAll, tr("Choose all rows that the search found"),
              [this] { view_->chooseAll(); });
    addAction(tr("Fold all &groups"), QKeySequence(Qt::CTRL | Qt::Key_Minus), tr("Show the heads alone"),
              [this] {
                  wish([this](sheet::Wish& wanted) {
                      for (const sheet::Group& group : model_->arranged().groups)
                          wanted.folded.insert(group.key);
                  });
              });
    addAction(tr("&Unfold all groups"), QKeySequence(Qt::CTRL | Qt::Key_Plus), tr("Show every row"),
              [this] { wish([](sheet::Wish& wanted) { wanted.folded.clear(); }); });
    addAction(tr("Fill &down"), QKeySequence(Qt::CTRL | Qt::Key_J),
              tr("The chosen cells take the first one’s value"), [this] {
                  const QStringList complaints =
                      model_->fillDown(std::max(0, view_->currentIndex().column()), view_->chosenRows());
                  if (!complaints.isEmpty())
                      workspace_.hint(complaints.join(QStringLiteral("; ")) + QLatin1Char('.'));
              });
    for (const BulkKind& kind : bulkKinds())
        addAction(kind.title(), {}, kind.tip(), [this, &kind] { openBulk(kind); });
}

void SheetPage::buildFileActions() {
    addAction(tr("&Print…"), QKeySequence::Print, tr("Print what the search finds, for the wall"),
              [this] { files_->print(model_->wish()); });
    addAction(tr("&Write the sheet…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_E),
              tr("Write what the search finds as PDF, web page, spreadsheet or Markdown"),
              [this] { files_->write(model_->wish()); });
    addAction(tr("&Read a spreadsheet…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I),
              tr("Read a spreadsheet that was written here and changed, and see what it would change"),
              [this] { files_->read(); });
    addAction(tr("&Clean up…"), {}, tr("See what nobody uses, and remove it"),
              [this] { (new CleaningDialog(workspace_.document, window()))->open(); });
}

Page::Taken SheetPage::takeFile(const QString& path) {
    const bool isTable = path.endsWith(QLatin1String(".csv"), Qt::CaseInsensitive) ||
                         path.endsWith(QLatin1String(".tsv"), Qt::CaseInsensitive);
    if (!isVisible() || !isTable) return Taken::notOurs;
    return files_->readFrom(path) ? Taken::taken : Taken::refused;
}

std::vector<PageActions> SheetPage::actions() const {
    return {{tr("&Sheet"), actions_}};
}

void SheetPage::connectAll() {
    connect(byMove_, &QPushButton::clicked, this, [this] { turnTo(sheet::Reading::move); });
    connect(byHear_, &QPushButton::clicked, this, [this] { turnTo(sheet::Reading::hear); });
    connect(search_, &QLineEdit::textChanged, this, &SheetPage::find);
    connect(search_, &SheetSearch::rowsAsked, this, &SheetPage::goToRows);
    connect(ask_, &QPushButton::clicked, this, [this](bool on) { asking_->setOn(on); });
    connect(asking_, &Asking::changed, this, &SheetPage::followAsking);
    connect(&workspace_.live, &Live::movedAtAGlance, this, [this] {
        if (isVisible() && asking_->isOn()) sayWay();
    });
    connect(view_, &QTableView::clicked, this,
            [this](const QModelIndex& at) { asking_->askRow(model_->idAt(at.row())); });
    connect(group_, &QPushButton::clicked, this, &SheetPage::showGroups);
    connect(columns_, &QPushButton::clicked, this, &SheetPage::showColumns);
    connect(view_, &SheetView::sortAsked, this, &SheetPage::sortBy);
    connect(view_, &SheetView::columnsMoved, this, &SheetPage::saveLook);
    connect(view_, &SheetView::chosenChanged, this, &SheetPage::sayChosen);
    connect(view_, &SheetView::chainAsked, this, [this](const AssignmentId& id) {
        if (id.chain.empty()) return;
        workspace_.show(selectedOf(id));
    });
    connect(view_, &SheetView::copyAsked, this, &SheetPage::copy);
    connect(view_, &SheetView::pasteAsked, this, &SheetPage::paste);
    connect(view_, &SheetView::removeAsked, this, [this] { openBulk(bulkKinds().back()); });
    connect(view_->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            [this](const QModelIndex& now) {
                const AssignmentId id = model_->idAt(now.row());
                if (!isVisible() || id.chain.empty()) return;
                workspace_.selection.amend(selectedOf(id));
            });
    connect(model_, &CellModel::refused, this, [this](const QString& why) { workspace_.hint(why); });
    connect(model_, &SheetModel::arrangedAnew, this, &SheetPage::refresh);
    connect(&workspace_.document, &Document::changed, this, [this] { model_->followDocument(isVisible()); });
    connect(&workspace_.document, &Document::findingsChanged, this, [this] {
        if (!isVisible()) return;
        model_->followFindings();
        refresh();
    });
    connect(&workspace_.live, &Live::moved, this, [this] {
        if (isVisible()) view_->followValues();
    });
    connect(&workspace_.live, &Live::statusChanged, this, [this] {
        model_->followPorts();
        if (!isVisible()) return;
        refresh();
        view_->followValues();
    });
    connect(&workspace_.selection, &Selection::changed, this, &SheetPage::followSelection);
}

void SheetPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    model_->followDocument(true);
    model_->followFindings();
    followSelection();
    refresh();
    view_->followValues();
}

void SheetPage::followSelection() {
    if (!isVisible()) return;
    const auto& place = workspace_.selection.on<SheetPlace>();
    if (place.row == AssignmentId{}) return;
    view_->goTo(place.row);
    // It is where a person was led, and not held to.
    workspace_.selection.amend(SheetPlace{});
}

void SheetPage::followAsking() {
    ask_->setChecked(asking_->isOn());
    asked_->setVisible(asking_->isOn());
    wish(
        [this](sheet::Wish& wanted) { wanted.only = asking_->hasAsked() ? asking_->sharedRows() : nullptr; });
    about_->setText(asking_->about());
    sayWay();
}

/// Of the row that is current, where it belongs to what is asked of; else of the first.
void SheetPage::sayWay() {
    const AssignmentId current = model_->idAt(view_->currentIndex().row());
    const AssignmentId shown = asking_->rows().contains(current) ? current : asking_->nearest();
    way_->setText(shown == AssignmentId{} ? QString() : asking_->wayOf(shown));
}

void SheetPage::wish(const std::function<void(sheet::Wish&)>& change) {
    sheet::Wish wanted = model_->wish();
    change(wanted);
    model_->setWish(std::move(wanted));
}

void SheetPage::turnTo(sheet::Reading by) {
    wish([by](sheet::Wish& wanted) {
        const bool usual = wanted.group == sheet::groupingOf(wanted.by);
        wanted.by = by;
        if (usual) wanted.group = sheet::groupingOf(by);
    });
    refresh();
    saveLook();
}

void SheetPage::find() {
    wish([this](sheet::Wish& wanted) { wanted.find = search_->text().toStdString(); });
}

/// The keyboard goes to the rows, to the first that is none's head.
void SheetPage::goToRows() {
    view_->setFocus(Qt::OtherFocusReason);
    const int current = view_->currentIndex().row();
    if (current >= 0 && !model_->isHead(current)) return;
    for (int line = 0; line < model_->rowCount(); ++line) {
        if (model_->isHead(line)) continue;
        view_->setCurrentIndex(model_->index(line, 0));
        return;
    }
}

void SheetPage::showGroups() {
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("sheetGroups"));
    for (const GroupingName& each : groupings()) {
        QAction* action = menu.addAction(each.name, this, [this, grouping = each.grouping] {
            wish([grouping](sheet::Wish& wanted) { wanted.group = grouping; });
            refresh();
            saveLook();
        });
        action->setCheckable(true);
        action->setChecked(each.grouping == model_->wish().group);
    }
    menu.exec(group_->mapToGlobal(QPoint(0, group_->height())));
}

void SheetPage::showColumns() {
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("sheetColumnMenu"));
    const QStringList shown = model_->shownColumns();
    for (const SheetColumn& column : sheetColumns()) {
        const QString key = toQt(column.key);
        QAction* action = menu.addAction(column.title);
        action->setToolTip(column.tip);
        action->setCheckable(true);
        action->setChecked(shown.contains(key));
        // The last one stays.
        action->setEnabled(shown != QStringList{key});
        connect(action, &QAction::toggled, this, [this, key, shown](bool on) {
            QStringList wanted = shown;
            if (on) {
                wanted << key;
            } else {
                wanted.removeAll(key);
            }
            model_->showColumns(wanted);
            view_->placeColumns();
            saveLook();
        });
    }
    menu.addSeparator();
    menu.addAction(tr("As at first"), this, [this] {
        model_->showColumns(usualSheetColumns());
        view_->setWidths({});
        saveLook();
    });
    menu.exec(columns_->mapToGlobal(QPoint(0, columns_->height())));
}

/// By a column, from its end, and then as the reading has it again.
void SheetPage::sortBy(int column) {
    const AssignmentColumn* said = model_->columnAt(column).said;
    if (said == nullptr) return;
    wish([said](sheet::Wish& wanted) {
        const bool again = wanted.sort == said;
        if (again && wanted.backwards) {
            wanted.sort = nullptr;
        } else {
            wanted.sort = said;
        }
        wanted.backwards = again && !wanted.backwards;
    });
    showSorting();
    saveLook();
}

/// The mark in the head of the column by which rows are sorted.
void SheetPage::showSorting() {
    const sheet::Wish& wanted = model_->wish();
    const bool sorted = wanted.sort != nullptr;
    const int column = sorted ? model_->columnOf(wanted.sort->key) : -1;
    view_->horizontalHeader()->setSortIndicatorShown(sorted);
    view_->horizontalHeader()->setSortIndicator(column,
                                                wanted.backwards ? Qt::DescendingOrder : Qt::AscendingOrder);
}

void SheetPage::refresh() {
    const sheet::Wish& wanted = model_->wish();
    byMove_->setChecked(wanted.by == sheet::Reading::move);
    byHear_->setChecked(wanted.by == sheet::Reading::hear);
    for (const GroupingName& each : groupings()) {
        if (each.grouping == wanted.group) group_->setText(each.name);
    }
    const int all = static_cast<int>(model_->sheet().rows().size());
    const int found = static_cast<int>(model_->arranged().found);
    const auto [waiting, troubled] = model_->counts();
    const QString rows = tr("%n row(s)", nullptr, all);
    QStringList words{found == all ? rows : tr("%1 of %2").arg(found).arg(rows)};
    if (waiting > 0) words << (waiting == 1 ? tr("1 waits") : tr("%1 wait").arg(waiting));
    if (troubled > 0) words << tr("%n in trouble", nullptr, troubled);
    summary_->setText(words.join(QStringLiteral(" · ")));
    nothing_->setText(all == 0 ? tr("Nothing moves anything yet. Add an instrument on the Chains page, or a "
                                    "controller in Gear, and find here what leads where.")
                      : wanted.only != nullptr && wanted.find.empty()
                          ? tr("Nothing in this ensemble follows it.")
                          : tr("Nothing is found by “%1”. Esc in the search field shows all rows again.")
                                .arg(nameToShow(wanted.find)));
    nothing_->setVisible(found == 0);
    view_->setVisible(found > 0);
    sayChosen();
}

void SheetPage::sayChosen() {
    const std::vector<AssignmentId> chosen = view_->chosen();
    const int count = static_cast<int>(chosen.size());
    chosen_->setText(count == 0 ? tr("Nothing chosen") : tr("%n chosen", nullptr, count));
    for (QPushButton* button : bulkButtons_) button->setEnabled(count > 0);
    if (numbers_ != nullptr && isVisible()) numbers_->light(chosen);
}

QWidget* SheetPage::openBulk(const BulkKind& kind) {
    std::vector<AssignmentId> rows = view_->chosen();
    if (rows.empty()) {
        workspace_.hint(
            tr("Choose the rows first: Ctrl and a click adds one, a click on a head chooses its group."));
        return nullptr;
    }
    auto* dialog = new BulkDialog(workspace_.document, kind, std::move(rows), window());
    dialog->open();
    return dialog;
}

void SheetPage::copy() {
    const QString text = view_->chosenText();
    if (!text.isEmpty()) QApplication::clipboard()->setText(text);
}

/// Cells of a spreadsheet take the places from the current cell on, as one step.
void SheetPage::paste() {
    const profiles::Table table = profiles::parseTable(QApplication::clipboard()->text().toStdString());
    if (table.empty()) return;
    const QStringList complaints = model_->pasteAt(table, view_->currentIndex());
    if (!complaints.isEmpty())
        workspace_.hint(
            tr("Not pasted: %1.").arg(QStringList(complaints.mid(0, 3)).join(QStringLiteral("; "))));
}

QWidget* SheetPage::makeDetails() {
    numbers_ = new NumbersPanel(workspace_);
    connect(numbers_, &NumbersPanel::rowsAsked, this, [this](const std::vector<AssignmentId>& ids) {
        if (ids.empty()) return;
        search_->clear();
        wish([](sheet::Wish& wanted) { wanted.folded.clear(); });
        view_->goTo(ids.front());
        view_->choose(ids);
    });
    return numbers_;
}

void SheetPage::saveLook() {
    SheetLook look;
    const QHeaderView& header = *view_->horizontalHeader();
    for (int place = 0; place < header.count(); ++place)
        look.columns << toQt(model_->columnAt(header.logicalIndex(place)).key);
    look.widths = view_->widths();
    look.wish = model_->wish();
    keepLook(look);
}

void SheetPage::loadLook() {
    const SheetLook look = keptLook();
    if (!look.columns.isEmpty()) model_->showColumns(look.columns);
    if (model_->columnCount() == 0) model_->showColumns(usualSheetColumns());
    view_->setWidths(look.widths);
    model_->setWish(look.wish);
    showSorting();
}

}  // namespace mellow::app
