// What is measured and levelled on the Balance page: what a person has chosen, and what has come of it.
//
// The curve lives: it is measured again when an edit has changed what it was measured of, and the one before
// stays beside it, so that one sees what the edit did. A goal and what is levelled by it are a proposal, of
// which nothing is in the document until a person takes it.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <optional>

#include "app/acts/workspace.h"
#include "app/document/curve_store.h"
#include "app/pages/balance/balance_worker.h"
#include "app/pages/balance/input_measuring.h"
#include "core/balance/equal_steps.h"
#include "core/balance/matching.h"

namespace mellow::app {

class Balancing : public QObject {
    Q_OBJECT

 public:
    explicit Balancing(Workspace& workspace, QObject* parent = nullptr);

    // What is chosen.

    void setInstrument(const std::string& id);
    void setMotion(const balance::Motion& motion);
    void setKeys(std::vector<int> keys);
    void setVelocity(int velocity);
    void setPositions(int positions);
    void setHold(std::int64_t hold);
    void setSettle(std::int64_t settle);
    void setParameter(const std::string& words);
    /// Through which outputs the instrument is heard from now on; nothing: on the practice rack, unheard.
    void setHeardFrom(const std::optional<io::HeardFrom>& from);
    void setWithin(double lu);
    void setCeiling(double peak);
    void setGoal(const balance::Goal& goal);
    [[nodiscard]] const balance::LevelWish& wish() const { return wish_; }
    /// The same for another instrument.
    [[nodiscard]] balance::LevelWish wishFor(const std::string& instrument) const;
    [[nodiscard]] const balance::SweepPlan& plan() const { return wish_.plan; }
    /// nullptr: there is none.
    [[nodiscard]] const Instrument* instrument() const;
    /// All that can move the instrument.
    [[nodiscard]] std::vector<balance::Motion> motions() const;

    // What has come of it.

    [[nodiscard]] const std::optional<balance::Curve>& curve() const { return curve_; }
    /// As it was before the edit that had it measured again.
    [[nodiscard]] const std::optional<balance::Curve>& earlier() const { return earlier_; }
    [[nodiscard]] const std::optional<balance::Levelled>& proposal() const { return proposal_; }
    /// Whether there is something that can be taken.
    [[nodiscard]] bool isProposed() const { return proposal_ || !matched_.empty(); }
    [[nodiscard]] const std::vector<std::string>& proposalWords() const { return words_; }
    [[nodiscard]] const std::vector<std::string>& roomWords() const { return room_; }
    [[nodiscard]] const QString& trouble() const { return trouble_; }
    /// How long measuring took last, milliseconds.
    [[nodiscard]] int took() const { return took_; }
    [[nodiscard]] BalanceWorker& worker() { return worker_; }
    [[nodiscard]] InputMeasuring& inputs() { return inputs_; }
    /// Whether what is measured is the practice rack, which takes no time to speak of and is not heard.
    [[nodiscard]] bool isUnheard() const { return !inputs_.from(); }
    /// Measurements of the instrument that the document keeps, newest first.
    [[nodiscard]] std::vector<const KeptCurve*> kept() const;
    /// Where the hand stands on what is moved now, 0 to 1; nothing: nowhere that is known.
    [[nodiscard]] std::optional<double> hand() const;

    // Acts.

    void measure();
    /// Shows a curve that was measured elsewhere, or earlier.
    void show(balance::Curve curve);
    void showKept(const std::string& id);
    /// Keeps the curve that is shown with the document.
    void keep();
    /// The same of others.
    void keep(const std::vector<balance::Curve>& curves);
    /// Whether the curve that is shown is one that the document keeps; and has it kept no longer.
    [[nodiscard]] bool isKept() const;
    void forgetKept();
    /// Works out a branch that levels.
    void level();
    /// Works out a first step that makes equal steps.
    void equal(balance::LoudnessScale scale);
    /// Makes the proposal an edit.
    void take();
    void drop();
    /// Measures another instrument along the same, and makes its curve the goal.
    void follow(const std::string& instrument);
    /// Works out how all other instruments are as loud as one, along the same.
    void match(const std::string& reference, const std::vector<std::string>& all);
    /// Nothing is measured while it is not shown.
    void setShown(bool shown);

 signals:
    /// What is chosen, or what has come of it, is other than before.
    void changed();

 private:
    void choose(const std::function<void(balance::SweepPlan&)>& change);
    void chosenAnew();
    [[nodiscard]] std::int64_t settleOf(const balance::SweepPlan& plan) const;
    void followDocument(const Change& change);
    void work(int measures, BalanceWorker::Job job);
    void takeCurve(Result<balance::Curve> curve, bool edited);
    void takeMatch(const Result<balance::Matched>& matched, const Ensemble& of);
    void takeProposal(Result<balance::Levelled> levelled, const QString& text);
    void forget();
    void measureNow();
    /// Measures what waits for it, where that needs nobody's leave.
    void measureWhatIsDue();

    Workspace& workspace_;
    InputMeasuring inputs_;
    BalanceWorker worker_;  ///< waits for the inputs, so it goes first
    balance::LevelWish wish_;
    std::optional<balance::Curve> curve_;
    std::optional<balance::Curve> earlier_;
    std::optional<balance::Levelled> proposal_;
    std::vector<Instrument> matched_;  ///< that a proposal changes beside the instrument shown
    std::vector<std::string> words_;
    std::vector<std::string> room_;
    QString proposalText_;
    QString trouble_;
    QElapsedTimer clock_;
    int took_ = 0;
    bool shown_ = false;
    bool isSettleSet_ = false;  ///< by a person
    bool isProposing_ = false;  ///< the worker works something out
    std::string shownKept_;     ///< id of the measurement that is shown; empty: it was measured just now
    /// What is to be measured when it is shown; after an edit the curve before it stays to be seen.
    enum class Due { no, first, edited } due_ = Due::first;
};

}  // namespace mellow::app
