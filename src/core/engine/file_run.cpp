#include "core/engine/file_run.h"

#include <algorithm>
#include <functional>
#include <queue>

#include "core/checks/check.h"
#include "core/engine/compile.h"
#include "core/engine/engine.h"
#include "core/smf/tempo_map.h"

namespace mellow::engine {

namespace {

constexpr Time longestTail = 10'000'000;

/// Calls visit(event) for all events of some tracks, by tick, then track, then place in the track.
template<class Visit>
void forEachInTime(const std::vector<const smf::Track*>& tracks, Visit&& visit) {
    struct Next {
        std::uint64_t tick;
        std::size_t track;
        bool operator>(const Next& other) const {
            return tick != other.tick ? tick > other.tick : track > other.track;
        }
    };
    std::priority_queue<Next, std::vector<Next>, std::greater<>> next;
    std::vector<std::size_t> places(tracks.size(), 0);
    const auto queue = [&](std::size_t track) {
        const auto& events = tracks[track]->events;
        if (places[track] < events.size()) next.push({events[places[track]].tick, track});
    };
    for (std::size_t track = 0; track < tracks.size(); ++track) queue(track);
    while (!next.empty()) {
        const auto [tick, track] = next.top();
        next.pop();
        // What follows at the same tick in the same track comes before all others.
        const auto& events = tracks[track]->events;
        while (places[track] < events.size() && events[places[track]].tick == tick)
            visit(events[places[track]++]);
        queue(track);
    }
}

Ensemble withOnly(Ensemble ensemble, const std::vector<std::string>& ids) {
    if (ids.empty()) return ensemble;
    erase_if(ensemble.instruments, [&ids](const Instrument& instrument) {
        return std::find(ids.begin(), ids.end(), instrument.id) == ids.end();
    });
    return ensemble;
}

/// Plays one sequence and collects what comes out.
class Run {
 public:
    Run(const Ensemble& ensemble, const smf::File& input, const std::vector<const smf::Track*>& tracks)
        : input_(input), times_(input, tracks), program_(compile(ensemble)), engine_(program_.get()) {
        output_.format = 1;
        output_.division = input.division;
        output_.tracks.resize(1 + ensemble.instruments.size());
        const Names& numbers = program_->plan.numbering.instruments;
        trackOf_.assign(numbers.size(), 0);
        for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
            const std::string& name = nameOf(ensemble.instruments[i]);
            output_.add(output_.tracks[i + 1], 0, smf::EventKind::meta,
                        {reinterpret_cast<const std::uint8_t*>(name.data()), name.size()}, smf::trackName);
            if (const auto number = numbers.find(ensemble.instruments[i].id);
                number && trackOf_[*number] == 0)
                trackOf_[*number] = i + 1;
        }
    }

    smf::File play(const std::vector<const smf::Track*>& tracks, const std::string& port) {
        const PortId portId = portNumber(port);
        std::uint64_t end = 0;
        for (const smf::Track* track : tracks) end = std::max(end, track->endTick);
        auto collect = [this](const Output& output) { take(output); };
        const Sink sink = sinkTo(collect);
        reserveRoom(tracks);
        forEachInTime(tracks, [&](const smf::Event& event) {
            goTo(event.tick, sink);
            keep(event);
            followTempo(event);
            feed(event, portId, sink);
        });
        const Time last = times_.microseconds(end);
        runClock(last, sink);
        while (engine_.moving() && engine_.now() < last + longestTail) {
            runClock((engine_.now() / gridStep + 1) * gridStep, sink);
        }
        for (smf::Track& track : output_.tracks) track.endTick = std::max(track.endTick, end);
        return std::move(output_);
    }

 private:
    PortId portNumber(const std::string& name) {
        const auto known = program_->plan.numbering.ports.find(name);
        // A port that nothing in the ensemble names still is a port of its own.
        return static_cast<PortId>(
            known.value_or(static_cast<std::uint32_t>(program_->plan.numbering.ports.size())));
    }

    void runClock(Time until, const Sink& sink) {
        fromEvent_ = false;
        engine_.advance(until, sink);
    }

    void goTo(std::uint64_t tick, const Sink& sink) {
        if (engine_.now() >= 0 && tick == eventTick_) return;
        eventTick_ = tick;
        runClock(times_.microseconds(tick), sink);
    }

    void feed(const smf::Event& event, PortId port, const Sink& sink) {
        fromEvent_ = true;
        const midi::Bytes body = input_.body(event);
        if (event.kind == smf::EventKind::channel) {
            engine_.process({engine_.now(), port, body}, sink);
        } else if (event.kind == smf::EventKind::sysex && !body.empty() && body.back() == midi::sysexEnd) {
            std::vector<std::uint8_t> whole{midi::sysexStart};
            whole.insert(whole.end(), body.begin(), body.end());
            if (midi::isWhole(whole)) engine_.process({engine_.now(), port, whole}, sink);
        }
    }

    void followTempo(const smf::Event& event) {
        if (input_.metaType(event) != smf::tempo) return;
        if (const auto tempo = smf::beatsAMinute(input_.body(event))) engine_.setTempo(*tempo);
    }

    void keep(const smf::Event& event) {
        if (event.kind == smf::EventKind::channel) return;
        output_.add(output_.tracks[0], event.tick, event.kind, input_.body(event), input_.metaType(event));
    }

    /// Most events of a file go on to one instrument as one event.
    void reserveRoom(const std::vector<const smf::Track*>& tracks) {
        std::size_t events = 0;
        for (const smf::Track* track : tracks) events += track->events.size();
        for (std::size_t i = 1; i < output_.tracks.size(); ++i)
            output_.tracks[i].events.reserve(events / (output_.tracks.size() - 1));
    }

    void take(const Output& output) {
        if (output.bytes.empty()) return;  // OSC has no place in a MIDI file.
        const std::uint64_t tick = fromEvent_ ? eventTick_ : times_.nearestTick(output.time);
        smf::Track& track = output_.tracks[trackOf_[output.instrument]];
        const bool sysex = output.bytes[0] == midi::sysexStart;
        output_.add(track, std::max(tick, track.endTick),
                    sysex ? smf::EventKind::sysex : smf::EventKind::channel,
                    sysex ? output.bytes.subspan(1) : output.bytes);
    }

    const smf::File& input_;
    smf::TempoMap times_;
    std::unique_ptr<Program> program_;
    Engine engine_;
    smf::File output_;
    std::vector<std::size_t> trackOf_;  ///< by the instrument's number
    bool fromEvent_ = false;
    std::uint64_t eventTick_ = 0;
};

}  // namespace

std::vector<smf::File> runFile(const Ensemble& ensemble, const smf::File& input,
                               const FileRunOptions& options) {
    const Ensemble chosen = withOnly(ensemble, options.instruments);
    std::vector<std::vector<const smf::Track*>> sequences;
    for (const smf::Track& track : input.tracks) {
        if (sequences.empty() || input.format == 2) sequences.emplace_back();
        sequences.back().push_back(&track);
    }
    std::vector<smf::File> results;
    results.reserve(sequences.size());
    for (const auto& tracks : sequences)
        results.push_back(Run(chosen, input, tracks).play(tracks, options.port));
    return results;
}

}  // namespace mellow::engine
