// Who makes sound, and whoever listens to it: listeners come and go while it sounds.
#pragma once

#include <memory>
#include <vector>

#include "io/playing/handed_over.h"
#include "io/sound/frames.h"

namespace mellow::io {

class FrameSource {
 public:
    FrameSource() { listeners_.hand(std::make_unique<List>()); }

    // Editing side.

    void add(std::shared_ptr<FrameListener> listener) {
        auto list = std::make_unique<List>(listeners_.newest());
        list->push_back(std::move(listener));
        replace(std::move(list));
    }
    /// It may hear another block, and is kept as long; tend() lets go of it after that.
    void remove(const FrameListener& listener) {
        auto list = std::make_unique<List>(listeners_.newest());
        std::erase_if(*list, [&listener](const auto& each) { return each.get() == &listener; });
        replace(std::move(list));
    }
    /// Frees those that have left, where the other thread has been seen not to call them any more.
    void tend() { listeners_.free(); }

    // The thread that makes the sound.

    /// What it has made next.
    void give(std::span<const float> left, std::span<const float> right) { giveAt(next_, left, right); }
    /// The same, where it knows the place.
    void giveAt(std::int64_t place, std::span<const float> left, std::span<const float> right) {
        next_ = place + static_cast<std::int64_t>(left.size());
        for (const auto& listener : *listeners_.take()) listener->hear({place, left, right});
    }

 private:
    using List = std::vector<std::shared_ptr<FrameListener>>;
    void replace(std::unique_ptr<List> list) {
        listeners_.hand(std::move(list));
        listeners_.free();
    }

    HandedOver<List> listeners_;
    std::int64_t next_ = 0;
};

}  // namespace mellow::io
