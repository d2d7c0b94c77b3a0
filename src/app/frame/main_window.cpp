// The frame around the pages: header, ensemble, practice keys, menus, and what concerns the whole window.
// Building is in the order in which one sees it.
#include "app/frame/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenuBar>
#include <QPointer>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <ctime>

#include "app/acts/reuse/reuse.h"
#include "app/frame/checks_dialog.h"
#include "app/frame/demo.h"
#include "app/frame/dropping.h"
#include "app/frame/header_feed.h"
#include "app/frame/help_window.h"
#include "app/frame/just_now.h"
#include "app/frame/menus.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/live/in_hand.h"
#include "app/takes/midi_file.h"
#include "app/widgets/accessible.h"
#include "app/widgets/manners.h"

namespace mellow::app {

namespace {

constexpr int leastLeft = 178;  // px, of what stands on the left, without its margins

/// What this thread has had of the processor, in milliseconds.
double processorTime() {
    timespec time{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &time);
    return static_cast<double>(time.tv_sec) * 1e3 + static_cast<double>(time.tv_nsec) / 1e6;
}

QStringList pageTitles() {
    QStringList titles;
    for (const PageRow& row : pageRows()) titles << row.title();
    return titles;
}

}  // namespace

MainWindow::MainWindow(Live::Options options, QWidget* parent)
    // Before any widget is, since what a screen reader is told of one is made once.
    : QMainWindow((speakValues(), parent)),
      live_(document_, std::move(options)),
      actions_(document_, selection_),
      learn_(document_, selection_, live_),
      reach_(document_, selection_, live_),
      touched_(document_, live_),
      putting_(document_, live_),
      curveFiles_(document_),
      reuse_(new Reuse(
          document_, selection_, curveFiles_, [this](const QString& sentence) { notice_->say(sentence); },
          this)),
      takeFiles_(document_),
      takes_(document_, selection_, live_, takeFiles_),
      workspace_{document_,
                 selection_,
                 live_,
                 actions_,
                 learn_,
                 reach_,
                 touched_,
                 *reuse_,
                 takeFiles_,
                 curveFiles_,
                 takes_,
                 [this](const QString& sentence) { notice_->say(sentence); },
                 [this](const QString& sentence) { notice_->hint(sentence); },
                 [this](Beside& beside) { files_->carry(beside); },
                 [this](const Address& address) { selection_.go(address); }},
      manners_(new Manners(*this)),
      notice_(new NoticeBar),
      menus_(new QMenuBar),
      strip_(new Strip(workspace_, notice_)),
      keeper_(std::make_unique<Keeper>(document_)),
      files_(new Files(document_, *keeper_, *notice_, this)),
      transport_(new Transport(document_, takes_)),
      pages_(new QStackedWidget),
      details_(new QStackedWidget),
      dropping_(new Dropping(workspace_, *files_, *pages_, this)),
      keys_(new PracticeKeys) {
    speakEnglish();
    workspace_.keepBeside(takeFiles_);
    workspace_.keepBeside(curveFiles_);
    setAcceptDrops(true);
    setMinimumSize(1000, 640);
    manners_->giveKeyboardTo(&keys_->keyboard());
    buildPages();
    buildCenter();
    menuActs_ = new Menus(*menus_, *this);
    connectAll();
    restoreGeometry(settings_.value(QStringLiteral("window/geometry")).toByteArray());
    shareColumns_ = !columns_->restoreState(settings_.value(QStringLiteral("window/columns")).toByteArray());
    keysShown_ = settings_.value(QStringLiteral("window/keys"), true).toBool();
    keysAnyway_ = settings_.value(QStringLiteral("window/keysAnyway"), false).toBool();
    headerFeed_ = new HeaderFeed(*header_, document_, live_, *notice_, *this);
    showKeysInHand();
    followSelection();
    if (!live_.ports().machineTrouble().isEmpty()) notice_->say(live_.ports().machineTrouble());
}

/// Pages speak to what is a member here, and are told when the window is not active any more; so it goes from
/// the screen, and they see no more events, before the members go.
MainWindow::~MainWindow() {
    hide();
    // What is open above it speaks to the members too; and what is open above that goes with it.
    const QList<QWidget*> children = findChildren<QWidget*>();
    std::vector<QPointer<QWidget>> above;
    std::copy_if(children.begin(), children.end(), std::back_inserter(above),
                 [](const QWidget* child) { return child->isWindow(); });
    for (const QPointer<QWidget>& each : above) delete each;
    for (int page = 0; page < pages_->count(); ++page) qApp->removeEventFilter(pages_->widget(page));
    qApp->removeEventFilter(manners_);
    qApp->removeEventFilter(this);
}

void MainWindow::buildPages() {
    for (const PageRow& row : pageRows()) {
        Page* page = row.make(workspace_);
        pages_->addWidget(page);
        details_->addWidget(page->makeDetails());
        lefts_.push_back(page->makeLeft());
        connect(page, &Page::wantsChanged, this, &MainWindow::giveRoom);
        connect(page, &Page::wholeWindowAsked, this, &MainWindow::showWhole);
    }
}

/// What stands beside the page is what the page wants.
void MainWindow::giveRoom() {
    const auto* page = static_cast<const Page*>(pages_->currentWidget());
    columns_->widget(0)->setVisible(page->wantsLeft() && !isWhole_);
    keys_->setVisible((page->wantsKeys() ? keysShown_ : keysAnyway_) && !isWhole_);
    columns_->widget(2)->setVisible(page->wantsDetails() && !isWhole_);
    QWidget* left = lefts_[static_cast<std::size_t>(pages_->currentIndex())];
    left_->setCurrentWidget(left != nullptr ? left : ensembleSide_);
}

/// The page alone on the whole screen, and everything as it was again.
void MainWindow::showWhole(bool whole) {
    if (std::exchange(isWhole_, whole) == whole) return;
    header_->setVisible(!whole);
    top_->setMaximumHeight(whole ? 0 : QWIDGETSIZE_MAX);
    whole ? layStripOver() : top_->layout()->addWidget(strip_);
    strip_->setVisible(!whole || !strip_->saysNothing());
    if (whole) {
        wasMaximized_ = isMaximized();
        showFullScreen();
    } else {
        wasMaximized_ ? showMaximized() : showNormal();
    }
    giveRoom();
}

/// Over the upper edge of the page that has the screen, while it says something.
void MainWindow::layStripOver() {
    strip_->setParent(centralWidget());
    strip_->setGeometry(0, 0, centralWidget()->width(), strip_->sizeHint().height());
    strip_->setVisible(!strip_->saysNothing());
    strip_->raise();
}

void MainWindow::showKeys(bool shown) {
    const auto* page = static_cast<const Page*>(pages_->currentWidget());
    (page->wantsKeys() ? keysShown_ : keysAnyway_) = shown;
    giveRoom();
}

void MainWindow::buildCenter() {
    keys_->setObjectName(QStringLiteral("bottomPanel"));
    keys_->setAttribute(Qt::WA_StyledBackground);
    keys_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    columns_ = new QSplitter(Qt::Horizontal);
    columns_->setHandleWidth(1);
    columns_->setChildrenCollapsible(false);
    left_ = new QStackedWidget;
    ensembleSide_ = buildLeft();
    left_->addWidget(ensembleSide_);
    for (QWidget* left : lefts_) {
        if (left != nullptr) left_->addWidget(onLeft(left));
    }
    columns_->addWidget(left_);
    columns_->addWidget(pages_);
    columns_->addWidget(buildRight());
    columns_->setStretchFactor(1, 1);
    connect(columns_, &QSplitter::splitterMoved, this, [this] { shareColumns_ = false; });
    header_ = new Header(pageTitles(), transport_);
    setMenuWidget(buildTop());
    auto* center = new QWidget;
    auto* column = new QVBoxLayout(center);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(header_);
    column->addWidget(columns_, 1);
    auto* rule = new QFrame;
    rule->setObjectName(QStringLiteral("rule"));
    column->addWidget(rule);
    column->addWidget(keys_);
    setCentralWidget(center);
}

/// The strip is the menus' neighbour, so that its place is there whether it says something or not.
QWidget* MainWindow::buildTop() {
    top_ = new QWidget;
    top_->setObjectName(QStringLiteral("top"));
    top_->setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(top_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    menus_->setNativeMenuBar(false);
    menus_->setSizePolicy(QSizePolicy::Minimum, QSizePolicy::Fixed);
    row->addWidget(menus_, 0, Qt::AlignVCenter);
    row->addWidget(strip_, 1);
    return top_;
}

void MainWindow::connectAll() {
    connect(&document_, &Document::replaced, &selection_, &Selection::forget);
    connect(&selection_, &Selection::changed, this, &MainWindow::followSelection);
    connect(&live_, &Live::cameIn, this, [this](const io::Happening& happening) {
        if (midi::isChannelStatus(happening.message.data[0])) keys_->showMessage(happening.message.bytes());
    });
    connect(files_, &Files::settled, &takes_, [this] {
        if (!takes_.recording.isOn()) takes_.logs.bringBack();
    });
    connect(files_, &Files::wasSaved, &takes_, [this] { takes_.logs.forget(document_.ensemble()); });
    connect(keeper_.get(), &Keeper::written, &takes_.logs, &TakeLogs::forget);
    connect(files_, &Files::aboutToLose, &takes_.recording, &TakeRecording::endNow);
    connect(files_, &Files::discarded, &takes_.logs, &TakeLogs::drop);
    takes_.recording.onSeveralPhrases([this](const QStringList& phrases) {
        bool given = false;
        const QString chosen = QInputDialog::getItem(this, tr("Keep what was just played"),
                                                     tr("Keep the last"), phrases, 0, false, &given);
        return given ? static_cast<int>(phrases.indexOf(chosen)) : -1;
    });
    connect(&takes_.choice, &TakeChoice::hinted, notice_, &NoticeBar::hint);
    connect(&takes_.choice, &TakeChoice::told, this,
            [this](const QString& sentence) { notice_->say(sentence); });
    connect(keys_, &PracticeKeys::played, this,
            [this](const midi::Short& message) { live_.hands().send(message); });
    connect(header_, &Header::pageAsked, this,
            [this](int page) { showPage(static_cast<std::size_t>(page)); });
    connect(&header_->ports(), &PortsPill::portsAsked, this,
            [this] { selection_.go(selection_.lastOn(GearPlace{})); });
    connect(header_, &Header::silenceAsked, this, &MainWindow::silence);
    connect(header_, &Header::checksAsked, this, &MainWindow::showChecks);
    connect(&live_, &Live::troubled, this, [this](const QString& sentence) { notice_->say(sentence); });
    connect(&live_, &Live::movedAtAGlance, this, &MainWindow::showKeysInHand);
    connect(&document_, &Document::changed, this, &MainWindow::showKeysInHand);
    connect(dropping_, &Dropping::pageAsked, this,
            [this](int page) { showPage(static_cast<std::size_t>(page)); });
    connect(strip_, &Strip::changed, this, [this] {
        if (isWhole_) layStripOver();
    });
    qApp->installEventFilter(this);
}

/// What the keys mean to those in hand.
void MainWindow::showKeysInHand() {
    keys_->keyboard().show(keysInHand(document_.ensemble(), live_));
}

Page& MainWindow::page(std::size_t place) {
    return *static_cast<Page*>(pages_->widget(static_cast<int>(place)));
}

void MainWindow::showHelp(const QString& page) {
    auto* open = findChild<HelpWindow*>();
    if (open == nullptr) open = new HelpWindow(*menus_, this);
    open->showPage(page);
    open->show();
    open->raise();
    open->activateWindow();
}

void MainWindow::showChecks() {
    auto* open = findChild<ChecksDialog*>();
    if (open == nullptr) open = new ChecksDialog(workspace_, this);
    open->show();
    open->raise();
    open->activateWindow();
}

void MainWindow::putToRest() {
    putting_.rest(whoseOf(selection_.now(), DrawScope::selected));
}

void MainWindow::menusFor(const QString& session) {
    menuActs_->stayIn(session);
}

void MainWindow::nameEnsemble() {
    headerFeed_->nameEnsemble(header_);
}

/// While something is being learned Esc ends that, and only that.
void MainWindow::escape() {
    if (reach_.isOn()) return reach_.cancel();
    if (learn_.isOn()) return learn_.stop();
    if (!manners_->closeWhatEscapeCloses()) silence();
}

void MainWindow::silence() {
    keys_->letGo();
    live_.hands().silenceAll();
}

/// What a page puts on the left looks like what is there otherwise.
QWidget* MainWindow::onLeft(QWidget* widget) {
    widget->setObjectName(QStringLiteral("leftPanel"));
    widget->setAttribute(Qt::WA_StyledBackground);
    widget->layout()->setContentsMargins(scaled(6), scaled(10), scaled(6), scaled(6));
    if (auto* column = qobject_cast<QBoxLayout*>(widget->layout())) column->addStrut(scaled(leastLeft));
    return widget;
}

QWidget* MainWindow::buildLeft() {
    auto* left = new QWidget;
    left->setObjectName(QStringLiteral("leftPanel"));
    left->setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(left);
    column->setContentsMargins(scaled(6), scaled(10), scaled(6), scaled(6));
    column->addStrut(scaled(leastLeft));
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("Ensemble"));
    title->setProperty("role", "section");
    auto* add = new QPushButton(tr("Add"));
    add->setObjectName(QStringLiteral("addInstrument"));
    add->setToolTip(tr("Add an instrument"));
    connect(add, &QPushButton::clicked, &actions_, &ChainActions::addInstrument);
    head->addSpacing(scaled(12));
    head->addWidget(title, 1);
    head->addWidget(add);
    column->addLayout(head);
    ensemble_ = new EnsembleList(workspace_);
    column->addWidget(ensemble_, 1);
    return left;
}

QWidget* MainWindow::buildRight() {
    auto* right = new QWidget;
    right->setObjectName(QStringLiteral("rightPanel"));
    right->setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(right);
    // At least so wide, and wider where what is in it needs it.
    column->addStrut(scaled(276));
    column->setContentsMargins(scaled(14), scaled(10), scaled(4), scaled(6));
    column->setSpacing(scaled(6));
    auto* parts = new QSplitter(Qt::Vertical);
    parts->setChildrenCollapsible(false);
    parts->setHandleWidth(1);
    auto* log = new QWidget;
    auto* logColumn = new QVBoxLayout(log);
    logColumn->setContentsMargins(0, scaled(6), scaled(8), 0);
    logColumn->addWidget(new JustNow(document_, live_), 1);
    log->setMinimumHeight(scaled(110));
    parts->addWidget(details_);
    parts->addWidget(log);
    parts->setStretchFactor(0, 3);
    parts->setStretchFactor(1, 2);
    parts->setSizes({430, 170});
    column->addWidget(parts);
    return right;
}

/// The page whose alternative the selected address is.
void MainWindow::followSelection() {
    const auto rows = pageRows();
    const int before = pages_->currentIndex();
    for (std::size_t page = 0; page < rows.size(); ++page) {
        if (rows[page].address().index() != selection_.address().index()) continue;
        pages_->setCurrentIndex(static_cast<int>(page));
        details_->setCurrentIndex(static_cast<int>(page));
        header_->showPage(static_cast<int>(page));
    }
    giveRoom();
    if (pages_->currentIndex() != before) {
        notice_->dropHint();
        // What is pictured has the keyboard, and not the first button of the page.
        QWidget* picture = pages_->currentWidget()->focusProxy();
        manners_->giveKeyboardTo(picture != nullptr ? picture : &keys_->keyboard());
        manners_->goHome();
    }
    menuActs_->followPage(shownPage());
}

void MainWindow::showPage(std::size_t page) {
    if (page >= pageRows().size()) return;
    showWhole(false);
    selection_.go(selection_.lastOn(pageRows()[page].address()));
    static_cast<Page*>(pages_->currentWidget())->begin();
    header_->showPage(static_cast<int>(page));
}

void MainWindow::openDemo() {
    auto ensemble = demoEnsemble();
    if (!ensemble) return notice_->say(toQt(ensemble.problem().sentence()));
    selection_.set({});
    document_.replace(std::move(*ensemble), {});
}

void MainWindow::newEnsemble() {
    if (files_->begin()) selection_.set({});
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!files_->mayLose()) return event->ignore();
    settings_.setValue(QStringLiteral("window/geometry"), saveGeometry());
    settings_.setValue(QStringLiteral("window/columns"), columns_->saveState());
    settings_.setValue(QStringLiteral("window/keys"), keysShown_);
    settings_.setValue(QStringLiteral("window/keysAnyway"), keysAnyway_);
    keys_->letGo();
    keeper_->drop();
    event->accept();
}

/// The computer keyboard plays wherever the focus is, except where text is typed or a widget wants letters.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    const bool press = event->type() == QEvent::KeyPress;
    const bool mine = isActiveWindow() && watched == QApplication::focusWidget();
    if (event->type() == QEvent::WindowDeactivate && watched == this) keys_->keyboard().letGo();
    if ((!press && event->type() != QEvent::KeyRelease) || !mine)
        return QMainWindow::eventFilter(watched, event);
    auto* key = static_cast<QKeyEvent*>(event);
    if (keepsKeys(watched) && press) return QMainWindow::eventFilter(watched, event);
    if ((key->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier)) != 0 && press)
        return false;
    if (key->isAutoRepeat()) return letterPlays(key->key());
    Keyboard& keyboard = keys_->keyboard();
    if (press && (key->key() == Qt::Key_PageUp || key->key() == Qt::Key_PageDown) && watched == &keyboard) {
        keyboard.moveOctave(key->key() == Qt::Key_PageUp ? 1 : -1);
        return true;
    }
    if (!letterPlays(key->key())) return QMainWindow::eventFilter(watched, event);
    return press ? keyboard.pressLetter(key->key()) : keyboard.releaseLetter(key->key());
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (Dropping::canTake(*event->mimeData())) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    dropping_->take(*event->mimeData());
}

bool MainWindow::openHands(const QString& path) {
    const auto read = readMidiFile(path, workspace_.tell);
    if (!read) return false;
    return takes_.changing.add(tr("Import a take"), QFileInfo(path).completeBaseName(),
                               takeFrom(*read, std::string(io::practiceKeysPort)));
}

/// Until a person has set them, the side panels take a share of the width.
void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    if (!shareColumns_) return;
    const int left = std::clamp(width() * 16 / 100, scaled(190), scaled(250));
    const int right = std::clamp(width() * 23 / 100, scaled(276), scaled(380));
    columns_->setSizes({left, width() - left - right, right});
}

bool MainWindow::event(QEvent* event) {
    if (event->type() != QEvent::UpdateRequest) return QMainWindow::event(event);
    const double before = processorTime();
    const bool done = QMainWindow::event(event);
    live_.pictureTook(processorTime() - before);
    return done;
}

void MainWindow::paintEvent(QPaintEvent* event) {
    QMainWindow::paintEvent(event);
    if (!std::exchange(firstPaint_, false)) return;
    static_cast<Page*>(pages_->currentWidget())->begin();
    QTimer::singleShot(0, this, [this] {
        emit painted();
        live_.openRack();
    });
}

}  // namespace mellow::app
