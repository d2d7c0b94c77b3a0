// Building, in the order in which one sees it: header, left, right, notice, menus. Then what menus do that
// concerns the whole window: opening and saving with what may be lost on the way, recorded hands, the title,
// rates and status, and remembering how it all stood. What concerns chains is in ChainActions.
#include "app/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPainterPath>
#include <QStyle>
#include <QTimer>
#include <QVBoxLayout>
#include <ctime>

#include "app/just_now.h"
#include "app/theme/theme.h"
#include "core/model/edit.h"
#include "core/smf/read.h"
#include "core/store/ensemble_json.h"
#include "core/files/files.h"

namespace mellow::app {

namespace {

constexpr int mostRecent = 8;
constexpr double plainFonts = 1.0;
constexpr double largeFonts = 1.25;

/// What this thread has had of the processor, in milliseconds.
double processorTime() {
    timespec time{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &time);
    return static_cast<double>(time.tv_sec) * 1e3 + static_cast<double>(time.tv_nsec) / 1e6;
}

QByteArray resource(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

midi::Bytes bytesOf(const QByteArray& array) {
    return {reinterpret_cast<const std::uint8_t*>(array.constData()), static_cast<std::size_t>(array.size())};
}

MainWindow::Answer askPerson(QWidget* parent) {
    QMessageBox box(QMessageBox::NoIcon, MainWindow::tr("Unsaved work"),
                    MainWindow::tr("This ensemble has changes that are not saved."), QMessageBox::NoButton,
                    parent);
    QPushButton* save = box.addButton(MainWindow::tr("Save"), QMessageBox::AcceptRole);
    QPushButton* drop = box.addButton(MainWindow::tr("Leave them"), QMessageBox::DestructiveRole);
    box.addButton(MainWindow::tr("Go back"), QMessageBox::RejectRole);
    box.setDefaultButton(save);
    box.exec();
    if (box.clickedButton() == save) return MainWindow::Answer::save;
    return box.clickedButton() == drop ? MainWindow::Answer::discard : MainWindow::Answer::cancel;
}

QString askSavePath(QWidget* parent, const QString& suggestion) {
    QString path = QFileDialog::getSaveFileName(parent, MainWindow::tr("Save the ensemble"), suggestion,
                                                MainWindow::tr("Ensembles (*.lever)"));
    if (!path.isEmpty() && QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".lever");
    return path;
}

/// The two marks of the program: a round one for what is played, a pointed one for what is sent.
QPixmap mark(bool pointed, qreal ratio) {
    const int size = scaled(12);
    QPixmap picture(static_cast<int>(size * ratio), static_cast<int>(size * ratio));
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(pointed ? theme().mint : theme().honey);
    if (pointed) {
        QPainterPath path;
        path.moveTo(1, size / 2.0);
        path.lineTo(size - 1.0, 1);
        path.lineTo(size - 1.0, size - 1.0);
        path.closeSubpath();
        painter.drawPath(path);
    } else {
        painter.drawEllipse(QRectF(1.5, 1.5, size - 3.0, size - 3.0));
    }
    return picture;
}

}  // namespace

MainWindow::MainWindow(Live::Options options, QWidget* parent)
    : QMainWindow(parent),
      live_(document_, std::move(options)),
      actions_(document_, selection_),
      ask_(askPerson),
      askPath_(askSavePath) {
    setAcceptDrops(true);
    setMinimumSize(1000, 640);
    page_ = new ChainsPage(document_, selection_, live_, actions_);
    keys_ = new PracticeKeys;
    keys_->setObjectName(QStringLiteral("bottomPanel"));
    keys_->setAttribute(Qt::WA_StyledBackground);
    keys_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    columns_ = new QSplitter(Qt::Horizontal);
    columns_->setHandleWidth(1);
    columns_->setChildrenCollapsible(false);
    columns_->addWidget(buildLeft());
    columns_->addWidget(page_);
    columns_->addWidget(buildRight());
    columns_->setStretchFactor(1, 1);
    connect(columns_, &QSplitter::splitterMoved, this, [this] { shareColumns_ = false; });
    buildNotice();

    auto* center = new QWidget;
    auto* column = new QVBoxLayout(center);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(buildHeader());
    column->addWidget(notice_);
    column->addWidget(columns_, 1);
    auto* rule = new QFrame;
    rule->setObjectName(QStringLiteral("rule"));
    column->addWidget(rule);
    column->addWidget(keys_);
    setCentralWidget(center);
    buildMenus();

    connect(&document_, &Document::changed, this, &MainWindow::refreshTitle);
    connect(&document_, &Document::stateChanged, this, &MainWindow::refreshTitle);
    connect(&live_, &Live::ratesChanged, this, &MainWindow::refreshRates);
    connect(&live_, &Live::statusChanged, this, &MainWindow::refreshStatus);
    connect(&live_, &Live::takeEnded, this, &MainWindow::refreshPlay);
    connect(&live_, &Live::happened, this, [this](const io::Happening& happening) {
        if (!happening.out && midi::isChannelStatus(happening.message.data[0]))
            keys_->showMessage(happening.message.bytes());
    });
    connect(keys_, &PracticeKeys::played, &live_, &Live::send);
    connect(page_, &ChainsPage::refused, this, [this](const QString& sentence) { notice(sentence); });
    qApp->installEventFilter(this);

    restoreGeometry(settings_.value(QStringLiteral("window/geometry")).toByteArray());
    shareColumns_ = !columns_->restoreState(settings_.value(QStringLiteral("window/columns")).toByteArray());
    keys_->setVisible(settings_.value(QStringLiteral("window/keys"), true).toBool());
    refreshTitle();
    refreshRates();
    refreshStatus();
    refreshPlay();
}

QWidget* MainWindow::buildHeader() {
    auto* header = new QWidget;
    header->setObjectName(QStringLiteral("header"));
    header->setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(header);
    row->setContentsMargins(scaled(18), scaled(8), scaled(18), scaled(8));
    row->setSpacing(scaled(10));
    title_ = new QLabel;
    title_->setProperty("role", "title");
    play_ = new QPushButton;
    play_->setObjectName(QStringLiteral("play"));
    connect(play_, &QPushButton::clicked, this, &MainWindow::togglePlay);
    status_ = new QLabel;
    status_->setProperty("role", "caption");
    status_->setObjectName(QStringLiteral("status"));
    status_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    status_->setWordWrap(true);
    status_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    const auto rate = [&](bool pointed, const QString& tip) {
        auto* picture = new QLabel;
        picture->setPixmap(mark(pointed, devicePixelRatioF()));
        picture->setToolTip(tip);
        auto* text = new MovingText(tr("out 9999/s"), Qt::AlignLeft | Qt::AlignVCenter);
        text->setToolTip(tip);
        row->addWidget(picture);
        row->addWidget(text);
        return text;
    };
    row->addWidget(title_);
    row->addSpacing(scaled(12));
    row->addWidget(play_);
    row->addWidget(status_, 1);
    row->addSpacing(scaled(8));
    in_ = rate(false, tr("Messages that come in"));
    out_ = rate(true, tr("Messages that go out"));
    auto* silence = new QPushButton(tr("Silence all"));
    silence->setObjectName(QStringLiteral("silence"));
    silence->setToolTip(tr("End every note and let go of every pedal (Esc)"));
    connect(silence, &QPushButton::clicked, this, [this] {
        keys_->letGo();
        live_.silenceAll();
    });
    row->addWidget(silence);
    return header;
}

QWidget* MainWindow::buildLeft() {
    auto* left = new QWidget;
    left->setObjectName(QStringLiteral("leftPanel"));
    left->setAttribute(Qt::WA_StyledBackground);
    left->setMinimumWidth(scaled(170));
    auto* column = new QVBoxLayout(left);
    column->setContentsMargins(scaled(6), scaled(10), scaled(6), scaled(6));
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
    ensemble_ = new EnsembleList(document_, selection_, live_);
    column->addWidget(ensemble_, 1);
    connect(ensemble_, &QWidget::customContextMenuRequested, this,
            [this](const QPoint& at) { showContextMenu(ensemble_, at); });
    connect(&page_->chains(), &QWidget::customContextMenuRequested, this,
            [this](const QPoint& at) { showContextMenu(&page_->chains(), at); });
    return left;
}

QWidget* MainWindow::buildRight() {
    auto* right = new QWidget;
    right->setObjectName(QStringLiteral("rightPanel"));
    right->setAttribute(Qt::WA_StyledBackground);
    right->setMinimumWidth(scaled(250));
    auto* column = new QVBoxLayout(right);
    column->setContentsMargins(scaled(14), scaled(10), scaled(4), scaled(6));
    column->setSpacing(scaled(6));
    auto* parts = new QSplitter(Qt::Vertical);
    parts->setChildrenCollapsible(false);
    parts->setHandleWidth(1);
    details_ = new DetailsPanel({document_, selection_, live_});
    connect(details_, &DetailsPanel::removeAsked, &actions_, &ChainActions::remove);
    connect(details_, &DetailsPanel::duplicateAsked, &actions_, &ChainActions::duplicate);
    connect(details_, &DetailsPanel::moveAsked, &actions_, &ChainActions::move);
    connect(details_, &DetailsPanel::addStepAsked, &actions_,
            [this](const StepKind* kind) { actions_.addStep(*kind); });
    auto* log = new QWidget;
    auto* logColumn = new QVBoxLayout(log);
    logColumn->setContentsMargins(0, scaled(6), scaled(8), 0);
    auto* title = new QLabel(tr("Just now"));
    title->setProperty("role", "section");
    logColumn->addWidget(title);
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

void MainWindow::buildNotice() {
    notice_ = new QFrame;
    notice_->setObjectName(QStringLiteral("notice"));
    auto* row = new QHBoxLayout(notice_);
    row->setContentsMargins(scaled(14), scaled(6), scaled(8), scaled(6));
    noticeText_ = new QLabel;
    noticeText_->setWordWrap(true);
    noticeText_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    noticeAct_ = new QPushButton;
    noticeAct_->setObjectName(QStringLiteral("noticeAction"));
    auto* close = new QPushButton(tr("Dismiss"));
    row->addWidget(noticeText_, 1);
    row->addWidget(noticeAct_);
    row->addWidget(close);
    connect(close, &QPushButton::clicked, notice_, &QWidget::hide);
    connect(noticeAct_, &QPushButton::clicked, this, [this] {
        notice_->hide();
        if (const auto act = std::exchange(noticeAction_, {})) act();
    });
    notice_->hide();
}

void MainWindow::notice(const QString& sentence, const QString& action, std::function<void()> act) {
    noticeText_->setText(sentence);
    noticeAct_->setText(action);
    noticeAct_->setVisible(!action.isEmpty());
    noticeAction_ = std::move(act);
    notice_->show();
}

QString MainWindow::noticeText() const {
    return notice_->isHidden() ? QString() : noticeText_->text();
}

QAction* MainWindow::add(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                         std::function<void()> act) {
    auto* action = menu->addAction(text);
    action->setShortcut(keys);
    action->setToolTip(tip);
    action->setStatusTip(tip);
    connect(action, &QAction::triggered, this, [act = std::move(act)] { act(); });
    return action;
}

void MainWindow::buildMenus() {
    auto* file = menuBar()->addMenu(tr("&File"));
    add(file, tr("&New ensemble"), QKeySequence::New, tr("Begin an empty ensemble"),
        [this] { newEnsemble(); });
    add(file, tr("&Open…"), QKeySequence::Open, tr("Open an ensemble"), [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Open an ensemble"), {},
                                                          tr("Ensembles (*.lever);;All files (*)"));
        if (!path.isEmpty()) openFile(path);
    });
    recent_ = file->addMenu(tr("Open &recent"));
    connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
    fillRecent();
    add(file, tr("Open the &demo"), {}, tr("Open The Tin Observatory"), [this] {
        if (mayLose()) openDemo();
    });
    file->addSeparator();
    add(file, tr("&Save"), QKeySequence::Save, tr("Save the ensemble"), [this] { save(); });
    add(file, tr("Save &as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), tr("Save under another name"),
        [this] { saveAs(); });
    file->addSeparator();
    add(file, tr("Load &hands…"), QKeySequence(Qt::CTRL | Qt::Key_I),
        tr("Choose a MIDI file for the play button"), [this] {
            const QString path = QFileDialog::getOpenFileName(this, tr("Load hands"), {},
                                                              tr("MIDI files (*.mid *.midi);;All files (*)"));
            if (!path.isEmpty()) openHands(path);
        });
    file->addSeparator();
    add(file, tr("&Quit"), QKeySequence::Quit, tr("Leave Mellow Lever"), [this] { close(); });

    auto* edit = menuBar()->addMenu(tr("&Edit"));
    auto* undo = document_.undoStack().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = document_.undoStack().createRedoAction(this, tr("Redo"));
    redo->setShortcuts({QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), QKeySequence(Qt::CTRL | Qt::Key_Y)});
    edit->addActions({undo, redo});
    edit->addSeparator();
    add(edit, tr("&Duplicate"), QKeySequence(Qt::CTRL | Qt::Key_D), tr("Duplicate what is selected"),
        [this] { actions_.duplicate(); });
    add(edit, tr("&Remove"), QKeySequence(Qt::CTRL | Qt::Key_Backspace), tr("Remove what is selected"),
        [this] { actions_.remove(); });
    add(edit, tr("Move &earlier"), QKeySequence(Qt::ALT | Qt::Key_Up),
        tr("Move what is selected one place earlier"), [this] { actions_.move(-1); });
    add(edit, tr("Move &later"), QKeySequence(Qt::ALT | Qt::Key_Down),
        tr("Move what is selected one place later"), [this] { actions_.move(1); });

    auto* chain = menuBar()->addMenu(tr("&Chain"));
    add(chain, tr("Add an &instrument"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
        tr("Add an instrument"), [this] { actions_.addInstrument(); });
    add(chain, tr("Add a &chain"), QKeySequence(Qt::CTRL | Qt::Key_Return),
        tr("Add a chain to the instrument"), [this] { actions_.addChain(); });
    add(chain, tr("Add a &target"), QKeySequence(Qt::CTRL | Qt::Key_T),
        tr("Lead the chain to one more target"), [this] { actions_.addBranch(); });
    auto* steps = chain->addMenu(tr("Add a &step"));
    for (const StepKind* kind : stepKinds()) {
        add(steps, toQt(kind->label), {}, toQt(kind->help), [this, kind] { actions_.addStep(*kind); });
    }
    chain->addSeparator();
    add(chain, tr("Switch &on or off"), QKeySequence(Qt::CTRL | Qt::Key_M),
        tr("Switch what is selected on or off"), [this] { actions_.toggle(); });

    auto* play = menuBar()->addMenu(tr("&Play"));
    add(play, tr("Play or stop the &hands"), QKeySequence(Qt::Key_F5),
        tr("Play the loaded MIDI file as if on the practice keys"), [this] { togglePlay(); });
    add(play, tr("&Silence all"), QKeySequence(Qt::Key_Escape), tr("End every note"), [this] {
        keys_->letGo();
        live_.silenceAll();
    });

    auto* view = menuBar()->addMenu(tr("&View"));
    auto* showKeys =
        add(view, tr("Practice &keys"), QKeySequence(Qt::Key_F8), tr("Show or fold away the practice keys"),
            [this] { keys_->setVisible(keys_->isHidden()); });
    showKeys->setCheckable(true);
    connect(view, &QMenu::aboutToShow, this, [this, showKeys] { showKeys->setChecked(!keys_->isHidden()); });
    view->addSeparator();
    add(view, tr("&Dusk"), {}, tr("The dark theme"), [this] {
        useTheme(QStringLiteral("Dusk"),
                 settings_.value(QStringLiteral("theme/scale"), plainFonts).toDouble());
    });
    add(view, tr("&Linen"), {}, tr("The light theme"), [this] {
        useTheme(QStringLiteral("Linen"),
                 settings_.value(QStringLiteral("theme/scale"), plainFonts).toDouble());
    });
    auto* larger =
        add(view, tr("Larger &fonts"), {}, tr("Fonts a quarter larger; takes full effect at the next start"),
            [this] {
                const bool large =
                    settings_.value(QStringLiteral("theme/scale"), plainFonts).toDouble() > plainFonts;
                useTheme(theme().name, large ? plainFonts : largeFonts);
            });
    larger->setCheckable(true);
    connect(view, &QMenu::aboutToShow, this, [this, larger] {
        larger->setChecked(settings_.value(QStringLiteral("theme/scale"), plainFonts).toDouble() >
                           plainFonts);
    });

    auto* help = menuBar()->addMenu(tr("&Help"));
    add(help, tr("&About Mellow Lever"), {}, tr("What this is"), [this] {
        QMessageBox::about(this, tr("About Mellow Lever"),
                           tr("Mellow Lever %1\n\nTurns what hands do into what instruments want.\nMIT "
                              "licence. Fonts: Manrope and B612 Mono (SIL Open Font License).")
                               .arg(QApplication::applicationVersion()));
    });
}

void MainWindow::useTheme(const QString& name, double scale) {
    settings_.setValue(QStringLiteral("theme/name"), name);
    settings_.setValue(QStringLiteral("theme/scale"), scale);
    applyTheme(*qApp, name == QLatin1String("Linen") ? linenTheme() : duskTheme(), scale);
    const QList<QWidget*> children = findChildren<QWidget*>();
    for (QWidget* child : children) child->update();
}

void MainWindow::showContextMenu(QWidget* list, const QPoint& at) {
    QMenu menu;
    const bool instruments = list == ensemble_;
    if (instruments) {
        menu.addAction(tr("Add an instrument"), &actions_, &ChainActions::addInstrument);
        menu.addSeparator();
        menu.addAction(tr("Switch on or off"), &actions_, &ChainActions::toggle);
        menu.addAction(tr("Duplicate"), &actions_, &ChainActions::duplicateInstrument);
        menu.addAction(tr("Move earlier"), &actions_, [this] { actions_.moveInstrument(-1); });
        menu.addAction(tr("Move later"), &actions_, [this] { actions_.moveInstrument(1); });
        menu.addAction(tr("Remove"), &actions_, &ChainActions::removeInstrument);
    } else {
        menu.addAction(tr("Add a chain"), &actions_, &ChainActions::addChain);
        menu.addSeparator();
        menu.addAction(tr("Switch on or off"), &actions_, &ChainActions::toggle);
        menu.addAction(tr("Duplicate"), &actions_, &ChainActions::duplicate);
        menu.addAction(tr("Move earlier"), &actions_, [this] { actions_.move(-1); });
        menu.addAction(tr("Move later"), &actions_, [this] { actions_.move(1); });
        menu.addAction(tr("Remove"), &actions_, &ChainActions::remove);
    }
    menu.exec(list->mapToGlobal(at));
}

bool MainWindow::mayLose() {
    if (!document_.isModified()) return true;
    switch (ask_(this)) {
        case Answer::save:
            return save();
        case Answer::discard:
            return true;
        case Answer::cancel:
            return false;
    }
    return false;
}

void MainWindow::newEnsemble() {
    if (!mayLose()) return;
    Ensemble ensemble;
    ensemble.title = tr("Untitled ensemble").toStdString();
    dropDemoHands();
    document_.replace(std::move(ensemble), {});
    selection_.set({});
}

void MainWindow::openDemo() {
    const QByteArray text = resource(QStringLiteral(":/demo/tin-observatory.lever"));
    auto ensemble = store::parseEnsemble({text.constData(), static_cast<std::size_t>(text.size())});
    if (!ensemble) return notice(QString::fromStdString(ensemble.problem().sentence()));
    selection_.set({});
    document_.replace(std::move(*ensemble), {});
    loadHands(bytesOf(resource(QStringLiteral(":/demo/barometer-falls.mid"))), tr("Barometer falls"));
    handsAreDemos_ = true;
}

/// The demo's hands belong to the demo; those that a person loaded are theirs.
void MainWindow::dropDemoHands() {
    if (!std::exchange(handsAreDemos_, false)) return;
    live_.stopTake();
    hands_.reset();
    handsName_.clear();
    refreshPlay();
}

bool MainWindow::openFile(const QString& path) {
    if (!mayLose()) return false;
    const auto opened = document_.open(path);
    if (!opened) {
        notice(QString::fromStdString(opened.problem().sentence()) + tr(". What was open is still here."));
        return false;
    }
    dropDemoHands();
    notice_->hide();
    rememberRecent(path);
    return true;
}

bool MainWindow::save() {
    return document_.path().isEmpty() ? saveAs() : saveTo(document_.path());
}

bool MainWindow::saveTo(const QString& path) {
    const auto saved = document_.save(path);
    if (!saved) {
        notice(QString::fromStdString(saved.problem().sentence()) + QStringLiteral("."), tr("Save as…"),
               [this] { saveAs(); });
        return false;
    }
    notice_->hide();
    rememberRecent(path);
    return true;
}

bool MainWindow::saveAs() {
    const QString suggestion =
        document_.path().isEmpty()
            ? QString::fromStdString(idFrom(document_.ensemble().title)) + QStringLiteral(".lever")
            : document_.path();
    const QString path = askPath_(this, suggestion);
    if (path.isEmpty()) return false;
    return saveTo(path);
}

bool MainWindow::openHands(const QString& path) {
    const auto bytes = files::readFile(QFile::encodeName(path).toStdString());
    if (!bytes) {
        notice(QString::fromStdString(bytes.problem().sentence()) + QStringLiteral("."));
        return false;
    }
    loadHands(*bytes, path);
    return hands_ != nullptr && handsName_ == QFileInfo(path).completeBaseName();
}

void MainWindow::loadHands(midi::Bytes bytes, const QString& name) {
    auto reading = smf::read(bytes);
    if (!reading)
        return notice(name + QStringLiteral(", ") + QString::fromStdString(reading.problem().sentence()) +
                      QStringLiteral("."));
    if (const smf::Warning* loss = reading->firstLoss()) {
        notice(tr("%1 is damaged at byte %2: %3. What could be read before that is loaded.")
                   .arg(name)
                   .arg(loss->offset)
                   .arg(QString::fromStdString(loss->what)));
    }
    live_.stopTake();
    handsAreDemos_ = false;
    hands_ = std::make_shared<const Take>(takeFrom(reading->file));
    handsName_ = QFileInfo(name).completeBaseName();
    refreshPlay();
}

void MainWindow::togglePlay() {
    if (live_.takePosition() >= 0) {
        live_.stopTake();
    } else if (hands_) {
        live_.startTake(hands_);
    } else {
        return notice(tr("No hands are loaded. Choose a MIDI file with File, Load hands."));
    }
    refreshPlay();
}

void MainWindow::refreshPlay() {
    const bool playing = live_.takePosition() >= 0;
    play_->setText(playing ? tr("Stop") : hands_ ? tr("Play “%1”").arg(handsName_) : tr("Play hands"));
    play_->setToolTip(playing ? tr("Stop and let go (F5)")
                              : tr("Play recorded hands through the chains (F5)"));
}

void MainWindow::refreshTitle() {
    const QString title = QString::fromStdString(document_.ensemble().title);
    title_->setText(document_.isModified() ? title + QStringLiteral(" *") : title);
    title_->setToolTip(document_.path().isEmpty() ? tr("Not saved yet") : document_.path());
    setWindowTitle((document_.isModified() ? tr("%1 * – Mellow Lever") : tr("%1 – Mellow Lever")).arg(title));
}

void MainWindow::refreshRates() {
    in_->setText(tr("in %1/s").arg(live_.inRate()));
    out_->setText(tr("out %1/s").arg(live_.outRate()));
}

void MainWindow::refreshStatus() {
    status_->setText(live_.status());
    status_->setToolTip(live_.status());
    if (live_.rackProblem())
        notice(QString::fromStdString(live_.rackProblem()->sentence()) + QStringLiteral("."));
}

void MainWindow::rememberRecent(const QString& path) {
    QStringList paths = settings_.value(QStringLiteral("recent")).toStringList();
    const QString whole = QFileInfo(path).absoluteFilePath();
    paths.removeAll(whole);
    paths.prepend(whole);
    settings_.setValue(QStringLiteral("recent"), paths.mid(0, mostRecent));
}

void MainWindow::fillRecent() {
    recent_->clear();
    const QStringList paths = settings_.value(QStringLiteral("recent")).toStringList();
    for (const QString& path : paths) {
        auto* action = recent_->addAction(QFileInfo(path).fileName());
        action->setToolTip(path);
        connect(action, &QAction::triggered, this, [this, path] { openFile(path); });
    }
    if (paths.isEmpty()) recent_->addAction(tr("Nothing opened yet"))->setEnabled(false);
    recent_->setToolTipsVisible(true);
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!mayLose()) return event->ignore();
    settings_.setValue(QStringLiteral("window/geometry"), saveGeometry());
    settings_.setValue(QStringLiteral("window/columns"), columns_->saveState());
    settings_.setValue(QStringLiteral("window/keys"), !keys_->isHidden());
    keys_->letGo();
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
    const bool types = qobject_cast<QLineEdit*>(watched) != nullptr;
    if (types && press) return QMainWindow::eventFilter(watched, event);
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
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    for (const QUrl& url : event->mimeData()->urls()) {
        const QString path = url.toLocalFile();
        if (path.isEmpty()) continue;
        const bool midi = path.endsWith(QLatin1String(".mid"), Qt::CaseInsensitive) ||
                          path.endsWith(QLatin1String(".midi"), Qt::CaseInsensitive);
        (void)(midi ? openHands(path) : openFile(path));
    }
}

/// Until a person has set them, the side panels take a share of the width.
void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    if (!shareColumns_) return;
    const int left = std::clamp(width() * 16 / 100, scaled(170), scaled(250));
    const int right = std::clamp(width() * 23 / 100, scaled(250), scaled(380));
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
    page_->chains().setFocus(Qt::OtherFocusReason);
    QTimer::singleShot(0, this, [this] {
        emit painted();
        live_.openRack();
    });
}

}  // namespace mellow::app
