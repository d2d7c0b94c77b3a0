// Passes are laid over a take one by one. In a pass, each lane (a control, a bend, a pressure of one port and
// channel) that hands touched belongs to them from there on; the old events of it in the rest of the pass go,
// and where the pass ends before the take does, the lane is told where the old hands stood, so that what
// follows sounds as it did.
#include "core/takes/recording.h"

#include <algorithm>
#include <array>
#include <limits>
#include <map>
#include <set>
#include <tuple>

#include "core/takes/subject.h"

namespace mellow {

void Recording::follow(std::int64_t time, std::int64_t position) {
    if (passes.empty()) {
        if (position >= 0) passes.push_back({time, position});
        return;
    }
    const Pass& last = passes.back();
    const bool known =
        last.position < 0 ? position < 0 : position >= 0 && position - last.position == time - last.time;
    if (!known) passes.push_back({time, position});
}

void Recording::follow(std::int64_t time, double tempo) {
    constexpr double same = 0.05;  // beats a minute
    auto& tempos = heard.tempos;
    if (tempo > 0 && (tempos.empty() || std::abs(tempos.back().tempo - tempo) > same))
        tempos.push_back({time, tempo});
}

std::vector<std::int64_t> beginningsIn(const Recording& recording, std::int64_t pause) {
    std::vector<std::int64_t> beginnings;
    std::set<std::tuple<std::uint16_t, int, int>> down;
    std::int64_t last = 0;
    for (const TakeEvent& event : recording.heard.events) {
        const bool begins = beginnings.empty() || (down.empty() && event.time - last >= pause);
        if (begins) beginnings.push_back(event.time);
        last = event.time;
        const midi::Bytes body = recording.heard.bodyOf(event);
        if (body.size() != 3) continue;
        const std::tuple key{event.port, midi::channelOf(body), static_cast<int>(body[1])};
        if (midi::isNoteOn(body)) down.insert(key);
        if (midi::isNoteOff(body)) down.erase(key);
    }
    return beginnings;
}

Recording since(const Recording& recording, std::int64_t time) {
    Recording later;
    for (const TakeEvent& event : recording.heard.events) {
        if (event.time < time) continue;
        const std::uint16_t port = later.heard.portNumber(recording.heard.ports[event.port]);
        later.heard.addFrom(recording.heard, event, event.time, port);
    }
    later.begins = time;
    later.ends = recording.ends;
    for (const TempoChange& tempo : recording.heard.tempos)
        later.follow(std::max(tempo.time, time), tempo.tempo);
    return later;
}

Take takeOf(const Recording& recording) {
    Take take = recording.heard;
    for (TakeEvent& event : take.events)
        event.time = std::max<std::int64_t>(event.time - recording.begins, 0);
    for (TempoChange& tempo : take.tempos)
        tempo.time = std::max<std::int64_t>(tempo.time - recording.begins, 0);
    take.length = std::max<std::int64_t>(recording.ends - recording.begins, 0);
    if (!take.events.empty()) take.length = std::max(take.length, take.events.back().time);
    return take;
}

namespace {

/// What was heard in one go through a take, at the take's times.
struct Round {
    std::vector<std::pair<std::int64_t, const TakeEvent*>> events;
    std::int64_t begins = 0;
    std::int64_t ends = 0;
};

std::vector<Round> roundsOf(const Recording& over) {
    std::vector<Round> rounds;
    std::size_t next = 0;
    const auto& events = over.heard.events;
    for (std::size_t p = 0; p < over.passes.size(); ++p) {
        const Recording::Pass& pass = over.passes[p];
        const std::int64_t until = p + 1 < over.passes.size() ? over.passes[p + 1].time : over.ends + 1;
        while (next < events.size() && events[next].time < pass.time) ++next;
        if (pass.position < 0) continue;
        Round round;
        round.begins = pass.position;
        round.ends = pass.position + (until - pass.time);
        for (; next < events.size() && events[next].time < until; ++next)
            round.events.emplace_back(events[next].time - pass.time + pass.position, &events[next]);
        rounds.push_back(std::move(round));
    }
    return rounds;
}

/// Lays one round over a take.
class Laying {
 public:
    Laying(const Take& under, const Recording& over, const Round& round, std::int64_t from, std::int64_t to)
        : under_(under), over_(over), from_(std::max(from, round.begins)), to_(std::min(to, round.ends)) {
        ports_.ports = under.ports;
        for (const auto& [time, event] : round.events) {
            if (time < from_ || time >= to_) continue;
            added_.emplace_back(time, event);
            const auto port = ports_.portNumber(over.heard.ports[event->port]);
            const Subject subject = subjectOf(port, over.heard.bodyOf(*event));
            if (!subject.isNote()) touched_.try_emplace(subject, time);
        }
    }

    Take lay() {
        Take made;
        made.ports = ports_.ports;
        made.tempos = under_.tempos;
        made.marks = under_.marks;
        std::size_t next = 0;
        const auto addNew = [&](std::int64_t before) {
            for (; next < added_.size() && added_[next].first < before; ++next) addHeard(made, added_[next]);
        };
        for (const TakeEvent& event : under_.events) {
            addNew(event.time);
            if (event.time >= to_) endTouch(made, event.time);
            addOld(made, event);
        }
        addNew(std::numeric_limits<std::int64_t>::max());
        endTouch(made, std::max(to_, under_.length));
        liftAdded(made);
        made.length = std::max(made.length, under_.length);
        return made;
    }

 private:
    void addHeard(Take& made, const std::pair<std::int64_t, const TakeEvent*>& heard) {
        const auto& [time, event] = heard;
        const std::uint16_t port = ports_.portNumber(over_.heard.ports[event->port]);
        const midi::Bytes body = over_.heard.bodyOf(*event);
        const Subject key = subjectOf(port, body);
        if (key.isNote() && midi::isNoteOn(body)) {
            endOld(made, key, time);
            down_.insert_or_assign(key, time);
        }
        if (key.isNote() && midi::isNoteOff(body)) down_.erase(key);
        made.addFrom(over_.heard, *event, time, port);
    }

    /// An old note of a key ends where a new one of it begins; its own off, which comes later, goes.
    void endOld(Take& made, const Subject& key, std::int64_t time) {
        const auto sounding = sounding_.find(key);
        if (sounding == sounding_.end() || sounding->second == 0) return;
        for (; sounding->second > 0; --sounding->second) {
            made.add(time, key.port,
                     midi::make(midi::noteOff, key.channel, key.number, midi::middleVelocity).bytes());
            ++offsToDrop_[key];
        }
    }

    void addOld(Take& made, const TakeEvent& event) {
        const midi::Bytes body = under_.bodyOf(event);
        const Subject subject = subjectOf(event.port, body);
        if (subject.isNote()) return addOldNote(made, event, body, subject);
        const auto touched = touched_.find(subject);
        if (touched != touched_.end() && event.time >= touched->second && event.time < to_) {
            stood_.insert_or_assign(subject, &event);
            return;
        }
        if (event.time < to_) stood_.insert_or_assign(subject, &event);
        made.addFrom(under_, event, event.time, event.port);
    }

    void addOldNote(Take& made, const TakeEvent& event, midi::Bytes body, const Subject& key) {
        if (midi::isNoteOn(body)) {
            // Under a new note that holds, an old one of its key does not begin.
            if (down_.contains(key) && event.time < to_) {
                ++offsToDrop_[key];
                return;
            }
            ++sounding_[key];
        } else if (auto drop = offsToDrop_.find(key); drop != offsToDrop_.end() && drop->second > 0) {
            --drop->second;
            return;
        } else if (auto sounding = sounding_.find(key); sounding != sounding_.end() && sounding->second > 0) {
            --sounding->second;
        }
        made.addFrom(under_, event, event.time, event.port);
    }

    /// Where the new hands end, what they touched is told where the old ones stood.
    void endTouch(Take& made, std::int64_t before) {
        if (ended_ || before < to_) return;
        ended_ = true;
        for (const auto& [subject, since] : touched_) {
            const auto stood = stood_.find(subject);
            if (stood == stood_.end()) continue;
            const bool changed = stood->second->time >= since || to_ < under_.length;
            if (changed && to_ < under_.length)
                made.addFrom(under_, *stood->second, to_, stood->second->port);
        }
    }

    /// Keys that were down when the recording ended come up.
    void liftAdded(Take& made) {
        for (const auto& [key, since] : down_) {
            const std::int64_t time = std::max(to_, since);
            const TakeEvent off{
                time, midi::make(midi::noteOff, key.channel, key.number, midi::middleVelocity), key.port};
            const auto place = static_cast<std::ptrdiff_t>(made.placeAt(time + 1));
            made.events.insert(made.events.begin() + place, off);
            made.length = std::max(made.length, time);
        }
    }

    const Take& under_;
    const Recording& over_;
    std::int64_t from_;
    std::int64_t to_;
    std::vector<std::pair<std::int64_t, const TakeEvent*>> added_;
    Take ports_;                               ///< only for its ports: those below, and then new ones
    std::map<Subject, std::int64_t> touched_;  ///< and since when
    std::map<Subject, const TakeEvent*> stood_;
    std::map<Subject, int> sounding_;       ///< old notes that are sounding
    std::map<Subject, int> offsToDrop_;     ///< of old notes that ended before their time, or did not begin
    std::map<Subject, std::int64_t> down_;  ///< new notes, and since when
    bool ended_ = false;
};

}  // namespace

Take overdubbed(const Take& under, const Recording& over, std::int64_t from, std::int64_t to) {
    Take made = under;
    for (const Round& round : roundsOf(over)) {
        if (!round.events.empty()) made = Laying(made, over, round, from, to).lay();
    }
    return made;
}

}  // namespace mellow
