// A page of the window: a picture in the middle, its details on the right, and what can be done there.
//
// A page is a folder of pages/ and a row of the list in app/frame/pages.cpp. The window knows pages by these
// rows only: it makes each with the workspace, shows the one whose alternative the selected address is, and
// gives its actions a place in the menus while it is shown.
#pragma once

#include <QAction>
#include <QWidget>
#include <span>
#include <vector>

#include "app/acts/workspace.h"

namespace mellow::app {

/// Actions of a page for one menu.
struct PageActions {
    QString menu;  ///< its title; empty: the Edit menu
    QList<QAction*> actions;
};

class Page : public QWidget {
    Q_OBJECT

 public:
    using QWidget::QWidget;

    /// What stands on the right while this page is shown; made once, owned by whoever asks.
    virtual QWidget* makeDetails() = 0;
    /// What stands on the left instead of the ensemble, or nullptr; likewise.
    virtual QWidget* makeLeft() { return nullptr; }
    /// Whether the page wants something on its left at all.
    [[nodiscard]] virtual bool wantsLeft() const { return true; }
    /// Whether the page wants its details and what just happened beside it; see wantsChanged().
    [[nodiscard]] virtual bool wantsDetails() const { return true; }
    /// Whether the practice keys stand below it, until a person says otherwise there.
    [[nodiscard]] virtual bool wantsKeys() const { return true; }
    [[nodiscard]] virtual std::vector<PageActions> actions() const { return {}; }
    /// What became of a file that was dropped on the window.
    enum class Taken {
        notOurs,  ///< it is none that this page reads
        refused,  ///< it could not be read, or a person wanted it no more; that has been told
        taken,    ///< it is there to be seen
    };
    virtual Taken takeFile(const QString&) { return Taken::notOurs; }
    /// Takes the keyboard's focus to where one begins.
    virtual void begin() { setFocus(Qt::OtherFocusReason); }

 signals:
    /// wantsDetails() says something else.
    void wantsChanged();
    /// The page wants the whole window, or no longer does.
    void wholeWindowAsked(bool whole);
};

struct PageRow {
    const char* id;  ///< in settings and object names
    QString (*title)();
    Page* (*make)(Workspace& workspace);
    Address (*address)();  ///< of its alternative, whatever it names
};

/// Every page, in the order in which the header shows them.
std::span<const PageRow> pageRows();

}  // namespace mellow::app
