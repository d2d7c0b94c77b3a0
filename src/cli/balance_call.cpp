#include "cli/balance_call.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/loading.h"
#include "cli/progress_line.h"
#include "core/balance/curve_folder.h"
#include "core/balance/levelling.h"
#include "core/balance/recorded.h"
#include "core/balance/trunk.h"
#include "core/files/files.h"
#include "core/midi/names.h"
#include "core/profiles/select_text.h"
#include "core/store/ensemble_json.h"
#include "core/takes/take_folder.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"
#include "io/balance/rack_measuring.h"
#include "io/balance/sound_reading.h"

namespace mellow::cli {

namespace {

using balance::Curve;
using balance::SweepPlan;

constexpr double second = 1e6;  // µs

std::optional<std::vector<int>> parseKeys(std::string_view words) {
    std::vector<int> keys;
    while (true) {
        const std::size_t end = words.find(',');
        const auto key = profiles::parseKey(words.substr(0, end));
        if (!key) return std::nullopt;
        if (std::find(keys.begin(), keys.end(), *key) == keys.end()) keys.push_back(*key);
        if (end == std::string_view::npos) return keys;
        words.remove_prefix(end + 1);
    }
}

/// As the chain needs to settle, where nobody says.
std::int64_t settleFor(const BalanceOptions& options, const Instrument& instrument,
                       const std::string& chain) {
    if (options.settle) return std::llround(*options.settle * second);
    const Chain* moved = findById(instrument.chains, chain);
    return balance::settleFor(moved);
}

Result<SweepPlan> planOf(const BalanceOptions& options, const Ensemble& ensemble,
                         const Instrument& instrument) {
    SweepPlan plan;
    plan.instrument = options.instrument;
    const auto motion = balance::parseMotion(ensemble, instrument, options.source);
    if (!motion) return motion.problem();
    plan.motion = *motion;
    if (options.keys.empty()) {
        plan.keys = balance::usualKeys(instrument, plan.motion);
    } else if (const auto keys = parseKeys(options.keys)) {
        plan.keys = *keys;
    } else {
        return Problem{text::quoted(options.keys), "these are no keys", "say them as C3,C4 or 48,60"};
    }
    plan.velocity = options.velocity;
    plan.positions = options.positions;
    plan.hold = std::llround(options.hold * second);
    const std::string chain = findById(instrument.chains, options.source) != nullptr
                                  ? options.source
                                  : balance::chainMovedBy(ensemble, instrument, plan);
    plan.settle = settleFor(options, instrument, chain);
    if (const auto flaw = balance::flawOf(plan)) return *flaw;
    return plan;
}

std::string padded(const std::string& text, std::size_t width) {
    return text.size() < width ? std::string(width - text.size(), ' ') + text : text;
}

/// A table for people.
void printTable(const Curve& curve, std::ostream& out) {
    constexpr std::size_t wide = 10;
    out << curve.instrumentName << ", " << curve.movedName << "; heard from " << curve.heardFrom
        << "; settled " << text::fixed(static_cast<double>(curve.settle) / second, 2) << " s, held "
        << text::fixed(static_cast<double>(curve.hold) / second, 2) << " s\n";
    out << "  position  key      LUFS   peak dB   centre Hz\n";
    for (const balance::KeyCurve& line : curve.keys) {
        for (const balance::CurvePoint& point : line.points) {
            const bool overKeys = curve.moved == "keys";
            const int key = overKeys ? static_cast<int>(std::lround(point.position * midi::max7)) : line.key;
            out << padded(text::fixed(point.position, 4), wide) << "  " << padded(midi::keyToType(key), 3)
                << ' '
                << padded(point.heard.loudness ? text::fixed(*point.heard.loudness, 2) : "too quiet", wide)
                << ' '
                << padded(std::isfinite(point.heard.peak) ? text::fixed(point.heard.peak, 2) : "silent",
                          wide - 1)
                << ' ' << padded(text::fixed(point.heard.centroid, 0), wide + 1)
                << (point.heard.dies ? "  dies away" : "") << '\n';
        }
    }
}

void print(const Curve& curve, const BalanceOptions& options, std::ostream& out) {
    if (options.json)
        out << balance::printCurve(curve);
    else if (options.csv)
        out << balance::printCsv(curve);
    else
        printTable(curve, out);
}

void warn(const Curve& curve, std::ostream& err) {
    for (const std::string& doubt : balance::doubtsAbout(curve)) err << "note: " << doubt << ".\n";
}

const char* whyOf(balance::Lack lack) {
    return lack == balance::Lack::steps ? "steps" : lack == balance::Lack::joined ? "joined" : "room";
}

nlohmann::ordered_json asJson(const balance::Levelled& levelled, const balance::LevelWish& wish) {
    using nlohmann::ordered_json;
    ordered_json json;
    json["instrument"] = wish.plan.instrument;
    json["chain"] = levelled.chain;
    if (levelled.branch) json["branch"] = *levelled.branch;
    json["parameter"] = levelled.parameter;
    json["points"] = levelled.points;
    json["off"] = levelled.off;
    json["offBefore"] = levelled.offBefore;
    json["sentences"] = sentencesOf(levelled, wish);
    auto& rooms = json["noRoom"] = ordered_json::array();
    for (const balance::NoRoom& each : levelled.noRoom)
        rooms.push_back(
            {{"from", each.from}, {"to", each.to}, {"left", each.left}, {"why", whyOf(each.why)}});
    auto& goal = json["goal"] = ordered_json::array();
    for (const auto& [position, level] : levelled.goal) goal.push_back({position, level});
    json["before"] = ordered_json::parse(balance::printCurve(levelled.before));
    json["after"] = ordered_json::parse(balance::printCurve(levelled.after));
    return json;
}

/// What lies beside a document goes along when it is written elsewhere; what is missing is passed over.
Outcome carryBeside(const Ensemble& ensemble, const std::string& from, const std::string& to) {
    const auto carry = [&](const files::KeptKind& kind, const files::KeptFile& file) -> Outcome {
        const std::filesystem::path folder = files::keptFolderOf(kind, from);
        const auto source = files::keptPath(kind, folder, file);
        std::error_code error;
        if (!source || !std::filesystem::exists(*source, error)) return Done{};
        return files::carryKept(kind, folder, files::keptFolderOf(kind, to), file);
    };
    for (const KeptTake& take : ensemble.takes) {
        if (Outcome carried = carry(takeKind, fileOf(take)); !carried) return carried;
    }
    for (const KeptCurve& curve : ensemble.measurements) {
        if (Outcome carried = carry(balance::measurements, balance::fileOf(curve)); !carried) return carried;
    }
    return Done{};
}

Outcome writeDocument(const Ensemble& ensemble, const BalanceOptions& options, std::ostream& out) {
    const std::string text = store::printEnsemble(ensemble);
    if (options.output == standardStream) {
        out << text;
        return Done{};
    }
    // Where there is no folder nothing can be written, which writing says.
    std::error_code error;
    const auto folder = std::filesystem::absolute(options.output, error).parent_path();
    if (options.ensemble != standardStream && std::filesystem::exists(folder, error)) {
        if (Outcome carried = carryBeside(ensemble, options.ensemble, options.output); !carried)
            return carried;
    }
    return files::writeFile(options.output,
                            {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

class Balancing {
 public:
    Balancing(const BalanceOptions& options, const Ensemble& ensemble, SweepPlan plan, std::ostream& out,
              std::ostream& err)
        : options_(options), ensemble_(ensemble), plan_(std::move(plan)), out_(out), err_(err) {}

    int writeSweep() {
        plan_.click = true;
        const auto sweep = balance::sweepOf(ensemble_, plan_);
        if (!sweep) return refuse(err_, sweep.problem());
        const auto bytes = printSweep(*sweep, balance::knownOf(ensemble_, plan_, *sweep));
        if (!bytes) return refuse(err_, bytes.problem());
        const Outcome done = files::writeFile(options_.writeSweep, *bytes);
        return done ? clear : refuse(err_, done.problem());
    }

    int measureRack() {
        const auto curve = onRack(ensemble_, plan_);
        return curve ? show(*curve) : refuse(err_, curve.problem());
    }

    int measureSound() {
        auto known = knownSweep();
        if (!known) return refuse(err_, known.problem());
        const auto sound = io::readSound(options_.wav);
        if (!sound) return refuse(err_, sound.problem());
        std::optional<std::int64_t> begins;
        if (options_.begins) begins = std::llround(*options_.begins * sound->rate);
        auto curve = balance::measureRecorded(*sound, *known, begins);
        if (!curve) return refuse(err_, files::inFile(options_.wav, curve.problem()));
        curve->heardFrom = std::filesystem::path(options_.wav).filename().string();
        curve->measured = io::measuredNow();
        return show(*curve);
    }

    int level() {
        const auto goal = balance::parseGoal(options_.goal);
        if (!goal) return refuse(err_, goal.problem());
        balance::LevelWish wish;
        wish.plan = plan_;
        wish.parameter = options_.level;
        wish.goal = *goal;
        wish.within = options_.within;
        wish.ceiling = options_.ceiling;
        const Instrument& instrument = *findById(ensemble_.instruments, options_.instrument);
        if (findById(instrument.chains, options_.source) != nullptr) wish.chain = options_.source;
        const auto levelled = balance::level(
            ensemble_, wish, [this](const Ensemble& ensemble, const SweepPlan& plan, const std::string&) {
                return onRack(ensemble, plan);
            });
        if (!levelled) return refuse(err_, levelled.problem());
        warn(levelled->before, err_);
        if (const Outcome done = writeDocument(levelled->ensemble, options_, out_); !done)
            return refuse(err_, done.problem());
        if (options_.output == standardStream) return endOf(out_, err_, clear);
        if (options_.json) {
            out_ << asJson(*levelled, wish).dump(2) << '\n';
        } else {
            std::ostream& told = options_.csv ? err_ : out_;
            for (const std::string& each : sentencesOf(*levelled, wish)) told << each << ".\n";
            for (const std::string& each : roomSentences(*levelled, wish)) told << each << ".\n";
            print(levelled->after, options_, out_);
        }
        return endOf(out_, err_, clear);
    }

 private:
    Result<Curve> onRack(const Ensemble& ensemble, const SweepPlan& plan) {
        ProgressLine line(err_);
        return io::measureOnRack(ensemble, plan, {}, [&line](double done) {
            line.show(done);
            return true;
        });
    }

    Result<balance::KnownSweep> knownSweep() {
        if (!options_.sweep.empty()) {
            const auto bytes = files::readFile(options_.sweep);
            if (!bytes) return bytes.problem();
            auto known = balance::readSweep(*bytes);
            if (!known) return files::inFile(options_.sweep, known.problem());
            return known;
        }
        plan_.click = true;
        const auto sweep = balance::sweepOf(ensemble_, plan_);
        if (!sweep) return sweep.problem();
        return balance::knownOf(ensemble_, plan_, *sweep);
    }

    int show(const Curve& curve) {
        warn(curve, err_);
        print(curve, options_, out_);
        return endOf(out_, err_, clear);
    }

    const BalanceOptions& options_;
    const Ensemble& ensemble_;
    SweepPlan plan_;
    std::ostream& out_;
    std::ostream& err_;
};

Outcome checkOptions(const BalanceOptions& options) {
    const std::string written = !options.output.empty() ? options.output : options.writeSweep;
    if (!options.level.empty() && options.output.empty())
        return Problem{"--level", "it makes a document, and nothing says where to", "add -o OUT.lever"};
    if (options.level.empty() && !options.output.empty())
        return Problem{"-o", "a document is written where something is levelled", "add --level PARAMETER"};
    if (!options.writeSweep.empty() && !options.level.empty())
        return Problem{"--write-sweep", "it is written so that the sound is made elsewhere, before levelling",
                       "write it without --level"};
    if (!options.level.empty() && !options.wav.empty())
        return Problem{"--level", "what comes of it is measured again, which a sound file cannot be",
                       "level by the practice rack, without --wav"};
    if (written.empty()) return Done{};
    std::vector<std::string> read{options.ensemble};
    for (const std::string& each : {options.wav, options.sweep}) {
        if (!each.empty()) read.push_back(each);
    }
    return checkFiles(read, written);
}

}  // namespace

int runBalance(const BalanceOptions& options, std::ostream& out, std::ostream& err) {
    if (const Outcome fine = checkOptions(options); !fine) return refuse(err, fine.problem());
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const Outcome there = checkInstruments(*ensemble, options.ensemble, {options.instrument});
    if (!there) return refuse(err, there.problem());
    auto plan = planOf(options, *ensemble, *findById(ensemble->instruments, options.instrument));
    if (!plan) return refuse(err, plan.problem());
    Balancing balancing(options, *ensemble, std::move(*plan), out, err);
    if (!options.writeSweep.empty()) return balancing.writeSweep();
    if (!options.wav.empty()) return balancing.measureSound();
    return options.level.empty() ? balancing.measureRack() : balancing.level();
}

}  // namespace mellow::cli
