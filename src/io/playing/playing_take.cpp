// A take is chased to a moment that is just ahead, by as much as chasing takes.
#include "io/playing/playing_take.h"

#include <algorithm>
#include <chrono>
#include <thread>

#include "core/takes/chase.h"
#include "io/playing/happenings.h"

namespace mellow::io {

PlayingTake* PlayingTakes::make(std::shared_ptr<const Take> take, const TakeRun& run) {
    collect();
    auto playing = std::make_unique<PlayingTake>();
    // What was played through no port in particular comes from the practice keys.
    for (const std::string& port : take->ports)
        playing->ports.push_back(
            programs_.ports().of(port == anyPort ? practiceKeysPort : std::string_view(port)));
    playing->hands = TakeHands(take->ports.size());
    playing->run = run;
    playing->chase = eventsToChase(*take, run.from);
    if (run.loops()) playing->chaseInLoop = eventsToChase(*take, run.loopFrom);
    playing->take = std::move(take);
    takes_.push_back(std::move(playing));
    return takes_.back().get();
}

/// A clock that slept knows what time it is once it has run.
void PlayingTakes::awaitClockAfter(engine::Time before) const {
    constexpr int mostMilliseconds = 20;
    for (int tries = 0; tries < mostMilliseconds && now_.time() == before; ++tries)
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
}

void PlayingTakes::chase(PlayingTake& take, const Ensemble& played) {
    constexpr engine::Time least = 15'000;
    constexpr double spare = 1.5;
    programs_.collect();
    const auto cost = static_cast<engine::Time>(spare * chaseCost_ * static_cast<double>(take.run.from));
    const engine::Time now = now_.time();
    const engine::Time at = take.run.at >= 0 ? take.run.at : now + least + cost;
    if (now < 0 || at < take.run.from) return;
    const auto begun = std::chrono::steady_clock::now();
    take.chased = std::make_unique<Chased>(
        chased(played, *take.take, take.run.from, at, &programs_.newest().plan, &programs_.ports().names()));
    const std::chrono::duration<double, std::micro> took = std::chrono::steady_clock::now() - begun;
    chaseCost_ = took.count() / static_cast<double>(take.run.from);
    take.run.at = at;
    take.madeFor = programs_.newest().number;
    take.program = programs_.keep(std::move(take.chased->program), played);
}

void PlayingTakes::dropNewest() {
    programs_.drop(takes_.back()->program);
    takes_.pop_back();
}

void PlayingTakes::collect() {
    for (PlayingTake* done = nullptr; played_.pop(done);)
        std::erase_if(takes_, [done](const auto& take) { return take.get() == done; });
}

}  // namespace mellow::io
