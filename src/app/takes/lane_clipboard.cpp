#include "app/takes/lane_clipboard.h"

#include <algorithm>

namespace mellow::app {

QString LaneClipboard::copy() {
    const auto stretches = work_.choice.stretches();
    if (stretches.empty()) return tr("Choose lanes and a time to copy first.");
    lanes_.clear();
    length_ = 0;
    for (const LaneStretch& stretch : stretches) {
        lanes_.emplace_back(stretch.lane->subject, copied(stretch));
        length_ = std::max(length_, stretch.to - stretch.from);
    }
    return {};
}

std::size_t LaneClipboard::sourceFor(const Subject& subject, std::size_t i) const {
    if (lanes_.size() == 1) return 0;
    const auto same = std::find_if(lanes_.begin(), lanes_.end(),
                                   [&subject](const auto& each) { return each.first == subject; });
    const std::size_t place = same == lanes_.end() ? i : static_cast<std::size_t>(same - lanes_.begin());
    return std::min(place, lanes_.size());
}

QString LaneClipboard::paste() {
    if (lanes_.empty()) return tr("Nothing has been copied yet.");
    std::vector<Subject> targets(work_.choice.chosenLanes().begin(), work_.choice.chosenLanes().end());
    if (targets.empty()) {
        for (const auto& [subject, points] : lanes_) targets.push_back(subject);
    }
    const std::int64_t at = work_.playing.position();
    std::vector<LaneEdit> edits;
    for (std::size_t i = 0; i < targets.size(); ++i) {
        const TakeLane* lane = work_.choice.laneOf(targets[i]);
        const std::size_t source = sourceFor(targets[i], i);
        if (lane == nullptr || source == lanes_.size()) continue;
        const LaneStretch stretch = stretchOf(*work_.choice.take(), *lane, at, at + length_);
        edits.push_back(pasted(stretch, lanes_[source].second, length_));
    }
    if (edits.empty()) return tr("Choose a lane to paste into.");
    work_.changing.edit(tr("Paste"), edits);
    return {};
}

QString LaneClipboard::remove() {
    if (!work_.choice.chosenNotes().empty()) {
        const NoteChoice notes = work_.choice.chosenNotes();
        work_.changing.change(tr("Remove notes"),
                              withoutNotes(*work_.choice.take(), *work_.choice.lanes(), notes));
        return {};
    }
    std::vector<LaneEdit> edits;
    for (const LaneStretch& stretch : work_.choice.stretches()) edits.push_back(removed(stretch));
    if (edits.empty()) return tr("Choose lanes and a time, or notes, to remove first.");
    work_.changing.edit(tr("Remove from lanes"), edits);
    return {};
}

}  // namespace mellow::app
