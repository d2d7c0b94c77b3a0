// The menus: what concerns the whole window, and what the page that is shown can do.
#pragma once

#include <QMenuBar>
#include <functional>
#include <vector>

namespace mellow::app {

class MainWindow;

class Menus : public QObject {
    Q_OBJECT

 public:
    Menus(QMenuBar& bar, MainWindow& window);

    /// What another page can do is not there.
    void followPage(std::size_t page);
    /// A session keeps the document: what would leave its file is not offered.
    void stayIn(const QString& session);

 private:
    QAction* add(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                 std::function<void()> act);
    void buildFileMenu();
    void buildEditMenu();
    void buildPlayMenu();
    void buildViewMenu();
    void buildHelpMenu();
    void addPageActions(QMenu& edit);

    QMenuBar& bar_;
    MainWindow& window_;
    std::vector<QAction*> leaving_;  ///< acts that would leave the document's file
    QAction* takeIn_ = nullptr;      ///< there in a session only
    QAction* quit_ = nullptr;
    /// Actions that are there while a page is shown, by page.
    std::vector<QList<QAction*>> pageActions_;
};

}  // namespace mellow::app
