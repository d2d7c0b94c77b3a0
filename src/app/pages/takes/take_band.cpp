// What is asked for while the page is not seen is asked for when it is.
#include "app/pages/takes/take_band.h"

#include <QMenu>
#include <QMouseEvent>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/model/law.h"

namespace mellow::app {

TakeBand::TakeBand(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      who_(new QPushButton),
      state_(new QLabel),
      mark_(new QPushButton(tr("Compare from now on"))),
      hear_(new QPushButton),
      difference_(new ElidedLabel),
      export_(new QPushButton(tr("Export…"))) {
    setObjectName(QStringLiteral("takeBand"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(48), scaled(3), scaled(12), scaled(3));
    row->setSpacing(scaled(8));
    who_->setObjectName(QStringLiteral("bandInstrument"));
    who_->setProperty("role", "chip");
    who_->setToolTip(tr("Whose lanes are shown below"));
    row->addWidget(who_);
    state_->setObjectName(QStringLiteral("bandState"));
    row->addWidget(state_);
    mark_->setObjectName(QStringLiteral("bandMark"));
    mark_->setProperty("role", "chip");
    mark_->setToolTip(tr("Keep the chains as they are now, to see and hear later what an edit has changed"));
    row->addWidget(mark_);
    hear_->setObjectName(QStringLiteral("bandHear"));
    hear_->setProperty("role", "chip");
    hear_->setCheckable(true);
    hear_->setToolTip(tr("Play the chains as they were then, while it is down (or hold A)"));
    row->addWidget(hear_);
    difference_->setObjectName(QStringLiteral("bandDifference"));
    difference_->setProperty("role", "help");
    row->addWidget(difference_, 1);
    export_->setObjectName(QStringLiteral("bandExport"));
    export_->setProperty("role", "chip");
    export_->setToolTip(tr("Write what comes of the take, or the hands, into a file"));
    row->addWidget(export_);
    connect(who_, &QPushButton::clicked, this, &TakeBand::chooseInstrument);
    connect(mark_, &QPushButton::clicked, this, [this] { hasThen() ? forgetThen() : markThen(); });
    connect(hear_, &QPushButton::toggled, this, &TakeBand::hearThen);
    connect(export_, &QPushButton::clicked, this, &TakeBand::exportAsked);
    connect(&now_, &ResultWorker::finished, this, [this](std::shared_ptr<const Results> results) {
        results_ = std::move(results);
        emit resultsChanged(results_);
        compare();
    });
    connect(&before_, &ResultWorker::finished, this, [this](std::shared_ptr<const Results> results) {
        if (!hasThen()) return;
        thenResults_ = std::move(results);
        emit thenChanged(thenResults_);
        compare();
    });
    connect(&workspace_.document, &Document::changed, this, &TakeBand::follow);
    connect(&workspace_.document, &Document::replaced, this, [this] {
        forgetThen();
        instrument_.clear();
        all_ = false;
    });
    connect(&workspace_.takes.choice, &TakeChoice::takeChanged, this, &TakeBand::ask);
    setCursor(Qt::SizeVerCursor);
    for (QPushButton* button : {who_, mark_, hear_, export_}) button->setCursor(Qt::ArrowCursor);
    refresh();
}

void TakeBand::mousePressEvent(QMouseEvent* event) {
    grip_ = event->position().toPoint().y();
}

void TakeBand::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) != 0) emit dragged(event->position().toPoint().y() - grip_);
}

std::vector<std::string> TakeBand::wanted() const {
    if (instrument_.empty()) return {};
    return {instrument_};
}

/// The instrument that is selected elsewhere, until one is chosen here.
void TakeBand::follow(const Change& change) {
    const auto& instruments = workspace_.document.ensemble().instruments;
    if (findById(instruments, instrument_) == nullptr) instrument_.clear();
    const bool heard = change.everything || change.order || !change.instruments.empty() ||
                       change.controllers || change.tieLines || change.sharedChains || change.inHand ||
                       change.tempo || change.hands || change.desk;
    refresh();
    if (heard) ask();
}

void TakeBand::showInstrument(const std::string& id) {
    instrument_ = id;
    all_ = id.empty();
    refresh();
    ask();
}

void TakeBand::chooseInstrument() {
    QMenu menu(this);
    menu.addAction(tr("All instruments"), this, [this] { showInstrument({}); });
    menu.addSeparator();
    for (const Instrument& instrument : std::as_const(workspace_.document.ensemble().instruments))
        menu.addAction(nameToShow(nameOf(instrument)), this,
                       [this, id = instrument.id] { showInstrument(id); });
    menu.exec(who_->mapToGlobal(QPoint(0, who_->height())));
}

void TakeBand::ask() {
    // Nobody sees it: the page asks when it is shown.
    if (!parentWidget()->isVisible()) return;
    const auto& instruments = workspace_.document.ensemble().instruments;
    if (instrument_.empty() && !all_ && !instruments.empty()) {
        const Instrument* selected = findById(instruments, workspace_.selection.now().instrument);
        instrument_ = selected == nullptr ? instruments.front().id : selected->id;
        refresh();
    }
    now_.ask({workspace_.document.shared(), workspace_.takes.choice.take(), wanted()});
    if (hasThen()) before_.ask({then_, takeOfThen(), wanted()});
}

/// Hands that were tidied since are compared with the hands of then; another take with itself.
std::shared_ptr<const Take> TakeBand::takeOfThen() const {
    const KeptTake* kept = workspace_.takes.choice.kept();
    const bool same = kept != nullptr && kept->id == thenKept_.id && thenTake_ != nullptr;
    return same ? thenTake_ : workspace_.takes.choice.take();
}

bool TakeBand::handsDiffer() const {
    const KeptTake* kept = workspace_.takes.choice.kept();
    return kept != nullptr && kept->id == thenKept_.id && kept->file != thenKept_.file;
}

void TakeBand::markThen() {
    then_ = workspace_.document.shared();
    thenTake_ = workspace_.takes.choice.take();
    thenKept_ = workspace_.takes.choice.kept() == nullptr ? KeptTake{} : *workspace_.takes.choice.kept();
    thenAt_ = QDateTime::currentDateTime();
    refresh();
    ask();
}

void TakeBand::forgetThen() {
    hearThen(false);
    then_.reset();
    thenTake_.reset();
    thenResults_.reset();
    emit thenChanged(nullptr);
    refresh();
    compare();
}

void TakeBand::hearThen(bool then) {
    const bool wanted = then && hasThen();
    if (hear_->isChecked() != wanted) {
        hear_->setChecked(wanted);
        return;
    }
    if (std::exchange(hears_, wanted) == wanted) return;
    workspace_.live.preview(wanted ? then_.get() : nullptr);
    refresh();
}

void TakeBand::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

/// Counting chains is for who sees it.
void TakeBand::refresh() {
    if (!isVisible()) return;
    const auto& instruments = workspace_.document.ensemble().instruments;
    const Instrument* shown = findById(instruments, instrument_);
    int chains = 0;
    const auto count = [&chains](const Instrument& instrument) {
        for (const Chain& chain : instrument.chains) chains += chain.on ? 1 : 0;
    };
    if (shown != nullptr) {
        count(*shown);
    } else {
        for (const Instrument& instrument : instruments) count(instrument);
    }
    who_->setText((shown == nullptr ? tr("All instruments") : nameToShow(nameOf(*shown))) +
                  QStringLiteral(" ▾"));
    state_->setText(hears_ ? tr("playing as it was then")
                           : tr("%n chain(s) as they are now", nullptr, chains));
    mark_->setText(hasThen() ? tr("Compare no more") : tr("Compare from now on"));
    hear_->setVisible(hasThen());
    hear_->setText(tr("then: %1").arg(thenAt_.toString(QStringLiteral("HH:mm"))));
}

/// Says how far each lane is from what it was, the furthest first.
void TakeBand::compare() {
    if (!hasThen() || !results_ || !thenResults_) return difference_->clear();
    const std::int64_t length = workspace_.takes.choice.take()->length;
    std::vector<std::pair<double, QString>> found;
    for (const ResultLane& lane : results_->lanes) {
        for (const ResultLane& was : thenResults_->lanes) {
            if (was.instrument != lane.instrument || was.parameter != lane.parameter) continue;
            const Difference difference = differenceBetween(lane, was, 0, length + 10'000'000);
            if (difference.most <= 0) continue;
            const Instrument* instrument =
                findById(workspace_.document.ensemble().instruments, lane.instrument);
            const Parameter* parameter =
                instrument == nullptr ? nullptr : findById(instrument->parameters, lane.parameter);
            if (parameter == nullptr) continue;
            const Range range = rangeOf(*parameter);
            const auto at = [&](const ResultLane& each) {
                const std::size_t place = each.lastAt(difference.time);
                return place < each.values.size() ? toQt(displayText(range, each.values[place]))
                                                  : QStringLiteral("–");
            };
            found.emplace_back(difference.most,
                               tr("%1 %2, was %3").arg(nameToShow(nameOf(*parameter)), at(lane), at(was)));
        }
    }
    std::sort(found.begin(), found.end(),
              [](const auto& one, const auto& other) { return one.first > other.first; });
    QStringList words;
    for (std::size_t i = 0; i < std::min<std::size_t>(found.size(), 3); ++i) words << found[i].second;
    const QString sound =
        words.isEmpty() ? QString() : tr("At most apart: %1").arg(words.join(QStringLiteral("; ")));
    difference_->setText(!handsDiffer()    ? (words.isEmpty() ? tr("No difference.") : sound)
                         : words.isEmpty() ? tr("The hands are others than then; what comes of them is not.")
                                           : tr("The hands are others than then. %1").arg(sound));
    difference_->setToolTip(difference_->text());
}

}  // namespace mellow::app
