// What may have to wait for a disk is done on a thread of its own, while the window goes on.
//
// Nearly always the disk answers at once. So for the time of a picture it is simply waited for, and nothing
// else happens meanwhile. Then the window goes on: it is painted, values move, takes play; what a person does
// waits its turn, and after a while a panel says what it waits for. Whoever asks gets the answer as if it had
// come at once, but must expect that other signals came first (`looped`).
#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <optional>
#include <type_traits>
#include <utility>

namespace mellow::app {

namespace aside {

/// What is waited for, as a person reads it, and whether the event loop was entered meanwhile.
struct Waiting {
    QString saying;
    bool* looped = nullptr;
};

/// Does something that only the waiting caller's things belong to; returns when it is done.
void wait(const Waiting& waiting, const std::function<void()>& work);
/// The same for what owns all that it needs: a person may leave it, and it then ends by itself, unheard.
/// False when it was left.
bool waitUnlessLeft(const Waiting& waiting, std::function<void()> work);

}  // namespace aside

/// What `work` returns. It must touch nothing that belongs to the window.
template<class Work>
std::invoke_result_t<Work> doneAside(const aside::Waiting& waiting, Work&& work) {
    using What = std::invoke_result_t<Work>;
    std::unique_ptr<What> result;
    aside::wait(waiting, [&] { result.reset(new What(work())); });
    return std::move(*result);
}

/// The same; nothing where a person left it. `work` must own all that it needs.
template<class Work>
std::optional<std::invoke_result_t<Work>> doneUnlessLeft(const aside::Waiting& waiting, Work work) {
    using What = std::invoke_result_t<Work>;
    auto result = std::make_shared<std::unique_ptr<What>>();
    const bool done = aside::waitUnlessLeft(
        waiting, [result, work = std::move(work)]() mutable { result->reset(new What(work())); });
    return done ? std::optional<What>(std::move(**result)) : std::nullopt;
}

}  // namespace mellow::app
