// Learning a source: a control is moved, and the chain follows it.
//
// Learning is for a place in the document: a chain's source, a second source, a chooser, or a chain that is
// made when something moves; or for an element of the desk, whose chains a control then moves as well. What
// is sure enough (core/learning) is taken at once, so that it can be heard while the hand still moves, and
// taken back for what is surer; all of that is one undo step. Once the hand rests, that place has learned,
// and whatever is played then changes nothing: the next place is begun by selecting it, until learning is
// ended.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <optional>
#include <vector>

#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"
#include "app/live/touched.h"
#include "core/learning/learner.h"
#include "core/model/edit_desk.h"

namespace mellow::app {

class Learn : public QObject {
    Q_OBJECT

 public:
    Learn(Document& document, Selection& selection, Live& live, QObject* parent = nullptr);

    enum class What {
        selected,  ///< what the selection says: a source, a second source, or a chain that is to be made
        chooser,
        target,   ///< where the selected branch, or one more branch of the selected chain, leads
        element,  ///< what moves an element of the desk besides fingers
    };
    void start(What what = What::selected);
    /// For an axis of an element, by its id, whose chains get siblings that a control moves.
    void startFor(const std::string& element, Axis axis);
    /// That is learned for, while an element is.
    [[nodiscard]] Axis axis() const { return axis_; }
    void stop();
    /// Begins; where it has learned goes on with the next one; otherwise ends.
    void toggle();
    /// Another new chain, where one was made; otherwise the same place once more.
    void next();
    [[nodiscard]] bool isOn() const { return isOn_; }

    /// What is being learned, in words: "the source of “Swell”".
    [[nodiscard]] QString goal() const;
    /// What may have been meant, the surest first.
    [[nodiscard]] const std::vector<learning::Candidate>& candidates() const { return candidates_; }
    /// Which of them was taken.
    [[nodiscard]] std::optional<std::size_t> taken() const;
    /// What is learned is where a chain leads, not what moves it.
    [[nodiscard]] bool isForTarget() const { return what_ == What::target; }
    /// It has learned, and changes nothing more by itself.
    [[nodiscard]] bool isDone() const { return done_; }
    /// Takes another than the surest.
    void take(std::size_t candidate);

    /// A chain was made for what was learned, and more can be.
    [[nodiscard]] bool madeAChain() const { return madeChain_; }
    /// Where the chain that learns leads, if that is one parameter of its instrument or none yet.
    [[nodiscard]] bool hasTarget() const;
    /// Its name; empty: the chain leads nowhere.
    [[nodiscard]] QString targetName() const;
    /// Leads it to the next parameter of the instrument, or the one before; part of the same undo step.
    void stepTarget(int by);

 signals:
    void changed();
    /// Learning is on since now.
    void began();

 private:
    void begin();
    void follow();
    void hear(const io::Happening& happening);
    void hearByOsc(const io::OscHappening& happening);
    void consider();
    void apply(const learning::Candidate& candidate);
    void applySource(Ensemble& ensemble, Selected& then, const learning::Candidate& candidate);
    void applyTarget(Ensemble& ensemble, Selected& then, const learning::Candidate& candidate);
    void applyElement(Ensemble& ensemble, const learning::Candidate& candidate);
    [[nodiscard]] Source fitting(const Ensemble& ensemble, const Source& before,
                                 const learning::Candidate& candidate) const;

    Document& document_;
    Selection& selection_;
    Live& live_;
    learning::Learner learner_;
    std::vector<learning::Candidate> candidates_;
    std::optional<learning::Candidate> taken_;
    QTimer considering_;
    QElapsedTimer rest_;  ///< since what was taken moved last
    std::uint32_t moves_ = 0;
    Selected place_;
    What what_ = What::selected;
    std::optional<TouchedParameter> made_;  ///< the parameter that was made for what was taken
    std::string element_;                   ///< that is learned for
    Axis axis_ = Axis::x;
    std::vector<ChainOfOwner> siblings_;  ///< that were made for it
    Gesture gesture_ = 0;
    bool madeChain_ = false;
    bool isOn_ = false;
    bool done_ = false;
    bool applying_ = false;
    bool chosen_ = false;  ///< a person took one
    bool heard_ = false;   ///< something came since it was last considered
};

}  // namespace mellow::app
