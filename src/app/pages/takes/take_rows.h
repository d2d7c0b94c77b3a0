// The rows of the page, from top to bottom: notes of each port, a lane for each control that moved, the band,
// and a lane for each target of the instrument that is shown.
//
// Which rows there are follows the take and what comes of it; in which order, which are folded and which are
// pinned to the front of their half, a person says. A row is where it is on the axis of height alone: what is
// painted in it is the view's business.
#pragma once

#include <QString>
#include <array>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "app/pages/takes/peaks.h"
#include "core/takes/lanes.h"
#include "core/takes/results.h"

namespace mellow::app {

struct TakeRow {
    enum class Kind { notes, hand, result };
    Kind kind = Kind::notes;
    std::string key;  ///< by which it is folded and pinned; stays the same while the take changes
    QString name;
    QString about;          ///< a second line
    std::size_t place = 0;  ///< of the lane in TakeLanes::lanes or Results::lanes; of notes the port
    bool folded = false;
    bool pinned = false;
    int y = 0;  ///< pixels from the top of its half
    int height = 0;
    /// Of the hands, and so above the band.
    [[nodiscard]] bool isAbove() const { return kind != Kind::result; }
    bool operator==(const TakeRow&) const = default;
};

enum class LaneOrder { asPlayed, byName, byMovement };

class TakeRows {
 public:
    /// Notes and lanes of the hands. pairs stay those of the lanes.
    void setHands(const Ensemble& ensemble, std::shared_ptr<const Take> take,
                  std::shared_ptr<const TakeLanes> lanes);
    /// Lanes of what comes, in the document's order.
    void setResults(const Ensemble& ensemble, std::shared_ptr<const Results> results);
    void setOrder(LaneOrder order);
    [[nodiscard]] LaneOrder order() const { return order_; }
    void fold(const std::string& key, bool folded);
    void pin(const std::string& key, bool pinned);
    void foldAll(bool folded);

    /// Gives each row a place in its half; where there is room to spare lanes are higher. Pixels.
    void layOut(int above, int below);
    [[nodiscard]] const std::vector<TakeRow>& rows() const { return rows_; }
    /// How high the rows of a half are together.
    [[nodiscard]] int height(bool above) const { return heights_[above ? 0 : 1]; }
    /// How high they would at least be.
    [[nodiscard]] int leastHeight(bool above) const;
    /// The row of a half at a height, or nullptr.
    [[nodiscard]] const TakeRow* at(bool above, int y) const;
    [[nodiscard]] const TakeRow* row(const std::string& key) const;

    [[nodiscard]] const Take& take() const { return *take_; }
    [[nodiscard]] const TakeLanes& lanes() const { return *lanes_; }
    [[nodiscard]] const Results& results() const { return *results_; }
    [[nodiscard]] const Peaks& handPeaks(std::size_t lane) const { return handPeaks_[lane]; }
    [[nodiscard]] const Peaks& resultPeaks(std::size_t lane) const { return resultPeaks_[lane]; }
    /// Lowest and highest key of a port's notes.
    [[nodiscard]] std::pair<int, int> keysOf(std::size_t port) const;

 private:
    void rebuild();
    void layOutHalf(bool above, int available);
    void sortHalf(std::vector<TakeRow>& half) const;

    std::shared_ptr<const Take> take_ = std::make_shared<const Take>();
    std::shared_ptr<const TakeLanes> lanes_ = std::make_shared<const TakeLanes>();
    std::shared_ptr<const Results> results_ = std::make_shared<const Results>();
    std::vector<Peaks> handPeaks_;
    std::vector<Peaks> resultPeaks_;
    std::vector<TakeRow> hands_;
    std::vector<TakeRow> below_;
    std::vector<TakeRow> rows_;
    std::map<std::size_t, std::pair<int, int>> keys_;
    std::set<std::string> folded_;
    std::set<std::string> pinned_;
    LaneOrder order_ = LaneOrder::asPlayed;
    std::array<int, 2> heights_{0, 0};
};

/// What stands for a subject of a take among rows, whatever numbers its ports have.
std::string keyOf(const Take& take, const Subject& subject);
std::string keyOf(const ResultLane& lane);

}  // namespace mellow::app
