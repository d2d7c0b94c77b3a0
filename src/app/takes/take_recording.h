// Recording the hands. The recorder always listens (io/recording); while a take plays, recording is new hands
// over old ones, and where none plays, it begins a take of its own.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <functional>
#include <optional>

#include "app/takes/take_logs.h"

namespace mellow::app {

class TakeRecording : public QObject {
    Q_OBJECT

 public:
    TakeRecording(Document& document, Selection& selection, Live& live, TakeStore& store, TakeChoice& choice,
                  TakePlaying& playing, TakeChanging& changing, TakeLogs& logs, QObject* parent = nullptr);

    [[nodiscard]] bool isOn() const { return recording_; }
    void begin();
    void end();
    void toggle() { recording_ ? end() : begin(); }
    /// Ends, and waits for what is still on its way: before a document goes.
    void endNow();
    /// Whether it goes over the take in hand, or begins one.
    [[nodiscard]] bool overdubs() const { return overdubs_; }
    void setOverdubs(bool over);
    /// How long the recording is, in microseconds, and how many events it holds.
    [[nodiscard]] std::pair<std::int64_t, std::size_t> progress() const;

    /// Makes a take of what hands did lately: of the last ten minutes what they did since the last pause, or,
    /// where there were several, since the one that a person chooses. False when they did nothing, or nothing
    /// was chosen.
    bool keepJustPlayed();
    /// ask: given what could be kept, the latest first, says which; −1: nothing.
    void onSeveralPhrases(std::function<int(const QStringList& phrases)> ask) { askPhrase_ = std::move(ask); }

 private:
    void look();
    void lookAtLive();
    void layUnder();
    void awaitEnd();
    void finish(const Recording& recording);
    [[nodiscard]] std::size_t phraseChosen(const Recording& recording,
                                           const std::vector<std::int64_t>& beginnings) const;

    Document& document_;
    Selection& selection_;
    Live& live_;
    TakeStore& store_;
    TakeChoice& choice_;
    TakePlaying& playing_;
    TakeChanging& changing_;
    TakeLogs& logs_;
    bool recording_ = false;
    bool overdubs_ = false;
    std::int64_t recordedAt_ = 0;  ///< ms since 1970
    std::filesystem::path log_;
    // What is shown of it as it comes.
    bool showsLive_ = false;  ///< no other take has been looked at since
    std::size_t liveEvents_ = 0;
    qint64 liveEvery_ = 0;  ///< ms
    QElapsedTimer lookedLive_;
    // Its end.
    bool ending_ = false;
    QTimer endTimer_;
    std::optional<TakeLogs::Recorded> finishing_;
    std::function<int(const QStringList&)> askPhrase_;
};

}  // namespace mellow::app
