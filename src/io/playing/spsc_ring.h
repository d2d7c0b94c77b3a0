// A queue between exactly two threads: one that pushes and one that pops, neither of which ever waits.
//
// The classic ring of a power-of-two size with a head and a tail, each written by one side only and published
// with release and acquire. It uses no fences, so the thread sanitizer understands all of it. What does not
// fit is refused, never overwritten; the pushing side decides what that means.
#pragma once

#include <atomic>
#include <cstddef>
#include <vector>

namespace mellow::io {

template<class Item>
class SpscRing {
 public:
    /// capacity: a power of two.
    explicit SpscRing(std::size_t capacity) : items_(capacity), mask_(capacity - 1) {}

    /// False when the ring is full.
    bool push(const Item& item) {
        const std::size_t tail = tail_.load(std::memory_order_relaxed);
        if (tail - head_.load(std::memory_order_acquire) > mask_) return false;
        items_[tail & mask_] = item;
        tail_.store(tail + 1, std::memory_order_release);
        return true;
    }
    /// False when the ring is empty.
    bool pop(Item& item) {
        const std::size_t head = head_.load(std::memory_order_relaxed);
        if (head == tail_.load(std::memory_order_acquire)) return false;
        item = items_[head & mask_];
        head_.store(head + 1, std::memory_order_release);
        return true;
    }
    [[nodiscard]] bool empty() const {
        return head_.load(std::memory_order_acquire) == tail_.load(std::memory_order_acquire);
    }

 private:
    std::vector<Item> items_;
    std::size_t mask_;
    alignas(64) std::atomic<std::size_t> head_{0};
    alignas(64) std::atomic<std::size_t> tail_{0};
};

}  // namespace mellow::io
