#include "app/takes/take_logs.h"

#include <QDateTime>
#include <algorithm>
#include <functional>
#include <utility>

#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/files/own.h"

namespace mellow::app {

QString asIso(std::int64_t milliseconds) {
    return QDateTime::fromMSecsSinceEpoch(milliseconds, Qt::UTC).toString(Qt::ISODate);
}

TakeLogs::TakeLogs(Document& document, TakeChoice& choice, TakeChanging& changing, TakeStore& store,
                   QObject* parent)
    : QObject(parent), document_(document), choice_(choice), changing_(changing), store_(store) {
    constexpr int tryAgainEvery = 3000;  // ms
    again_.setInterval(tryAgainEvery);
    connect(&again_, &QTimer::timeout, this, &TakeLogs::tryAgain);
}

void TakeLogs::keep(Recorded recorded) {
    unwritten_.push_back(std::move(recorded));
    tryAgain();
}

void TakeLogs::letGo(const std::filesystem::path& log) {
    done_.emplace_back(std::string(), log);
}

void TakeLogs::leave() {
    unwritten_.clear();
    done_.clear();
    again_.stop();
}

/// What was recorded is on the disk before its log goes. Where its take cannot be written it stays, and is
/// tried again until it can.
void TakeLogs::tryAgain() {
    // What comes meanwhile is written behind what is being written.
    if (std::exchange(writing_, true)) return;
    QString trouble;
    while (!unwritten_.empty()) {
        const Recorded next = unwritten_.front();
        if (!write(next, trouble)) break;
        if (!unwritten_.empty()) unwritten_.erase(unwritten_.begin());
    }
    writing_ = false;
    if (unwritten_.empty()) {
        again_.stop();
        return;
    }
    if (!again_.isActive())
        emit choice_.told(
            tr("What was recorded stays here until it can be written, which is tried again and again: %1.")
                .arg(trouble));
    again_.start();
}

bool TakeLogs::write(const Recorded& next, QString& trouble) {
    const QString recordedAt = asIso(next.recordedAt);
    const bool over = next.over && findById(document_.ensemble().takes, next.over->id) != nullptr;
    const bool done =
        over ? changing_.changeUntold(
                   next.over->id, tr("Record over %1").arg(next.over->name),
                   overdubbed(*next.over->take, next.recording, next.overFrom, next.overTo), trouble)
             : changing_.addUntold(tr("Record a take"), changing_.freeName(tr("Take")),
                                   takeOf(next.recording), recordedAt, trouble);
    if (!done) return false;
    // While it was written the document may have become another, which has no such take: then the log stays.
    const auto& takes = document_.ensemble().takes;
    const KeptTake* made = over ? findById(takes, next.over->id) : takes.empty() ? nullptr : &takes.back();
    const bool isIt = made != nullptr && (over || made->recorded == recordedAt.toStdString());
    if (isIt) done_.emplace_back(made->file, next.log);
    return true;
}

void TakeLogs::bringBack() {
    if (document_.isReadOnly()) return;
    for (const std::filesystem::path& log : store_.logsLeftBehind()) {
        if (!readBack(log)) return;
    }
    if (!document_.isModified()) forget(document_.ensemble());
}

/// What cannot be read at all stays where it is, for a version of the program that can. False: its take could
/// not be written, and neither can the next.
bool TakeLogs::readBack(const std::filesystem::path& log) {
    const auto text = doneAside({tr("Reading a recording")}, [&log] { return files::readOwn(log); });
    if (!text || !*text) return true;
    const auto recording = recording_log::read(**text);
    if (!recording) {
        emit choice_.told(tr("A recording that was left behind cannot be read, and stays where it is: %1.")
                              .arg(toQt(log.string() + ", " + recording.problem().what)));
        return true;
    }
    if (recording->empty()) {
        files::removeOwn(log, recording_log::head());
        return true;
    }
    Take take = takeOf(*recording);
    const auto bytes = printTake(take);
    const std::string sum = bytes ? sha256Of(*bytes) : std::string();
    const auto& takes = document_.ensemble().takes;
    const auto isIt = [&sum](const KeptTake& each) { return each.sha256 == sum; };
    // Unsaved work that came back may hold it already.
    if (const auto found = std::find_if(takes.begin(), takes.end(), isIt); found != takes.end()) {
        done_.emplace_back(found->file, log);
        return true;
    }
    if (!changing_.add(tr("Bring back what was recorded"), changing_.freeName(tr("Brought back")),
                       std::move(take)))
        return false;
    if (recording->unread == 0) done_.emplace_back(document_.ensemble().takes.back().file, log);
    const QString back = tr("What was being recorded when the program ended is back as the take %1.")
                             .arg(nameToShow(nameOf(*choice_.kept())));
    emit choice_.told(recording->unread == 0 ? back
                                             : back + QLatin1Char(' ') +
                                                   tr("%n line(s) of it could not be read; its log stays.",
                                                      nullptr, static_cast<int>(recording->unread)));
    if (recording->unread > 0) {
        // Read once; it is not to come back each time.
        std::error_code error;
        std::filesystem::rename(log, log.string() + ".read", error);
    }
    return true;
}

namespace {

void removeLogs(const std::vector<std::pair<std::string, std::filesystem::path>>& done) {
    if (done.empty()) return;
    aside::wait({TakeLogs::tr("Waiting for the disk")}, [&done] {
        for (const auto& [file, log] : done) files::removeOwn(log, recording_log::head());
    });
}

}  // namespace

void TakeLogs::drop() {
    removeLogs(std::exchange(done_, {}));
}

void TakeLogs::forget(const Ensemble& onDisk) {
    const auto isThere = [&onDisk](const auto& done) {
        return done.first.empty() ||
               std::any_of(onDisk.takes.begin(), onDisk.takes.end(),
                           [&done](const KeptTake& take) { return take.file == done.first; });
    };
    const auto there = std::stable_partition(done_.begin(), done_.end(), std::not_fn(isThere));
    const std::vector gone(there, done_.end());
    done_.erase(there, done_.end());
    removeLogs(gone);
}

}  // namespace mellow::app
