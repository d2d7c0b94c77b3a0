// Help: a page of the program each, written for musicians, and a page of all shortcuts that is made from the
// menus as they are.
#pragma once

#include <QDialog>
#include <QListWidget>
#include <QMenuBar>
#include <QTextBrowser>

namespace mellow::app {

class HelpWindow : public QDialog {
    Q_OBJECT

 public:
    HelpWindow(QMenuBar& menus, QWidget* window);

    /// The id of a page of the program, "first" or "shortcuts".
    void showPage(const QString& id);
    /// Every menu entry with its keys, as HTML.
    [[nodiscard]] static QString shortcuts(const QMenuBar& menus);

 private:
    QMenuBar& menus_;
    QListWidget* list_;
    QTextBrowser* text_;
};

}  // namespace mellow::app
