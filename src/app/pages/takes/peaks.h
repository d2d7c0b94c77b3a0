// The least and greatest of any stretch of a long list of numbers, without looking at all of them.
//
// A lane of half a million points that is shown on a thousand pixels asks for the extent of each pixel's
// points, sixty times a second. So the extents of blocks are kept, and of blocks of blocks.
#pragma once

#include <algorithm>
#include <cstddef>
#include <limits>
#include <span>
#include <vector>

namespace mellow::app {

struct Extent {
    float least = std::numeric_limits<float>::max();
    float most = std::numeric_limits<float>::lowest();
    void add(float value) {
        least = std::min(least, value);
        most = std::max(most, value);
    }
    void add(const Extent& other) {
        least = std::min(least, other.least);
        most = std::max(most, other.most);
    }
    [[nodiscard]] bool empty() const { return most < least; }
};

class Peaks {
 public:
    static constexpr std::size_t block = 32;

    Peaks() = default;
    explicit Peaks(std::span<const float> values) : values_(values) {
        std::vector<Extent> level((values.size() + block - 1) / block);
        for (std::size_t i = 0; i < values.size(); ++i) level[i / block].add(values[i]);
        while (level.size() > 1) {
            levels_.push_back(level);
            std::vector<Extent> above((level.size() + block - 1) / block);
            for (std::size_t i = 0; i < level.size(); ++i) above[i / block].add(level[i]);
            level = std::move(above);
        }
    }

    /// Of the values from a place on and before another.
    [[nodiscard]] Extent between(std::size_t from, std::size_t to) const {
        Extent extent;
        addFrom(0, from, std::min(to, values_.size()), extent);
        return extent;
    }

 private:
    void addFrom(std::size_t level, std::size_t from, std::size_t to, Extent& extent) const {
        const auto add = [&](std::size_t place) {
            level == 0 ? extent.add(values_[place]) : extent.add(levels_[level - 1][place]);
        };
        if (level == levels_.size() || to - std::min(from, to) <= 2 * block) {
            for (; from < to; ++from) add(from);
            return;
        }
        for (; from % block != 0; ++from) add(from);
        for (; to % block != 0; --to) add(to - 1);
        addFrom(level + 1, from / block, to / block, extent);
    }

    std::span<const float> values_;
    std::vector<std::vector<Extent>> levels_;  ///< the first of blocks of values, the next of blocks of those
};

}  // namespace mellow::app
