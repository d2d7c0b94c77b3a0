// A run is one sequence. It keeps two things apart that are easily confused: the tick of the event at hand,
// which what it causes keeps, and the engine's time, from which the ticks of what the clock causes are found
// again. Where the clock moves something it is let run a second at a time, so that a file that would take for
// ever is noticed after twelve hours of it and not after a century.
#include "core/engine/driving/file_run.h"

#include <algorithm>
#include <memory>
#include <set>

#include "core/checks/check.h"
#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "core/smf/merged.h"
#include "core/smf/tempo_map.h"
#include "core/text/osc_line.h"

namespace mellow::engine {

namespace {

constexpr Time longestTail = 10'000'000;
constexpr Time longestMovement = Time{12} * 3600 * 1'000'000;

/// The ensemble as it is played: the instruments asked for, and no tempo but the file's.
Ensemble playable(Ensemble ensemble, const std::vector<std::string>& ids) {
    ensemble.tempo = {};
    if (ids.empty()) return ensemble;
    erase_if(ensemble.instruments, [&ids](const Instrument& instrument) {
        return std::find(ids.begin(), ids.end(), instrument.id) == ids.end();
    });
    return ensemble;
}

/// Plays one sequence and writes what comes out.
class Run {
 public:
    Run(const Ensemble& ensemble, const smf::File& input, const std::vector<const smf::Track*>& tracks,
        Program* program, const std::vector<std::string>& ports, bool isTake)
        : input_(input),
          tracks_(tracks),
          times_(input, tracks),
          plan_(program->plan),
          engine_(program),
          isTake_(isTake),
          output_(input.division, 1 + ensemble.instruments.size()),
          packetsTo_(tracks.size()) {
        Names names = plan_.numbering.ports;
        for (const std::string& port : ports) ports_.push_back(static_cast<PortId>(names.intern(port)));
        trackOf_.assign(plan_.numbering.instruments.size(), 0);
        for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
            const std::string& name = nameOf(ensemble.instruments[i]);
            output_.add(i + 1, 0, smf::EventKind::meta,
                        {reinterpret_cast<const std::uint8_t*>(name.data()), name.size()}, smf::trackName);
            const auto number = plan_.numbering.instruments.find(ensemble.instruments[i].id);
            if (number && trackOf_[*number] == 0) trackOf_[*number] = i + 1;
        }
    }

    Result<smf::Writer*> play() {
        std::uint64_t end = 0;
        for (const smf::Track* track : tracks_) end = std::max(end, track->endTick);
        const Time last = times_.microseconds(end);
        if (last > longestMovement && neverRests()) return tooLong(last);
        auto collect = [this](const Output& output) { take(output); };
        const Sink sink = sinkTo(collect);
        smf::forEachInTime(tracks_, [&](const smf::Event& event, std::size_t track) {
            if (!goTo(event.tick, sink)) return false;
            hear(event, track, sink);
            return !output_.problem();
        });
        runClock(last, sink);
        while (engine_.moving()) {
            const Time next = (engine_.now() / gridStep + 1) * gridStep;
            if (next > last + longestTail) break;
            runClock(next, sink);
        }
        if (moved_ > longestMovement) return tooLong(last);
        for (std::size_t track = 0; track < output_.trackCount(); ++track) output_.endAt(track, end);
        if (output_.problem()) return *output_.problem();
        return &output_;
    }

 private:
    static Problem tooLong(Time last) {
        return {"the file",
                "it lasts " + std::to_string(last / 3'600'000'000) +
                    " hours, and something in the ensemble moves all the time",
                "play twelve hours at most, or silence what the clock moves"};
    }

    /// True when some cycle or walk moves as long as the file lasts.
    [[nodiscard]] bool neverRests() const {
        GeneratorState begun;
        begun.started = true;
        return std::any_of(plan_.generators.begin(), plan_.generators.end(),
                           [&](std::uint32_t e) { return keepsMoving(*plan_.ears[e].source, begun); });
    }

    /// Runs the clock, as long as that is affordable: false where it is not.
    bool runClock(Time until, const Sink& sink) {
        constexpr Time slice = 1'000'000;
        fromEvent_ = false;
        while (engine_.moving() && until - engine_.now() > slice && moved_ <= longestMovement) {
            moved_ += slice;
            engine_.advance(engine_.now() + slice, sink);
        }
        if (moved_ > longestMovement) return false;
        engine_.advance(until, sink);
        return true;
    }

    bool goTo(std::uint64_t tick, const Sink& sink) {
        if (engine_.now() >= 0 && tick == eventTick_) return true;
        eventTick_ = tick;
        return runClock(times_.microseconds(tick), sink);
    }

    void hear(const smf::Event& event, std::size_t track, const Sink& sink) {
        fromEvent_ = true;
        switch (event.kind) {
            case smf::EventKind::channel:
                engine_.makeRoom();
                engine_.process({engine_.now(), ports_[track], event.message.bytes()}, sink);
                break;
            case smf::EventKind::sysex:
                packetsTo_[track] = endsSysex(event) ? Packets::none : Packets::follow;
                passSysex(event, track);
                break;
            case smf::EventKind::escape:
                hearEscape(event, track);
                break;
            case smf::EventKind::meta:
                if (isTake_ && hearNumber(event, track, sink)) break;
                keep(event);
                if (input_.metaType(event) == smf::tempo) {
                    if (const auto tempo = smf::beatsAMinute(input_.body(event))) engine_.setTempo(*tempo);
                }
                break;
        }
    }

    [[nodiscard]] bool endsSysex(const smf::Event& event) const {
        const midi::Bytes body = input_.body(event);
        return !body.empty() && body.back() == midi::sysexEnd;
    }

    /// What goes on a SysEx goes where that went; other escaped bytes stay as they are.
    void hearEscape(const smf::Event& event, std::size_t track) {
        if (packetsTo_[track] == Packets::none) return keep(event);
        if (endsSysex(event)) packetsTo_[track] = Packets::none;
        passSysex(event, track);
    }

    /// A line of OSC in a take's text, such as a move of the desk.
    bool hearNumber(const smf::Event& event, std::size_t track, const Sink& sink) {
        const auto line =
            input_.metaType(event) == smf::textEvent ? text::oscLineOf(input_.body(event)) : std::nullopt;
        if (line) engine_.process({engine_.now(), ports_[track], {}, line->address, line->number}, sink);
        return line.has_value();
    }

    void passSysex(const smf::Event& event, std::size_t track) {
        bool passed = false;
        for (const std::uint32_t place : plan_.turns) {
            const PlanInstrument& part = plan_.parts[place];
            if (!part.inHand || !part.pass.sysex || !portFits(part.inputPort, ports_[track])) continue;
            write(trackOf_[part.name], event.tick, event.kind, input_.body(event));
            passed = true;
        }
        if (!passed) keep(event);
    }

    void keep(const smf::Event& event) {
        output_.add(0, event.tick, event.kind, input_.body(event), input_.metaType(event));
    }

    void write(std::size_t track, std::uint64_t tick, smf::EventKind kind, midi::Bytes body) {
        output_.add(track, std::max(tick, output_.lastTick(track)), kind, body);
    }

    void take(const Output& output) {
        if (output.bytes.empty()) return;  // OSC has no place in a MIDI file.
        const std::uint64_t tick = fromEvent_ ? eventTick_ : times_.nearestTick(output.time);
        write(trackOf_[output.instrument], tick, smf::EventKind::channel, output.bytes);
    }

    const smf::File& input_;
    const std::vector<const smf::Track*>& tracks_;
    smf::TempoMap times_;
    const Plan& plan_;
    Engine engine_;
    std::vector<PortId> ports_;  ///< by input track
    bool isTake_;
    smf::Writer output_;
    std::vector<std::size_t> trackOf_;  ///< by the instrument's number
    enum class Packets : std::uint8_t { none, follow };
    std::vector<Packets> packetsTo_;  ///< by input track: whether a SysEx is under way
    bool fromEvent_ = false;
    std::uint64_t eventTick_ = 0;
    Time moved_ = 0;  ///< how long the clock has moved something, roughly
};

}  // namespace

Outcome runFile(const Ensemble& ensemble, const smf::File& input, const FileRunOptions& options,
                const std::function<Outcome(smf::Writer&)>& take) {
    const Ensemble chosen = playable(ensemble, options.instruments);
    if (chosen.instruments.size() >= smf::mostTracks) {
        return Problem{"the ensemble",
                       "it has " + std::to_string(chosen.instruments.size()) +
                           " instruments, and a MIDI file holds 65,534 tracks beside the first",
                       "play some of them at a time"};
    }
    const std::set<std::string> named(options.trackPorts.begin(), options.trackPorts.end());
    if (named.size() > Hands::portCount / 2) {
        return Problem{"the take",
                       "it has " + std::to_string(named.size()) + " ports, and 2,048 can be played",
                       "lead some of its tracks to one port"};
    }
    std::unique_ptr<Program> program;
    for (std::size_t first = 0; first < input.tracks.size();) {
        const std::size_t count = input.format == 2 ? 1 : input.tracks.size();
        std::vector<const smf::Track*> tracks;
        std::vector<std::string> ports;
        for (std::size_t i = first; i < first + count; ++i) {
            tracks.push_back(&input.tracks[i]);
            ports.push_back(i < options.trackPorts.size() ? options.trackPorts[i] : options.port);
        }
        program = compile(chosen, program == nullptr ? nullptr : &program->plan);
        Run run(chosen, input, tracks, program.get(), ports, !options.trackPorts.empty());
        const auto played = run.play();
        if (!played) return played.problem();
        if (first == 0) (*played)->addChunks(input.otherChunks);
        if (const auto taken = take(**played); !taken) return taken;
        first += count;
    }
    return Done{};
}

bool isUnknownPort(const Ensemble& ensemble, const std::string& port) {
    const auto isIt = [&port](const auto& thing) { return thing.port == port; };
    return port != anyPort && std::none_of(ensemble.controllers.begin(), ensemble.controllers.end(), isIt) &&
           std::none_of(ensemble.instruments.begin(), ensemble.instruments.end(),
                        [&isIt](const Instrument& instrument) { return isIt(instrument.input); });
}

}  // namespace mellow::engine
