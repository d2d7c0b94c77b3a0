// Which page is shown is what is selected on this page of the window, so that it outlives edits and undo. The
// bar turns pages and begins arranging; the tools stand below it while one arranges.
#include "app/pages/desk/desk_page.h"

#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>

#include "app/acts/reuse/reuse.h"
#include "app/acts/tablet_dialog.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/desk/desk_mirror.h"
#include "app/pages/desk/hand_list.h"
#include "app/widgets/make_action.h"
#include "app/widgets/manners.h"
#include "core/filling/filling.h"
#include "core/model/edit_desk.h"
#include "core/model/edit_hands.h"
#include "core/model/resolve.h"

namespace mellow::app {

DeskPageView::DeskPageView(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      board_(new DeskBoard(workspace)),
      arranging_(new Arranging(workspace, *board_)),
      bar_(new QWidget),
      chips_(new FlowLayout(scaled(6))),
      chipGroup_(new QButtonGroup(this)),
      tools_(new QWidget),
      arrange_(new QPushButton(tr("Arrange"))),
      whole_(new QPushButton(tr("Full screen"))),
      said_(new QLabel) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    new DeskMirror(workspace.document, workspace.live, this);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(10), scaled(8), scaled(10), scaled(8));
    column->setSpacing(scaled(8));
    buildBar();
    buildTools();
    column->addWidget(bar_);
    column->addWidget(tools_);
    column->addWidget(board_, 1);
    said_->setProperty("role", "caption");
    said_->setObjectName(QStringLiteral("whoStays"));
    column->addWidget(said_);
    buildActions();
    connect(&workspace_.document, &Document::changed, this, &DeskPageView::follow);
    connect(&workspace_.selection, &Selection::changed, this, &DeskPageView::follow);
    connect(&workspace_.live, &Live::moved, this, [this] {
        if (!isVisible()) return;
        board_->refresh();
        sayWhoStays();
    });
    connect(arranging_, &Arranging::selectionChanged, this, [this] {
        const auto& selected = arranging_->selected();
        if (details_ == nullptr) return;
        details_->show(shownPage(), selected.size() == 1 ? *selected.begin() : std::string(),
                       static_cast<int>(selected.size()));
    });
    connect(arranging_, &Arranging::says, said_, &QLabel::setText);
}

void DeskPageView::buildBar() {
    auto* row = new QHBoxLayout(bar_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(scaled(6));
    row->addLayout(chips_, 1);
    auto* add = new QPushButton(QStringLiteral("+"));
    add->setObjectName(QStringLiteral("addDeskPage"));
    add->setProperty("role", "add");
    add->setToolTip(tr("Add a page"));
    add->setAccessibleName(tr("Add a page"));
    connect(add, &QPushButton::clicked, this, &DeskPageView::addPage);
    chips_->addWidget(add);
    arrange_->setObjectName(QStringLiteral("arrange"));
    arrange_->setCheckable(true);
    arrange_->setToolTip(tr("Draw, move and size elements (F2)"));
    connect(arrange_, &QPushButton::toggled, this, &DeskPageView::setArranging);
    row->addWidget(arrange_);
    whole_->setObjectName(QStringLiteral("wholeDesk"));
    whole_->setToolTip(tr("The desk alone on the whole screen (F11)"));
    connect(whole_, &QPushButton::clicked, this, [this] { showWhole(!isWhole_); });
    row->addWidget(whole_);
}

void DeskPageView::buildTools() {
    auto* row = new FlowLayout(scaled(6));
    tools_->setLayout(row);
    auto* draws = new QLabel(tr("Draw a"));
    draws->setProperty("role", "section");
    row->addWidget(draws);
    auto* group = new QButtonGroup(this);
    const std::array kinds{std::pair{ElementKind::pad, tr("pad")},
                           std::pair{ElementKind::slider, tr("slider")},
                           std::pair{ElementKind::dial, tr("dial")},
                           std::pair{ElementKind::button, tr("button")},
                           std::pair{ElementKind::articulations, tr("row of tiles")},
                           std::pair{ElementKind::keys, tr("keyboard")}};
    for (const auto& [kind, name] : kinds) {
        auto* chip = new QPushButton(name);
        chip->setCheckable(true);
        chip->setProperty("role", "chip");
        chip->setObjectName(QStringLiteral("draw%1").arg(static_cast<int>(kind)));
        chip->setToolTip(tr("Drag on the grid to draw it, or press Enter there"));
        chip->setChecked(kind == arranging_->kind());
        group->addButton(chip);
        connect(chip, &QPushButton::clicked, this, [this, which = kind] {
            arranging_->draw(which);
            arranging_->setFocus(Qt::OtherFocusReason);
        });
        row->addWidget(chip);
    }
    auto* fillWith = new QPushButton(tr("Fill with…"));
    fillWith->setObjectName(QStringLiteral("fillWith"));
    fillWith->setToolTip(tr("Lay out a run for what is in hand, with its chains"));
    auto* menu = new QMenu(fillWith);
    const auto offer = [&](const QString& words, const char* name, Filling with) {
        QAction* action = menu->addAction(words, this, [this, with] { fill(with); });
        action->setObjectName(QLatin1String(name));
    };
    offer(tr("Sliders for its parameters"), "fillSliders", Filling::sliders);
    offer(tr("Tiles for its articulations"), "fillTiles", Filling::tiles);
    offer(tr("A pad for its two widest chains"), "fillPad", Filling::pad);
    offer(tr("Level faders, by name"), "fillFaders", Filling::faders);
    fillWith->setMenu(menu);
    row->addWidget(fillWith);
    tools_->hide();
}

void DeskPageView::buildActions() {
    const auto madeIn = [this](QList<QAction*>& list, const QString& text, const QKeySequence& keys,
                               const QString& tip,
                               auto act) { list << makeAction(this, text, keys, tip, act); };
    const auto made = [&](const QString& text, const QKeySequence& keys, const QString& tip, auto act) {
        madeIn(actions_, text, keys, tip, act);
    };
    // The number keys, in the order in which the hand chooses; on other pages some of them play notes.
    constexpr int keys = 10;
    for (int place = 0; place < keys; ++place) {
        madeIn(handActions_, tr("Number %1 of the hand").arg(place + 1),
               QKeySequence(static_cast<Qt::Key>(Qt::Key_0 + (place + 1) % keys)),
               tr("Take the instrument or section of this number into hand"), [this, place] {
                   const auto entries = handEntries(workspace_.document.ensemble());
                   if (place < static_cast<int>(entries.size()))
                       takeIntoHand(workspace_.document, entries[static_cast<std::size_t>(place)]);
               });
    }
    madeIn(handActions_, tr("&Everyone"), QKeySequence(Qt::SHIFT | Qt::Key_0),
           tr("Take all instruments into hand"), [this] { takeEveryoneIntoHand(workspace_.document); });
    made(tr("&Next page"), QKeySequence(Qt::CTRL | Qt::Key_PageDown), tr("Turn to the next page of the desk"),
         [this] { turnPage(1); });
    made(tr("&Previous page"), QKeySequence(Qt::CTRL | Qt::Key_PageUp),
         tr("Turn to the previous page of the desk"), [this] { turnPage(-1); });
    made(tr("&Arrange"), QKeySequence(Qt::Key_F2), tr("Draw, move and size elements, or play them again"),
         [this] { arrange_->toggle(); });
    made(tr("&Tablets…"), {}, tr("Where tablets send to over OSC, and which address does what"),
         [this] { TabletDialog::open(workspace_, window()); });
    made(tr("&Full screen"), QKeySequence(Qt::Key_F11), tr("The desk alone on the whole screen"),
         [this] { showWhole(!isWhole_); });
    made(tr("&Duplicate elements"), QKeySequence(Qt::CTRL | Qt::Key_D),
         tr("Copy what is selected, with its chains"), [this] {
             if (isArranging()) arranging_->duplicateSelected();
         });
    made(tr("&Copy elements"), QKeySequence::Copy,
         tr("Copy what is selected, as text that any ensemble takes"), [this] {
             if (isArranging()) arranging_->copySelected();
         });
    made(tr("&Paste elements"), QKeySequence::Paste, tr("Put copies on this page, with chains of their own"),
         [this] {
             if (isArranging()) arranging_->paste();
         });
    made(tr("Learn what &moves it"), QKeySequence(Qt::Key_L),
         tr("Move a control: what the selected element moves is moved by it, too"), [this] { learn(); });
    made(tr("&Keep in the library…"), QKeySequence(Qt::CTRL | Qt::Key_K),
         tr("Keep the selected elements, to be used in other ensembles"), [this] {
             if (isArranging()) arranging_->keepSelected();
         });
    made(tr("&From the library…"), QKeySequence(Qt::CTRL | Qt::Key_L),
         tr("Find elements, an instrument or a controller by typing"),
         [this] { workspace_.reuse.find(this); });
    made(tr("L&ead to…"), QKeySequence(Qt::CTRL | Qt::Key_T), tr("Find what the selected element is to move"),
         [this] {
             if (isArranging() && details_ != nullptr && arranging_->selected().size() == 1)
                 details_->findTarget(Axis::x, arranging_);
         });
    made(tr("&Remove elements"), QKeySequence(Qt::Key_Delete), tr("Remove what is selected; its chains stay"),
         [this] {
             if (isArranging()) arranging_->removeSelected();
         });
    const auto aligns = [&](const QString& text, Qt::Key key, const QString& tip, Arranging::Edge edge) {
        made(text, QKeySequence(Qt::CTRL | Qt::ALT | key), tip, [this, edge] {
            if (isArranging()) arranging_->align(edge);
        });
    };
    aligns(tr("Align &left"), Qt::Key_Left, tr("Give all that are selected the first one's left edge"),
           Arranging::Edge::left);
    aligns(tr("Align &top"), Qt::Key_Up, tr("Give all that are selected the first one's top edge"),
           Arranging::Edge::top);
    aligns(tr("Same &width"), Qt::Key_W, tr("Give all that are selected the first one's width"),
           Arranging::Edge::width);
    aligns(tr("Same &height"), Qt::Key_H, tr("Give all that are selected the first one's height"),
           Arranging::Edge::height);
}

/// A control is learned for what an element leads to; the element shows where that brings it.
void DeskPageView::learn() {
    Learn& learn = workspace_.learn;
    const auto& selected = arranging_->selected();
    if (learn.isOn() && (!learn.isDone() || selected.size() != 1)) return learn.stop();
    if (!isArranging() || selected.size() != 1)
        return workspace_.tell(tr("Arrange (F2) and select one element; L then learns what moves it."));
    const std::string& element = *selected.begin();
    const desk::ElementTargets targets = desk::elementTargets(workspace_.document.ensemble());
    const auto its = targets.find(element);
    if (its == targets.end())
        return workspace_.tell(tr("It leads nowhere yet: find a target first (Ctrl+T)."));
    // A pad is learned axis by axis, those that lead somewhere.
    for (int axis = learn.isOn() ? static_cast<int>(learn.axis()) + 1 : 0; axis < static_cast<int>(axisCount);
         ++axis) {
        const bool leads = std::any_of(its->second.begin(), its->second.end(), [axis](const auto& each) {
            return each.axis == static_cast<Axis>(axis);
        });
        if (leads) return learn.startFor(element, static_cast<Axis>(axis));
    }
    learn.stop();
}

std::vector<PageActions> DeskPageView::actions() const {
    return {{tr("&Surfaces"), actions_}, {tr("&Hand"), handActions_}};
}

QWidget* DeskPageView::makeDetails() {
    details_ = new ElementDetails(workspace_);
    return details_;
}

QWidget* DeskPageView::makeLeft() {
    return new HandList(workspace_);
}

void DeskPageView::begin() {
    (isArranging() ? static_cast<QWidget*>(arranging_) : board_)->setFocus(Qt::OtherFocusReason);
}

void DeskPageView::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    // An element's own keys come before letters that play.
    qApp->removeEventFilter(this);
    qApp->installEventFilter(this);
    follow();
}

// Pages.

/// The one that is selected, or else the first.
std::string DeskPageView::shownPage() const {
    const auto& pages = workspace_.document.ensemble().desk.pages;
    const std::string& wanted = workspace_.selection.on<DeskPlace>().page;
    if (findById(pages, wanted) != nullptr) return wanted;
    return pages.empty() ? std::string() : pages.front().id;
}

void DeskPageView::follow() {
    if (!isVisible()) return;
    buildChips();
    board_->show(shownPage());
    std::set<std::string> there;
    for (const std::string& id : arranging_->selected()) {
        if (board_->surface(id) != nullptr) there.insert(id);
    }
    arranging_->select(there);
    arranging_->update();
    if (details_ != nullptr)
        details_->show(shownPage(), there.size() == 1 ? *there.begin() : std::string(),
                       static_cast<int>(there.size()));
    sayWhoStays();
}

void DeskPageView::buildChips() {
    const auto& pages = workspace_.document.ensemble().desk.pages;
    // Behind them stays what adds one.
    QLayoutItem* add = chips_->takeAt(chips_->count() - 1);
    while (chips_->count() > static_cast<int>(pages.size())) {
        QLayoutItem* item = chips_->takeAt(chips_->count() - 1);
        chipGroup_->removeButton(static_cast<QAbstractButton*>(item->widget()));
        delete item->widget();
        delete item;
    }
    while (chips_->count() < static_cast<int>(pages.size())) {
        auto* chip = new QPushButton;
        const int place = chips_->count();
        chip->setCheckable(true);
        chip->setProperty("role", "chip");
        chip->setObjectName(QStringLiteral("deskPage%1").arg(place));
        chip->setToolTip(tr("Show this page (Ctrl+Page Up and Ctrl+Page Down turn pages)"));
        chipGroup_->addButton(chip);
        connect(chip, &QPushButton::clicked, this, [this, place] {
            const auto& all = workspace_.document.ensemble().desk.pages;
            if (place < static_cast<int>(all.size()))
                workspace_.selection.go(DeskPlace{all[static_cast<std::size_t>(place)].id});
        });
        chips_->addWidget(chip);
    }
    chips_->addItem(add);
    for (std::size_t i = 0; i < pages.size(); ++i) {
        auto* chip = static_cast<QPushButton*>(chips_->itemAt(static_cast<int>(i))->widget());
        chip->setText(nameToShow(nameOf(pages[i])));
        chip->setChecked(pages[i].id == shownPage());
    }
}

void DeskPageView::turnPage(int by) {
    const auto& pages = workspace_.document.ensemble().desk.pages;
    if (pages.empty()) return;
    const auto count = static_cast<int>(pages.size());
    const int at = static_cast<int>(placeOf(pages, shownPage()));
    workspace_.selection.go(DeskPlace{pages[static_cast<std::size_t>((at + by + count) % count)].id});
}

void DeskPageView::addPage() {
    std::string made;
    workspace_.document.edit(tr("Add a page"), [&](Ensemble& e) {
        e.desk.pages.push_back(newDeskPage(e, tr("New page").toStdString()));
        made = e.desk.pages.back().id;
    });
    if (made.empty()) return;
    workspace_.selection.go(DeskPlace{made});
    setArranging(true);
}

void DeskPageView::setArranging(bool on) {
    arrange_->setChecked(on);
    tools_->setVisible(on);
    arranging_->setVisible(on);
    arranging_->raise();
    if (on) arranging_->setFocus(Qt::OtherFocusReason);
    follow();
    emit wantsChanged();
}

void DeskPageView::showWhole(bool whole) {
    isWhole_ = whole;
    whole_->setText(whole ? tr("Leave full screen") : tr("Full screen"));
    emit wholeWindowAsked(whole);
}

// Filling.

/// The section whose instruments are those in hand, or the instrument that is alone in hand, or the first.
std::string DeskPageView::entryInHand() const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    std::vector<const Instrument*> held;
    for (const Instrument& instrument : ensemble.instruments) {
        if (workspace_.live.readings().instrument(instrument.id).inHand) held.push_back(&instrument);
    }
    if (held.size() == 1) return held.front()->id;
    for (const Section& section : ensemble.sections) {
        if (instrumentsOf(ensemble, section.id) == held) return section.id;
    }
    return held.empty() ? std::string() : held.front()->id;
}

void DeskPageView::fill(Filling with) {
    const std::string entry = entryInHand();
    const std::string page = shownPage();
    if (entry.empty()) return said_->setText(tr("Nobody is in hand: choose who on the left."));
    std::vector<std::string> made;
    workspace_.document.edit(tr("Fill the page"), [&](Ensemble& e) {
        if (e.desk.pages.empty()) e.desk.pages.push_back(newDeskPage(e, handName(e, entry)));
        const std::size_t at = page.empty() ? e.desk.pages.size() - 1 : placeOf(e.desk.pages, page);
        const auto every = [&](auto&& run) {
            for (const Instrument* instrument : instrumentsOf(workspace_.document.ensemble(), entry)) {
                for (std::string& id : run(e, at, instrument->id)) made.push_back(std::move(id));
            }
        };
        switch (with) {
            case Filling::sliders:
                return every(filling::sliders);
            case Filling::pad:
                return every(filling::pad);
            case Filling::tiles:
                made = filling::tiles(e, at, entry);
                return;
            case Filling::faders:
                made = filling::faders(e, at, entry);
                return;
        }
    });
    const QString who = toQt(handName(workspace_.document.ensemble(), entry));
    if (made.empty())
        return said_->setText(tr("%1 has nothing of that kind that is not here already.").arg(who));
    arranging_->select({made.begin(), made.end()});
    said_->setText(tr("%n element(s) made for %1.", nullptr, static_cast<int>(made.size())).arg(who));
}

// What is said below.

/// Those in hand that do not know the articulation that others play.
void DeskPageView::sayWhoStays() {
    if (isArranging()) return;
    const Ensemble& ensemble = workspace_.document.ensemble();
    QStringList lines;
    for (const auto& surface : board_->surfaces()) {
        const DeskElement& element = surface->element();
        for (const std::string& name : element.names) {
            QStringList staying;
            bool chosen = false;
            for (const Instrument& instrument : ensemble.instruments) {
                const io::InstrumentReading reading = workspace_.live.readings().instrument(instrument.id);
                if (!reading.inHand || instrument.articulations.empty()) continue;
                const auto& all = instrument.articulations;
                const auto found = std::find_if(
                    all.begin(), all.end(), [&](const Articulation& each) { return answers(each, name); });
                if (found == all.end()) {
                    staying << nameToShow(nameOf(instrument));
                } else {
                    chosen = chosen || reading.articulation == static_cast<int>(found - all.begin());
                }
            }
            if (chosen && !staying.isEmpty())
                lines << tr("“%1” is unknown to %2, which stay as they are.")
                             .arg(toQt(name), staying.join(QStringLiteral(", ")));
        }
    }
    const QString text = lines.isEmpty() ? QString() : lines.first();
    if (said_->text() != text) said_->setText(text);
}

// Keys of the computer keyboard.

bool DeskPageView::keyOfElement(QKeyEvent& event) {
    if (event.type() == QEvent::KeyRelease) {
        const auto down = keysDown_.find(event.key());
        if (down == keysDown_.end()) return false;
        if (event.isAutoRepeat()) return true;
        if (Surface* surface = board_->surface(down->second.first))
            surface->keyMoves(down->second.second, false);
        keysDown_.erase(down);
        return true;
    }
    const QString pressed = QKeySequence(event.key()).toString();
    for (const auto& surface : board_->surfaces()) {
        const auto& keys = surface->element().keys;
        for (std::size_t i = 0; i < keys.size(); ++i) {
            if (toQt(keys[i]).compare(pressed, Qt::CaseInsensitive) != 0) continue;
            if (event.isAutoRepeat()) return true;
            keysDown_[event.key()] = {surface->element().id, i};
            surface->keyMoves(i, true);
            return true;
        }
    }
    return false;
}

bool DeskPageView::eventFilter(QObject* watched, QEvent* event) {
    const bool isKey = event->type() == QEvent::KeyPress || event->type() == QEvent::KeyRelease;
    if (!isKey || !isVisible() || watched != QApplication::focusWidget() || isArranging())
        return Page::eventFilter(watched, event);
    auto& key = *static_cast<QKeyEvent*>(event);
    const bool plain = (key.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier)) == 0;
    if (keepsKeys(watched) || (!plain && event->type() == QEvent::KeyPress))
        return Page::eventFilter(watched, event);
    return keyOfElement(key) || Page::eventFilter(watched, event);
}

}  // namespace mellow::app
