// Frames become microseconds by whole numbers, so that a host's days of playing lose nothing; on the way back
// a time is the first frame that is not before it, which gives each frame itself again at any rate below a
// million.
#include "core/engine/driving/guest.h"

#include <algorithm>
#include <utility>

#include "core/engine/compiling/compile.h"
#include "core/store/ensemble_json.h"

namespace mellow::engine {

namespace {

constexpr std::int64_t microseconds = 1'000'000;  // a second

/// Takes what the engine sends to where the host wants it.
struct Sending {
    const Guest::Receiver& out;
    std::int64_t rate;
    std::int64_t begins;
    std::uint32_t last;  ///< the block's last frame

    void operator()(const Output& output) const {
        if (output.bytes.empty()) return;  // OSC has no place among a host's messages.
        const std::int64_t whole = output.time / microseconds * rate;
        const std::int64_t part = output.time % microseconds * rate;
        const std::int64_t frame = whole + (part + microseconds - 1) / microseconds - begins;
        out.take(out.self, {static_cast<std::uint32_t>(std::clamp<std::int64_t>(frame, 0, last)),
                            output.instrument, output.bytes});
    }
};

}  // namespace

Guest::Guest(int rate, const std::vector<std::string>& inputs)
    : rate_(std::clamp<std::int64_t>(rate, 1, microseconds)), engine_(nullptr) {
    programs_.push_back(compile(ensemble_));
    ports_ = programs_.front()->plan.numbering.ports;
    for (const std::string& input : inputs) inputPorts_.push_back(ports_.intern(input));
    engine_ = Engine(programs_.front().get());
}

Guest::~Guest() = default;

Outcome Guest::setState(std::span<const std::uint8_t> bytes) {
    collect();
    const std::string text(bytes.begin(), bytes.end());
    auto read = store::parseEnsemble(text);
    if (!read) return read.problem();
    auto made = compile(*read, &programs_.back()->plan, &ports_);
    ports_ = made->plan.numbering.ports;
    programs_.push_back(std::move(made));
    ensemble_ = std::move(*read);
    const Program* skipped = next_.exchange(programs_.back().get(), std::memory_order_acq_rel);
    if (skipped != nullptr)
        std::erase_if(programs_, [skipped](const auto& program) { return program.get() == skipped; });
    return Done{};
}

std::vector<std::uint8_t> Guest::state() const {
    const std::string text = store::printEnsemble(ensemble_);
    return {text.begin(), text.end()};
}

const std::string& Guest::instrument(std::uint32_t number) const {
    return programs_.back()->plan.numbering.instruments.name(number);
}

/// Frees what the playing thread has given back.
void Guest::collect() {
    const Program* gone = retired_.exchange(nullptr, std::memory_order_acq_rel);
    if (gone == nullptr) return;
    std::erase_if(programs_, [gone](const auto& program) { return program.get() == gone; });
}

Time Guest::timeOf(std::int64_t frame) const {
    return frame / rate_ * microseconds + frame % rate_ * microseconds / rate_;
}

/// Where the one before has not been taken back yet, the next block will do.
void Guest::adoptNext(const Sink& sink) {
    if (retired_.load(std::memory_order_acquire) != nullptr) return;
    Program* next = next_.exchange(nullptr, std::memory_order_acq_rel);
    if (next == nullptr) return;
    retired_.store(engine_.adopt(next, sink), std::memory_order_release);
}

void Guest::process(std::uint32_t frames, std::span<const In> in, const Receiver& out) {
    if (frames == 0) return;
    Sending sending{out, rate_, begins_, frames - 1};
    const Sink sink = sinkTo(sending);
    adoptNext(sink);
    for (const In& each : in) {
        if (each.input >= inputPorts_.size() || !midi::isWhole(each.bytes)) continue;
        const Time time = timeOf(begins_ + std::min(each.frame, frames - 1));
        engine_.process(
            {std::max(time, engine_.now()), static_cast<PortId>(inputPorts_[each.input]), each.bytes}, sink);
    }
    begins_ += frames;
    engine_.advance(timeOf(begins_) - 1, sink);
}

void Guest::silence(const Receiver& out) {
    Sending sending{out, rate_, begins_, 0};
    engine_.silenceAll(sinkTo(sending));
}

}  // namespace mellow::engine
