#include "app/takes/take_recording.h"

#include <QDateTime>
#include <algorithm>
#include <utility>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

std::int64_t nowInMilliseconds() {
    return QDateTime::currentMSecsSinceEpoch();
}

}  // namespace

TakeRecording::TakeRecording(Document& document, Selection& selection, Live& live, TakeStore& store,
                             TakeChoice& choice, TakePlaying& playing, TakeChanging& changing, TakeLogs& logs,
                             QObject* parent)
    : QObject(parent),
      document_(document),
      selection_(selection),
      live_(live),
      store_(store),
      choice_(choice),
      playing_(playing),
      changing_(changing),
      logs_(logs) {
    connect(&choice_, &TakeChoice::followed, this, [this](bool isAnother) {
        if (isAnother) showsLive_ = false;
    });
    connect(&playing_, &TakePlaying::overStopped, this, &TakeRecording::end);
    connect(&playing_, &TakePlaying::wentRound, this, &TakeRecording::layUnder);
    connect(&live_, &Live::moved, this, &TakeRecording::look);
    connect(&live_, &Live::takeEnded, this, &TakeRecording::look);
    constexpr int lookForEnd = 20;  // ms
    endTimer_.setInterval(lookForEnd);
    connect(&endTimer_, &QTimer::timeout, this, &TakeRecording::awaitEnd);
}

void TakeRecording::setOverdubs(bool over) {
    if (std::exchange(overdubs_, over) != over) emit playing_.runChanged();
}

void TakeRecording::begin() {
    if (recording_ || ending_) return;
    if (document_.isReadOnly()) {
        emit document_.editRefused();
        return;
    }
    log_ = store_.newLogPath();
    if (const Outcome begun = live_.recorder().begin(log_); !begun) {
        emit choice_.told(toQt(begun.problem().sentence()) + QLatin1Char('.'));
        return;
    }
    recording_ = true;
    showsLive_ = true;
    liveEvents_ = 0;
    lookedLive_.invalidate();
    recordedAt_ = nowInMilliseconds();
    if (overdubs_ && choice_.kept() != nullptr && !choice_.stored()->ports.empty()) {
        const KeptTake& shown = choice_.shown();
        playing_.beginOver({shown.id, nameToShow(nameOf(shown)), choice_.stored(), choice_.span()});
    } else if (playing_.isPlaying()) {
        playing_.stop();
    }
    emit playing_.runChanged();
}

/// What came until now may still be on its way through the tap, for which nobody waits.
void TakeRecording::end() {
    if (!recording_ || ending_) return;
    ending_ = true;
    live_.recorder().askEnd();
    const io::TakeRun run = playing_.run();
    finishing_ = TakeLogs::Recorded{{}, playing_.over(), run.overdubFrom, run.overdubTo, recordedAt_, log_};
    if (playing_.isPlaying() && playing_.over()) playing_.halt();
    awaitEnd();
    if (ending_) endTimer_.start();
}

void TakeRecording::endNow() {
    end();
    while (ending_) awaitEnd();
}

void TakeRecording::awaitEnd() {
    constexpr std::chrono::milliseconds aPicture(30);
    auto recording = live_.recorder().ended(aPicture);
    if (!recording || !ending_) return;
    endTimer_.stop();
    ending_ = false;
    recording_ = false;
    playing_.endOver();
    showsLive_ = false;
    choice_.dropLive();
    finish(*recording);
    emit playing_.runChanged();
}

void TakeRecording::finish(const Recording& recording) {
    if (recording.lost > 0) {
        emit choice_.told(tr("%n message(s) came faster than they could be recorded, and are missing.",
                             nullptr, static_cast<int>(recording.lost)));
    }
    TakeLogs::Recorded made = std::move(*std::exchange(finishing_, std::nullopt));
    if (recording.empty()) {
        emit choice_.hinted(tr("Nothing was played, so there is no new take."));
        return logs_.letGo(made.log);
    }
    made.recording = recording;
    logs_.keep(std::move(made));
}

/// At the pace of pictures.
void TakeRecording::look() {
    if (recording_) {
        lookAtLive();
        if (!playing_.isPlaying()) emit playing_.moved();
    }
    if (const auto problem = live_.recorder().takeProblem())
        emit choice_.told(toQt(problem->sentence()) + QLatin1Char('.'));
}

/// What is recorded is seen as it comes, a few times a second; of a long recording less often.
void TakeRecording::lookAtLive() {
    // Nobody sees it elsewhere.
    if (!std::holds_alternative<TakePlace>(selection_.address())) return;
    if (!showsLive_ || (lookedLive_.isValid() && lookedLive_.elapsed() < liveEvery_)) return;
    const std::size_t events = live_.recorder().progress().second;
    const auto& over = playing_.over();
    if (events == liveEvents_ && !over && choice_.isLive()) return;
    liveEvents_ = events;
    lookedLive_.start();
    const Recording soFar = live_.recorder().soFar();
    const io::TakeRun run = playing_.run();
    choice_.showLive(std::make_shared<const Take>(
        over ? overdubbed(*over->take, soFar, run.overdubFrom, run.overdubTo) : takeOf(soFar)));
    constexpr qint64 leastEvery = 250;  // ms
    constexpr qint64 share = 10;        // of the time, this much is rest
    liveEvery_ = std::max(leastEvery, share * lookedLive_.elapsed());
}

/// What was played in the rounds before is heard in the next one.
void TakeRecording::layUnder() {
    const io::TakeRun run = playing_.run();
    playing_.layUnder(std::make_shared<const Take>(
        overdubbed(*playing_.over()->take, live_.recorder().soFar(), run.overdubFrom, run.overdubTo)));
}

std::pair<std::int64_t, std::size_t> TakeRecording::progress() const {
    if (!recording_) return {0, 0};
    const auto [length, events] = live_.recorder().progress();
    return {std::max<std::int64_t>(length, (nowInMilliseconds() - recordedAt_) * 1000), events};
}

bool TakeRecording::keepJustPlayed() {
    Recording recording = live_.recorder().justPlayed();
    if (recording.empty()) {
        emit choice_.hinted(tr("Nothing was played in the last ten minutes."));
        return false;
    }
    const std::vector<std::int64_t> beginnings = beginningsIn(recording);
    const std::size_t chosen = phraseChosen(recording, beginnings);
    if (chosen >= beginnings.size()) return false;
    recording = since(recording, beginnings[chosen]);
    const std::int64_t length = (recording.ends - recording.begins) / 1000;
    return changing_.add(tr("Keep what was just played"), changing_.freeName(tr("Just played")),
                         takeOf(recording), 0, asIso(nowInMilliseconds() - length));
}

/// Which of the beginnings a person wants; as many as there are: none.
std::size_t TakeRecording::phraseChosen(const Recording& recording,
                                        const std::vector<std::int64_t>& beginnings) const {
    if (beginnings.size() < 2 || !askPhrase_) return beginnings.size() - 1;
    QStringList phrases;
    for (std::size_t i = beginnings.size(); i-- > 0;) {
        const std::int64_t seconds = (recording.ends - beginnings[i]) / 1'000'000;
        phrases << tr("%1:%2 of playing, since a pause")
                       .arg(seconds / 60)
                       .arg(seconds % 60, 2, 10, QLatin1Char('0'));
    }
    const int answer = askPhrase_(phrases);
    if (answer < 0 || answer >= phrases.size()) return beginnings.size();
    return beginnings.size() - 1 - static_cast<std::size_t>(answer);
}

}  // namespace mellow::app
