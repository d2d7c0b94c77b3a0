// A list that one thread makes and another works on, replaced as a whole.
//
// The playing side takes the newest at the beginning of a cycle and works on it until the next, so that all
// before the one that it took last are nobody's any more, and only then are they freed on the editing side.
#pragma once

#include <algorithm>
#include <atomic>
#include <memory>
#include <utility>
#include <vector>

namespace mellow::io {

template<class List>
class HandedOver {
 public:
    // Editing side.

    void hand(std::unique_ptr<List> list) {
        lists_.push_back(std::move(list));
        newest_.store(lists_.back().get(), std::memory_order_release);
    }
    [[nodiscard]] bool empty() const { return lists_.empty(); }
    [[nodiscard]] const List& newest() const { return *lists_.back(); }
    /// All that are not freed, the newest last.
    [[nodiscard]] const std::vector<std::unique_ptr<List>>& all() const { return lists_; }
    /// Whether the playing side works on the newest.
    [[nodiscard]] bool isTaken() const {
        return !lists_.empty() && taken_.load(std::memory_order_acquire) == lists_.back().get();
    }
    /// Frees what the playing side is done with.
    void free() {
        const List* taken = taken_.load(std::memory_order_acquire);
        const auto first = std::find_if(lists_.begin(), lists_.end(),
                                        [taken](const auto& list) { return list.get() == taken; });
        if (first != lists_.end()) lists_.erase(lists_.begin(), first);
    }
    /// Frees all but the newest, where the playing side rests or works on that.
    void keepNewest() { lists_.erase(lists_.begin(), lists_.end() - 1); }
    /// Frees all, where the playing side rests; until the next there is none.
    void clear() {
        newest_.store(nullptr, std::memory_order_release);
        taken_.store(nullptr, std::memory_order_release);
        lists_.clear();
    }

    // Playing side.

    /// What is worked on from now on; nullptr: there is none.
    const List* take() {
        const List* list = newest_.load(std::memory_order_acquire);
        taken_.store(list, std::memory_order_release);
        return list;
    }
    /// What was taken last.
    [[nodiscard]] const List* taken() const { return taken_.load(std::memory_order_relaxed); }

 private:
    std::vector<std::unique_ptr<List>> lists_;
    std::atomic<const List*> newest_{nullptr};
    std::atomic<const List*> taken_{nullptr};
};

}  // namespace mellow::io
