// Who sends is known by the branch that an output names; what it says is decoded by the parameter's message,
// with a memory for what comes in several messages.
#include "core/takes/results.h"

#include <algorithm>
#include <map>
#include <memory>
#include <optional>

#include "core/engine/compiling/compile.h"
#include "core/midi/controls.h"
#include "core/model/law.h"
#include "core/takes/playback.h"

namespace mellow {

std::size_t ResultLane::lastAt(std::int64_t time) const {
    const auto behind = std::upper_bound(times.begin(), times.end(), time);
    return behind == times.begin() ? times.size() : static_cast<std::size_t>(behind - times.begin()) - 1;
}

namespace {

bool writesTieLine(const Instrument& instrument) {
    return std::any_of(instrument.chains.begin(), instrument.chains.end(), [](const Chain& chain) {
        return std::any_of(chain.branches.begin(), chain.branches.end(),
                           [](const Branch& branch) { return tieLineOf(branch.target).has_value(); });
    });
}

bool isAmong(const std::vector<std::string>& ids, const std::string& id) {
    return ids.empty() || std::find(ids.begin(), ids.end(), id) != ids.end();
}

/// Reads what a target is sent.
class Target {
 public:
    explicit Target(const Parameter& parameter)
        : message_(parameter.message),
          range_(rangeOf(parameter)),
          scale_(scaleOf(parameter)),
          max_(maxOf(parameter)) {}

    /// The raw position that a message leads to; nothing where it is not the last of it.
    std::optional<double> read(const engine::Output& output) {
        if (output.bytes.empty()) return readOsc(output.number);
        const midi::Bytes body = output.bytes;
        switch (message_.kind) {
            case MessageKind::cc14:
                return readHalf(body);
            case MessageKind::rpn:
            case MessageKind::nrpn:
                return readEntry(body);
            case MessageKind::bend:
                return at(midi::bendOf(body));
            case MessageKind::note:
                return midi::isNoteOn(body) ? 1.0 : 0.0;
            case MessageKind::pressure:
            case MessageKind::program:
                return midi::kindOf(body) == midi::controlChange ? std::nullopt : std::optional(at(body[1]));
            default:
                return at(body.size() > 2 ? body[2] : body[1]);
        }
    }
    [[nodiscard]] double at(int raw) const { return clampPosition(decode(scale_, raw, max_)); }
    [[nodiscard]] MessageKind kind() const { return message_.kind; }

 private:
    std::optional<double> readOsc(double number) const {
        const auto position = rawPosition(range_, number);
        return position ? std::optional(clampPosition(*position)) : std::nullopt;
    }
    std::optional<double> readHalf(midi::Bytes body) {
        if (body[1] == message_.number) {
            high_ = body[2];
            return std::nullopt;
        }
        return at((high_ << 7) + body[2]);
    }
    std::optional<double> readEntry(midi::Bytes body) {
        if (body[1] == midi::dataEntry) high_ = body[2];
        if (body[1] != midi::dataEntryLow) return std::nullopt;
        const bool isRange = message_.kind == MessageKind::rpn && message_.number == pitchRangeRegister;
        return at(isRange ? high_ * centsASemitone + body[2] : (high_ << 7) + body[2]);
    }

    const Message& message_;
    Range range_;
    Scale scale_;
    int max_;
    int high_ = 0;
};

/// Collects what leaves, by target.
class Collecting {
 public:
    Collecting(const Ensemble& ensemble, const engine::Plan& plan, const std::vector<std::string>& wanted)
        : plan_(plan), targetOf_(plan.branches.size(), none) {
        for (const Instrument& instrument : ensemble.instruments) {
            if (!isAmong(wanted, instrument.id)) continue;
            for (const Parameter& parameter : instrument.parameters) {
                const auto place = static_cast<std::uint32_t>(targets_.size());
                const bool isNew = places_.try_emplace(keyOf(instrument.id, parameter.id), place).second;
                if (!isNew) continue;
                targets_.emplace_back(parameter);
                lanes_.push_back({instrument.id, parameter.id, {}, {}});
                const auto number = plan.numbering.instruments.find(instrument.id);
                if (parameter.message.kind == MessageKind::velocity && number) velocityOf_[*number] = place;
            }
        }
        for (std::size_t branch = 0; branch < plan.branches.size(); ++branch) findTarget(branch);
    }

    void take(const engine::Output& output) {
        ++messages_;
        if (output.branch >= 0) {
            const std::uint32_t target = targetOf_[static_cast<std::size_t>(output.branch)];
            if (target == none) return;
            if (const auto q = targets_[target].read(output)) add(target, output.time, *q);
        } else if (!velocityOf_.empty() && !output.bytes.empty() && midi::isNoteOn(output.bytes)) {
            const auto found = velocityOf_.find(output.instrument);
            if (found != velocityOf_.end())
                add(found->second, output.time, targets_[found->second].at(output.bytes[2]));
        }
    }

    Results finish() {
        Results results;
        results.messages = messages_;
        for (ResultLane& lane : lanes_) {
            if (!lane.times.empty()) results.lanes.push_back(std::move(lane));
        }
        return results;
    }

 private:
    static constexpr std::uint32_t none = 0xFFFFFFFF;
    static std::string keyOf(const std::string& instrument, const std::string& parameter) {
        std::string key = instrument;
        key += '\n';
        key += parameter;
        return key;
    }

    void findTarget(std::size_t index) {
        const engine::PlanBranch& branch = plan_.branches[index];
        const engine::PlanChain& chain = plan_.chains[branch.chain];
        if (branch.part == engine::none) return;
        const Parameter* parameter = chain.body->led[index - chain.firstBranch].target;
        if (parameter == nullptr) return;
        const std::string& instrument = plan_.numbering.instruments.name(plan_.parts[branch.part].name);
        const auto found = places_.find(keyOf(instrument, parameter->id));
        if (found != places_.end()) targetOf_[index] = found->second;
    }

    void add(std::uint32_t target, engine::Time time, double q) {
        ResultLane& lane = lanes_[target];
        const auto value = static_cast<float>(q);
        if (!lane.times.empty() && lane.times.back() == time) {
            lane.values.back() = value;
            return;
        }
        lane.times.push_back(time);
        lane.values.push_back(value);
    }

    const engine::Plan& plan_;
    std::map<std::string, std::uint32_t> places_;  ///< by instrument and parameter
    std::vector<Target> targets_;
    std::vector<ResultLane> lanes_;
    std::vector<std::uint32_t> targetOf_;                ///< by branch
    std::map<std::uint32_t, std::uint32_t> velocityOf_;  ///< by instrument's number
    std::uint64_t messages_ = 0;
};

}  // namespace

Results resultsOf(const Ensemble& ensemble, const Take& take, const std::vector<std::string>& instruments,
                  const std::atomic<bool>* stop) {
    Ensemble played = ensemble;
    // Shared chains lead to others too, and the hand is chosen among all; so nobody is taken out, but what
    // nobody wants to see is not worked out.
    for (std::size_t i = 0; i < played.instruments.size(); ++i) {
        const Instrument& instrument = std::as_const(played.instruments)[i];
        if (isAmong(instruments, instrument.id) || writesTieLine(instrument)) continue;
        Instrument& silent = played.instruments[i];
        silent.chains.clear();
        silent.pass = {false, false, false, false, {}};
    }
    const auto program = engine::compile(played);
    Playback playback(*program, take);
    Collecting collecting(played, program->plan, instruments);
    auto collect = [&collecting](const engine::Output& output) { collecting.take(output); };
    const engine::Sink sink = engine::sinkTo(collect);
    constexpr engine::Time slice = 1'000'000;
    bool whole = true;
    for (engine::Time position = 0; whole && !playback.isOver(); position += slice) {
        playback.playUntil(std::min(position, take.length), sink);
        whole = stop == nullptr || !stop->load(std::memory_order_relaxed);
    }
    if (whole) {
        playback.playUntil(take.length, sink);
        playback.settle(sink);
    }
    Results results = collecting.finish();
    results.isWhole = whole;
    return results;
}

Difference differenceBetween(const ResultLane& one, const ResultLane& other, std::int64_t from,
                             std::int64_t to) {
    Difference difference;
    const auto look = [&](const ResultLane& at, const ResultLane& against) {
        const auto first = std::lower_bound(at.times.begin(), at.times.end(), from);
        for (auto place = static_cast<std::size_t>(first - at.times.begin());
             place < at.times.size() && at.times[place] <= to; ++place) {
            const std::size_t stood = against.lastAt(at.times[place]);
            if (stood == against.times.size()) continue;
            const double apart = std::abs(double{at.values[place]} - double{against.values[stood]});
            if (apart > difference.most) difference = {apart, at.times[place]};
        }
    };
    look(one, other);
    look(other, one);
    return difference;
}

}  // namespace mellow
