// The main window: the frame around the page that is shown, and the owner of all that pages share.
//
// What stands where is arranged here. What the header says is told it by header_feed.h, the menus are made in
// menus.h, what is dropped is taken by dropping.h, what is opened and saved is in document/files.h; pages are
// known by their rows only (pages/page.h).
#pragma once

#include <QMainWindow>
#include <QMenuBar>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <memory>

#include "app/document/curve_store.h"
#include "app/document/files.h"
#include "app/frame/ensemble_list.h"
#include "app/frame/header.h"
#include "app/frame/strip.h"
#include "app/live/putting.h"
#include "app/pages/page.h"
#include "app/takes/take_store.h"
#include "app/takes/take_work.h"
#include "app/widgets/notice_bar.h"
#include "app/widgets/practice_keys.h"
#include "app/widgets/reading_order.h"

namespace mellow::app {

class Dropping;
class HeaderFeed;
class Manners;
class Menus;

class MainWindow : public QMainWindow {
    Q_OBJECT

 public:
    using Answer = Files::Answer;

    explicit MainWindow(Live::Options options, QWidget* parent = nullptr);
    ~MainWindow() override;

    Document& document() { return document_; }
    Selection& selection() { return selection_; }
    Live& live() { return live_; }
    Learn& learn() { return learn_; }
    PlayedReach& reach() { return reach_; }
    ChainActions& actions() { return actions_; }
    EnsembleList& ensembleList() { return *ensemble_; }
    PracticeKeys& practiceKeys() { return *keys_; }
    Files& files() { return *files_; }
    Dropping& dropping() { return *dropping_; }
    Touched& touched() { return touched_; }
    Reuse& reuse() { return *reuse_; }
    Putting& putting() { return putting_; }
    TakeWork& takes() { return takes_; }
    /// The menus, which stand beside the strip.
    QMenuBar& menus() { return *menus_; }

    void openDemo();
    bool openFile(const QString& path) { return files_->open(path); }
    void newEnsemble();
    /// Takes a MIDI file in as a take that was played on the practice keys. False when it cannot be read;
    /// that has been told.
    bool openHands(const QString& path);
    /// Starts the take in hand, or stops it.
    void togglePlay() { transport_->toggle(); }
    [[nodiscard]] QString noticeText() const { return notice_->text(); }
    /// Shows a page, by its place in the list.
    void showPage(std::size_t page);
    [[nodiscard]] std::size_t shownPage() const { return static_cast<std::size_t>(pages_->currentIndex()); }
    Page& page(std::size_t place);

    // What the menus do.
    Workspace& workspace() { return workspace_; }
    Header& header() { return *header_; }
    HeaderFeed& headerFeed() { return *headerFeed_; }
    /// The menus offer what can be done with a document that a session keeps.
    void menusFor(const QString& session);
    void nameEnsemble();
    void showHelp(const QString& page);
    void showChecks();
    /// Shows or folds away the practice keys: there, and on all pages that want them, or on those that do
    /// not.
    void showKeys(bool shown);
    void putToRest();
    /// Closes or ends what wants Esc just now, and else silences all.
    void escape();
    void silence();

 signals:
    /// The first picture is on the screen.
    void painted();

 protected:
    void closeEvent(QCloseEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    bool event(QEvent* event) override;
    bool focusNextPrevChild(bool next) override { return focusByReading(*this, next); }
    void paintEvent(QPaintEvent* event) override;

 private:
    void showKeysInHand();
    QWidget* buildLeft();
    QWidget* onLeft(QWidget* widget);
    void giveRoom();
    void showWhole(bool whole);
    QWidget* buildTop();
    void layStripOver();
    QWidget* buildRight();
    void buildPages();
    void buildCenter();
    void connectAll();
    void followSelection();

    Document document_;
    Selection selection_;
    Live live_;
    ChainActions actions_;
    Learn learn_;
    PlayedReach reach_;
    Touched touched_;
    Putting putting_;
    CurveStore curveFiles_;
    Reuse* reuse_;
    TakeStore takeFiles_;
    TakeWork takes_;
    Workspace workspace_;
    QSettings settings_;
    bool firstPaint_ = true;
    bool shareColumns_ = true;

    Manners* manners_;
    NoticeBar* notice_;
    QMenuBar* menus_;
    Strip* strip_;
    QWidget* top_ = nullptr;          ///< the menus and the strip
    std::unique_ptr<Keeper> keeper_;  ///< goes before the document does, whose end is no saving
    Files* files_;
    Transport* transport_;
    Header* header_ = nullptr;
    QSplitter* columns_ = nullptr;
    QStackedWidget* left_ = nullptr;
    QWidget* ensembleSide_ = nullptr;
    std::vector<QWidget*> lefts_;  ///< one a page; nullptr: the ensemble
    bool isWhole_ = false;         ///< the page has the whole screen
    bool keysShown_ = true;        ///< where the page wants them
    bool keysAnyway_ = false;      ///< where it does not
    bool wasMaximized_ = false;
    QStackedWidget* pages_;
    QStackedWidget* details_;
    Dropping* dropping_;
    HeaderFeed* headerFeed_ = nullptr;
    Menus* menuActs_ = nullptr;
    EnsembleList* ensemble_ = nullptr;
    PracticeKeys* keys_;
};

}  // namespace mellow::app
