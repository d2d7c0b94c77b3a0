// An edit is made in one pass over the take: old points of edited lanes go, new ones come. A new point at the
// time of an old one of its lane takes exactly its place, so that what came before a note still does; others
// come before everything else of their time.
#include "core/takes/tidy.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "core/midi/controls.h"

namespace mellow {

LaneStretch stretchOf(const Take& take, const TakeLane& lane, std::int64_t from, std::int64_t to) {
    LaneStretch stretch;
    stretch.lane = &lane;
    stretch.from = from;
    stretch.to = std::max(from, to);
    const auto timeOf = [&](std::size_t place) { return take.events[lane.events[place]].time; };
    const auto begin = std::partition_point(lane.events.begin(), lane.events.end(), [&](std::uint32_t event) {
        return take.events[event].time < from;
    });
    // The lane's own numbers are for drawing; what was played has all its digits.
    const auto valueAt = [&](std::size_t place) -> double {
        return lane.isPair ? lane.values[place] : valueOf(take.bodyOf(take.events[lane.events[place]]));
    };
    auto place = static_cast<std::size_t>(begin - lane.events.begin());
    if (place > 0) stretch.before = valueAt(place - 1);
    for (; place < lane.events.size() && timeOf(place) < to; ++place)
        stretch.points.push_back({timeOf(place), valueAt(place)});
    stretch.endsAtPoint = place < lane.events.size() && timeOf(place) == to;
    return stretch;
}

namespace {

/// Values are whole numbers, but those by OSC.
double rounded(const TakeLane& lane, double value) {
    const double inside = std::clamp(value, 0.0, lane.highest);
    return lane.subject.about == Subject::About::osc ? inside : std::round(inside);
}

LaneEdit editOf(const LaneStretch& stretch, std::vector<LanePoint> points) {
    return {stretch.lane->subject, stretch.lane->isPair, stretch.lane->highest,
            stretch.from,          stretch.to,           std::move(points)};
}

/// Points that say again what stands already go; what stood behind the edit is said where it ends.
LaneEdit closed(const LaneStretch& stretch, std::vector<LanePoint> points) {
    LaneEdit edit = editOf(stretch, std::move(points));
    const auto stood = stretch.after();
    const bool saidAnyway = stretch.endsAtPoint;
    if (!stood || saidAnyway) return edit;
    const auto stands = edit.points.empty() ? stretch.before : std::optional(edit.points.back().value);
    if (stands != stood) edit.points.push_back({stretch.to, *stood});
    return edit;
}

/// The integral of a raised cosine of half-width `half` from the middle to x, over the whole: −½ to ½.
double cosineShare(double x, double half) {
    const double u = std::clamp(x / half, -1.0, 1.0);
    return (u + std::sin(std::numbers::pi * u) / std::numbers::pi) / 2;
}

/// The mean of a step function around one of its points, between its first and its last.
double meanAround(const std::vector<LanePoint>& points, std::size_t at, double half) {
    const auto middle = static_cast<double>(points[at].time);
    double sum = 0;
    double reached = -0.5;
    std::size_t first = at;
    while (first > 0 && static_cast<double>(points[first].time) > middle - half) --first;
    for (std::size_t i = first; i < points.size(); ++i) {
        const bool last = i + 1 == points.size();
        const double end = last ? half : static_cast<double>(points[i + 1].time) - middle;
        const double share = cosineShare(std::min(end, half), half);
        sum += points[i].value * (share - reached);
        reached = share;
        if (end >= half) break;
    }
    return sum;
}

}  // namespace

LaneEdit smoothed(const LaneStretch& stretch, std::int64_t width) {
    std::vector<LanePoint> points = stretch.points;
    for (std::size_t i = 1; i + 1 < points.size(); ++i) {
        const std::int64_t toFirst = points[i].time - points.front().time;
        const std::int64_t toLast = points.back().time - points[i].time;
        const auto half = static_cast<double>(std::min({width / 2, toFirst, toLast}));
        if (half < 1) continue;
        points[i].value = rounded(*stretch.lane, meanAround(stretch.points, i, half));
    }
    // A value that is said twice stands already.
    std::vector<LanePoint> kept;
    for (std::size_t i = 0; i < points.size(); ++i) {
        const bool isEnd = i == 0 || i + 1 == points.size();
        if (isEnd || kept.back().value != points[i].value) kept.push_back(points[i]);
    }
    return editOf(stretch, std::move(kept));
}

LaneEdit thinned(const LaneStretch& stretch, double error) {
    const std::vector<LanePoint>& points = stretch.points;
    std::vector<LanePoint> kept;
    if (points.empty()) return editOf(stretch, {});
    const double last = points.back().value;
    const auto near = [error](double a, double b) { return std::abs(a - b) <= error; };
    // From the end: how far back the last value can stand for what was played.
    std::size_t tail = points.size() - 1;
    while (tail > 0 && near(points[tail - 1].value, last)) --tail;
    std::size_t next = 0;
    // From the start: as long as what stands before is near enough, nothing has to be said.
    while (stretch.before && next < tail && near(points[next].value, *stretch.before)) ++next;
    while (next < tail) {
        const std::size_t first = next;
        double least = points[next].value;
        double most = least;
        for (; next < tail; ++next) {
            const double low = std::min(least, points[next].value);
            const double high = std::max(most, points[next].value);
            if (!(high - low <= 2 * error)) break;
            // A whole number has to lie in between.
            const double middle = rounded(*stretch.lane, (low + high) / 2);
            if (!near(low, middle) || !near(high, middle)) break;
            least = low;
            most = high;
        }
        kept.push_back({points[first].time, rounded(*stretch.lane, (least + most) / 2)});
    }
    const auto stands = kept.empty() ? stretch.before : std::optional(kept.back().value);
    if (stands != last) kept.push_back({points[tail].time, last});
    return editOf(stretch, std::move(kept));
}

namespace {

double eased(double u, Easing easing) {
    switch (easing) {
        case Easing::easedIn:
            return u * u;
        case Easing::easedOut:
            return u * (2 - u);
        case Easing::easedBoth:
            return 0.5 - 0.5 * std::cos(std::numbers::pi * u);
        default:
            return u;
    }
}

double valueOnLine(const std::vector<LanePoint>& through, std::int64_t time, Easing easing) {
    const auto behind =
        std::upper_bound(through.begin(), through.end(), time,
                         [](std::int64_t t, const LanePoint& point) { return t < point.time; });
    if (behind == through.begin()) return through.front().value;
    if (behind == through.end()) return through.back().value;
    const LanePoint& a = *(behind - 1);
    const LanePoint& b = *behind;
    const double u = static_cast<double>(time - a.time) / static_cast<double>(b.time - a.time);
    return a.value + (b.value - a.value) * eased(u, easing);
}

}  // namespace

LaneEdit drawn(const LaneStretch& stretch, const std::vector<LanePoint>& through, Easing easing,
               std::int64_t step) {
    if (through.empty()) return editOf(stretch, stretch.points);
    std::vector<LanePoint> points;
    const std::int64_t end = through.back().time;
    for (std::int64_t time = through.front().time;; time = std::min(time + step, end)) {
        const double value = rounded(*stretch.lane, valueOnLine(through, time, easing));
        if (points.empty() || points.back().value != value) points.push_back({time, value});
        if (time >= end) break;
    }
    return closed(stretch, std::move(points));
}

std::vector<LaneEdit> scaled(const Take& take, const LaneStretch& stretch, const Scaling& scaling) {
    const auto timeAt = [&](std::int64_t time) {
        const double moved = static_cast<double>(time - stretch.from) * scaling.timeFactor;
        return std::max<std::int64_t>(stretch.from + std::llround(moved) + scaling.later, 0);
    };
    std::vector<LanePoint> points;
    for (const LanePoint& point : stretch.points) {
        const double value = scaling.pivot + (point.value - scaling.pivot) * scaling.factor + scaling.shift;
        points.push_back({timeAt(point.time), rounded(*stretch.lane, value)});
    }
    const std::int64_t from = timeAt(stretch.from);
    const std::int64_t to = timeAt(stretch.to);
    if (from > stretch.to || to < stretch.from)
        return {removed(stretch), closed(stretchOf(take, *stretch.lane, from, to), std::move(points))};
    const LaneStretch both =
        stretchOf(take, *stretch.lane, std::min(from, stretch.from), std::max(to, stretch.to));
    return {closed(both, std::move(points))};
}

LaneEdit clipped(const LaneStretch& stretch, double floor, double ceiling) {
    std::vector<LanePoint> points = stretch.points;
    for (LanePoint& point : points)
        point.value = rounded(*stretch.lane, std::clamp(point.value, floor, std::max(floor, ceiling)));
    return closed(stretch, std::move(points));
}

LaneEdit repeated(const Take& take, const LaneStretch& stretch, int times) {
    std::vector<LanePoint> points;
    const std::int64_t length = stretch.to - stretch.from;
    for (int round = 0; round <= times; ++round) {
        for (const LanePoint& point : stretch.points)
            points.push_back({point.time + round * length, point.value});
    }
    return closed(stretchOf(take, *stretch.lane, stretch.from, stretch.to + times * length),
                  std::move(points));
}

LaneEdit removed(const LaneStretch& stretch) {
    return closed(stretch, {});
}

std::vector<LanePoint> copied(const LaneStretch& stretch) {
    std::vector<LanePoint> positions;
    const double highest = stretch.lane->highest;
    const bool beginsAtPoint = !stretch.points.empty() && stretch.points.front().time == stretch.from;
    if (stretch.before && !beginsAtPoint) positions.push_back({0, *stretch.before / highest});
    for (const LanePoint& point : stretch.points)
        positions.push_back({point.time - stretch.from, point.value / highest});
    return positions;
}

LaneEdit pasted(const LaneStretch& stretch, const std::vector<LanePoint>& positions, std::int64_t length) {
    std::vector<LanePoint> points;
    for (const LanePoint& each : positions) {
        if (each.time < length)
            points.push_back(
                {stretch.from + each.time, rounded(*stretch.lane, each.value * stretch.lane->highest)});
    }
    return closed(stretch, std::move(points));
}

namespace {

/// A point of a lane as the message, or the two messages, that say it.
void addPoint(Take& take, const LaneEdit& edit, const LanePoint& point) {
    using About = Subject::About;
    const Subject& subject = edit.subject;
    const int channel = subject.channel;
    const auto value = static_cast<int>(std::lround(std::clamp(point.value, 0.0, edit.highest)));
    const auto add = [&](const midi::Short& message) { take.add(point.time, subject.port, message.bytes()); };
    switch (subject.about) {
        case About::control:
            if (edit.isPair) {
                add(midi::make(midi::controlChange, channel, subject.number, value >> 7));
                add(midi::make(midi::controlChange, channel, subject.number + midi::pairCount,
                               value & midi::max7));
            } else {
                add(midi::make(midi::controlChange, channel, subject.number, value));
            }
            break;
        case About::bend:
            add(midi::makeBend(channel, value));
            break;
        case About::pressure:
            add(midi::make(midi::channelPressure, channel, value));
            break;
        case About::keyPressure:
            add(midi::make(midi::keyPressure, channel, subject.number, value));
            break;
        case About::program:
            add(midi::make(midi::programChange, channel, value));
            break;
        case About::osc: {
            const std::string line = text::oscLine(subject.address, point.value);
            take.add(point.time, subject.port,
                     {reinterpret_cast<const std::uint8_t*>(line.data()), line.size()});
            break;
        }
        default:
            break;
    }
}

/// Makes edits in one pass.
class Editing {
 public:
    Editing(const Take& take, const std::vector<LaneEdit>& edits) : take_(take) {
        for (const LaneEdit& edit : edits) {
            bySubject_[edit.subject].push_back(&edit);
            for (const LanePoint& point : edit.points) waiting_.push_back({point, &edit});
        }
        std::stable_sort(waiting_.begin(), waiting_.end(), [](const Waiting& one, const Waiting& other) {
            return one.point.time < other.point.time;
        });
        findAnchors();
    }

    Take make() {
        Take made;
        made.ports = take_.ports;
        made.tempos = take_.tempos;
        made.marks = take_.marks;
        made.events.reserve(take_.events.size());
        std::size_t next = 0;
        for (std::size_t i = 0; i < take_.events.size(); ++i) {
            const TakeEvent& event = take_.events[i];
            for (; next < waiting_.size() && waiting_[next].point.time <= event.time; ++next) {
                if (!waiting_[next].anchored) addPoint(made, *waiting_[next].edit, waiting_[next].point);
            }
            if (const auto anchor = anchors_.find(i); anchor != anchors_.end())
                addPoint(made, *waiting_[anchor->second].edit, waiting_[anchor->second].point);
            if (!goes(event)) made.addFrom(take_, event, event.time, event.port);
        }
        for (; next < waiting_.size(); ++next) {
            if (!waiting_[next].anchored) addPoint(made, *waiting_[next].edit, waiting_[next].point);
        }
        made.length = std::max(take_.length, made.events.empty() ? 0 : made.events.back().time);
        return made;
    }

 private:
    struct Waiting {
        LanePoint point;
        const LaneEdit* edit = nullptr;
        bool anchored = false;  ///< it takes the place of an old one
    };

    /// The edit that an event belongs to, whatever its time; its own subject, or that of its pair.
    [[nodiscard]] const std::vector<const LaneEdit*>* editsOf(const TakeEvent& event) const {
        Subject subject = subjectOf(event.port, take_.bodyOf(event));
        auto found = bySubject_.find(subject);
        if (found == bySubject_.end() && subject.about == Subject::About::control &&
            midi::isHalfOfAPair(subject.number)) {
            subject.number = static_cast<std::uint8_t>(midi::pairOf(subject.number));
            found = bySubject_.find(subject);
            if (found != bySubject_.end() && !found->second.front()->isPair) return nullptr;
        }
        return found == bySubject_.end() ? nullptr : &found->second;
    }

    [[nodiscard]] bool goes(const TakeEvent& event) const {
        const auto* edits = editsOf(event);
        return edits != nullptr && std::any_of(edits->begin(), edits->end(), [&event](const LaneEdit* edit) {
                   return event.time >= edit->from && event.time < edit->to;
               });
    }

    void findAnchors() {
        std::size_t next = 0;
        for (std::size_t i = 0; i < take_.events.size() && next < waiting_.size(); ++i) {
            const TakeEvent& event = take_.events[i];
            while (next < waiting_.size() && waiting_[next].point.time < event.time) ++next;
            if (next == waiting_.size() || waiting_[next].point.time != event.time || !goes(event)) continue;
            const auto* edits = editsOf(event);
            for (std::size_t w = next; w < waiting_.size() && waiting_[w].point.time == event.time; ++w) {
                const bool mine = std::find(edits->begin(), edits->end(), waiting_[w].edit) != edits->end();
                if (!mine || waiting_[w].anchored) continue;
                waiting_[w].anchored = true;
                anchors_.emplace(i, w);
                break;
            }
        }
    }

    const Take& take_;
    std::map<Subject, std::vector<const LaneEdit*>> bySubject_;
    std::vector<Waiting> waiting_;
    std::map<std::size_t, std::size_t> anchors_;  ///< by an old event's place: the point in its place
};

}  // namespace

Take withEdits(const Take& take, const std::vector<LaneEdit>& edits) {
    return Editing(take, edits).make();
}

namespace {

/// The take with some events at other times, or gone; each keeps its place among those of its time.
Take rearranged(const Take& take, std::vector<TakeEvent> events) {
    std::stable_sort(events.begin(), events.end(),
                     [](const TakeEvent& one, const TakeEvent& other) { return one.time < other.time; });
    Take made = take;
    made.events = std::move(events);
    made.length = std::max(take.length, made.events.empty() ? 0 : made.events.back().time);
    return made;
}

}  // namespace

Take withNotes(const Take& take, const TakeLanes& lanes, const NoteChoice& notes, const NoteMove& move) {
    constexpr std::int64_t shortest = 1000;
    std::vector<TakeEvent> events = take.events;
    for (const std::size_t place : notes) {
        if (place >= lanes.notes.size()) continue;
        const TakeNote& note = lanes.notes[place];
        const std::int64_t begins = std::max<std::int64_t>(note.begins + move.later, 0);
        const std::int64_t length = std::max(note.ends - note.begins + move.longer, shortest);
        const auto key = static_cast<std::uint8_t>(std::clamp(note.key + move.higher, 0, midi::max7));
        const double velocity = std::round(note.velocity * move.velocityFactor) + move.louder;
        TakeEvent& on = events[note.on];
        on.time = begins;
        on.message.data[1] = key;
        on.message.data[2] = static_cast<std::uint8_t>(std::clamp(velocity, 1.0, double{midi::max7}));
        if (note.off == TakeNote::none) continue;
        events[note.off].time = begins + length;
        events[note.off].message.data[1] = key;
    }
    return rearranged(take, std::move(events));
}

Take withoutNotes(const Take& take, const TakeLanes& lanes, const NoteChoice& notes) {
    std::vector<bool> gone(take.events.size(), false);
    for (const std::size_t place : notes) {
        if (place >= lanes.notes.size()) continue;
        gone[lanes.notes[place].on] = true;
        if (lanes.notes[place].off != TakeNote::none) gone[lanes.notes[place].off] = true;
    }
    std::vector<TakeEvent> events;
    for (std::size_t i = 0; i < take.events.size(); ++i) {
        if (!gone[i]) events.push_back(take.events[i]);
    }
    return rearranged(take, std::move(events));
}

NoteChoice notesBetween(const TakeLanes& lanes, std::int64_t from, std::int64_t to) {
    NoteChoice chosen;
    for (std::size_t i = 0; i < lanes.notes.size(); ++i) {
        if (lanes.notes[i].begins >= from && lanes.notes[i].begins < to) chosen.push_back(i);
    }
    return chosen;
}

}  // namespace mellow
