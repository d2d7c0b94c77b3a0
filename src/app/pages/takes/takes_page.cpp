// The bar above, the picture, the strip of the whole take below. What buttons do are actions, which stand in
// the menus too.
#include "app/pages/takes/takes_page.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QRegularExpression>
#include <QSettings>
#include <QVBoxLayout>
#include <utility>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/export_dialog.h"
#include "app/pages/takes/import_dialog.h"
#include "app/pages/takes/take_metrics.h"
#include "app/takes/midi_file.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/make_action.h"

namespace mellow::app {

TakesPage::TakesPage(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      work_(workspace.takes),
      view_(new TakeView(workspace)),
      overview_(new TakeOverview(work_, *view_)),
      band_(new TakeBand(workspace, view_)),
      strip_(new TidyStrip(work_, *view_)),
      which_(new QPushButton(view_)),
      caption_(new QLabel(view_)),
      position_(new MovingText(QStringLiteral("00:00:00:00"), Qt::AlignLeft | Qt::AlignVCenter)),
      unit_(new QPushButton),
      chosen_(new QPushButton),
      clipboard_(work_) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    buildActions();
    buildTidyActions();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, scaled(8), 0, scaled(8));
    column->setSpacing(scaled(6));
    column->addWidget(buildBar());
    column->addWidget(strip_);
    column->addWidget(view_, 1);
    column->addWidget(overview_);
    which_->setObjectName(QStringLiteral("whichTake"));
    which_->setProperty("role", "plain");
    which_->setToolTip(tr("All takes of this ensemble"));
    caption_->setObjectName(QStringLiteral("takeCaption"));
    caption_->setProperty("role", "caption");
    connect(which_, &QPushButton::clicked, this, &TakesPage::showTakes);
    connect(view_, &TakeView::bandMoved, this, &TakesPage::placeBand);
    connect(view_, &TakeView::cueDoubleClicked, this, &TakesPage::cue);
    connect(band_, &TakeBand::resultsChanged, view_, &TakeView::showResults);
    connect(band_, &TakeBand::thenChanged, view_, &TakeView::showThen);
    connect(band_, &TakeBand::dragged, this,
            [this](int by) { view_->moveBand(view_->layout().band().top() + by); });
    connect(band_, &TakeBand::exportAsked, this, &TakesPage::exportTake);
    connect(&work_.choice, &TakeChoice::takeChanged, this, &TakesPage::refresh);
    connect(&work_.choice, &TakeChoice::choiceChanged, this, &TakesPage::refresh);
    connect(&work_.playing, &TakePlaying::runChanged, this, &TakesPage::refresh);
    connect(&work_.playing, &TakePlaying::moved, this, &TakesPage::showPosition);
    connect(&workspace_.document, &Document::changed, this, &TakesPage::refresh);
    askImport_ = [](ImportDialog& dialog) { return dialog.exec() == QDialog::Accepted; };
    askText_ = [this](const QString& title, const QString& label,
                      const QString& text) -> std::optional<QString> {
        bool given = false;
        const QString typed = QInputDialog::getText(this, title, label, QLineEdit::Normal, text, &given);
        return given ? std::optional(typed) : std::nullopt;
    };
    view_->installEventFilter(this);
    refresh();
}

QPushButton* TakesPage::addButton(QAction* action, const char* name) {
    auto* button = new QPushButton(action->text().remove(QLatin1Char('&')));
    button->setObjectName(QStringLiteral("take-") + QLatin1String(name));
    button->setToolTip(action->toolTip());
    button->setCheckable(action->isCheckable());
    connect(button, &QPushButton::clicked, action, &QAction::trigger);
    connect(action, &QAction::changed, button, [button, action] {
        button->setEnabled(action->isEnabled());
        button->setChecked(action->isChecked());
        button->setText(action->text().remove(QLatin1Char('&')));
    });
    return button;
}

QWidget* TakesPage::buildBar() {
    auto* bar = new QWidget;
    auto* around = new QHBoxLayout(bar);
    around->setContentsMargins(scaled(14), 0, scaled(14), 0);
    auto* inner = new QWidget;
    auto* flow = new FlowLayout(scaled(6));
    inner->setLayout(flow);
    around->addWidget(inner);
    const auto add = [&](const char* action) {
        QPushButton* button = addButton(named_.at(action), action);
        flow->addWidget(button);
        return button;
    };
    add("record")->setProperty("role", "danger");
    for (const char* action : {"loop", "over", "punch", "keep"}) add(action);
    position_->setFixedHeight(unit_->sizeHint().height());
    position_->setObjectName(QStringLiteral("takePosition"));
    flow->addWidget(position_);
    unit_->setObjectName(QStringLiteral("takeUnit"));
    unit_->setProperty("role", "number");
    unit_->setToolTip(tr("Count in seconds, in bars, or in frames of the picture"));
    connect(unit_, &QPushButton::clicked, this, &TakesPage::turnUnit);
    flow->addWidget(unit_);
    for (const char* action : {"choose", "pen", "line", "smooth", "thin", "scale"}) add(action);
    auto* more = new QPushButton(tr("More ▾"));
    more->setObjectName(QStringLiteral("moreTidy"));
    more->setToolTip(tr("Everything that can be done to the selection"));
    auto* menu = new QMenu(more);
    menu->addActions(tidyActions_);
    connect(more, &QPushButton::clicked, this,
            [more, menu] { menu->exec(more->mapToGlobal(QPoint(0, more->height()))); });
    flow->addWidget(more);
    chosen_->setObjectName(QStringLiteral("takeChosen"));
    chosen_->setProperty("role", "plain");
    chosen_->setToolTip(tr("What is selected; click to type it (Ctrl+Shift+L)"));
    connect(chosen_, &QPushButton::clicked, this, &TakesPage::typeSpan);
    chosen_->setMinimumHeight(more->sizeHint().height());
    flow->addWidget(chosen_);
    return bar;
}

QAction* TakesPage::make(QList<QAction*>& list, const char* name, const QString& text,
                         const QKeySequence& keys, const QString& tip, std::function<void()> act) {
    auto* action = makeAction(this, text, keys, tip, [act = std::move(act)] { act(); });
    action->setObjectName(QLatin1String(name));
    const QString shown =
        keys.isEmpty() ? tip : QStringLiteral("%1 (%2)").arg(tip, keys.toString(QKeySequence::NativeText));
    action->setToolTip(shown);
    list << action;
    named_[name] = action;
    return action;
}

void TakesPage::buildActions() {
    setFocusProxy(view_);
    auto& list = takeActions_;
    // The key is the window's, since one records on every page.
    make(list, "record", tr("&Record"), {}, tr("Record what is played into a take, or end it"), [this] {
        work_.recording.toggle();
    })->setToolTip(tr("Record what is played into a take, or end it (F3)"));
    make(list, "loop", tr("&Loop"), QKeySequence(Qt::Key_L),
         tr("Play the selection, or all of it, round and round"),
         [this] { work_.playing.setLoops(!work_.playing.loops()); })
        ->setCheckable(true);
    make(list, "span", tr("T&ype the selection…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L),
         tr("From and to, as times, bars or frames; what loops and what is punched is the selection"),
         [this] { typeSpan(); });
    make(list, "over", tr("&Over"), QKeySequence(Qt::Key_O),
         tr("Record over this take: what is touched takes over, the rest stays"),
         [this] { work_.recording.setOverdubs(!work_.recording.overdubs()); })
        ->setCheckable(true);
    make(list, "punch", tr("P&unch"), QKeySequence(Qt::Key_P), tr("Record over the selection alone"), [this] {
        work_.playing.setPunches(!work_.playing.punches());
    })->setCheckable(true);
    make(list, "keep", tr("&Keep what was just played"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_K),
         tr("Make a take of what was played in the last ten minutes"),
         [this] { work_.recording.keepJustPlayed(); });
    make(list, "cue", tr("&Cue here…"), QKeySequence(Qt::CTRL | Qt::Key_M),
         tr("Give the playhead's place a name"), [this] { cue(-1); });
    make(list, "fit", tr("Show &all of it"), QKeySequence(Qt::Key_F), tr("Zoom out to the whole take"),
         [this] { view_->fit(); });
    make(list, "fitSelection", tr("Show the &selection"), QKeySequence(Qt::SHIFT | Qt::Key_F),
         tr("Zoom to what is selected"), [this] { view_->fitSelection(); });
    make(list, "next", tr("&Next take"), QKeySequence(Qt::ALT | Qt::Key_Down), tr("Show the next take"),
         [this] { work_.choice.showNext(1); });
    make(list, "previous", tr("Pre&vious take"), QKeySequence(Qt::ALT | Qt::Key_Up),
         tr("Show the take before"), [this] { work_.choice.showNext(-1); });
    make(list, "import", tr("&Import a MIDI file…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I),
         tr("Read a MIDI file as a take"), [this] {
             const QString path = QFileDialog::getOpenFileName(
                 this, tr("Import a take"), {}, tr("MIDI files (*.mid *.midi);;All files (*)"));
             if (!path.isEmpty()) importFile(path);
         });
    make(list, "export", tr("&Export…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_E),
         tr("Write what comes of the take, or the hands"), [this] { exportTake(); });
    make(list, "leadPage", tr("Start &here"), QKeySequence(),
         tr("The take starts and stops by this page alone"),
         [this] { work_.playing.setLeader(TakePlaying::Leader::page); })
        ->setCheckable(true);
    make(list, "leadTransport", tr("With the &JACK transport"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_J),
         tr("The take starts, stops and stands with the transport, which this page leads"),
         [this] { work_.playing.setLeader(TakePlaying::Leader::transport); })
        ->setCheckable(true);
    make(list, "leadClock", tr("By the MIDI cloc&k"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_K),
         tr("The take follows start, continue, stop and song position"),
         [this] { work_.playing.setLeader(TakePlaying::Leader::clock); })
        ->setCheckable(true);
    make(list, "trigger", tr("Record by a key or pe&dal…"), QKeySequence(),
         tr("The next key or pedal that you press begins and ends recordings from then on"), [this] {
             const bool forgets = !work_.trigger.text().isEmpty();
             work_.trigger.learn(!forgets);
             workspace_.tell(forgets ? tr("No key or pedal records any more.")
                                     : tr("Press the key or pedal that is to begin and end recordings."));
         });
    make(list, "rename", tr("Rena&me the take…"), QKeySequence(), tr("Give the take another name"),
         [this] { renameTake(); });
    make(list, "removeTake", tr("Remo&ve the take"), QKeySequence(),
         tr("Take it out of the document; undo brings it back"), [this] { work_.changing.remove(); });
    make(list, "asPlayed", tr("Lanes as &played"), QKeySequence(),
         tr("Lanes in the order of ports and controls"), [this] { view_->setOrder(LaneOrder::asPlayed); });
    make(list, "byName", tr("Lanes by na&me"), QKeySequence(), tr("Lanes in the order of their names"),
         [this] { view_->setOrder(LaneOrder::byName); });
    make(list, "byMovement", tr("Lanes by mo&vement"), QKeySequence(), tr("Lanes that moved most first"),
         [this] { view_->setOrder(LaneOrder::byMovement); });
    make(list, "foldAll", tr("&Fold all lanes"), QKeySequence(), tr("A line for each lane"),
         [this] { view_->foldAll(true); });
    make(list, "unfoldAll", tr("&Unfold all lanes"), QKeySequence(), tr("Every lane at its full height"),
         [this] { view_->foldAll(false); });
}

void TakesPage::buildTidyActions() {
    auto& list = tidyActions_;
    const auto tool = [&](const char* name, const QString& text, const QKeySequence& keys, const QString& tip,
                          TakeTool which) {
        make(list, name, text, keys, tip, [this, which] {
            view_->hands().setTool(which);
            refresh();
        })->setCheckable(true);
    };
    tool("choose", tr("&Choose"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_A),
         tr("Drag to choose a time and lanes"), TakeTool::choose);
    tool("pen", tr("&Pen"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_P), tr("Redraw a lane by hand"),
         TakeTool::pen);
    tool("line", tr("&Line"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_L),
         tr("Draw a line from one point to another; with Shift it is straight, otherwise eased"),
         TakeTool::line);
    const std::map<std::string, QKeySequence> keys{{"smooth", QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_S)},
                                                   {"thin", QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_T)},
                                                   {"scale", QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_C)},
                                                   {"clip", QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_F)},
                                                   {"repeat", QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_R)}};
    for (const TidyOp& op : tidyOps())
        make(list, op.id, op.title() + QStringLiteral("…"), keys.at(op.id), op.tip(),
             [this, &op] { strip_->open(op); });
    const std::array<std::tuple<const char*, QString, Easing>, 4> easings{
        {{"straight", tr("Lines go s&traight"), Easing::straight},
         {"easedBoth", tr("Lines ease in and &out"), Easing::easedBoth},
         {"easedIn", tr("Lines ease &in"), Easing::easedIn},
         {"easedOut", tr("Lines eas&e out"), Easing::easedOut}}};
    for (const auto& [name, text, easing] : easings)
        make(list, name, text, QKeySequence(), tr("How the line tool draws"),
             [this, easing = easing] { view_->hands().setEasing(easing); });
    make(list, "copy", tr("Cop&y"), QKeySequence::Copy, tr("Copy the selection of the chosen lanes"),
         [this] { tellIfAny(clipboard_.copy()); });
    make(list, "paste", tr("P&aste"), QKeySequence::Paste,
         tr("Put what was copied at the playhead, into the chosen lanes"),
         [this] { tellIfAny(clipboard_.paste()); });
    make(list, "remove", tr("&Remove"), QKeySequence::Delete, tr("Remove the selection, or the chosen notes"),
         [this] { tellIfAny(clipboard_.remove()); });
    make(list, "all", tr("Select a&ll"), QKeySequence::SelectAll,
         tr("Choose all lanes of the hands, from beginning to end"), [this] { view_->selectAll(); });
    make(list, "notes", tr("Choose the &notes"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_A),
         tr("Choose the notes that begin in the selection"), [this] {
             const TimeSpan span = work_.choice.span().empty() ? TimeSpan{0, work_.choice.take()->length + 1}
                                                               : work_.choice.span();
             work_.choice.chooseNotes(notesBetween(*work_.choice.lanes(), span.from, span.to));
         });
}

std::vector<PageActions> TakesPage::actions() const {
    return {{tr("&Take"), takeActions_}, {tr("T&idy"), tidyActions_}};
}

QWidget* TakesPage::makeDetails() {
    return new QWidget;
}

void TakesPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    band_->ask();
    refresh();
    placeBand();
}

void TakesPage::placeBand() {
    const QRect rect = view_->layout().band();
    band_->setVisible(!rect.isEmpty());
    if (!rect.isEmpty()) band_->setGeometry(rect);
    const int gutter = scaled(take_metrics::gutter);
    which_->setGeometry(scaled(6), 0, gutter - scaled(10), which_->sizeHint().height());
    caption_->setGeometry(scaled(14), which_->sizeHint().height() + scaled(1), gutter - scaled(18),
                          caption_->sizeHint().height());
}

void TakesPage::refresh() {
    if (!isVisible()) return;
    const KeptTake* kept = work_.choice.kept();
    const auto count = static_cast<int>(workspace_.document.ensemble().takes.size());
    const QString name = kept == nullptr ? tr("No takes") : nameToShow(nameOf(*kept));
    const QFontMetrics metrics(which_->font());
    which_->setText(metrics.elidedText(name, Qt::ElideRight, scaled(take_metrics::gutter - 50)) +
                    QStringLiteral(" ▾"));
    which_->setToolTip(work_.choice.problem().isEmpty() ? name : work_.choice.problem());
    caption_->setText(kept == nullptr ? QString()
                                      : tr("take %1 of %2 · %3")
                                            .arg(work_.choice.place() + 1)
                                            .arg(count)
                                            .arg(TimeText::seconds(work_.choice.take()->length, 0)));
    const bool any = kept != nullptr && work_.choice.take()->length > 0;
    named_.at("record")->setText(work_.recording.isOn() ? tr("End &recording") : tr("&Record"));
    named_.at("leadPage")->setChecked(work_.playing.leader() == TakePlaying::Leader::page);
    named_.at("leadTransport")->setChecked(work_.playing.leader() == TakePlaying::Leader::transport);
    named_.at("leadClock")->setChecked(work_.playing.leader() == TakePlaying::Leader::clock);
    named_.at("trigger")->setText(work_.trigger.text().isEmpty()
                                      ? tr("Record by a key or pe&dal…")
                                      : tr("Record by %1 no more").arg(work_.trigger.text()));
    named_.at("loop")->setChecked(work_.playing.loops());
    named_.at("over")->setChecked(work_.recording.overdubs());
    named_.at("over")->setEnabled(any);
    named_.at("punch")->setChecked(work_.playing.punches());
    named_.at("punch")->setEnabled(any && work_.recording.overdubs());
    for (const char* action : {"fit", "fitSelection", "cue", "export", "rename", "removeTake", "span"})
        named_.at(action)->setEnabled(kept != nullptr);
    named_.at("choose")->setChecked(view_->hands().tool() == TakeTool::choose);
    named_.at("pen")->setChecked(view_->hands().tool() == TakeTool::pen);
    named_.at("line")->setChecked(view_->hands().tool() == TakeTool::line);
    const TimeSpan& span = work_.choice.span();
    QString chosen;
    if (!work_.choice.chosenNotes().empty()) {
        chosen = tr("%n note(s) chosen", nullptr, static_cast<int>(work_.choice.chosenNotes().size()));
    } else if (!span.empty()) {
        chosen = tr("%1–%2, %n lane(s)", nullptr, static_cast<int>(work_.choice.chosenLanes().size()))
                     .arg(TimeText::seconds(span.from, 1), TimeText::seconds(span.to, 1));
    } else if (!work_.choice.chosenLanes().empty()) {
        chosen = tr("all of %n lane(s)", nullptr, static_cast<int>(work_.choice.chosenLanes().size()));
    }
    chosen_->setText(chosen.isEmpty() ? tr("nothing selected") : chosen);
    chosen_->setEnabled(any);
    showPosition();
}

void TakesPage::showPosition() {
    if (work_.recording.isOn() && !work_.playing.isPlaying()) {
        const auto [length, events] = work_.recording.progress();
        position_->setText(TimeText::seconds(length, 1));
        chosen_->setText(tr("recording, %n event(s)", nullptr, static_cast<int>(events)));
    } else {
        position_->setText(view_->timeText().fine(work_.playing.position()));
    }
    switch (view_->timeText().unit()) {
        case TimeUnit::seconds:
            unit_->setText(tr("seconds"));
            break;
        case TimeUnit::bars:
            unit_->setText(tr("bars"));
            break;
        case TimeUnit::frames:
            unit_->setText(tr("frames"));
            break;
    }
}

void TakesPage::turnUnit() {
    QMenu menu(this);
    const auto offer = [&](const QString& text, TimeUnit unit, double rate) {
        menu.addAction(text, this, [this, unit, rate] {
            view_->setUnit(unit, rate);
            showPosition();
        });
    };
    offer(tr("Seconds"), TimeUnit::seconds, 25);
    offer(tr("Bars and beats"), TimeUnit::bars, 25);
    menu.addSeparator();
    offer(tr("Frames, 24 a second"), TimeUnit::frames, 24);
    offer(tr("Frames, 25 a second"), TimeUnit::frames, 25);
    offer(tr("Frames, 29.97 a second"), TimeUnit::frames, 30000.0 / 1001);
    offer(tr("Frames, 30 a second"), TimeUnit::frames, 30);
    menu.exec(unit_->mapToGlobal(QPoint(0, unit_->height())));
}

void TakesPage::showTakes() {
    QMenu menu(this);
    const KeptTake* shown = work_.choice.kept();
    for (const KeptTake& kept : std::as_const(workspace_.document.ensemble().takes)) {
        QAction* action =
            menu.addAction(nameToShow(nameOf(kept)), this, [this, id = kept.id] { work_.choice.show(id); });
        action->setCheckable(true);
        action->setChecked(shown != nullptr && shown->id == kept.id);
    }
    menu.addSeparator();
    for (const char* action : {"rename", "removeTake", "import"}) menu.addAction(named_.at(action));
    menu.exec(which_->mapToGlobal(QPoint(0, which_->height())));
}

/// The key A plays the chains as they were for as long as it is held.
bool TakesPage::eventFilter(QObject* watched, QEvent* event) {
    const bool press = event->type() == QEvent::KeyPress;
    if (watched == view_ && (press || event->type() == QEvent::KeyRelease)) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_A && key->modifiers() == Qt::NoModifier && band_->hasThen()) {
            if (!key->isAutoRepeat()) band_->hearThen(press);
            return true;
        }
    }
    return Page::eventFilter(watched, event);
}

Page::Taken TakesPage::takeFile(const QString& path) {
    const bool midi = path.endsWith(QLatin1String(".mid"), Qt::CaseInsensitive) ||
                      path.endsWith(QLatin1String(".midi"), Qt::CaseInsensitive);
    return !midi ? Taken::notOurs : importFile(path) ? Taken::taken : Taken::refused;
}

bool TakesPage::importFile(const QString& path) {
    auto file = readMidiFile(path, workspace_.tell);
    if (!file) return false;
    ImportDialog dialog(workspace_, std::move(*file), QFileInfo(path).completeBaseName(), this);
    if (!askImport_(dialog)) return false;
    return work_.changing.add(tr("Import a take"), dialog.name(), dialog.take());
}

/// "0:33 – 0:46"; nothing: no selection.
void TakesPage::typeSpan() {
    const TimeText& text = view_->timeText();
    const TimeSpan now = work_.choice.span();
    const QString shown =
        now.empty() ? QString() : QStringLiteral("%1 – %2").arg(text.fine(now.from), text.fine(now.to));
    const auto typed = askText_(tr("The selection"), tr("From – to"), shown);
    if (!typed) return;
    if (typed->trimmed().isEmpty()) return work_.choice.setSpan({});
    static const QRegularExpression between(QStringLiteral("\\s*(?:–|-|—|\\bto\\b)\\s*"));
    const QStringList ends = typed->trimmed().split(between, Qt::SkipEmptyParts);
    const auto from = ends.size() == 2 ? text.parse(ends[0]) : std::nullopt;
    const auto to = ends.size() == 2 ? text.parse(ends[1]) : std::nullopt;
    if (!from || !to || *from == *to)
        return workspace_.hint(
            tr("“%1” is no stretch of the take; type two times, such as %2 – %3.")
                .arg(*typed, text.fine(0),
                     text.fine(std::max<std::int64_t>(work_.choice.take()->length, 1'000'000))));
    const std::int64_t end = work_.choice.take()->length + 1;
    work_.choice.setSpan({std::clamp<std::int64_t>(std::min(*from, *to), 0, end),
                          std::clamp<std::int64_t>(std::max(*from, *to), 0, end)});
}

void TakesPage::renameTake() {
    const KeptTake* kept = work_.choice.kept();
    if (kept == nullptr) return;
    if (const auto name = askText_(tr("Rename the take"), tr("Name"), toQt(nameOf(*kept))))
        work_.changing.rename(*name);
}

/// place: among the cues; −1: a new one at the playhead.
void TakesPage::cue(int place) {
    if (work_.choice.kept() == nullptr) return;
    std::vector<TakeMark> cues;
    for (const TakeMark& mark : work_.choice.take()->marks) {
        if (mark.isCue()) cues.push_back(mark);
    }
    const bool isNew = place < 0 || place >= static_cast<int>(cues.size());
    const auto typed = askText_(isNew ? tr("A cue here") : tr("Rename the cue"), tr("Name; empty removes it"),
                                isNew ? QString() : toQt(cues[static_cast<std::size_t>(place)].body));
    const QString name = typed ? typed->trimmed() : QString();
    if (!typed || (isNew && name.isEmpty())) return;
    if (isNew) {
        cues.push_back({work_.playing.position(), smf::marker, name.toStdString()});
    } else if (name.isEmpty()) {
        cues.erase(cues.begin() + place);
    } else {
        cues[static_cast<std::size_t>(place)].body = name.toStdString();
    }
    work_.changing.setCues(isNew ? tr("Add a cue") : tr("Change a cue"), std::move(cues));
}

void TakesPage::tellIfAny(const QString& sentence) {
    if (!sentence.isEmpty()) workspace_.tell(sentence);
}

void TakesPage::exportTake() {
    if (work_.choice.kept() == nullptr) return;
    auto* open = findChild<ExportDialog*>();
    if (open == nullptr) {
        open = new ExportDialog(workspace_, this);
        open->setAttribute(Qt::WA_DeleteOnClose);
    }
    open->show();
    open->raise();
    open->activateWindow();
}

}  // namespace mellow::app
