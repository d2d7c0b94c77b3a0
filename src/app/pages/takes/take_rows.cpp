// Notes stand first, as one sees a score before its dynamics.
#include "app/pages/takes/take_rows.h"

#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/model/law.h"

namespace mellow::app {

namespace {

constexpr int lowest = 46;
constexpr int highest = 110;
constexpr int foldedHeight = 22;
constexpr int gap = 4;

QString tr(const char* text) {
    return QCoreApplication::translate("TakeRows", text);
}

/// Who plays through a port: the controller there, or the port itself.
QString playerOf(const Ensemble& ensemble, const std::string& port) {
    for (const Controller& controller : ensemble.controllers) {
        if (controller.port == port) return nameToShow(nameOf(controller));
    }
    return toQt(port);
}

QString parameterAbout(const Parameter& parameter) {
    const Range range = rangeOf(parameter);
    return toQt(displayText(range, 0)) + QStringLiteral(" – ") + toQt(displayText(range, 1));
}

}  // namespace

std::string keyOf(const Take& take, const Subject& subject) {
    std::string key = "hand ";
    key += take.ports[subject.port];
    for (const int part : {static_cast<int>(subject.about), int{subject.channel}, int{subject.number}}) {
        key += ' ';
        key += std::to_string(part);
    }
    key += subject.address;
    return key;
}

std::string keyOf(const ResultLane& lane) {
    std::string key = "result ";
    key += lane.instrument;
    key += ' ';
    key += lane.parameter;
    return key;
}

void TakeRows::setHands(const Ensemble& ensemble, std::shared_ptr<const Take> take,
                        std::shared_ptr<const TakeLanes> lanes) {
    const bool same = take == take_ && lanes == lanes_;
    take_ = std::move(take);
    lanes_ = std::move(lanes);
    hands_.clear();
    if (!same) {
        keys_.clear();
        for (const TakeNote& note : lanes_->notes) {
            const auto [found, isNew] = keys_.try_emplace(note.port, note.key, note.key);
            found->second.first = std::min(found->second.first, int{note.key});
            found->second.second = std::max(found->second.second, int{note.key});
        }
        handPeaks_.clear();
        for (const TakeLane& lane : lanes_->lanes) handPeaks_.emplace_back(lane.values);
    }
    for (const auto& [port, range] : keys_) {
        TakeRow row;
        row.kind = TakeRow::Kind::notes;
        row.key = "notes " + take_->ports[port];
        row.name = tr("Notes");
        row.about = playerOf(ensemble, take_->ports[port]);
        row.place = port;
        hands_.push_back(std::move(row));
    }
    for (std::size_t i = 0; i < lanes_->lanes.size(); ++i) {
        const TakeLane& lane = lanes_->lanes[i];
        TakeRow row;
        row.kind = TakeRow::Kind::hand;
        row.key = keyOf(*take_, lane.subject);
        row.name = toQt(laneName(ensemble, *take_, lane));
        row.about = toQt(laneMessage(lane));
        row.place = i;
        hands_.push_back(std::move(row));
    }
    rebuild();
}

void TakeRows::setResults(const Ensemble& ensemble, std::shared_ptr<const Results> results) {
    const bool same = results == results_;
    results_ = std::move(results);
    below_.clear();
    if (!same) {
        resultPeaks_.clear();
        for (const ResultLane& lane : results_->lanes) resultPeaks_.emplace_back(lane.values);
    }
    const bool several = std::any_of(
        results_->lanes.begin(), results_->lanes.end(),
        [this](const ResultLane& lane) { return lane.instrument != results_->lanes.front().instrument; });
    for (std::size_t i = 0; i < results_->lanes.size(); ++i) {
        const ResultLane& lane = results_->lanes[i];
        const Instrument* instrument = findById(ensemble.instruments, lane.instrument);
        const Parameter* parameter =
            instrument == nullptr ? nullptr : findById(instrument->parameters, lane.parameter);
        TakeRow row;
        row.kind = TakeRow::Kind::result;
        row.key = keyOf(lane);
        row.name = parameter == nullptr ? toQt(lane.parameter) : nameToShow(nameOf(*parameter));
        if (parameter != nullptr)
            row.about = several ? nameToShow(nameOf(*instrument)) : parameterAbout(*parameter);
        row.place = i;
        below_.push_back(std::move(row));
    }
    rebuild();
}

void TakeRows::sortHalf(std::vector<TakeRow>& half) const {
    const auto rank = [](const TakeRow& row) { return row.kind == TakeRow::Kind::notes ? 0 : 1; };
    const auto movement = [this](const TakeRow& row) {
        if (row.kind == TakeRow::Kind::notes) return lanes_->notes.size();
        return row.kind == TakeRow::Kind::hand ? lanes_->lanes[row.place].events.size()
                                               : results_->lanes[row.place].times.size();
    };
    std::stable_sort(half.begin(), half.end(), [&](const TakeRow& one, const TakeRow& other) {
        if (one.pinned != other.pinned) return one.pinned;
        if (rank(one) != rank(other)) return rank(one) < rank(other);
        if (order_ == LaneOrder::byName) return one.name.localeAwareCompare(other.name) < 0;
        if (order_ == LaneOrder::byMovement) return movement(one) > movement(other);
        return false;
    });
}

void TakeRows::rebuild() {
    const auto mark = [this](std::vector<TakeRow>& half) {
        for (TakeRow& row : half) {
            row.folded = folded_.contains(row.key);
            row.pinned = pinned_.contains(row.key);
        }
    };
    std::vector<TakeRow> above = hands_;
    std::vector<TakeRow> below = below_;
    mark(above);
    mark(below);
    sortHalf(above);
    sortHalf(below);
    rows_ = std::move(above);
    rows_.insert(rows_.end(), below.begin(), below.end());
}

void TakeRows::setOrder(LaneOrder order) {
    order_ = order;
    rebuild();
}

void TakeRows::fold(const std::string& key, bool folded) {
    folded ? (void)folded_.insert(key) : (void)folded_.erase(key);
    rebuild();
}

void TakeRows::pin(const std::string& key, bool pinned) {
    pinned ? (void)pinned_.insert(key) : (void)pinned_.erase(key);
    rebuild();
}

void TakeRows::foldAll(bool folded) {
    folded_.clear();
    if (folded) {
        for (const TakeRow& row : rows_) folded_.insert(row.key);
    }
    rebuild();
}

namespace {

/// Notes of many keys want more room than a line.
double shareOf(const TakeRow& row) {
    return row.kind == TakeRow::Kind::notes ? 1.5 : 1;
}

}  // namespace

int TakeRows::leastHeight(bool above) const {
    double height = 0;
    for (const TakeRow& row : rows_) {
        if (row.isAbove() == above)
            height += (row.folded ? scaled(foldedHeight) : scaled(lowest) * shareOf(row)) + scaled(gap);
    }
    return static_cast<int>(height);
}

void TakeRows::layOut(int above, int below) {
    layOutHalf(true, above);
    layOutHalf(false, below);
}

void TakeRows::layOutHalf(bool above, int available) {
    int fixed = 0;
    double open = 0;
    for (const TakeRow& row : rows_) {
        if (row.isAbove() != above) continue;
        fixed += scaled(gap) + (row.folded ? scaled(foldedHeight) : 0);
        if (!row.folded) open += shareOf(row);
    }
    const double each = open == 0
                            ? 0
                            : std::clamp((available - fixed) / open, static_cast<double>(scaled(lowest)),
                                         static_cast<double>(scaled(highest)));
    int y = 0;
    for (TakeRow& row : rows_) {
        if (row.isAbove() != above) continue;
        row.y = y;
        row.height = row.folded ? scaled(foldedHeight) : static_cast<int>(each * shareOf(row));
        y += row.height + scaled(gap);
    }
    heights_[above ? 0 : 1] = y;
}

const TakeRow* TakeRows::at(bool above, int y) const {
    for (const TakeRow& row : rows_) {
        if (row.isAbove() == above && y >= row.y && y < row.y + row.height + scaled(gap)) return &row;
    }
    return nullptr;
}

const TakeRow* TakeRows::row(const std::string& key) const {
    const auto found =
        std::find_if(rows_.begin(), rows_.end(), [&key](const TakeRow& row) { return row.key == key; });
    return found == rows_.end() ? nullptr : &*found;
}

std::pair<int, int> TakeRows::keysOf(std::size_t port) const {
    const auto found = keys_.find(port);
    return found == keys_.end() ? std::pair(60, 60) : found->second;
}

}  // namespace mellow::app
