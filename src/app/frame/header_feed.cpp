#include "app/frame/header_feed.h"

#include <QLineEdit>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/live/in_hand.h"
#include "app/widgets/popover.h"

namespace mellow::app {

HeaderFeed::HeaderFeed(Header& header, Document& document, Live& live, NoticeBar& notice, QWidget& window)
    : QObject(&window), header_(header), document_(document), live_(live), notice_(notice), window_(window) {
    connect(&document_, &Document::changed, this, &HeaderFeed::showTitle);
    connect(&document_, &Document::stateChanged, this, &HeaderFeed::showTitle);
    connect(&document_, &Document::changed, this, &HeaderFeed::showTempo);
    connect(&document_, &Document::changed, this, &HeaderFeed::showHand);
    connect(&document_, &Document::findingsChanged, this, &HeaderFeed::showTroubles);
    connect(&live_, &Live::ratesChanged, this,
            [this] { header_.showRates(live_.inRate(), live_.outRate()); });
    connect(&live_, &Live::statusChanged, this, &HeaderFeed::showPorts);
    connect(&live_, &Live::tempoChanged, this, &HeaderFeed::showTempo);
    connect(&live_, &Live::movedAtAGlance, this, &HeaderFeed::showHand);
    connect(&header_, &Header::tempoTapped, this, &HeaderFeed::tapTempo);
    connect(&header_, &Header::titleAsked, this, &HeaderFeed::nameEnsemble);
    showTitle();
    showPorts();
    header_.showRates(live_.inRate(), live_.outRate());
    showTempo();
    header_.showHand({});
}

void HeaderFeed::showTroubles() {
    const auto& findings = document_.findings();
    header_.showTroubles(
        static_cast<int>(std::count_if(findings.begin(), findings.end(), [](const Finding* found) {
            return found->severity == Severity::trouble;
        })));
}

void HeaderFeed::showTitle() {
    const QString title = nameToShow(document_.ensemble().title);
    const QString shown = document_.isReadOnly()   ? tr("%1 (only to look at)").arg(title)
                          : document_.isModified() ? title + QStringLiteral(" *")
                                                   : title;
    header_.showTitle(shown, document_.path());
    window_.setWindowTitle(
        (document_.isModified() ? tr("%1 * – Mellow Lever") : tr("%1 – Mellow Lever")).arg(title));
}

void HeaderFeed::showPorts() {
    using Health = io::Clock::Word::Health;
    const io::Clock::Word word = live_.portsWord();
    header_.ports().say(word.health == Health::well  ? PortsPill::State::well
                        : word.health == Health::ill ? PortsPill::State::ill
                                                     : PortsPill::State::none,
                        toQt(word.text), live_.status());
    if (live_.rackProblem()) notice_.say(toQt(live_.rackProblem()->sentence()) + QStringLiteral("."));
}

/// With whom it comes from, or for whom it waits.
void HeaderFeed::showTempo() {
    const Follow follows = document_.ensemble().tempo.follow;
    const QString followed = follows == Follow::clock ? tr("clock") : tr("transport");
    QString from;
    switch (live_.readings().tempoFrom()) {
        case engine::TempoFrom::document:
            if (follows != Follow::none) from = tr("waits for %1").arg(followed);
            break;
        case engine::TempoFrom::file:
            from = tr("take");
            break;
        case engine::TempoFrom::followed:
            from = followed;
            break;
    }
    header_.showTempo(live_.readings().tempo(), from);
}

void HeaderFeed::showHand() {
    const Ensemble& ensemble = document_.ensemble();
    const bool chooses = ensemble.inHand || !ensemble.sections.empty() || !ensemble.handOrder.empty();
    const QString who = chooses ? whoIsInHand(ensemble, live_) : QString();
    if (std::exchange(shownHand_, who) != who) header_.showHand(who);
}

/// Where its name is shown.
void HeaderFeed::nameEnsemble(QWidget* at) {
    if (document_.isReadOnly()) return;
    auto* open = new Popover(&window_);
    open->setAccessibleName(tr("The ensemble’s name"));
    auto* field = new QLineEdit(toQt(document_.ensemble().title));
    field->setObjectName(QStringLiteral("ensembleName"));
    field->setAccessibleName(tr("The ensemble’s name"));
    field->setMinimumWidth(scaled(260));
    connect(field, &QLineEdit::returnPressed, open, [this, open, field] {
        const std::string name = field->text().trimmed().toStdString();
        if (!name.empty() && name != document_.ensemble().title)
            document_.edit(tr("Name the ensemble"), [&name](Ensemble& e) { e.title = name; });
        open->close();
    });
    open->column()->addWidget(field);
    open->openAt(*at, at->rect());
    field->setFocus();
    field->selectAll();
}

void HeaderFeed::tapTempo() {
    QElapsedTimer& clock = sinceFirstTap_;
    if (!clock.isValid()) clock.start();
    const auto tempo = taps_.tap(clock.nsecsElapsed() / 1000);
    if (!tempo) {
        tapGesture_ = Document::newGesture();
        return;
    }
    document_.edit(
        tr("Tap the tempo"), [bpm = *tempo](Ensemble& e) { e.tempo.bpm = bpm; }, tapGesture_);
}

}  // namespace mellow::app
