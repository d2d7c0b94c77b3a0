// The take in hand: which one it is, what of it is chosen, where it stands, and how it is played and
// recorded.
//
// The page shows this and its commands change it; nothing here is a widget. A take is shown as it is in its
// file, its lanes sorted once. Every change of it is a new file and one step of the document's undo.
//
// Recording goes on with the recorder, which always listens (io/recording). While a take plays, recording is
// new hands over old ones; where none plays, it begins a take of its own.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <functional>
#include <memory>
#include <optional>
#include <set>

#include "app/document.h"
#include "app/live.h"
#include "app/selection.h"
#include "app/takes/take_store.h"
#include "core/takes/lanes.h"
#include "core/takes/tidy.h"

namespace mellow::app {

/// From a time on and before another, microseconds of the take; empty where they are one.
struct TimeSpan {
    std::int64_t from = 0;
    std::int64_t to = 0;
    [[nodiscard]] bool empty() const { return to <= from; }
    bool operator==(const TimeSpan&) const = default;
};

class TakeWork : public QObject {
    Q_OBJECT

 public:
    TakeWork(Document& document, Selection& selection, Live& live, TakeStore& store,
             QObject* parent = nullptr);
    ~TakeWork() override;

    /// The take that is shown: the one that is selected, or the newest; nullptr: there is none.
    [[nodiscard]] const KeptTake* kept() const;
    /// Its place among the document's takes.
    [[nodiscard]] std::size_t place() const;
    /// What was played; an empty take where there is none, or its file cannot be read.
    /// It is read when somebody asks, since a document is opened for its chains far more often.
    /// While something is recorded, and that take is the one in hand, what has come of it so far.
    [[nodiscard]] const std::shared_ptr<const Take>& take() const;
    [[nodiscard]] const std::shared_ptr<const TakeLanes>& lanes() const;
    /// What is in the take's file, whatever is being recorded.
    [[nodiscard]] const std::shared_ptr<const Take>& stored() const {
        read();
        return take_;
    }
    /// What is shown is a recording that has not ended.
    [[nodiscard]] bool isLive() const { return liveTake_ != nullptr; }
    /// Why there is nothing to be seen of it, or what speaks against it; empty: nothing.
    [[nodiscard]] const QString& problem() const {
        read();
        return problem_;
    }
    /// Takes another take in hand, on whatever page one is.
    void choose(const std::string& id);
    /// The same, on the page that shows takes.
    void show(const std::string& id);
    void showNext(int by);

    // What is chosen.

    [[nodiscard]] const TimeSpan& span() const { return span_; }
    void setSpan(const TimeSpan& span);
    /// Lanes of the hands; empty: none.
    [[nodiscard]] const std::set<Subject>& chosenLanes() const { return chosenLanes_; }
    void chooseLanes(std::set<Subject> lanes);
    [[nodiscard]] const NoteChoice& chosenNotes() const { return chosenNotes_; }
    void chooseNotes(NoteChoice notes);

    // Playing.

    [[nodiscard]] bool isPlaying() const { return playing_ && live_.takePosition() >= 0; }
    /// Where the take stands: where it plays, or would begin to.
    [[nodiscard]] std::int64_t position() const;
    void play();
    void stop();
    void togglePlay() { isPlaying() ? stop() : play(); }
    void locate(std::int64_t time);
    [[nodiscard]] bool loops() const { return loops_; }
    void setLoops(bool loops);

    /// Whose start, stop and place the take follows: nobody's but the page's, the JACK transport's (which the
    /// page then leads), or a MIDI clock's (start, continue, stop and song position).
    enum class Leader { page, transport, clock };
    void setLeader(Leader leader);
    [[nodiscard]] Leader leader() const { return leader_; }

    /// The next key or pedal that is pressed will begin and end recordings; false: none will.
    void learnTrigger(bool learn);
    [[nodiscard]] bool learnsTrigger() const { return learnsTrigger_; }
    /// What begins and ends recordings, in words; empty: nothing does.
    [[nodiscard]] QString triggerText() const;

    // Recording.

    [[nodiscard]] bool isRecording() const { return recording_; }
    /// Begins to record, or ends it: a take of its own where nothing plays or `fresh` says so, and otherwise
    /// over the take that plays.
    void toggleRecord();
    void record();
    void endRecording();
    /// The same, and waits for what is still on its way: before a document goes.
    void endNow();
    /// Whether record goes over the take in hand, or begins one.
    [[nodiscard]] bool overdubs() const { return overdubs_; }
    void setOverdubs(bool over);
    /// Whether it goes over the selected span alone.
    [[nodiscard]] bool punches() const { return punches_; }
    void setPunches(bool punches);
    /// How long the recording is, in microseconds, and how many events it holds.
    [[nodiscard]] std::pair<std::int64_t, std::size_t> recordingProgress() const;
    /// Makes a take of what hands did lately: of the last ten minutes what they did since the last pause, or,
    /// where there were several, since the one that a person chooses. False when they did nothing, or nothing
    /// was chosen.
    bool keepJustPlayed();
    /// ask: given what could be kept, the latest first, says which; −1: nothing.
    void onSeveralPhrases(std::function<int(const QStringList& phrases)> ask) { askPhrase_ = std::move(ask); }

    // Changing it.

    /// Makes edits of lanes, as one step.
    void edit(const QString& text, const std::vector<LaneEdit>& edits);
    /// Another state of the take, as one step. False when it cannot be written; that has been told.
    bool change(const QString& text, Take made);
    /// Adds a take to the document and shows it.
    bool add(const QString& text, const QString& name, Take take, std::int64_t startUs = 0,
             const QString& recorded = {});
    void rename(const QString& name);
    void remove();
    void setCues(const QString& text, std::vector<TakeMark> cues);
    /// The choice as stretches of lanes: the chosen lanes in the span, or in all of the take where it is
    /// empty.
    [[nodiscard]] std::vector<LaneStretch> stretches() const;
    [[nodiscard]] const TakeLane* laneOf(const Subject& subject) const;

    /// Recordings that a program which is gone left behind become takes. To be called when a document has
    /// been opened, and all unsaved work on it is back.
    void bringBack();
    /// A state of the document is on the disk: logs of recordings whose takes it names are not needed any
    /// more.
    void forgetLogs(const Ensemble& onDisk);
    /// The same of all recordings that are takes: a person does not want what was not saved. Their files stay
    /// where they are.
    void dropLogs();

 signals:
    /// Another take is shown, or it has changed.
    void takeChanged();
    void choiceChanged();
    /// It stands elsewhere; while it plays at the pace of pictures.
    void moved();
    /// Playing, recording, looping, or how, is other than before.
    void runChanged();
    void told(const QString& sentence);
    /// The same, of what is of use for the moment only.
    void hinted(const QString& sentence);

 private:
    void follow();
    void read() const;
    void look();
    void lookAtLive();
    void dropLive();
    [[nodiscard]] io::TakeRun runFrom(std::int64_t from) const;
    void tellRun();
    void begin(const io::TakeRun& run);
    void followTransport();
    void hear(const io::Happening& happening);
    void hearClock(const io::Happening& happening);
    void hearTrigger(const io::Happening& happening);
    [[nodiscard]] QString freeName(const QString& wanted) const;
    void finish(const Recording& recording);
    void awaitEnd();
    bool addTake(const QString& text, const QString& name, Take take, std::int64_t startUs,
                 const QString& recorded, QString& trouble);
    void tryAgain();
    bool changeOf(const std::string& id, const QString& text, Take made, QString& trouble);
    [[nodiscard]] const std::shared_ptr<const Take>& played() const;
    [[nodiscard]] const TimeSpan& spanInForce() const;
    void layUnder();

    Document& document_;
    Selection& selection_;
    Live& live_;
    TakeStore& store_;
    KeptTake shown_;  ///< as the document names it
    // What is read of it, when somebody asks.
    mutable bool isRead_ = true;
    mutable std::shared_ptr<const Take> take_;
    mutable std::shared_ptr<const TakeLanes> lanes_;
    mutable std::set<PairOfControls> pairs_;
    mutable QString problem_;
    // What is being recorded, as it comes.
    bool showsLive_ = false;  ///< no other take has been looked at since
    std::shared_ptr<const Take> liveTake_;
    std::shared_ptr<const TakeLanes> liveLanes_;
    std::size_t liveEvents_ = 0;
    qint64 liveEvery_ = 0;  ///< ms
    QElapsedTimer lookedLive_;
    TimeSpan span_;
    std::set<Subject> chosenLanes_;
    NoteChoice chosenNotes_;
    std::int64_t cursor_ = 0;
    bool playing_ = false;
    bool recording_ = false;
    bool recordsOver_ = false;
    std::int64_t lastPosition_ = 0;  ///< at the picture before
    bool loops_ = false;
    bool overdubs_ = false;
    bool punches_ = false;
    Leader leader_ = Leader::page;
    std::int64_t songPosition_ = 0;  ///< of the clock, microseconds of the take
    bool learnsTrigger_ = false;
    bool triggerIsDown_ = false;
    QString trigger_;              ///< port and the first two bytes, as text
    std::int64_t recordedAt_ = 0;  ///< ms since 1970
    std::function<int(const QStringList&)> askPhrase_;
    std::filesystem::path log_;
    /// What is recorded over, from the beginning on: another take may be looked at meanwhile.
    struct Over {
        std::string id;
        QString name;
        std::shared_ptr<const Take> take;
        TimeSpan span;  ///< that was chosen of it last
    };
    Over over_;
    bool ending_ = false;
    QTimer endTimer_;
    /// Recordings whose takes could not be written: nothing of them is lost while the window is there.
    struct Unwritten {
        Recording recording;
        Over over;  ///< empty: a take of its own
        std::int64_t overFrom = 0;
        std::int64_t overTo = 0;
        std::int64_t recordedAt = 0;
        std::filesystem::path log;
    };
    std::optional<Unwritten> finishing_;
    std::vector<Unwritten> unwritten_;
    QTimer again_;
    /// Logs by the files of the takes that were made of them.
    std::vector<std::pair<std::string, std::filesystem::path>> doneLogs_;
};

}  // namespace mellow::app
