// Nothing is worked out while another page is shown.
#include "app/pages/gear/gear_page.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QSplitter>
#include <QVBoxLayout>

#include "app/acts/reuse/reuse.h"
#include "app/acts/tablet_dialog.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/gear/port_details.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/make_action.h"

namespace mellow::app {

GearPage::GearPage(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      activity_(new PortActivity(workspace.live, this)),
      board_(new PortBoard),
      threads_(new ElidedLabel),
      tableTitle_(new ElidedLabel),
      controls_(new ControlsModel(workspace.document, *activity_, this)),
      table_(new CellTable(*controls_, QStringLiteral("controls"), tr("Controls"))),
      profile_(new ProfilePanel(workspace)),
      profileRoom_(new QScrollArea),
      layers_(new LayerPanel(workspace)),
      traffic_(new QPushButton(tr("What it does"))),
      profiles_(new QPushButton(tr("Profile"))),
      layered_(new QPushButton(tr("Layers"))) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(14), scaled(10), scaled(14), scaled(10));
    column->setSpacing(scaled(8));
    column->addLayout(buildTitles());
    auto* parts = new QSplitter(Qt::Vertical);
    parts->setChildrenCollapsible(false);
    parts->setHandleWidth(1);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(board_);
    parts->addWidget(scroll);
    parts->addWidget(buildBelow());
    parts->setStretchFactor(0, 1);
    parts->setStretchFactor(1, 1);
    constexpr int boardShare = 330;
    constexpr int tableShare = 240;
    parts->setSizes({boardShare, tableShare});
    column->addWidget(parts, 1);
    connect(board_, &PortBoard::selected, this, [this](const PortName& port) {
        workspace_.selection.go(GearPlace{port.input, port.name});
    });
    connect(&workspace_.selection, &Selection::changed, this, &GearPage::follow);
    connect(&workspace_.document, &Document::changed, this, &GearPage::refresh);
    connect(&workspace_.live, &Live::statusChanged, this, &GearPage::refresh);
    connect(activity_, &PortActivity::changed, this, &GearPage::refresh);
    buildActions();
    buildLayerActions();
}

QLayout* GearPage::buildTitles() {
    // Titles stand above the board's columns.
    auto* head = new QHBoxLayout;
    head->setSpacing(0);
    const auto addTitle = [head](const QString& title, const QString& caption, int share) {
        auto* part = new QWidget;
        auto* line = new QHBoxLayout(part);
        line->setContentsMargins(0, 0, 0, 0);
        auto* label = new QLabel(title);
        label->setProperty("role", "title");
        auto* small = new QLabel(caption);
        small->setProperty("role", "caption");
        line->addWidget(label);
        line->addWidget(small);
        part->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
        head->addWidget(part, share);
        return line;
    };
    // Above the threads, at their end, is said how many there are; where there is little room, not all of it.
    QHBoxLayout* hands = addTitle(tr("Hands"), tr("what you play"), 3);
    threads_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    threads_->setContentsMargins(0, 0, scaled(12), 0);
    threads_->setProperty("role", "caption");
    threads_->setObjectName(QStringLiteral("threads"));
    hands->addWidget(threads_, 1);
    addTitle(tr("Sound"), tr("what you drive"), 2)->addStretch(1);
    return head;
}

/// What stands below the board: what a port does, a profile, or layers.
QWidget* GearPage::buildBelow() {
    auto* below = new QWidget;
    auto* column = new QVBoxLayout(below);
    column->setContentsMargins(0, scaled(8), 0, 0);
    column->addLayout(buildTabs());
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    // Names take what numbers leave, so that the table is never wider than the page.
    table_->horizontalHeader()->setMinimumSectionSize(scaled(40));
    for (const int named : {ControlsModel::name, ControlsModel::usedBy})
        table_->horizontalHeader()->setSectionResizeMode(named, QHeaderView::Stretch);
    column->addWidget(table_, 1);
    // Where its buttons need several rows, and there is little height, it is scrolled and not squeezed.
    profileRoom_->setWidgetResizable(true);
    profileRoom_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    profileRoom_->setFocusPolicy(Qt::NoFocus);
    profileRoom_->setWidget(profile_);
    column->addWidget(profileRoom_, 1);
    column->addWidget(layers_, 1);
    profileRoom_->hide();
    layers_->hide();
    return below;
}

QLayout* GearPage::buildTabs() {
    tableTitle_->setProperty("role", "section");
    auto* tabs = new QHBoxLayout;
    tabs->setSpacing(scaled(4));
    auto* group = new QButtonGroup(this);
    for (QPushButton* tab : {traffic_, profiles_, layered_}) {
        tab->setCheckable(true);
        tab->setProperty("role", "plain");
        group->addButton(tab);
        tabs->addWidget(tab);
    }
    traffic_->setObjectName(QStringLiteral("showTraffic"));
    traffic_->setToolTip(tr("What came from the port, or was sent to it"));
    profiles_->setObjectName(QStringLiteral("showProfile"));
    profiles_->setToolTip(tr("What a controller has, or what an instrument listens to"));
    layered_->setObjectName(QStringLiteral("showLayers"));
    layered_->setToolTip(tr("Which keys and velocities each instrument plays, drawn over a keyboard"));
    traffic_->setChecked(true);
    tabs->addSpacing(scaled(8));
    tabs->addWidget(tableTitle_, 1000);
    tabs->addStretch(1);
    auto* tablets = new QPushButton(tr("Tablets…"));
    tablets->setObjectName(QStringLiteral("showTablets"));
    tablets->setToolTip(tr("Where tablets send to over OSC, and which address moves what on the desk"));
    connect(tablets, &QPushButton::clicked, this, [this] { TabletDialog::open(workspace_, window()); });
    tabs->addWidget(tablets);
    connect(traffic_, &QPushButton::clicked, this, [this] { showProfile(false); });
    connect(profiles_, &QPushButton::clicked, this, [this] { showProfile(true); });
    connect(layered_, &QPushButton::clicked, this, [this] { showLayers(); });
    return tabs;
}

void GearPage::showBelow(Below what) {
    QPushButton* tab = what == Below::traffic ? traffic_ : what == Below::profile ? profiles_ : layered_;
    tab->setChecked(true);
    table_->setVisible(what == Below::traffic);
    tableTitle_->setVisible(what == Below::traffic);
    profileRoom_->setVisible(what == Below::profile);
    layers_->setVisible(what == Below::layers);
}

void GearPage::buildActions() {
    const auto made = [this](const QString& text, const QKeySequence& keys, const QString& tip, auto act) {
        profileActions_ << makeAction(this, text, keys, tip, [this, act] {
            showProfile(true);
            act(*profile_);
        });
    };
    made(tr("Add a &controller"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
         tr("Add a controller on the selected port"), [](ProfilePanel& p) { p.addController(); });
    made(tr("&Walk through"), QKeySequence(Qt::Key_W),
         tr("Move each control once, and the controller’s profile writes itself"),
         [](ProfilePanel& p) { p.walkThrough(); });
    made(tr("&Add a row"), QKeySequence(Qt::CTRL | Qt::Key_Return), tr("Add a row to the profile"),
         [](ProfilePanel& p) { p.addRow(); });
    made(tr("&Fill down"), QKeySequence(Qt::CTRL | Qt::Key_J),
         tr("The selected cells take the first one’s value"), [](ProfilePanel& p) { p.fillDown(); });
    made(tr("&Renumber"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_J),
         tr("The selected rows are numbered on from the first"), [](ProfilePanel& p) { p.renumber(); });
    made(tr("&Paste rows"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_V),
         tr("Paste rows or a column from a spreadsheet"), [](ProfilePanel& p) { p.paste(); });
    made(tr("Remo&ve the selected rows"), {}, tr("Remove rows, and what led to them"),
         [](ProfilePanel& p) { p.removeRows(); });
    profileActions_.last()->setShortcuts(
        {QKeySequence(Qt::Key_Delete), QKeySequence(Qt::CTRL | Qt::Key_Backspace)});
    made(tr("&Import…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I),
         tr("Read a profile from CSV or a MIDI name document"), [](ProfilePanel& p) { p.files().read(); });
    made(tr("&Export…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_E),
         tr("Write the profile as CSV or as a MIDI name document"),
         [](ProfilePanel& p) { p.files().write(p.nameShown()); });
    made(tr("&Keep in the library…"), QKeySequence(Qt::CTRL | Qt::Key_K),
         tr("Keep the profile, to be used in other ensembles"), [](ProfilePanel& p) { p.keep(); });
    made(tr("From the &library…"), QKeySequence(Qt::CTRL | Qt::Key_L),
         tr("Find a controller or an instrument by typing"),
         [this](ProfilePanel&) { workspace_.reuse.find(profiles_); });
    made(tr("&Swap for another…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_W),
         tr("Another controller or instrument takes its place; the chains follow"),
         [](ProfilePanel& p) { p.swap(); });
}

void GearPage::buildLayerActions() {
    const auto made = [this](const QString& text, const QKeySequence& keys, const QString& tip, auto act) {
        layerActions_ << makeAction(this, text, keys, tip, [this, act] {
            showLayers();
            act(*layers_);
        });
    };
    made(tr("&Show the layers"), QKeySequence(Qt::Key_Y), layered_->toolTip(),
         [](LayerPanel& p) { p.board().setFocus(Qt::OtherFocusReason); });
    made(tr("Side by &side"), QKeySequence(), tr("Share the keys out among these layers, in their order"),
         [](LayerPanel& p) { p.spread(layering::Along::keys); });
    made(tr("Soft to &loud"), QKeySequence(), tr("Share the velocities out among these layers"),
         [](LayerPanel& p) { p.spread(layering::Along::velocities); });
    made(tr("Crossfade by &key"), QKeySequence(),
         tr("The selected layer and its neighbour fade into each other along the keys"),
         [](LayerPanel& p) { p.crossfade(layering::Along::keys, layering::Fading::velocity); });
    made(tr("Crossfade by &velocity"), QKeySequence(),
         tr("The selected layer and its neighbour fade into each other along the velocities"),
         [](LayerPanel& p) { p.crossfade(layering::Along::velocities, layering::Fading::velocity); });
    made(tr("&Take the crossfade away"), QKeySequence(), tr("The chains of the crossfade are removed"),
         [](LayerPanel& p) { p.removeCrossfade(); });
}

Page::Taken GearPage::takeFile(const QString& path) {
    for (const char* ending : {".csv", ".tsv", ".midnam"}) {
        if (!path.endsWith(QLatin1String(ending), Qt::CaseInsensitive)) continue;
        showProfile(true);
        profile_->files().readFrom(path);
        return Taken::taken;
    }
    return Taken::notOurs;
}

std::vector<PageActions> GearPage::actions() const {
    return {{tr("&Profile"), profileActions_}, {tr("&Layers"), layerActions_}};
}

QWidget* GearPage::makeDetails() {
    return new PortDetails(workspace_, *activity_);
}

void GearPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    refresh();
    follow();
}

void GearPage::follow() {
    if (!isVisible()) return;
    const auto& place = workspace_.selection.on<GearPlace>();
    const PortName port{place.input, place.port};
    board_->select(port);
    controls_->show(port);
    if (!place.port.empty()) profile_->showPort(place.input, place.port);
    const QString who = titleOf(workspace_.document.ensemble(), port);
    tableTitle_->setText(place.port.empty() ? tr("Choose a port to see its controls")
                         : place.input      ? tr("What came from %1").arg(who)
                                            : tr("What was sent to %1").arg(who));
}

void GearPage::refresh() {
    if (!isVisible()) return;
    const PortCards cards = portCards(workspace_.document, workspace_.live, *activity_);
    threads_->setText(tr("%n thread(s)", nullptr, static_cast<int>(cards.threads.size())) +
                      QStringLiteral(", ") + tr("%n chain(s)", nullptr, cards.chains));
    board_->show(cards);
    controls_->refresh();
}

}  // namespace mellow::app
