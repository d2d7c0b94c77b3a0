// Two parts share one height: the list takes what its rows need, as far as that leaves the lever the height
// at which it reads well, and two rows at least. The page decides nothing else.
#include "app/pages/chains/chains_page.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>
#include <optional>

#include "app/acts/details/editors.h"
#include "app/acts/reuse/reuse.h"
#include "app/acts/reuse/run_dialog.h"
#include "app/acts/target_finder.h"
#include "app/ground/theme.h"
#include "app/pages/chains/details_panel.h"
#include "app/pages/chains/first_steps.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/make_action.h"
#include "app/widgets/manners.h"

namespace mellow::app {

namespace {

constexpr int leverHeight = 320;  ///< with two lines of sentence and one of steps, before it scrolls

}  // namespace

ChainsPage::ChainsPage(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      document_(workspace.document),
      selection_(workspace.selection),
      title_(new ElidedLabel(nullptr, ElidedLabel::Takes::whatItNeeds)),
      summary_(new ElidedLabel),
      add_(new QPushButton(tr("Add chain"))),
      list_(new ChainList(workspace.document, workspace.selection, workspace.live)),
      scroll_(new QScrollArea),
      lever_(new LeverView(workspace)) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(14), scaled(10), scaled(14), scaled(10));
    column->setSpacing(scaled(8));
    column->addWidget(new FirstSteps(workspace));
    auto* head = new QHBoxLayout;
    title_->setProperty("role", "title");
    summary_->setProperty("role", "caption");
    summary_->setObjectName(QStringLiteral("summary"));
    add_->setObjectName(QStringLiteral("addChain"));
    add_->setToolTip(tr("Add a chain to this instrument"));
    head->addWidget(title_);
    head->addSpacing(scaled(8));
    head->addWidget(summary_, 1);
    head->addWidget(add_);
    column->addLayout(head);
    list_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    column->addWidget(list_);
    // More targets than fit are reached by scrolling sideways.
    scroll_->setWidgetResizable(true);
    scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAsNeeded);
    scroll_->setWidget(lever_);
    connect(lever_, &LeverView::findingsAsked, this,
            [this](QWidget* findings) { scroll_->ensureWidgetVisible(findings, 0, scaled(8)); });
    column->addWidget(scroll_, 1);
    connect(add_, &QPushButton::clicked, &workspace.actions, &ChainActions::addChain);
    connect(list_, &QWidget::customContextMenuRequested, this, &ChainsPage::showContextMenu);
    connect(&document_, &Document::changed, this, &ChainsPage::follow);
    connect(&document_, &Document::findingsChanged, this, &ChainsPage::followFindings);
    connect(&selection_, &Selection::changed, this, [this] {
        follow();
        followFindings();
        // Of many targets the one that is chosen is seen, once it has its place.
        QMetaObject::invokeMethod(
            this,
            [this] {
                if (QWidget* rail = lever_->chosenRail()) scroll_->ensureWidgetVisible(rail, scaled(20), 0);
            },
            Qt::QueuedConnection);
    });
    buildActions();
    qApp->installEventFilter(this);
    follow();
    followFindings();
}

/// Keys that are held: comma for the low end, full stop for the high one, semicolon for the travel.
bool ChainsPage::eventFilter(QObject* watched, QEvent* event) {
    const bool press = event->type() == QEvent::KeyPress;
    // Whose window is left hears no key coming up.
    if (event->type() == QEvent::WindowDeactivate && watched == window()) {
        workspace_.reach.cancel();
        lever_->showBefore(false);
    }
    if ((!press && event->type() != QEvent::KeyRelease) || watched != QApplication::focusWidget() ||
        !isVisible())
        return Page::eventFilter(watched, event);
    if (const auto* held = static_cast<QKeyEvent*>(event); held->key() == Qt::Key_F12) {
        if (!held->isAutoRepeat()) lever_->showBefore(press);
        return true;
    }
    // Letters belong to a field where one types, but a key that is held comes up wherever the focus is now.
    if (keepsKeys(watched) && (press || !workspace_.reach.isOn())) return Page::eventFilter(watched, event);
    const auto* key = static_cast<QKeyEvent*>(event);
    const int code = key->key();
    using What = PlayedReach::What;
    const auto what = code == Qt::Key_Comma       ? std::optional(What::low)
                      : code == Qt::Key_Period    ? std::optional(What::high)
                      : code == Qt::Key_Semicolon ? std::optional(What::travel)
                                                  : std::nullopt;
    const auto modifiers = key->modifiers() & ~(Qt::KeypadModifier | Qt::ShiftModifier);
    if (!what || (press && modifiers != Qt::NoModifier)) return Page::eventFilter(watched, event);
    if (key->isAutoRepeat()) return true;
    if (press) {
        if (!workspace_.reach.begin(*what))
            workspace_.hint(tr("Select a target first: hold the key, move the control, let go."));
    } else {
        workspace_.reach.end();
    }
    return true;
}

QWidget* ChainsPage::makeDetails() {
    return new DetailsPanel(workspace_);
}

void ChainsPage::buildActions() {
    ChainActions& actions = workspace_.actions;
    Reuse& reuse = workspace_.reuse;
    const auto made = [this](const QString& text, const QKeySequence& keys, const QString& tip, auto act) {
        return makeAction(this, text, keys, tip, act);
    };
    auto* remove = made(tr("&Remove"), {}, tr("Remove what is selected"), [&actions] { actions.remove(); });
    remove->setShortcuts({QKeySequence(Qt::Key_Delete), QKeySequence(Qt::CTRL | Qt::Key_Backspace)});
    showsBefore_ = made(tr("&Before the newest edit (hold F12)"), {},
                        tr("Show and play the chain as it was before the newest edit"),
                        [this] { lever_->showBefore(showsBefore_->isChecked()); });
    showsBefore_->setCheckable(true);
    follows_ =
        made(tr("Follow what was touched &last"), QKeySequence(Qt::CTRL | Qt::Key_F),
             tr("The chain leads to whatever is touched, until it is locked there"), [this] {
                 Touched& touched = workspace_.touched;
                 touched.setFollower(touched.follower() ? std::nullopt : std::optional(selection_.now()));
             });
    follows_->setCheckable(true);
    connect(&workspace_.touched, &Touched::changed, this,
            [this] { follows_->setChecked(workspace_.touched.follower().has_value()); });
    editActions_ = {
        made(tr("&Copy"), QKeySequence::Copy, tr("Copy what is selected, as text"),
             [&reuse] { reuse.copy(); }),
        made(tr("Cu&t"), QKeySequence::Cut, tr("Copy what is selected, and remove it"),
             [&reuse, &actions] {
                 reuse.copy();
                 actions.remove();
             }),
        made(tr("&Paste"), QKeySequence::Paste,
             tr("Paste chains, branches, steps, instruments, or a table of parameters"),
             [&reuse] { reuse.paste(); }),
        made(tr("&Keep in the library…"), QKeySequence(Qt::CTRL | Qt::Key_K),
             tr("Keep what is selected, to be used in other ensembles"), [&reuse] { reuse.keep(); }),
        made(tr("From the &library…"), QKeySequence(Qt::CTRL | Qt::Key_L),
             tr("Find an instrument, controller, chain or step by typing"),
             [&reuse, this] { reuse.find(this); }),
        made(tr("&Duplicate"), QKeySequence(Qt::CTRL | Qt::Key_D), tr("Duplicate what is selected"),
             [&actions] { actions.duplicate(); }),
        remove,
        made(tr("Select a&ll chains"), QKeySequence::SelectAll,
             tr("Select all chains of the instrument; what is done then is done to all of them"),
             [this] {
                 list_->setFocus(Qt::ShortcutFocusReason);
                 list_->selectAll();
             }),
        made(tr("Move &earlier"), QKeySequence(Qt::ALT | Qt::Key_Up),
             tr("Move what is selected one place earlier"), [&actions] { actions.move(-1); }),
        made(tr("Move &later"), QKeySequence(Qt::ALT | Qt::Key_Down),
             tr("Move what is selected one place later"), [&actions] { actions.move(1); })};
    auto* separator = new QAction(this);
    separator->setSeparator(true);
    chainActions_ = {
        made(tr("Add an &instrument"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
             tr("Add an instrument"), [&actions] { actions.addInstrument(); }),
        made(tr("Add a &chain"), QKeySequence(Qt::CTRL | Qt::Key_Return), tr("Add a chain to the instrument"),
             [&actions] { actions.addChain(); }),
        made(tr("Add a &target"), QKeySequence(Qt::CTRL | Qt::Key_T), tr("Lead the chain to one more target"),
             [this] { lever_->addTarget(lever_); }),
        made(tr("&Find or make another target…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_T),
             tr("Lead the selected branch somewhere else"),
             [this] { findTarget(workspace_, lever_, TargetFor::selectedBranch); }),
        made(tr("The target’s &parameter…"), QKeySequence(Qt::CTRL | Qt::Key_P),
             tr("Name, range, unit, law and rest of the parameter to which the selected target leads"),
             [this] { lever_->showSelectedParameter(); }),
        made(tr("Add a &step…"), QKeySequence(Qt::CTRL | Qt::Key_E),
             tr("Choose a step by what it would do to the chain"), [this] { lever_->pickStep(lever_); }),
        made(tr("&Learn the source"), QKeySequence(Qt::Key_L),
             tr("Move a control, and it becomes the source of what is selected"),
             [this] { workspace_.learn.toggle(); }),
        made(tr("Learn a &target"), QKeySequence(Qt::SHIFT | Qt::Key_L),
             tr("Move something on the instrument’s own panel, and the chain leads to it"),
             [this] { workspace_.learn.start(Learn::What::target); }),
        follows_,
        made(tr("A r&un of chains…"), QKeySequence(Qt::CTRL | Qt::Key_U),
             tr("Consecutive controls to consecutive parameters, in one act"), [this] { openRun(false); }),
        made(tr("Two &knobs for everything…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_U),
             tr("One knob chooses among parameters, another sets the chosen one"), [this] { openRun(true); }),
        made(tr("&Give to other instruments…"), QKeySequence(Qt::CTRL | Qt::Key_G),
             tr("Other instruments get the selected chain, its targets matched to theirs"),
             [&reuse, this] { reuse.give(this); }),
        made(tr("S&wap the instrument…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_W),
             tr("Another instrument takes this one’s place; its chains follow"),
             [&reuse, this] { reuse.swapInstrument(this); }),
        showsBefore_,
        made(tr("The control &rests here"), QKeySequence(Qt::CTRL | Qt::Key_R),
             tr("The place at which the source stands now becomes the middle"),
             [this] {
                 if (!workspace_.reach.restHere())
                     workspace_.hint(tr("Move the control, and let it go where it rests; then ask again."));
             }),
        separator,
        made(tr("Turn roun&d"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_R),
             tr("Low ends become high ends: what rose falls"), [&actions] { actions.turnRound(); }),
        made(tr("Only in &hand, or always"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_H),
             tr("Chains that move only while their instrument is in hand, or always"),
             [&actions] { actions.turnActive(); }),
        made(tr("Switch &on or off"), QKeySequence(Qt::CTRL | Qt::Key_M),
             tr("Switch what is selected on or off"), [&actions] { actions.toggle(); })};
}

std::vector<PageActions> ChainsPage::actions() const {
    return {{QString(), editActions_}, {tr("&Chain"), chainActions_}};
}

void ChainsPage::openRun(bool knobs) {
    const Instrument* instrument = instrumentOf(document_.ensemble(), selection_.now());
    if (instrument == nullptr || instrument->parameters.empty())
        return workspace_.hint(tr("Select an instrument with parameters first."));
    QDialog* dialog = knobs ? static_cast<QDialog*>(new TwoKnobsDialog(workspace_, window()))
                            : static_cast<QDialog*>(new RunDialog(workspace_, window()));
    dialog->open();
}

void ChainsPage::showContextMenu(const QPoint& at) {
    ChainActions& actions = workspace_.actions;
    QMenu menu;
    menu.addAction(tr("Add a chain"), &actions, &ChainActions::addChain);
    menu.addSeparator();
    menu.addAction(tr("Switch on or off"), &actions, &ChainActions::toggle);
    menu.addAction(tr("Turn round"), &actions, &ChainActions::turnRound);
    menu.addAction(tr("Only in hand, or always"), &actions, &ChainActions::turnActive);
    menu.addAction(tr("Copy"), &workspace_.reuse, &Reuse::copy);
    menu.addAction(tr("Paste"), &workspace_.reuse, &Reuse::paste);
    menu.addAction(tr("Duplicate"), &actions, &ChainActions::duplicate);
    menu.addAction(tr("Give to other instruments…"), this, [this] { workspace_.reuse.give(this); });
    menu.addAction(tr("Keep in the library…"), this, [this] { workspace_.reuse.keep(); });
    menu.addAction(tr("Move earlier"), &actions, [&actions] { actions.move(-1); });
    menu.addAction(tr("Move later"), &actions, [&actions] { actions.move(1); });
    menu.addAction(tr("Remove"), &actions, &ChainActions::remove);
    menu.exec(list_->mapToGlobal(at));
}

/// Where height is short, the list gives way down to two rows before the lever must scroll.
void ChainsPage::shareHeight() {
    const int whole = list_->sizeHint().height();
    const int left = height() - scaled(80) - scaled(leverHeight);
    list_->setFixedHeight(std::clamp(left, std::min(whole, list_->rowsHeight(2)), whole));
}

void ChainsPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    shareHeight();
}

void ChainsPage::follow() {
    const Ensemble& ensemble = document_.ensemble();
    const Instrument* instrument = instrumentOf(ensemble, selection_.now());
    const std::vector<Chain>* chains = chainsOf(ensemble, selection_.now());
    add_->setEnabled(chains != nullptr);
    add_->setToolTip(instrument != nullptr ? tr("Add a chain to this instrument")
                                           : tr("Add a chain that leads to any instrument"));
    list_->setVisible(chains != nullptr && !chains->empty());
    shareHeight();
    if (chains == nullptr) {
        title_->setText(tr("Chains"));
        counts_.clear();
        summary_->clear();
        return;
    }
    title_->setText(instrument != nullptr ? QString::fromStdString(nameOf(*instrument))
                                          : tr("Shared chains"));
    std::size_t targets = 0;
    for (const Chain& chain : *chains) targets += chain.branches.size();
    counts_ = QStringLiteral("%1 · %2").arg(tr("%n chain(s)", nullptr, static_cast<int>(chains->size())),
                                            tr("%n target(s)", nullptr, static_cast<int>(targets)));
    showSummary();
}

/// How many are selected, and how the chains are doing, as far as it is known what checks say.
void ChainsPage::showSummary() {
    if (counts_.isEmpty()) return;
    const auto many = static_cast<int>(selection_.everySelected().size());
    const QString chosen =
        selection_.areSeveral() ? tr("%n selected", nullptr, many) + QStringLiteral(" · ") : QString();
    summary_->setText(QStringLiteral("%1%2 · %3").arg(chosen, counts_, state_));
}

void ChainsPage::followFindings() {
    const auto place = ownerPlace(document_.ensemble(), selection_.now());
    const auto& findings = document_.findings();
    const auto troubles = std::count_if(findings.begin(), findings.end(), [place](const Finding* found) {
        const Finding& finding = *found;
        return finding.severity == Severity::trouble && finding.place.instrument == place &&
               (place || finding.place.chain);
    });
    const auto notes = std::count_if(findings.begin(), findings.end(), [place](const Finding* found) {
        return found->severity == Severity::note && found->place.instrument == place &&
               (place || found->place.chain);
    });
    QStringList said;
    if (troubles > 0) said << tr("%n trouble(s)", nullptr, static_cast<int>(troubles));
    if (notes > 0) said << tr("%n note(s) of checks", nullptr, static_cast<int>(notes));
    state_ = said.isEmpty() ? tr("all clear") : said.join(QStringLiteral(" · "));
    showSummary();
}

}  // namespace mellow::app
