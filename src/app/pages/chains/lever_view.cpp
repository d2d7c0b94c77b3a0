// The view is widgets (rails, the response, chips for steps) with threads painted between them. A change of
// the document that alters the shape (another chain, a target more) builds the widgets anew; any other only
// shows values in those that are there. While something is dragged, edits share a gesture and so become one
// undo step.
#include "app/pages/chains/lever_view.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QRegularExpression>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/acts/target_finder.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/live/quiet.h"
#include "app/pages/chains/parameter_popover.h"
#include "app/pages/chains/rail_contents.h"
#include "app/widgets/clear_layout.h"
#include "app/widgets/reading_order.h"
#include "app/widgets/step_picker.h"
#include "core/describe/sentence.h"
#include "core/model/law.h"
#include "core/model/resolve.h"

namespace mellow::app {

LeverView::LeverView(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      document_(workspace.document),
      selection_(workspace.selection),
      live_(workspace.live),
      sentence_(new FewLines(2, FewLines::Role::body, this)),
      quiet_(new FewLines(1, FewLines::Role::caption, this)),
      ribbon_(new QPushButton(this)),
      findings_(new FindingsView(workspace.document)),
      body_(new QWidget(this)),
      empty_(new EmptyLever(workspace, this)),
      source_(new Rail(Rail::Side::source)),
      picture_(new ResponsePicture),
      figuresTitle_(new QLabel(tr("Response"))),
      figures_(new MovingText(tr("switched off"))),
      chips_(new StepChips),
      targetArea_(new QWidget),
      edits_(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(12), scaled(10), scaled(10), scaled(6));
    column->setSpacing(scaled(6));
    sentence_->setObjectName(QStringLiteral("sentence"));
    column->addWidget(sentence_);
    quiet_->setObjectName(QStringLiteral("quiet"));
    column->addWidget(quiet_);
    connect(quiet_, &FewLines::clicked, this, [this] {
        if (!findings_->isHidden()) emit findingsAsked(findings_);
    });
    ribbon_->setObjectName(QStringLiteral("followRibbon"));
    ribbon_->setProperty("role", "ribbon");
    ribbon_->setToolTip(
        tr("The chain leads to whatever is touched: a target’s rail, a row of a parameter, a "
           "lane, or the instrument’s own panel. A click locks it where it is (Ctrl+F)."));
    connect(ribbon_, &QPushButton::clicked, this, [this] { workspace_.touched.setFollower(std::nullopt); });
    connect(&workspace_.touched, &Touched::changed, this, &LeverView::showRibbon);
    column->addWidget(empty_, 1);
    column->addWidget(body_, 1);
    // Beside the steps, where it comes and goes and moves nothing.
    auto* foot = new QHBoxLayout;
    foot->setSpacing(scaled(8));
    foot->addWidget(chips_, 1);
    foot->addWidget(ribbon_, 0, Qt::AlignRight | Qt::AlignTop);
    column->addLayout(foot);
    readBehind(*chips_, *source_);
    // Below, where what comes moves nothing that is under the hand.
    column->addWidget(findings_);

    auto* response = new QVBoxLayout;
    auto* head = new QHBoxLayout;
    figuresTitle_->setProperty("role", "caption");
    figures_->setObjectName(QStringLiteral("figures"));
    head->addWidget(figuresTitle_);
    head->addStretch(1);
    head->addWidget(figures_);
    response->setSpacing(scaled(6));
    response->addSpacing(scaled(8));
    response->addLayout(head);
    response->addWidget(picture_, 1);

    targetArea_->setLayout(new QHBoxLayout);
    targetArea_->layout()->setContentsMargins(0, 0, 0, 0);
    targetArea_->layout()->setSpacing(scaled(2));

    auto* row = new QHBoxLayout(body_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(scaled(6));
    row->addWidget(source_);
    row->addLayout(response, 2);
    row->addSpacing(scaled(8));
    row->addWidget(targetArea_, 3);

    connect(findings_, &FindingsView::placeAsked, this,
            [this](const Place& place) { workspace_.show(addressOf(document_.ensemble(), place)); });
    connect(source_, &Rail::picked, this, [this] { select(Part::source, 0); });
    connect(source_, &Rail::moved, this,
            [this](double low, double high, Gesture g) { edits_.moveSource(low, high, g); });
    connect(source_, &Rail::typed, this, [this](Rail::Grip grip, const QString& typed) {
        edits_.typeSource(grip, typed, source_->content());
    });
    connect(chips_, &StepChips::picked, this, [this](int step) { select(Part::step, step); });
    connect(chips_, &StepChips::addAsked, this, &LeverView::pickStep);
    connect(picture_, &ResponsePicture::stepChanged, this, [this](const Step& step, Gesture gesture) {
        document_.edit(
            tr("Change %1")
                .arg(QString::fromUtf8(step.kind->label.data(), static_cast<int>(step.kind->label.size()))
                         .toLower()),
            [&](Ensemble& e) {
                if (Step* changed = stepOf(e, selection_.now())) *changed = step;
            },
            gesture);
    });
    connect(&document_, &Document::changed, this, &LeverView::followEdit);
    connect(&document_, &Document::findingsChanged, this, &LeverView::showFindings);
    connect(&selection_, &Selection::changed, this, [this] {
        rebuild();
        showFindings();
    });
    connect(&live_, &Live::moved, this, &LeverView::refresh);
    connect(&live_, &Live::statusChanged, this, &LeverView::showQuiet);
    rebuild();
    showFindings();
}

void LeverView::select(Part part, int index) {
    Selected selected = selection_.now();
    selected.part = part;
    selected.index = index;
    selected.inner = 0;
    selection_.set(selected);
}

/// With Ctrl it is added to those that are selected, or taken from them; with Shift all on the way to it are.
void LeverView::pickBranch(int branch) {
    const Qt::KeyboardModifiers keys = QApplication::keyboardModifiers();
    const Selected now = selection_.now();
    const Selected picked{now.instrument, now.chain, Part::branch, branch, 0};
    if (now.part != Part::branch || !(keys & (Qt::ControlModifier | Qt::ShiftModifier)))
        return selection_.set(picked);
    std::vector<Selected> all = selection_.everySelected();
    if ((keys & Qt::ShiftModifier) != 0) {
        all.clear();
        for (int b = std::min(now.index, branch); b <= std::max(now.index, branch); ++b)
            all.push_back({now.instrument, now.chain, Part::branch, b, 0});
        return selection_.setTogether(now, all);
    }
    if (const auto found = std::find(all.begin(), all.end(), picked); found != all.end()) {
        all.erase(found);
        return all.empty() ? void() : selection_.setTogether(all.front(), all);
    }
    all.push_back(picked);
    std::sort(all.begin(), all.end(), [](const Selected& a, const Selected& b) { return a.index < b.index; });
    selection_.setTogether(picked, all);
}

void LeverView::showSelectedParameter() {
    const Selected& now = selection_.now();
    const bool isBranch = now.part == Part::branch || now.part == Part::branchStep;
    if (!isBranch || now.index >= static_cast<int>(targets_.size()))
        return workspace_.hint(tr("Select a target first; then its parameter can be changed."));
    openParameter(workspace_, *targets_[static_cast<std::size_t>(now.index)]);
}

QWidget* LeverView::chosenRail() const {
    const Selected& now = selection_.now();
    const bool isBranch = now.part == Part::branch || now.part == Part::branchStep;
    return isBranch && now.index < static_cast<int>(targets_.size())
               ? targets_[static_cast<std::size_t>(now.index)]
               : nullptr;
}

void LeverView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    shareWidth();
    showSentence();
}

/// The figures above the response are said by the rails too, and give way to targets that need the room.
void LeverView::shareWidth() {
    const int seen = parentWidget() == nullptr ? width() : parentWidget()->width();
    constexpr int besides = 150;  // the source, gaps and margins
    const int left = seen - scaled(besides) - static_cast<int>(targets_.size()) * scaled(56);
    figures_->setVisible(left >= figures_->sizeHint().width());
    figuresTitle_->setVisible(left >= figures_->sizeHint().width() + scaled(90));
}

bool LeverView::event(QEvent* event) {
    const bool done = QWidget::event(event);
    // What is in the view has its place now.
    if (event->type() == QEvent::LayoutRequest || event->type() == QEvent::Resize) followThreads();
    // And while another page was shown nothing was followed.
    if (event->type() == QEvent::Show) refresh();
    // It fills its corners with the page's colour, so that the page is not painted for what moves on it. The
    // style takes that back each time that it has been here.
    if (event->type() == QEvent::Polish || event->type() == QEvent::StyleChange)
        setAttribute(Qt::WA_OpaquePaintEvent);
    return done;
}

void LeverView::rebuild() {
    const Chain* chain = chainOf(shownEnsemble(), selection_.now());
    body_->setVisible(chain != nullptr);
    chips_->setVisible(chain != nullptr);
    sentence_->setVisible(chain != nullptr);
    quiet_->setVisible(chain != nullptr);
    empty_->setVisible(chain == nullptr);
    showQuiet();
    showRibbon();
    if (chain == nullptr) return empty_->follow();
    showSentence();
    const Selected& selected = selection_.now();
    picture_->showSteps(chain->steps, selected.part == Part::step ? selected.index : -1);
    earlier_ = document_.before();
    const Chain* was = earlier_ == nullptr ? nullptr : chainOf(*earlier_, selected);
    picture_->showBefore(was == nullptr || before_ != nullptr ? chain->steps : was->steps);
    chips_->showSteps(shownEnsemble(), *chain, selected.part == Part::step ? selected.index : -1);
    rebuildTargets(*chain);
    refresh();
}

/// With as many targets by name as find room; all of them are in the tooltip.
void LeverView::showSentence() {
    const Chain* chain = chainOf(shownEnsemble(), selection_.now());
    if (chain == nullptr) return;
    const Instrument* instrument = instrumentOf(shownEnsemble(), selection_.now());
    const auto said = [&](std::size_t most) {
        return (before_ != nullptr ? tr("Before: ") : QString()) +
               toQt(describe::chainSentence(shownEnsemble(), instrument, *chain, most));
    };
    const QString whole = said(std::max<std::size_t>(chain->branches.size(), 1));
    QString shown = whole;
    if (!sentence_->fits(whole)) {
        for (std::size_t most = 1; most < chain->branches.size(); ++most) {
            const QString shorter = said(most);
            if (most > 1 && !sentence_->fits(shorter)) break;
            shown = shorter;
        }
    }
    // A number and its unit stay together.
    static const QRegularExpression unit(
        QStringLiteral("(?<=\\d) (?=(?:k?Hz|%|m?s|dB|cents|semitones)\\b|%)"));
    sentence_->setText(shown.replace(unit, QString(QChar(QChar::Nbsp))), whole);
}

/// What checks say of the chain, with the mend, right where the chain is.
void LeverView::showFindings() {
    const auto owner = ownerPlace(document_.ensemble(), selection_.now());
    const auto* chains = chainsOf(document_.ensemble(), selection_.now());
    const Chain* chain = chainOf(document_.ensemble(), selection_.now());
    if (chain == nullptr) return findings_->hide();
    if (findings_->isHidden()) openHeight_ = body_->height();
    const auto place = static_cast<std::size_t>(chain - chains->data());
    findings_->showThose([&](const Finding& finding) {
        return finding.place.instrument == owner && finding.place.chain == place;
    });
    keepHeight();
    showQuiet();
}

/// A chain that follows what is touched wears it, and is locked where it is by a click.
void LeverView::showRibbon() {
    const auto& follower = workspace_.touched.follower();
    const Selected& now = selection_.now();
    const bool follows = follower && follower->instrument == now.instrument && follower->chain == now.chain &&
                         !now.chain.empty();
    if (follows) {
        const auto last = workspace_.touched.last();
        const Instrument* owner =
            last ? findById(document_.ensemble().instruments, last->instrument) : nullptr;
        const Parameter* touched = owner == nullptr ? nullptr : findById(owner->parameters, last->parameter);
        ribbon_->setText(touched == nullptr
                             ? tr("Follows what is touched · lock")
                             : tr("Follows what is touched: %1 · lock").arg(nameToShow(nameOf(*touched))));
    }
    ribbon_->setVisible(follows);
}

/// The parameter of a branch is what was touched last.
void LeverView::touch(int branch) {
    const Chain* chain = chainOf(document_.ensemble(), selection_.now());
    if (chain == nullptr || branch >= static_cast<int>(chain->branches.size())) return;
    const Target target = targetOf(document_.ensemble(), instrumentOf(document_.ensemble(), selection_.now()),
                                   chain->branches[static_cast<std::size_t>(branch)].target);
    // The chain that follows is not led about by its own rails.
    const auto& follower = workspace_.touched.follower();
    const Selected& now = selection_.now();
    if (follower && follower->instrument == now.instrument && follower->chain == now.chain) return;
    if (target.parameter != nullptr && target.instrument != nullptr)
        workspace_.touched.touch({target.instrument->id, target.parameter->id});
}

/// What checks say comes below, and the rails stay where they are: all of it is scrolled to.
void LeverView::keepHeight() {
    body_->setMinimumHeight(findings_->isHidden() ? 0 : openHeight_);
}

/// An edit elsewhere changes nothing here, unless the chain is a shared one, which may lead there.
void LeverView::followEdit(const Change& change) {
    before_ = nullptr;
    const auto owner = ownerPlace(document_.ensemble(), selection_.now());
    if (!owner || change.concerns(*owner)) rebuild();
    if (change.inHand) showQuiet();
}

void LeverView::pickStep(QWidget* at) {
    const Chain* chain = chainOf(document_.ensemble(), selection_.now());
    if (chain == nullptr) return;
    std::vector<Step> behind = chain->steps;
    const Selected& selected = selection_.now();
    if (selected.part == Part::step && selected.index < static_cast<int>(behind.size()))
        behind.erase(behind.begin() + selected.index + 1, behind.end());
    StepPicker::open(at, std::move(behind), [this](const Step& step) {
        workspace_.actions.addStep(step);
        if (step != makeStep(*step.kind)) return;
        QMetaObject::invokeMethod(this, &LeverView::typeIntoStep, Qt::QueuedConnection);
    });
}

/// A step that is words, as a formula is, is typed next, unless it has been already.
void LeverView::typeIntoStep() {
    for (QLineEdit* field : window()->findChildren<QLineEdit*>(QStringLiteral("stepText"))) {
        if (!field->isVisible()) continue;
        field->setFocus(Qt::OtherFocusReason);
        field->selectAll();
    }
}

void LeverView::addTarget(QWidget* at) {
    findTarget(workspace_, at,
               chainOf(document_.ensemble(), selection_.now()) == nullptr ? TargetFor::newChain
                                                                          : TargetFor::anotherBranch);
}

void LeverView::rebuildTargets(const Chain& chain) {
    auto* row = static_cast<QHBoxLayout*>(targetArea_->layout());
    if (targets_.size() != chain.branches.size() || row->count() == 0) {
        clearLayout(*row);
        targets_.clear();
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            auto* rail = new Rail(Rail::Side::target);
            const int branch = static_cast<int>(b);
            connect(rail, &Rail::picked, this, [this, branch] {
                pickBranch(branch);
                touch(branch);
            });
            connect(rail, &Rail::parameterAsked, this, [this, rail] { openParameter(workspace_, *rail); });
            connect(rail, &Rail::moved, this, [this, branch, rail](double low, double high, Gesture g) {
                const RailContent& shown = rail->content();
                const auto moved = [](double end, double was) {
                    return end == was ? std::nullopt : std::optional(end);
                };
                edits_.moveTarget(branch, moved(low, shown.low), moved(high, shown.high), g);
            });
            connect(rail, &Rail::typed, this, [this, branch](Rail::Grip grip, const QString& text) {
                edits_.typeTarget(branch, grip, text);
            });
            connect(rail, &Rail::roomChanged, this, &LeverView::shareNarrowness);
            row->addWidget(rail, 1);
            targets_.push_back(rail);
        }
        auto* add = new QPushButton(chain.branches.empty() ? tr("+ Target") : QStringLiteral("+"));
        add->setProperty("role", chain.branches.empty() ? "add" : "addSmall");
        add->setObjectName(QStringLiteral("addTarget"));
        if (!chain.branches.empty()) add->setFixedWidth(scaled(26));
        add->setToolTip(tr("Lead the chain to one more target"));
        add->setAccessibleName(tr("Add a target"));
        connect(add, &QPushButton::clicked, this, [this, add] { addTarget(add); });
        row->addWidget(add, 0, Qt::AlignVCenter);
        if (chain.branches.empty()) row->addStretch(1);
        // The more targets there are, the more of the width is theirs.
        constexpr int few = 3;
        const int many = static_cast<int>(chain.branches.size()) - few;
        static_cast<QHBoxLayout*>(body_->layout())
            ->setStretchFactor(targetArea_, few + std::clamp(many, 0, 2 * few));
        shareWidth();
    }
    for (std::size_t b = 0; b < targets_.size(); ++b) {
        const Selected& selected = selection_.now();
        const bool chosen =
            ((selected.part == Part::branch || selected.part == Part::branchStep) &&
             selected.index == static_cast<int>(b)) ||
            selection_.isAmong({selected.instrument, selected.chain, Part::branch, static_cast<int>(b), 0});
        targets_[b]->setSelected(chosen);
    }
    source_->setSelected(selection_.now().part == Part::source);
}

void LeverView::showBefore(bool held) {
    if (held == (before_ != nullptr)) return;
    before_ = held ? document_.before() : nullptr;
    if (held && before_ == nullptr) return;
    live_.preview(before_.get());
    rebuild();
}

const Ensemble& LeverView::shownEnsemble() const {
    return before_ != nullptr ? *before_ : document_.ensemble();
}

void LeverView::refresh() {
    const Instrument* instrument = instrumentOf(shownEnsemble(), selection_.now());
    const Chain* chain = chainOf(shownEnsemble(), selection_.now());
    if (chain == nullptr || !isVisible()) return;
    const ChainReading reading = live_.reading(selection_.now().instrument, chain->id);
    const std::tuple state(reading.runs, reading.spoken, reading.control);
    if (std::exchange(state_, state) != state) showQuiet();
    source_->show(sourceContent(shownEnsemble(), *chain, reading));
    for (std::size_t b = 0; b < targets_.size() && b < chain->branches.size(); ++b)
        showTarget(b, instrument, *chain, reading);
    const double goal = settledPosition(chain->steps, reading.position, reading.other);
    picture_->showOther(reading.other);
    picture_->showDot(reading.position, reading.result, trails(chain->steps) ? goal : reading.result,
                      reading.stepsUp, reading.spoken, reading.runs);
    chips_->showStates(shownEnsemble(), *chain, reading);
    const QString figures =
        reading.runs
            ? QStringLiteral("%1 → %2").arg(reading.position, 0, 'f', 2).arg(reading.result, 0, 'f', 2)
        : chain->on ? tr("does not run")
                    : tr("switched off");
    figures_->setText(figures);
    followThreads();
}

/// Asked when something else may be the reason: after an edit, when ports come or go, when the chain begins
/// to speak.
void LeverView::showQuiet() {
    const QString trouble = findings_->trouble();
    quiet_->setTrouble(!trouble.isEmpty());
    quiet_->setCursor(trouble.isEmpty() ? Qt::ArrowCursor : Qt::PointingHandCursor);
    quiet_->setText(trouble.isEmpty() ? whyQuiet(document_, live_, selection_.now())
                                      : tr("Trouble: %1. What mends it is below.").arg(trouble));
}

/// Rails side by side look alike: where one has no room for its numbers, none has.
void LeverView::shareNarrowness() {
    const bool narrow =
        std::any_of(targets_.begin(), targets_.end(), [](const Rail* rail) { return rail->needsRoom(); });
    for (Rail* rail : targets_) rail->setNarrow(narrow);
}

void LeverView::showTarget(std::size_t index, const Instrument* instrument, const Chain& chain,
                           const ChainReading& reading) {
    RailContent content = targetContent(shownEnsemble(), instrument, chain, index, reading);
    const Chain* was =
        earlier_ == nullptr || before_ != nullptr ? nullptr : chainOf(*earlier_, selection_.now());
    if (was != nullptr && instrument != nullptr && index < was->branches.size()) {
        const Branch& branch = chain.branches[index];
        const Target target = targetOf(shownEnsemble(), instrument, branch.target);
        if (target.exists()) content.before = gripsBefore(rangeOf(target), was->branches[index], branch);
    }
    targets_[index]->show(content);
}

void LeverView::followThreads() {
    threads_.show(
        body_->isVisible() ? threadsBetween(*this, *source_, *picture_, targets_) : std::vector<Thread>(),
        *this);
}

void LeverView::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    constexpr int corner = 10;
    if (rect().adjusted(corner, corner, -corner, -corner).contains(event->rect())) {
        painter.fillRect(event->rect(), t.panel);
    } else {
        painter.fillRect(event->rect(), t.ground);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.panel);
        painter.drawRoundedRect(rect(), corner, corner);
    }
    threads_.paint(painter);
}

}  // namespace mellow::app
