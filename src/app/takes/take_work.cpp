// The document says which takes there are; when it names another file for the one that is shown, that is
// read, and playing goes on in it where it is.
#include "app/takes/take_work.h"

#include <QDateTime>
#include <QSettings>
#include <algorithm>
#include <utility>

#include "app/aside.h"
#include "app/words.h"
#include "core/files/own.h"
#include "core/model/edit.h"

namespace mellow::app {

namespace {

std::int64_t nowInMilliseconds() {
    return QDateTime::currentMSecsSinceEpoch();
}

QString asIso(std::int64_t milliseconds) {
    return QDateTime::fromMSecsSinceEpoch(milliseconds, Qt::UTC).toString(Qt::ISODate);
}

}  // namespace

TakeWork::TakeWork(Document& document, Selection& selection, Live& live, TakeStore& store, QObject* parent)
    : QObject(parent),
      document_(document),
      selection_(selection),
      live_(live),
      store_(store),
      take_(std::make_shared<const Take>()),
      lanes_(std::make_shared<const TakeLanes>()) {
    connect(&document_, &Document::changed, this, &TakeWork::follow);
    connect(&selection_, &Selection::changed, this, &TakeWork::follow);
    connect(&document_, &Document::replaced, this, [this] {
        stop();
        endNow();
        // Their logs are where they were, for when that document is opened again.
        unwritten_.clear();
        doneLogs_.clear();
        again_.stop();
        cursor_ = 0;
        span_ = {};
    });
    connect(&store_, &TakeStore::loadedLate, this, &TakeWork::takeChanged);
    connect(&live_, &Live::moved, this, &TakeWork::look);
    connect(&live_, &Live::takeEnded, this, &TakeWork::look);
    connect(&live_, &Live::transportMoved, this, &TakeWork::followTransport);
    connect(&live_, &Live::happened, this, &TakeWork::hear);
    trigger_ = QSettings().value(QStringLiteral("takes/trigger")).toString();
    constexpr int lookForEnd = 20;       // ms
    constexpr int tryAgainEvery = 3000;  // ms
    endTimer_.setInterval(lookForEnd);
    again_.setInterval(tryAgainEvery);
    connect(&endTimer_, &QTimer::timeout, this, &TakeWork::awaitEnd);
    connect(&again_, &QTimer::timeout, this, &TakeWork::tryAgain);
}

TakeWork::~TakeWork() = default;

const KeptTake* TakeWork::kept() const {
    const auto& takes = document_.ensemble().takes;
    if (takes.empty()) return nullptr;
    const KeptTake* chosen = findById(takes, selection_.on<TakePlace>().take);
    return chosen != nullptr ? chosen : &takes.back();
}

const std::shared_ptr<const Take>& TakeWork::take() const {
    return liveTake_ != nullptr ? liveTake_ : stored();
}

const std::shared_ptr<const TakeLanes>& TakeWork::lanes() const {
    if (liveTake_ != nullptr) return liveLanes_;
    read();
    return lanes_;
}

std::size_t TakeWork::place() const {
    const KeptTake* shown = kept();
    return shown == nullptr ? 0 : placeOf(document_.ensemble().takes, shown->id);
}

void TakeWork::choose(const std::string& id) {
    selection_.amend(TakePlace{id});
    follow();
}

void TakeWork::show(const std::string& id) {
    selection_.go(TakePlace{id});
}

void TakeWork::showNext(int by) {
    const auto& takes = document_.ensemble().takes;
    if (takes.empty()) return;
    const int next = std::clamp(static_cast<int>(place()) + by, 0, static_cast<int>(takes.size()) - 1);
    show(takes[static_cast<std::size_t>(next)].id);
}

void TakeWork::follow() {
    const KeptTake* shown = kept();
    const KeptTake now = shown == nullptr ? KeptTake{} : *shown;
    const bool another = now.id != shown_.id;
    const bool sameFile = !another && now.file == shown_.file && now.ports == shown_.ports;
    const bool samePairs = !isRead_ || shown == nullptr || pairsIn(document_.ensemble()) == pairs_;
    const bool same = now == shown_;
    shown_ = now;
    if (sameFile && samePairs) {
        if (!same) emit takeChanged();
        return;
    }
    isRead_ = false;
    if (another) dropLive();
    const bool isOther = recordsOver_ && shown_.id != over_.id;
    if (another && isPlaying() && !recording_) stop();
    if (another) {
        cursor_ = 0;
        span_ = {};
        chosenLanes_.clear();
    }
    chosenNotes_.clear();
    if (!another && !isOther && isPlaying()) live_.changeTake(stored(), runFrom(position()));
    emit takeChanged();
    emit choiceChanged();
}

void TakeWork::read() const {
    if (isRead_) return;
    isRead_ = true;
    take_ = std::make_shared<const Take>();
    problem_.clear();
    pairs_ = pairsIn(document_.ensemble());
    if (!shown_.id.empty()) {
        auto loaded = store_.load(shown_);
        if (loaded) {
            take_ = *loaded;
            problem_ = store_.doubtsAbout(shown_);
        } else {
            problem_ = toQt(loaded.problem().sentence());
        }
    }
    lanes_ = std::make_shared<const TakeLanes>(lanesOf(*take_, pairs_));
}

/// The take that plays: what is recorded over plays on whatever is looked at.
const std::shared_ptr<const Take>& TakeWork::played() const {
    return recordsOver_ && over_.take != nullptr && shown_.id != over_.id ? over_.take : stored();
}

const TimeSpan& TakeWork::spanInForce() const {
    return recordsOver_ && shown_.id != over_.id ? over_.span : span_;
}

void TakeWork::setSpan(const TimeSpan& span) {
    if (std::exchange(span_, span) == span) return;
    if (recordsOver_ && shown_.id == over_.id) over_.span = span;
    if (isPlaying() && (loops_ || recordsOver_)) live_.changeTake(played(), runFrom(position()));
    emit choiceChanged();
}

void TakeWork::chooseLanes(std::set<Subject> lanes) {
    if (chosenLanes_ == lanes) return;
    chosenLanes_ = std::move(lanes);
    emit choiceChanged();
}

void TakeWork::chooseNotes(NoteChoice notes) {
    if (chosenNotes_ == notes) return;
    chosenNotes_ = std::move(notes);
    emit choiceChanged();
}

std::int64_t TakeWork::position() const {
    if (recording_ && !recordsOver_ && liveTake_ != nullptr) return live_.recorder().progress().first;
    return isPlaying() ? live_.takePosition() : cursor_;
}

/// Loops and punches are over the selected span, or all of the take where nothing is selected.
io::TakeRun TakeWork::runFrom(std::int64_t from) const {
    io::TakeRun run;
    run.from = from;
    const TimeSpan all{0, played()->length};
    const TimeSpan& chosen = spanInForce();
    if (loops_) {
        const TimeSpan& span = chosen.empty() ? all : chosen;
        run.loopFrom = span.from;
        run.loopTo = span.to;
        if (run.from >= run.loopTo) run.from = run.loopFrom;
    }
    if (recordsOver_) {
        const TimeSpan& span = punches_ && !chosen.empty() ? chosen : all;
        run.overdubFrom = span.from;
        run.overdubTo = run.loops() ? std::min(span.to, run.loopTo) : span.to;
    }
    return run;
}

void TakeWork::play() {
    if (stored()->events.empty() && stored()->length == 0) return;
    if (cursor_ >= stored()->length) cursor_ = 0;
    if (leader_ == Leader::transport &&
        live_.leadTransport(io::Jack::Lead::locate, shown_.startUs + cursor_)) {
        live_.leadTransport(io::Jack::Lead::start);
        return;
    }
    begin(runFrom(cursor_));
}

void TakeWork::begin(const io::TakeRun& run) {
    playing_ = true;
    live_.startTake(stored(), run);
    emit runChanged();
}

void TakeWork::stop() {
    if (!playing_) return;
    if (recording_ && recordsOver_) return endRecording();
    if (leader_ == Leader::transport) live_.leadTransport(io::Jack::Lead::stop);
    cursor_ = position();
    playing_ = false;
    live_.stopTake();
    emit runChanged();
    emit moved();
}

void TakeWork::locate(std::int64_t time) {
    cursor_ = std::clamp<std::int64_t>(time, 0, stored()->length);
    const bool led =
        leader_ == Leader::transport && live_.leadTransport(io::Jack::Lead::locate, shown_.startUs + cursor_);
    if (isPlaying() && !led) live_.startTake(stored(), runFrom(cursor_));
    emit moved();
}

void TakeWork::setLeader(Leader leader) {
    if (std::exchange(leader_, leader) == leader) return;
    stop();
    followTransport();
    emit runChanged();
}

/// What passed while this was noticed is played at once, and all else at its very frame.
void TakeWork::followTransport() {
    if (leader_ != Leader::transport) return;
    const io::Player::Transport now = live_.transport();
    if (now.position < 0) return;
    const std::int64_t at = now.position - shown_.startUs;
    if (!now.rolling) {
        if (playing_) {
            playing_ = false;
            live_.stopTake();
            emit runChanged();
        }
        cursor_ = std::clamp<std::int64_t>(at, 0, stored()->length);
        emit moved();
        return;
    }
    if (at > stored()->length || kept() == nullptr) return;
    io::TakeRun run = runFrom(std::max<std::int64_t>(at, 0));
    run.loopFrom = run.loopTo = 0;
    run.at = now.origin + shown_.startUs + run.from;
    begin(run);
}

void TakeWork::hear(const io::Happening& happening) {
    if (happening.out || happening.played || happening.message.size == 0) return;
    hearTrigger(happening);
    if (leader_ == Leader::clock) hearClock(happening);
}

/// Start, continue, stop and song position (MIDI 1.0, "System real time" and "Song position pointer").
void TakeWork::hearClock(const io::Happening& happening) {
    const auto& data = happening.message.data;
    constexpr std::uint8_t songPosition = 0xF2;
    constexpr std::uint8_t clockStop = 0xFC;
    constexpr double sixteenthsAQuarter = 4;
    io::TakeRun run;
    switch (data[0]) {
        case songPosition:
            songPosition_ = timeOfQuarters(*stored(), (data[1] + 128 * data[2]) / sixteenthsAQuarter);
            cursor_ = std::clamp<std::int64_t>(songPosition_, 0, stored()->length);
            emit moved();
            return;
        case midi::clockStart:
            songPosition_ = 0;
            [[fallthrough]];
        case midi::clockContinue:
            if (kept() == nullptr) return;
            run = runFrom(std::min(songPosition_, stored()->length));
            run.at = happening.time;
            return begin(run);
        case clockStop:
            if (!playing_) return;
            songPosition_ = position();
            return stop();
        default:
            return;
    }
}

void TakeWork::learnTrigger(bool learn) {
    learnsTrigger_ = learn;
    if (!learn) {
        trigger_.clear();
        QSettings().remove(QStringLiteral("takes/trigger"));
    }
    emit runChanged();
}

/// A key that is struck, or a control that comes above its middle.
void TakeWork::hearTrigger(const io::Happening& happening) {
    constexpr int middle = 64;
    if (!learnsTrigger_ && trigger_.isEmpty()) return;
    const midi::Bytes body = happening.message.bytes();
    const bool isKey = midi::isNoteOn(body);
    const bool isControl = midi::kindOf(body) == midi::controlChange;
    if (!isKey && !isControl) return;
    const QString what =
        QStringLiteral("%1 %2 %3").arg(body[0]).arg(body[1]).arg(toQt(live_.portName(happening.port)));
    const bool down = isKey || body[2] >= middle;
    if (learnsTrigger_ && down) {
        learnsTrigger_ = false;
        trigger_ = what;
        triggerIsDown_ = isControl;
        QSettings().setValue(QStringLiteral("takes/trigger"), trigger_);
        emit runChanged();
        return;
    }
    if (trigger_.isEmpty() || what != trigger_) return;
    const bool was = std::exchange(triggerIsDown_, isControl && down);
    if (down && !was) QMetaObject::invokeMethod(this, &TakeWork::toggleRecord, Qt::QueuedConnection);
}

QString TakeWork::triggerText() const {
    const QStringList words = trigger_.split(QLatin1Char(' '));
    if (words.size() < 3) return {};
    const bool isKey = (words[0].toInt() & 0xF0) == midi::noteOn;
    const QString port = trigger_.section(QLatin1Char(' '), 2);
    return (isKey ? tr("key %1 on %2") : tr("CC %1 on %2")).arg(words[1], port);
}

void TakeWork::setLoops(bool loops) {
    if (std::exchange(loops_, loops) == loops) return;
    tellRun();
}

void TakeWork::tellRun() {
    if (isPlaying()) live_.changeTake(played(), runFrom(position()));
    emit runChanged();
}

void TakeWork::setOverdubs(bool over) {
    if (std::exchange(overdubs_, over) != over) emit runChanged();
}

void TakeWork::setPunches(bool punches) {
    if (std::exchange(punches_, punches) == punches) return;
    tellRun();
}

/// What is recorded is seen as it comes, a few times a second; of a long recording less often.
void TakeWork::lookAtLive() {
    // Nobody sees it elsewhere.
    if (!std::holds_alternative<TakePlace>(selection_.address())) return;
    if (!showsLive_ || !recording_ || (lookedLive_.isValid() && lookedLive_.elapsed() < liveEvery_)) return;
    const std::size_t events = live_.recorder().progress().second;
    if (events == liveEvents_ && !recordsOver_ && liveTake_ != nullptr) return;
    liveEvents_ = events;
    lookedLive_.start();
    const Recording soFar = live_.recorder().soFar();
    const io::TakeRun run = runFrom(0);
    liveTake_ = std::make_shared<const Take>(
        recordsOver_ ? overdubbed(*over_.take, soFar, run.overdubFrom, run.overdubTo) : takeOf(soFar));
    liveLanes_ = std::make_shared<const TakeLanes>(lanesOf(*liveTake_, pairsIn(document_.ensemble())));
    constexpr qint64 leastEvery = 250;  // ms
    constexpr qint64 share = 10;        // of the time, this much is rest
    liveEvery_ = std::max(leastEvery, share * lookedLive_.elapsed());
    emit takeChanged();
}

void TakeWork::dropLive() {
    showsLive_ = false;
    liveTake_.reset();
    liveLanes_.reset();
}

/// At the pace of pictures.
void TakeWork::look() {
    if (playing_ && live_.takePosition() < 0) {
        playing_ = false;
        cursor_ = played()->length;
        if (recording_ && recordsOver_) endRecording();
        emit runChanged();
    }
    const std::int64_t now = position();
    if (recording_ && recordsOver_ && isPlaying() && now < lastPosition_) layUnder();
    lastPosition_ = now;
    lookAtLive();
    if (playing_ || recording_) emit moved();
    if (const auto problem = live_.recorder().takeProblem())
        emit told(toQt(problem->sentence()) + QLatin1Char('.'));
}

void TakeWork::toggleRecord() {
    recording_ ? endRecording() : record();
}

void TakeWork::record() {
    if (recording_ || ending_) return;
    if (document_.isReadOnly()) {
        emit document_.editRefused();
        return;
    }
    recordsOver_ = overdubs_ && kept() != nullptr && !stored()->ports.empty();
    over_ = recordsOver_ ? Over{shown_.id, nameToShow(nameOf(shown_)), stored(), span_} : Over{};
    log_ = store_.newLogPath();
    if (const Outcome begun = live_.recorder().begin(log_); !begun) {
        emit told(toQt(begun.problem().sentence()) + QLatin1Char('.'));
        recordsOver_ = false;
        over_ = {};
        return;
    }
    recording_ = true;
    showsLive_ = true;
    liveEvents_ = 0;
    lookedLive_.invalidate();
    recordedAt_ = nowInMilliseconds();
    if (recordsOver_) {
        isPlaying() ? tellRun() : play();
    } else if (isPlaying()) {
        stop();
    }
    emit runChanged();
}

/// What came until now may still be on its way through the tap, for which nobody waits.
void TakeWork::endRecording() {
    if (!recording_ || ending_) return;
    ending_ = true;
    live_.recorder().askEnd();
    const io::TakeRun run = runFrom(0);
    finishing_ = Unwritten{{}, over_, run.overdubFrom, run.overdubTo, recordedAt_, log_};
    if (isPlaying() && recordsOver_) {
        cursor_ = position();
        playing_ = false;
        live_.stopTake();
    }
    awaitEnd();
    if (ending_) endTimer_.start();
}

void TakeWork::endNow() {
    endRecording();
    while (ending_) awaitEnd();
}

void TakeWork::awaitEnd() {
    constexpr std::chrono::milliseconds aPicture(30);
    auto recording = live_.recorder().ended(aPicture);
    if (!recording || !ending_) return;
    endTimer_.stop();
    ending_ = false;
    recording_ = false;
    recordsOver_ = false;
    over_ = {};
    dropLive();
    finish(*recording);
    emit runChanged();
}

/// What was recorded is on the disk before its log goes. Where its take cannot be written it stays, and is
/// tried again until it can.
void TakeWork::finish(const Recording& recording) {
    if (recording.lost > 0) {
        emit told(tr("%n message(s) came faster than they could be recorded, and are missing.", nullptr,
                     static_cast<int>(recording.lost)));
    }
    Unwritten made = std::move(*std::exchange(finishing_, std::nullopt));
    if (recording.empty()) {
        emit hinted(tr("Nothing was played, so there is no new take."));
        doneLogs_.emplace_back(std::string(), made.log);
        return;
    }
    made.recording = recording;
    unwritten_.push_back(std::move(made));
    tryAgain();
}

void TakeWork::tryAgain() {
    QString trouble;
    while (!unwritten_.empty()) {
        const Unwritten next = unwritten_.front();
        const bool over =
            !next.over.id.empty() && findById(document_.ensemble().takes, next.over.id) != nullptr;
        bool done = false;
        if (over) {
            done = changeOf(next.over.id, tr("Record over %1").arg(next.over.name),
                            overdubbed(*next.over.take, next.recording, next.overFrom, next.overTo), trouble);
        } else {
            done = addTake(tr("Record a take"), freeName(tr("Take")), takeOf(next.recording), 0,
                           asIso(next.recordedAt), trouble);
        }
        if (!done) break;
        const auto& takes = document_.ensemble().takes;
        const KeptTake* made = over ? findById(takes, next.over.id) : &takes.back();
        doneLogs_.emplace_back(made->file, next.log);
        unwritten_.erase(unwritten_.begin());
    }
    if (unwritten_.empty()) {
        again_.stop();
        return;
    }
    if (!again_.isActive())
        emit told(
            tr("What was recorded stays here until it can be written, which is tried again and again: %1.")
                .arg(trouble));
    again_.start();
}

/// What was played in the rounds before is heard in the next one.
void TakeWork::layUnder() {
    const io::TakeRun run = runFrom(0);
    auto made = std::make_shared<const Take>(
        overdubbed(*over_.take, live_.recorder().soFar(), run.overdubFrom, run.overdubTo));
    live_.changeTake(std::move(made), runFrom(position()));
}

std::pair<std::int64_t, std::size_t> TakeWork::recordingProgress() const {
    if (!recording_) return {0, 0};
    const auto [length, events] = live_.recorder().progress();
    return {std::max<std::int64_t>(length, (nowInMilliseconds() - recordedAt_) * 1000), events};
}

bool TakeWork::keepJustPlayed() {
    Recording recording = live_.recorder().justPlayed();
    if (recording.empty()) {
        emit hinted(tr("Nothing was played in the last ten minutes."));
        return false;
    }
    const std::vector<std::int64_t> beginnings = beginningsIn(recording);
    std::size_t chosen = beginnings.size() - 1;
    if (beginnings.size() > 1 && askPhrase_) {
        QStringList phrases;
        for (std::size_t i = beginnings.size(); i-- > 0;) {
            const std::int64_t seconds = (recording.ends - beginnings[i]) / 1'000'000;
            phrases << tr("%1:%2 of playing, since a pause")
                           .arg(seconds / 60)
                           .arg(seconds % 60, 2, 10, QLatin1Char('0'));
        }
        const int answer = askPhrase_(phrases);
        if (answer < 0 || answer >= phrases.size()) return false;
        chosen = beginnings.size() - 1 - static_cast<std::size_t>(answer);
    }
    recording = since(recording, beginnings[chosen]);
    const std::int64_t length = (recording.ends - recording.begins) / 1000;
    return add(tr("Keep what was just played"), freeName(tr("Just played")), takeOf(recording), 0,
               asIso(nowInMilliseconds() - length));
}

void TakeWork::edit(const QString& text, const std::vector<LaneEdit>& edits) {
    if (!edits.empty()) change(text, withEdits(*take(), edits));
}

bool TakeWork::change(const QString& text, Take made) {
    const KeptTake* before = kept();
    if (before == nullptr) return false;
    if (liveTake_ != nullptr) {
        emit hinted(tr("End the recording first; then it can be changed."));
        return false;
    }
    QString trouble;
    const bool done = changeOf(before->id, text, std::move(made), trouble);
    if (!done && !trouble.isEmpty()) emit told(trouble + QLatin1Char('.'));
    return done;
}

/// trouble: why not.
bool TakeWork::changeOf(const std::string& id, const QString& text, Take made, QString& trouble) {
    const KeptTake* before = findById(document_.ensemble().takes, id);
    if (before == nullptr) return false;
    if (document_.isReadOnly()) {
        trouble = tr("another window has this ensemble");
        emit document_.editRefused();
        return false;
    }
    auto stored = store_.keep(*before, std::move(made));
    if (!stored) {
        trouble = toQt(stored.problem().where + " " + stored.problem().what);
        return false;
    }
    document_.edit(text, [&](Ensemble& e) {
        if (KeptTake* take = findById(e.takes, id)) *take = *stored;
    });
    return true;
}

QString TakeWork::freeName(const QString& wanted) const {
    const auto& takes = document_.ensemble().takes;
    for (int number = 1;; ++number) {
        QString name = QStringLiteral("%1 %2").arg(wanted).arg(number);
        const bool taken = std::any_of(takes.begin(), takes.end(),
                                       [&](const KeptTake& each) { return toQt(nameOf(each)) == name; });
        if (!taken) return name;
    }
}

bool TakeWork::add(const QString& text, const QString& name, Take take, std::int64_t startUs,
                   const QString& recorded) {
    QString trouble;
    const bool done = addTake(text, name, std::move(take), startUs, recorded, trouble);
    if (!done && !trouble.isEmpty()) emit told(trouble + QLatin1Char('.'));
    return done;
}

bool TakeWork::addTake(const QString& text, const QString& name, Take take, std::int64_t startUs,
                       const QString& recorded, QString& trouble) {
    if (document_.isReadOnly()) {
        trouble = tr("another window has this ensemble");
        emit document_.editRefused();
        return false;
    }
    KeptTake kept;
    kept.id = newId(document_.ensemble().takes, name.toStdString());
    kept.name = name.toStdString();
    kept.recorded = recorded.toStdString();
    kept.startUs = startUs;
    auto stored = store_.keep(kept, std::move(take));
    if (!stored) {
        trouble = toQt(stored.problem().where + " " + stored.problem().what);
        return false;
    }
    document_.edit(text, [&](Ensemble& e) { e.takes.push_back(*stored); });
    selection_.amend(TakePlace{kept.id});
    follow();
    return true;
}

void TakeWork::rename(const QString& name) {
    const KeptTake* take = kept();
    if (take == nullptr || name.trimmed().isEmpty()) return;
    document_.edit(tr("Rename the take"), [id = take->id, name](Ensemble& e) {
        if (KeptTake* found = findById(e.takes, id)) found->name = name.trimmed().toStdString();
    });
}

void TakeWork::remove() {
    const KeptTake* take = kept();
    if (take == nullptr) return;
    document_.edit(tr("Remove %1").arg(nameToShow(nameOf(*take))), [id = take->id](Ensemble& e) {
        erase_if(e.takes, [&id](const KeptTake& each) { return each.id == id; });
    });
}

void TakeWork::setCues(const QString& text, std::vector<TakeMark> cues) {
    Take made = *stored();
    std::erase_if(made.marks, [](const TakeMark& mark) { return mark.isCue(); });
    made.marks.insert(made.marks.end(), std::make_move_iterator(cues.begin()),
                      std::make_move_iterator(cues.end()));
    std::stable_sort(made.marks.begin(), made.marks.end(),
                     [](const TakeMark& one, const TakeMark& other) { return one.time < other.time; });
    change(text, std::move(made));
}

const TakeLane* TakeWork::laneOf(const Subject& subject) const {
    for (const TakeLane& lane : lanes()->lanes) {
        if (lane.subject == subject) return &lane;
    }
    return nullptr;
}

std::vector<LaneStretch> TakeWork::stretches() const {
    std::vector<LaneStretch> all;
    // Lanes are those of what is shown, which while one records is not what is stored.
    const TimeSpan span = span_.empty() ? TimeSpan{0, take()->length + 1} : span_;
    for (const Subject& subject : chosenLanes_) {
        const TakeLane* lane = laneOf(subject);
        if (lane != nullptr) all.push_back(stretchOf(*take(), *lane, span.from, span.to));
    }
    return all;
}

/// What cannot be read at all stays where it is, for a version of the program that can.
void TakeWork::bringBack() {
    if (recording_ || document_.isReadOnly()) return;
    for (const std::filesystem::path& log : store_.logsLeftBehind()) {
        const auto text = doneAside({tr("Reading a recording")}, [&log] { return files::readOwn(log); });
        if (!text || !*text) continue;
        const auto recording = recording_log::read(**text);
        if (!recording) {
            emit told(tr("A recording that was left behind cannot be read, and stays where it is: %1.")
                          .arg(toQt(log.string() + ", " + recording.problem().what)));
            continue;
        }
        if (recording->empty()) {
            files::removeOwn(log, recording_log::head());
            continue;
        }
        Take take = takeOf(*recording);
        const auto bytes = printTake(take);
        const std::string sum = bytes ? sha256Of(*bytes) : std::string();
        const auto& takes = document_.ensemble().takes;
        const auto isIt = [&sum](const KeptTake& each) { return each.sha256 == sum; };
        // Unsaved work that came back may hold it already.
        if (const auto found = std::find_if(takes.begin(), takes.end(), isIt); found != takes.end()) {
            doneLogs_.emplace_back(found->file, log);
            continue;
        }
        if (!add(tr("Bring back what was recorded"), freeName(tr("Brought back")), std::move(take))) return;
        if (recording->unread == 0) doneLogs_.emplace_back(document_.ensemble().takes.back().file, log);
        emit told(tr("What was being recorded when the program ended is back as the take %1.")
                      .arg(nameToShow(nameOf(*kept()))) +
                  (recording->unread == 0
                       ? QString()
                       : QLatin1Char(' ') + tr("%n line(s) of it could not be read; its log stays.", nullptr,
                                               static_cast<int>(recording->unread))));
        if (recording->unread > 0) {
            // Read once; it is not to come back each time.
            std::error_code error;
            std::filesystem::rename(log, log.string() + ".read", error);
        }
    }
    if (!document_.isModified()) forgetLogs(document_.ensemble());
}

namespace {

void removeLogs(const std::vector<std::pair<std::string, std::filesystem::path>>& done) {
    if (done.empty()) return;
    aside::wait({TakeWork::tr("Waiting for the disk")}, [&done] {
        for (const auto& [file, log] : done) files::removeOwn(log, recording_log::head());
    });
}

}  // namespace

void TakeWork::dropLogs() {
    removeLogs(std::exchange(doneLogs_, {}));
}

void TakeWork::forgetLogs(const Ensemble& onDisk) {
    const auto isThere = [&onDisk](const auto& done) {
        return done.first.empty() ||
               std::any_of(onDisk.takes.begin(), onDisk.takes.end(),
                           [&done](const KeptTake& take) { return take.file == done.first; });
    };
    const auto there = std::stable_partition(doneLogs_.begin(), doneLogs_.end(), std::not_fn(isThere));
    const std::vector gone(there, doneLogs_.end());
    doneLogs_.erase(there, doneLogs_.end());
    removeLogs(gone);
}

}  // namespace mellow::app
