#include "app/acts/tablet_dialog.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/acts/desk_addresses.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "io/ports/own_addresses.h"

namespace mellow::app {

namespace {

QString portOnly() {
    return toQt(io::usualOscPort).section(QLatin1Char(':'), -1);
}

}  // namespace

TabletDialog::TabletDialog(Workspace& workspace, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      open_(new QCheckBox(tr("Let tablets move the desk"))),
      where_(new QLabel),
      from_(new NetworkChoice(workspace.live, std::string(io::usualOscPort))),
      there_(new QLabel),
      table_(new QTableWidget(0, 3)) {
    setObjectName(QStringLiteral("tabletDialog"));
    setWindowTitle(tr("Tablets over OSC"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    open_->setObjectName(QStringLiteral("openDesk"));
    open_->setChecked(workspace_.live.ports().isDeskOpen());
    column->addWidget(open_);
    where_->setObjectName(QStringLiteral("tabletWhere"));
    where_->setWordWrap(true);
    where_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    column->addWidget(where_);
    auto* heard = new QHBoxLayout;
    auto* heardFrom = new QLabel(tr("Heard from"));
    heard->addWidget(heardFrom);
    heardFrom->setBuddy(from_);
    heard->addWidget(from_, 1);
    column->addLayout(heard);
    there_->setObjectName(QStringLiteral("tabletsThere"));
    there_->setProperty("role", "help");
    there_->setWordWrap(true);
    column->addWidget(there_);
    waiting_ = new QVBoxLayout;
    column->addLayout(waiting_);
    table_->setObjectName(QStringLiteral("deskAddresses"));
    table_->setAccessibleName(tr("Which address does what"));
    table_->setHorizontalHeaderLabels({tr("Address"), tr("Element"), tr("Moves")});
    table_->verticalHeader()->hide();
    table_->setShowGrid(false);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->setColumnWidth(0, scaled(190));
    table_->setColumnWidth(1, scaled(130));
    column->addWidget(table_, 1);
    auto* foot = new QHBoxLayout;
    auto* says = new QLabel(
        tr("Each takes a number from 0 to 1, and is sent back where it stands; /name, /tone and /reads "
           "behind an address tell what it is called, its colour, and what it leads to. Whoever is new gets "
           "/desk/hi with an address, and is told everything once it sends something there, or is named "
           "here; /desk asks for everything anew."));
    says->setWordWrap(true);
    says->setProperty("role", "help");
    foot->addWidget(says, 1);
    auto* copies = new QPushButton(tr("Copy the sheet"));
    copies->setObjectName(QStringLiteral("copySheet"));
    copies->setToolTip(tr("As a table, for a spreadsheet or the tablet's editor"));
    connect(copies, &QPushButton::clicked, this, &TabletDialog::copy);
    foot->addWidget(copies);
    column->addLayout(foot);
    connect(open_, &QCheckBox::toggled, this, [this](bool on) { workspace_.live.ports().openDesk(on); });
    connect(&workspace_.live, &Live::statusChanged, this, &TabletDialog::follow);
    connect(&workspace_.document, &Document::changed, this, &TabletDialog::follow);
    follow();
    resize(scaled(660), scaled(440));
}

void TabletDialog::open(Workspace& workspace, QWidget* window) {
    auto* there = window->findChild<TabletDialog*>();
    if (there == nullptr) there = new TabletDialog(workspace, window);
    there->show();
    there->raise();
    there->activateWindow();
}

void TabletDialog::follow() {
    QStringList addresses;
    for (const std::string& address : io::ownAddresses()) addresses << toQt(address);
    const QString host =
        addresses.isEmpty() ? tr("this machine (no network is up)") : addresses.join(tr(" or "));
    const QString from = workspace_.live.ports().network(std::string(io::usualOscPort));
    const QString at = from == toQt(io::thisMachine)   ? toQt(io::thisMachine)
                       : from == toQt(io::allNetworks) ? host
                                                       : from;
    where_->setText(
        workspace_.live.ports().isDeskOpen()
            ? tr("Send to %1, UDP port %2. %3")
                  .arg(at, portOnly(), workspace_.live.ports().listeningText(std::string(io::usualOscPort)))
            : tr("Off: nothing is heard."));
    for (const Problem& problem : workspace_.live.problems()) {
        if (problem.where == io::usualOscPort) where_->setText(toQt(problem.sentence()));
    }
    fillWaiting();
    QStringList names;
    for (const std::string& name : workspace_.live.ports().surfaces().told()) names << toQt(name);
    there_->setText(names.isEmpty()
                        ? tr("Nobody is told where the desk stands yet.")
                        : tr("Told where everything stands: %1.").arg(names.join(QStringLiteral(", "))));
    const QList<DeskAddress> all = deskAddresses(workspace_.document.ensemble());
    table_->clearSpans();
    table_->setRowCount(std::max(static_cast<int>(all.size()), 1));
    if (all.isEmpty()) {
        table_->setSpan(0, 0, 1, 3);
        table_->setItem(
            0, 0, new QTableWidgetItem(tr("The desk has no elements yet: F2 on the Desk page draws some.")));
    }
    for (int row = 0; row < all.size(); ++row) {
        int place = 0;
        for (const QString& text : {all[row].address, all[row].element, all[row].moves}) {
            auto* cell = new QTableWidgetItem(text);
            cell->setToolTip(text);
            table_->setItem(row, place++, cell);
        }
    }
}

/// Those that spoke and have not shown that they hear, each with a button.
void TabletDialog::fillWaiting() {
    QStringList names;
    for (const std::string& name : workspace_.live.ports().surfaces().waiting()) names << toQt(name);
    if (names == waitingNames_) return;
    waitingNames_ = names;
    while (QLayoutItem* item = waiting_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    for (const QString& name : names) {
        auto* button = new QPushButton(tr("Tell %1 too").arg(name));
        button->setToolTip(tr("It has spoken of the desk, and not shown yet that it hears"));
        connect(button, &QPushButton::clicked, this, [this, name] {
            workspace_.live.ports().surfaces().welcome(name.toStdString());
            follow();
        });
        waiting_->addWidget(button);
    }
}

void TabletDialog::copy() const {
    QStringList lines;
    for (const DeskAddress& each : deskAddresses(workspace_.document.ensemble()))
        lines << QStringList{each.address, each.element, each.moves}.join(QLatin1Char('\t'));
    QGuiApplication::clipboard()->setText(lines.join(QLatin1Char('\n')));
}

}  // namespace mellow::app
