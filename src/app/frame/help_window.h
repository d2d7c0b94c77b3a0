// Help: a page of the program each, written for musicians, and a page of all shortcuts that is made from the
// menus as they are, and goes out as a sheet to print (paper/keyboard_sheet.h).
#pragma once

#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QMenuBar>
#include <QTextBrowser>
#include <functional>

namespace mellow::app {

class HelpWindow : public QDialog {
    Q_OBJECT

 public:
    HelpWindow(QMenuBar& menus, QWidget* window);

    /// The id of a page of the program, "first" or "shortcuts".
    void showPage(const QString& id);
    /// Every menu entry with its keys, as HTML.
    [[nodiscard]] static QString shortcuts(const QMenuBar& menus);
    /// A path to write to, or empty when the person thought better of it.
    using AskPath = std::function<QString(QWidget*, const QString& suggestion)>;
    void onAskPath(AskPath ask) { askPath_ = std::move(ask); }

 private:
    QWidget* makeSheetRow();
    void printKeys();
    void writeKeys(const QString& wished);
    void say(const QString& sentence);

    QMenuBar& menus_;
    QListWidget* list_;
    QTextBrowser* text_;
    QLabel* said_;
    QWidget* sheetRow_ = nullptr;
    AskPath askPath_;
};

}  // namespace mellow::app
