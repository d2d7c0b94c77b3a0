#include "app/frame/menus.h"

#include <QApplication>
#include <QMessageBox>
#include <utility>

#include "app/acts/assignment_finder.h"
#include "app/acts/draw_dialog.h"
#include "app/document/compare_dialog.h"
#include "app/document/versions_dialog.h"
#include "app/frame/header_feed.h"
#include "app/frame/looks.h"
#include "app/frame/main_window.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/page.h"
#include "app/takes/unsaved_dialog.h"
#include "app/widgets/make_action.h"

namespace mellow::app {

Menus::Menus(QMenuBar& bar, MainWindow& window) : QObject(&window), bar_(bar), window_(window) {
    buildFileMenu();
    buildEditMenu();
    buildPlayMenu();
    buildViewMenu();
    buildHelpMenu();
}

void Menus::followPage(std::size_t page) {
    for (std::size_t each = 0; each < pageActions_.size(); ++each) {
        for (QAction* action : pageActions_[each]) action->setVisible(each == page);
    }
}

QAction* Menus::add(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                    std::function<void()> act) {
    auto* action = makeAction(menu, text, keys, tip, [act = std::move(act)] { act(); });
    menu->addAction(action);
    return action;
}

void Menus::buildEditMenu() {
    auto* edit = bar_.addMenu(tr("&Edit"));
    auto* undo = window_.document().undoStack().createUndoAction(&window_, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = window_.document().undoStack().createRedoAction(&window_, tr("Redo"));
    redo->setShortcuts({QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), QKeySequence(Qt::CTRL | Qt::Key_Y)});
    edit->addActions({undo, redo});
    edit->addSeparator();
    add(edit, tr("&Find what moves what…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_F),
        tr("Find an assignment by typing: a control, a target, a number, a word of what it does"),
        [this] { findAssignment(window_.workspace(), &window_.header()); });
    edit->addSeparator();
    addPageActions(*edit);
}

/// What a page can do stands in the Edit menu or in menus of its own, while the page is shown.
void Menus::addPageActions(QMenu& edit) {
    for (int page = 0; page < static_cast<int>(pageRows().size()); ++page) {
        QList<QAction*> all;
        for (const PageActions& part : window_.page(static_cast<std::size_t>(page)).actions()) {
            QMenu* menu = part.menu.isEmpty() ? &edit : bar_.addMenu(part.menu);
            menu->addActions(part.actions);
            all << part.actions;
            if (menu != &edit) all << menu->menuAction();
        }
        pageActions_.push_back(all);
    }
}

void Menus::buildPlayMenu() {
    auto* play = bar_.addMenu(tr("&Play"));
    add(play, tr("&Play or stop"), {}, tr("Play the take through the chains, or stop"), [this] {
        window_.togglePlay();
    })->setShortcuts({QKeySequence(Qt::Key_Space), QKeySequence(Qt::Key_F5)});
    add(play, tr("&Record or end"), QKeySequence(Qt::Key_F3),
        tr("Record what is played into a take, or end it"), [this] { window_.takes().recording.toggle(); });
    add(play, tr("&Silence all"), QKeySequence(Qt::Key_Escape), tr("End every note"),
        [this] { window_.escape(); });
    play->addSeparator();
    add(play, tr("Put to &rest"), QKeySequence(Qt::Key_F7),
        tr("Send the targets of what is selected to their resting values"), [this] { window_.putToRest(); });
    add(play, tr("Put &everything to rest"), QKeySequence(Qt::SHIFT | Qt::Key_F7),
        tr("Send every target of every instrument to its resting value"),
        [this] { window_.putting().rest(Whose{}); });
    add(play, tr("&Draw values…"), QKeySequence(Qt::Key_F9),
        tr("Send targets to values drawn inside their reach; the same seed draws the same again"),
        [this] { (new DrawDialog(window_.workspace(), window_.putting(), &window_))->show(); });
    play->addSeparator();
    add(play, tr("&Tap the tempo"), QKeySequence(Qt::Key_F6), tr("Tap the beats to set the tempo"),
        [this] { window_.headerFeed().tapTempo(); });
}

void Menus::buildFileMenu() {
    auto* file = bar_.addMenu(tr("&File"));
    QAction* begin = add(file, tr("&New ensemble"), QKeySequence::New, tr("Begin an empty ensemble"),
                         [this] { window_.newEnsemble(); });
    add(file, tr("Na&me the ensemble…"), {}, tr("Change its name, which the header shows"),
        [this] { window_.nameEnsemble(); });
    QAction* beginFrom = add(file, tr("New from a &template…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_N),
                             tr("Begin with an ensemble of your own making"),
                             [this] { window_.files().findTemplate(&window_.header()); });
    QAction* open = add(file, tr("&Open…"), QKeySequence::Open, tr("Open an ensemble"),
                        [this] { window_.files().open(); });
    takeIn_ = add(file, tr("&Take in an ensemble…"), {},
                  tr("Have this session’s ensemble be what another file holds, with its takes"),
                  [this] { window_.files().takeIn(); });
    takeIn_->setVisible(false);
    QMenu* recent = file->addMenu(tr("Open &recent"));
    connect(recent, &QMenu::aboutToShow, this, [this, recent] { window_.files().fillRecent(*recent); });
    window_.files().fillRecent(*recent);
    QAction* demo = add(file, tr("Open the &demo"), {}, tr("Open The Tin Observatory"), [this] {
        if (window_.files().mayLose()) window_.openDemo();
    });
    file->addSeparator();
    add(file, tr("&Save"), QKeySequence::Save, tr("Save the ensemble"), [this] { window_.files().save(); });
    QAction* saveAs = add(file, tr("Save &as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
                          tr("Save under another name"), [this] { window_.files().saveAs(); });
    leaving_ = {begin, beginFrom, open, recent->menuAction(), demo, saveAs};
    add(file, tr("Keep as a te&mplate…"), {}, tr("New ensembles can begin as this one is"),
        [this] { window_.files().keepTemplate(); });
    add(file, tr("Earlier &versions…"), {}, tr("See what was saved before, and go back to it"),
        [this] { VersionsDialog(window_.document(), &window_).exec(); });
    add(file, tr("&Compare…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_D),
        tr("See what differs from the file, an earlier version or another ensemble, and take it over"),
        [this] { CompareDialog(window_.document(), &window_).exec(); });
    add(file, tr("Recordin&gs never saved…"), {},
        tr("Recordings of ensembles that were closed without being saved: take them in, or clear them away"),
        [this] { UnsavedDialog(window_.document(), window_.takes(), &window_).exec(); });
    file->addSeparator();
    quit_ = add(file, tr("&Quit"), QKeySequence::Quit, tr("Leave Mellow Lever"), [this] { window_.close(); });
}

/// What would leave the session's file is not offered; closing only hides.
void Menus::stayIn(const QString& session) {
    for (QAction* action : leaving_) {
        action->setEnabled(false);
        action->setToolTip(tr("The session “%1” keeps this ensemble").arg(session));
    }
    takeIn_->setVisible(true);
    quit_->setText(tr("&Hide"));
    quit_->setToolTip(tr("The session goes on playing; its manager shows the window again"));
}

void Menus::buildViewMenu() {
    auto* view = bar_.addMenu(tr("&View"));
    for (std::size_t page = 0; page < pageRows().size(); ++page) {
        const QString title = pageRows()[page].title();
        add(view, title, QKeySequence(Qt::CTRL | static_cast<Qt::Key>(Qt::Key_1 + static_cast<int>(page))),
            tr("Show the page %1").arg(title), [this, page] { window_.showPage(page); });
    }
    view->addSeparator();
    add(view, tr("All &checks…"), QKeySequence(Qt::Key_F4),
        tr("Everything that checks found, with its cures"), [this] { window_.showChecks(); });
    auto* keysAction =
        add(view, tr("Practice &keys"), QKeySequence(Qt::Key_F8), tr("Show or fold away the practice keys"),
            [this] { window_.showKeys(window_.practiceKeys().isHidden()); });
    keysAction->setCheckable(true);
    view->addSeparator();
    add(view, tr("&Dusk"), {}, tr("The dark theme"),
        [this] { useTheme(window_, QStringLiteral("Dusk"), fontScale()); });
    add(view, tr("&Linen"), {}, tr("The light theme"),
        [this] { useTheme(window_, QStringLiteral("Linen"), fontScale()); });
    auto* larger =
        add(view, tr("Larger &fonts"), {}, tr("Fonts a quarter larger; takes full effect at the next start"),
            [this] { useTheme(window_, theme().name, fontScale() > plainFonts ? plainFonts : largeFonts); });
    larger->setCheckable(true);
    connect(view, &QMenu::aboutToShow, this, [this, keysAction, larger] {
        keysAction->setChecked(!window_.practiceKeys().isHidden());
        larger->setChecked(fontScale() > plainFonts);
    });
}

void Menus::buildHelpMenu() {
    auto* help = bar_.addMenu(tr("&Help"));
    add(help, tr("&Help for this page"), QKeySequence(Qt::Key_F1),
        tr("What can be done on the page that is shown"),
        [this] { window_.showHelp(toQt(pageRows()[window_.shownPage()].id)); });
    add(help, tr("&First steps"), {}, tr("From nothing to a moving meter"),
        [this] { window_.showHelp(QStringLiteral("first")); });
    add(help, tr("&Shortcuts"), QKeySequence(Qt::SHIFT | Qt::Key_F1), tr("Every key, and what it does"),
        [this] { window_.showHelp(QStringLiteral("shortcuts")); });
    help->addSeparator();
    add(help, tr("&About Mellow Lever"), {}, tr("What this is"), [this] {
        QMessageBox::about(&window_, tr("About Mellow Lever"),
                           tr("Mellow Lever %1\n\nTurns what hands do into what instruments want.\nMIT "
                              "licence. Fonts: Manrope and B612 (SIL Open Font License).")
                               .arg(QApplication::applicationVersion()));
    });
}

}  // namespace mellow::app
