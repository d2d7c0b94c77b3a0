#include "core/balance/recorded.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/engine/compiling/compile.h"
#include "core/midi/names.h"
#include "core/smf/read.h"
#include "core/store/instrument_state.h"
#include "core/store/json_tree.h"
#include "core/takes/playback.h"
#include "core/takes/take_file.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::balance {

namespace {

constexpr std::string_view kindWord = "mellow-lever-sweep";
constexpr std::size_t deepest = 8;
constexpr std::size_t mostSegments = 128 * 128;
constexpr std::size_t partsOfASegment = 7;

std::string describe(const KnownSweep& known) {
    nlohmann::ordered_json json;
    json["kind"] = kindWord;
    json["version"] = 1;
    json["instrument"] = known.instrument;
    json["instrumentName"] = known.instrumentName;
    json["moved"] = known.moved;
    json["movedName"] = known.movedName;
    json["overKeys"] = known.overKeys;
    if (known.click) json["click_us"] = *known.click;
    if (!known.state.empty()) json["state"] = known.state;
    auto& segments = json["segments"] = nlohmann::ordered_json::array();
    for (const Segment& each : known.segments)
        segments.push_back(
            {each.key, each.velocity, each.position, each.begins, each.from, each.to, each.ends});
    return json.dump(-1, ' ', true, nlohmann::ordered_json::error_handler_t::replace);
}

std::optional<Segment> readSegment(store::JsonView row) {
    if (!row.isList() || row.size() != partsOfASegment) return std::nullopt;
    std::array<double, partsOfASegment> parts{};
    std::size_t i = 0;
    for (store::JsonView cell = row.first(); cell; cell = cell.next()) {
        constexpr double longest = 1e12;  // µs
        if (!cell.isNumber() || !(cell.number() >= 0 && cell.number() < longest)) return std::nullopt;
        parts.at(i++) = cell.number();
    }
    const auto time = [&](std::size_t at) { return static_cast<std::int64_t>(parts.at(at)); };
    if (parts[0] > midi::max7 || parts[1] > midi::max7 || parts[2] > 1) return std::nullopt;
    const Segment segment{
        static_cast<int>(parts[0]), static_cast<int>(parts[1]), parts[2], time(3), time(4), time(5), time(6)};
    const bool inOrder =
        segment.begins <= segment.from && segment.from < segment.to && segment.to <= segment.ends;
    return inOrder ? std::optional(segment) : std::nullopt;
}

std::optional<KnownSweep> parseKnown(std::string_view text) {
    const auto tree = store::JsonTree::parse(text, deepest);
    if (!tree || !tree->root().isObject() || store::textAt(tree->root(), "kind") != kindWord)
        return std::nullopt;
    const store::JsonView root = tree->root();
    KnownSweep known;
    known.instrument = store::textAt(root, "instrument");
    known.instrumentName = store::textAt(root, "instrumentName");
    known.moved = store::textAt(root, "moved");
    known.movedName = store::textAt(root, "movedName");
    known.state = store::textAt(root, "state");
    const store::JsonView overKeys = root.find("overKeys");
    known.overKeys = overKeys && overKeys.isFlag() && overKeys.flag();
    const store::JsonView click = root.find("click_us");
    if (click && click.isNumber() && click.number() >= 0 && click.number() < longestPart)
        known.click = static_cast<std::int64_t>(click.number());
    const store::JsonView segments = root.find("segments");
    if (!segments || !segments.isList() || segments.size() == 0 || segments.size() > mostSegments)
        return std::nullopt;
    for (store::JsonView row = segments.first(); row; row = row.next()) {
        const auto segment = readSegment(row);
        const bool follows =
            segment && (known.segments.empty() || segment->begins >= known.segments.back().to);
        if (!follows) return std::nullopt;
        known.segments.push_back(*segment);
    }
    return known;
}

/// What the instrument is sent while the sweep is played.
Take sentBy(const Sweep& sweep, const std::string& name) {
    Take sent;
    const std::uint16_t port = sent.portNumber(name);
    const auto program = engine::compile(sweep.ensemble);
    Playback playback(*program, sweep.take);
    auto hear = [&](const engine::Output& out) {
        if (!out.bytes.empty()) sent.add(out.time, port, out.bytes);
    };
    playback.playUntil(sweep.take.length, engine::sinkTo(hear));
    sent.length = std::max(sent.length, sweep.take.length);
    return sent;
}

/// The loudest sample of a stretch, whatever the channel.
float peakOf(const Sound& sound, std::int64_t from, std::int64_t to) {
    const auto at = [&](std::int64_t frame) {
        return static_cast<std::size_t>(std::clamp<std::int64_t>(frame, 0, sound.frames()) * sound.channels);
    };
    float peak = 0;
    for (std::size_t i = at(from); i < at(to); ++i) peak = std::max(peak, std::abs(sound.samples[i]));
    return peak;
}

/// The first frame that is as loud as a level.
std::int64_t firstAbove(const Sound& sound, float level) {
    for (std::size_t i = 0; i < sound.samples.size(); ++i) {
        if (std::abs(sound.samples[i]) >= level) return static_cast<std::int64_t>(i) / sound.channels;
    }
    return sound.frames();
}

Problem noClick(std::string what) {
    return {"The recording", std::move(what), "say by hand where the sweep begins"};
}

}  // namespace

KnownSweep knownOf(const Ensemble& ensemble, const SweepPlan& plan, const Sweep& sweep) {
    const Instrument& played = sweep.ensemble.instruments.front();
    return {plan.instrument,
            nameOf(played),
            printMotion(plan.motion),
            motionName(ensemble, played, plan.motion),
            isKeys(plan.motion),
            sweep.segments,
            sweep.click,
            store::stateOf(ensemble, plan.instrument)};
}

Result<std::vector<std::uint8_t>> printSweep(const Sweep& sweep, const KnownSweep& known) {
    Take sent = sentBy(sweep, known.instrumentName);
    sent.tempos.push_back({0, 120});
    sent.marks.push_back({0, smf::textEvent, describe(known)});
    if (known.click) sent.marks.push_back({*known.click, smf::marker, "Click"});
    for (const Segment& each : known.segments) {
        const long place = std::lround(each.position * midi::max7);
        sent.marks.push_back(
            {each.begins, smf::marker,
             midi::keyToType(each.key) + (known.overKeys ? "" : " at " + std::to_string(place))});
    }
    return printTake(sent);
}

Result<KnownSweep> readSweep(midi::Bytes bytes) {
    const auto reading = smf::read(bytes);
    if (!reading) return reading.problem();
    for (const TakeMark& mark : takeFrom(reading->file, std::string(anyPort)).marks) {
        if (mark.type != smf::textEvent) continue;
        if (auto known = parseKnown(mark.body)) return *known;
    }
    return Problem{"The sweep", "the file is no sweep, or another program has taken out what says so",
                   "choose the file as Mellow Lever wrote it"};
}

Result<std::int64_t> findClick(const Sound& sound) {
    const float loudest = peakOf(sound, 0, sound.frames());
    constexpr float nothing = 1e-5F;
    if (!(loudest > nothing)) return noClick("it is silent");
    // First by the loudest of all, and then by the click itself, which may be softer.
    constexpr float share = 0.05F;  // −26 dB
    const std::int64_t about = firstAbove(sound, loudest * share);
    constexpr std::int64_t clickEnds = 100'000;  // µs
    const float click = peakOf(sound, about, about + sound.frameAt(clickEnds));
    const std::int64_t begins = firstAbove(sound, click * share);
    constexpr std::int64_t pauseFrom = 700'000;
    constexpr std::int64_t pauseTo = 1'300'000;
    const float pause = peakOf(sound, begins + sound.frameAt(pauseFrom), begins + sound.frameAt(pauseTo));
    constexpr float softer = 0.3F;  // −10 dB
    if (pause > click * softer)
        return noClick("no click is heard in it: what sounds first is not followed by a pause");
    return begins;
}

Result<Curve> measureRecorded(const Sound& sound, const KnownSweep& known,
                              std::optional<std::int64_t> begins) {
    if (!begins) {
        if (!known.click) return noClick("the sweep was played without a click");
        const auto click = findClick(sound);
        if (!click) return click.problem();
        begins = *click - sound.frameAt(*known.click);
    }
    const std::int64_t missing = *begins + sound.frameAt(known.segments.back().to) - sound.frames();
    if (missing > 0 || *begins + sound.frameAt(known.segments.front().begins) < 0) {
        const double seconds = static_cast<double>(std::max<std::int64_t>(missing, 0)) / sound.rate;
        return Problem{"The recording",
                       missing > 0 ? "it ends " + text::withUnit(std::round(seconds * 10) / 10, "s") +
                                         " before the sweep does"
                                   : "the sweep would begin before it",
                       "render or record all of the sweep"};
    }
    Curve curve = curveOf(known.segments, known.overKeys, sound, *begins);
    curve.instrument = known.instrument;
    curve.instrumentName = known.instrumentName;
    curve.moved = known.moved;
    curve.movedName = known.movedName;
    curve.state = known.state;
    return curve;
}

std::vector<float> outlineOf(const Sound& sound, std::size_t count) {
    std::vector<float> outline(count);
    const std::int64_t frames = sound.frames();
    const auto edge = [&](std::size_t i) {
        return frames * static_cast<std::int64_t>(i) / static_cast<std::int64_t>(count);
    };
    for (std::size_t i = 0; i < count; ++i) outline[i] = peakOf(sound, edge(i), edge(i + 1));
    return outline;
}

}  // namespace mellow::balance
