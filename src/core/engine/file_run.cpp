#include "core/engine/file_run.h"

#include <algorithm>

#include "core/checks/check.h"
#include "core/engine/compile.h"
#include "core/engine/engine.h"
#include "core/smf/tempo_map.h"

namespace mellow::engine {

namespace {

constexpr Time longestTail = 10'000'000;

struct Merged {
    std::uint64_t tick;
    const smf::Event* event;
};

/// All events of some tracks, by tick, then track, then place in the track.
std::vector<Merged> merge(const std::vector<const smf::Track*>& tracks) {
    std::vector<Merged> merged;
    for (const smf::Track* track : tracks) {
        for (const smf::Event& event : track->events) merged.push_back({event.tick, &event});
    }
    std::stable_sort(merged.begin(), merged.end(),
                     [](const Merged& a, const Merged& b) { return a.tick < b.tick; });
    return merged;
}

Ensemble withOnly(Ensemble ensemble, const std::vector<std::string>& ids) {
    if (ids.empty()) return ensemble;
    std::erase_if(ensemble.instruments, [&ids](const Instrument& instrument) {
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
        for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
            const std::string& name = nameOf(ensemble.instruments[i]);
            output_.add(output_.tracks[i + 1], 0, smf::EventKind::meta,
                        {reinterpret_cast<const std::uint8_t*>(name.data()), name.size()}, smf::trackName);
            trackOf_.push_back(program_->plan.numbering.instruments.find(ensemble.instruments[i].id));
        }
    }

    smf::File play(const std::vector<const smf::Track*>& tracks, const std::string& port) {
        const PortId portId = portNumber(port);
        std::uint64_t end = 0;
        for (const smf::Track* track : tracks) end = std::max(end, track->endTick);
        auto collect = [this](const Output& output) { take(output); };
        const Sink sink = sinkTo(collect);
        for (const Merged& each : merge(tracks)) {
            runClock(times_.microseconds(each.tick), sink);
            keep(each);
            followTempo(each);
            feed(each, portId, sink);
        }
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

    void feed(const Merged& each, PortId port, const Sink& sink) {
        fromEvent_ = true;
        eventTick_ = each.tick;
        const midi::Bytes body = input_.body(*each.event);
        const Time time = times_.microseconds(each.tick);
        if (each.event->kind == smf::EventKind::channel) {
            engine_.process({time, port, body}, sink);
        } else if (each.event->kind == smf::EventKind::sysex && !body.empty() &&
                   body.back() == midi::sysexEnd) {
            std::vector<std::uint8_t> whole{midi::sysexStart};
            whole.insert(whole.end(), body.begin(), body.end());
            if (midi::isWhole(whole)) engine_.process({time, port, whole}, sink);
        }
    }

    void followTempo(const Merged& each) {
        if (each.event->kind != smf::EventKind::meta || input_.metaType(*each.event) != smf::tempo) return;
        if (const auto tempo = smf::beatsAMinute(input_.body(*each.event))) engine_.setTempo(*tempo);
    }

    void keep(const Merged& each) {
        if (each.event->kind == smf::EventKind::channel) return;
        output_.add(output_.tracks[0], each.tick, each.event->kind, input_.body(*each.event),
                    input_.metaType(*each.event));
    }

    void take(const Output& output) {
        if (output.bytes.empty()) return;  // OSC has no place in a MIDI file.
        const std::uint64_t tick = fromEvent_ ? eventTick_ : times_.nearestTick(output.time);
        const auto found = std::find(trackOf_.begin(), trackOf_.end(), output.instrument);
        if (found == trackOf_.end()) return;
        smf::Track& track = output_.tracks[static_cast<std::size_t>(found - trackOf_.begin()) + 1];
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
    std::vector<std::optional<std::uint32_t>> trackOf_;
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
