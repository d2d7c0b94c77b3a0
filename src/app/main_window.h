// The main window: header, ensemble, page, details, practice keys, and the menus that reach everything.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QMainWindow>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>

#include "app/chains/chains_page.h"
#include "app/details/details_panel.h"
#include "app/ensemble_list.h"
#include "app/live.h"
#include "app/widgets/moving_text.h"
#include "app/widgets/practice_keys.h"

namespace mellow::app {

class MainWindow : public QMainWindow {
    Q_OBJECT

 public:
    /// What a person answers when unsaved work would be lost. Tests answer without a dialog.
    enum class Answer { save, discard, cancel };
    using Ask = std::function<Answer(QWidget*)>;
    /// A path to save to, or empty when the person thought better of it.
    using AskPath = std::function<QString(QWidget*, const QString& suggestion)>;

    explicit MainWindow(Live::Options options, QWidget* parent = nullptr);

    Document& document() { return document_; }
    Selection& selection() { return selection_; }
    Live& live() { return live_; }
    ChainsPage& page() { return *page_; }
    EnsembleList& ensembleList() { return *ensemble_; }
    DetailsPanel& details() { return *details_; }
    PracticeKeys& practiceKeys() { return *keys_; }

    void openDemo();
    bool openFile(const QString& path);
    bool save();
    bool saveAs();
    void newEnsemble();
    /// Loads hands from a MIDI file, to be played with the play button.
    bool openHands(const QString& path);
    /// Starts the take, or stops it.
    void togglePlay();
    [[nodiscard]] QString noticeText() const;

    void onAsk(Ask ask) { ask_ = std::move(ask); }
    void onAskPath(AskPath ask) { askPath_ = std::move(ask); }

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
    void paintEvent(QPaintEvent* event) override;

 private:
    QWidget* buildHeader();
    QWidget* buildLeft();
    QWidget* buildRight();
    void buildMenus();
    void buildNotice();
    QAction* add(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                 std::function<void()> act);

    bool mayLose();
    bool saveTo(const QString& path);
    void loadHands(midi::Bytes bytes, const QString& name);
    void dropDemoHands();
    void notice(const QString& sentence, const QString& action = {}, std::function<void()> act = {});
    void refreshTitle();
    void refreshRates();
    void refreshStatus();
    void refreshPlay();
    void rememberRecent(const QString& path);
    void fillRecent();
    void useTheme(const QString& name, double scale);
    void showContextMenu(QWidget* list, const QPoint& at);

    Document document_;
    Selection selection_;
    Live live_;
    ChainActions actions_;
    QSettings settings_;
    Ask ask_;
    AskPath askPath_;
    std::shared_ptr<const Take> hands_;
    QString handsName_;
    bool handsAreDemos_ = false;
    bool firstPaint_ = true;
    bool shareColumns_ = true;

    QLabel* title_ = nullptr;
    QPushButton* play_ = nullptr;
    MovingText* in_ = nullptr;
    MovingText* out_ = nullptr;
    QLabel* status_ = nullptr;
    QFrame* notice_ = nullptr;
    QLabel* noticeText_ = nullptr;
    QPushButton* noticeAct_ = nullptr;
    std::function<void()> noticeAction_;
    QSplitter* columns_ = nullptr;
    QMenu* recent_ = nullptr;
    EnsembleList* ensemble_ = nullptr;
    ChainsPage* page_ = nullptr;
    DetailsPanel* details_ = nullptr;
    PracticeKeys* keys_ = nullptr;
};

}  // namespace mellow::app
