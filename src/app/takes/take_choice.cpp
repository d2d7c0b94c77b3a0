#include "app/takes/take_choice.h"

#include <algorithm>
#include <utility>

#include "app/ground/words.h"
#include "core/model/edit.h"

namespace mellow::app {

TakeChoice::TakeChoice(Document& document, Selection& selection, TakeStore& store, QObject* parent)
    : QObject(parent),
      document_(document),
      selection_(selection),
      store_(store),
      take_(std::make_shared<const Take>()),
      lanes_(std::make_shared<const TakeLanes>()) {
    connect(&document_, &Document::changed, this, &TakeChoice::follow);
    connect(&selection_, &Selection::changed, this, &TakeChoice::follow);
    connect(&store_, &TakeStore::loadedLate, this, &TakeChoice::takeChanged);
}

const KeptTake* TakeChoice::kept() const {
    const auto& takes = document_.ensemble().takes;
    if (takes.empty()) return nullptr;
    const KeptTake* chosen = findById(takes, selection_.on<TakePlace>().take);
    return chosen != nullptr ? chosen : &takes.back();
}

const std::shared_ptr<const Take>& TakeChoice::take() const {
    return liveTake_ != nullptr ? liveTake_ : stored();
}

const std::shared_ptr<const TakeLanes>& TakeChoice::lanes() const {
    if (liveTake_ != nullptr) return liveLanes_;
    read();
    return lanes_;
}

const std::shared_ptr<const Take>& TakeChoice::stored() const {
    read();
    return take_;
}

const QString& TakeChoice::problem() const {
    read();
    return problem_;
}

std::size_t TakeChoice::place() const {
    const KeptTake* shown = kept();
    return shown == nullptr ? 0 : placeOf(document_.ensemble().takes, shown->id);
}

void TakeChoice::choose(const std::string& id) {
    selection_.amend(TakePlace{id});
    follow();
}

void TakeChoice::show(const std::string& id) {
    selection_.go(TakePlace{id});
}

void TakeChoice::showNext(int by) {
    const auto& takes = document_.ensemble().takes;
    if (takes.empty()) return;
    const int next = std::clamp(static_cast<int>(place()) + by, 0, static_cast<int>(takes.size()) - 1);
    show(takes[static_cast<std::size_t>(next)].id);
}

/// The document says which takes there are; when it names another file for the one that is shown, that is
/// read.
void TakeChoice::follow() {
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
    if (another) {
        dropLive();
        span_ = {};
        chosenLanes_.clear();
    }
    chosenNotes_.clear();
    emit followed(another);
    emit takeChanged();
    emit choiceChanged();
}

void TakeChoice::read() const {
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

void TakeChoice::setSpan(const TimeSpan& span) {
    if (std::exchange(span_, span) == span) return;
    emit spanChanged();
    emit choiceChanged();
}

void TakeChoice::chooseLanes(std::set<Subject> lanes) {
    if (chosenLanes_ == lanes) return;
    chosenLanes_ = std::move(lanes);
    emit choiceChanged();
}

void TakeChoice::chooseNotes(NoteChoice notes) {
    if (chosenNotes_ == notes) return;
    chosenNotes_ = std::move(notes);
    emit choiceChanged();
}

const TakeLane* TakeChoice::laneOf(const Subject& subject) const {
    for (const TakeLane& lane : lanes()->lanes) {
        if (lane.subject == subject) return &lane;
    }
    return nullptr;
}

std::vector<LaneStretch> TakeChoice::stretches() const {
    std::vector<LaneStretch> all;
    // Lanes are those of what is shown, which while one records is not what is stored.
    const TimeSpan span = span_.empty() ? TimeSpan{0, take()->length + 1} : span_;
    for (const Subject& subject : chosenLanes_) {
        const TakeLane* lane = laneOf(subject);
        if (lane != nullptr) all.push_back(stretchOf(*take(), *lane, span.from, span.to));
    }
    return all;
}

void TakeChoice::showLive(std::shared_ptr<const Take> soFar) {
    liveLanes_ = std::make_shared<const TakeLanes>(lanesOf(*soFar, pairsIn(document_.ensemble())));
    liveTake_ = std::move(soFar);
    emit takeChanged();
}

void TakeChoice::dropLive() {
    liveTake_.reset();
    liveLanes_.reset();
}

}  // namespace mellow::app
