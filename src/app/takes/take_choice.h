// The take in hand: which one it is, and what of it is chosen.
//
// A take is shown as it is in its file, its lanes sorted once. It is read when somebody asks, since a
// document is opened for its chains far more often. While something is recorded, and that take is the one in
// hand, what has come of it so far stands in its place.
#pragma once

#include <QObject>
#include <memory>
#include <set>

#include "app/document/document.h"
#include "app/document/selection.h"
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

class TakeChoice : public QObject {
    Q_OBJECT

 public:
    TakeChoice(Document& document, Selection& selection, TakeStore& store, QObject* parent = nullptr);

    /// The take that is shown: the one that is selected, or the newest; nullptr: there is none.
    [[nodiscard]] const KeptTake* kept() const;
    /// The same, as it was named when this last looked.
    [[nodiscard]] const KeptTake& shown() const { return shown_; }
    /// Its place among the document's takes.
    [[nodiscard]] std::size_t place() const;
    /// What was played; an empty take where there is none, or its file cannot be read.
    [[nodiscard]] const std::shared_ptr<const Take>& take() const;
    [[nodiscard]] const std::shared_ptr<const TakeLanes>& lanes() const;
    [[nodiscard]] const TakeLane* laneOf(const Subject& subject) const;
    /// What is in the take's file, whatever is being recorded.
    [[nodiscard]] const std::shared_ptr<const Take>& stored() const;
    /// Why there is nothing to be seen of it, or what speaks against it; empty: nothing.
    [[nodiscard]] const QString& problem() const;

    /// Takes another take in hand, on whatever page one is.
    void choose(const std::string& id);
    /// The same, on the page that shows takes.
    void show(const std::string& id);
    void showNext(int by);

    [[nodiscard]] const TimeSpan& span() const { return span_; }
    void setSpan(const TimeSpan& span);
    /// Lanes of the hands; empty: none.
    [[nodiscard]] const std::set<Subject>& chosenLanes() const { return chosenLanes_; }
    void chooseLanes(std::set<Subject> lanes);
    [[nodiscard]] const NoteChoice& chosenNotes() const { return chosenNotes_; }
    void chooseNotes(NoteChoice notes);
    /// The choice as stretches of lanes: the chosen lanes in the span, or in all of the take where it is
    /// empty.
    [[nodiscard]] std::vector<LaneStretch> stretches() const;

    /// What is shown is a recording that has not ended.
    [[nodiscard]] bool isLive() const { return liveTake_ != nullptr; }
    void showLive(std::shared_ptr<const Take> soFar);
    void dropLive();

 signals:
    /// The document or the selection has put another take, or another state of it, in its place; comes before
    /// takeChanged().
    void followed(bool isAnother);
    /// Another take is shown, or it has changed.
    void takeChanged();
    void spanChanged();
    /// Comes after spanChanged(), too.
    void choiceChanged();
    /// Whatever is done with takes: what cannot be left unsaid, and what is of use for the moment only.
    void told(const QString& sentence);
    void hinted(const QString& sentence);

 private:
    void follow();
    void read() const;

    Document& document_;
    Selection& selection_;
    TakeStore& store_;
    KeptTake shown_;  ///< as the document names it
    // What is read of it, when somebody asks.
    mutable bool isRead_ = true;
    mutable std::shared_ptr<const Take> take_;
    mutable std::shared_ptr<const TakeLanes> lanes_;
    mutable std::set<PairOfControls> pairs_;
    mutable QString problem_;
    // What is being recorded, as it comes.
    std::shared_ptr<const Take> liveTake_;
    std::shared_ptr<const TakeLanes> liveLanes_;
    TimeSpan span_;
    std::set<Subject> chosenLanes_;
    NoteChoice chosenNotes_;
};

}  // namespace mellow::app
